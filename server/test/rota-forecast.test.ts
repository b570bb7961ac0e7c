// The forecast over the routes: what breaks as the rota stands, why first, and who would keep it; taken, it is at risk no more.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Forecast } from '#api/rota-forecast.ts';
import { agreementInForce, must } from './house.ts';
import { bookingOf, openRota, repairOf, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
beforeAll(async () => {
  here = await openRota(6);
  // Priority 1: respond in 30 min, arrive in 4 working hours, back in use in 12 h.
  for (const assetId of here.world.assetIds.slice(0, 3))
    await agreementInForce(here.desk, here.world, {}, { reach: { kind: 'assets', assetIds: [assetId] } });
});
afterAll(() => here?.house.close());

const read = async (): Promise<Forecast> => must(await here.desk<Forecast>('GET', '/api/rota/forecast'));
const riskOf = async (order: number) => (await read()).atRisk.find((r) => r.orderId === order);
const book = async (order: number, who: number, from: string) =>
  must(
    await here.desk<{ id: number }>(
      'POST',
      '/api/rota/appointments',
      bookingOf([order], [who], from, { anyway: true }),
    ),
  ).id;

it('names what nobody is planned for with who would keep it; planned so, it is kept', async () => {
  const order = await repairOf(here, here.world.assetIds[0]);
  const risk = await riskOf(order);
  expect(risk).toMatchObject({
    cause: 'nobody is planned for it',
    expectedAt: null,
    target: 'arrival',
    isThere: false,
  });
  expect(risk?.remedy?.margin).toBeGreaterThan(0);
  await book(order, risk?.remedy?.personId ?? 0, new Date(risk?.remedy?.from ?? 0).toISOString());
  expect(await riskOf(order)).toBeUndefined();
});

it('says that it is planned too late, and that who should come is still elsewhere', async () => {
  const [late, first] = [await repairOf(here, here.world.assetIds[1]), await repairOf(here, here.world.assetIds[2])];
  const { technician, lia } = here.people;
  await book(late, lia, '2026-11-25T10:00:00Z');
  expect(await riskOf(late)).toMatchObject({ cause: 'it is planned too late' });
  // On site since morning where they should have been done by now; what follows cannot begin as planned.
  await book(first, technician, '2026-11-24T09:00:00Z');
  const at = '2026-11-24T09:40:00Z';
  must(
    await here.desk('POST', `/api/orders/${first}/events`, { requestKey: randomUUID(), at, act: { kind: 'arrived' } }),
  );
  const { atRisk, weeks } = await read();
  expect(atRisk.find((r) => r.orderId === first)).toBeUndefined();
  expect(weeks).toHaveLength(6);
  expect(weeks[0]).toMatchObject({ from: '2026-11-23' });
  // Three technicians of 45 hours a week.
  expect(weeks[0]?.capacity).toBe(3 * 45 * 60);
  expect(weeks[0]?.planned).toBe(180);
});

it('is for the office', async () => {
  const technician = await here.house.as('technician');
  expect((await technician('GET', '/api/rota/forecast')).status).toBe(403);
});

it('of a skill counts the hours of who holds it and the work that asks for it', async () => {
  const weeks = async (skill: string) =>
    must(await here.desk<Forecast>('GET', `/api/rota/forecast?${skill}`)).weeks.map((w) => [w.capacity, w.loose]);
  const before = await weeks(`skill=${here.gas}`);
  // Lia and Rui hold it, of three.
  expect(before[1]?.[0]).toBe(2 * 45 * 60);
  const all = await weeks('');
  expect(all[1]?.[0]).toBe(3 * 45 * 60);
  const order = await repairOf(here, here.world.assetIds[4]);
  expect(await weeks(`skill=${here.gas}`)).toEqual(before);
  await here.house.database.pool.query('UPDATE order_line SET plan = ? WHERE order_id = ?', [
    JSON.stringify({
      name: 'Gas',
      version: 1,
      minutes: 90,
      crew: 1,
      skills: ['Refrigerants'],
      safety: '',
      parts: [],
      formIds: [],
    }),
    order,
  ]);
  const asked = await weeks(`skill=${here.gas}`);
  expect(asked.reduce((sum, [, loose]) => sum + (loose ?? 0), 0)).toBe(
    before.reduce((sum, [, loose]) => sum + (loose ?? 0), 0) + 90,
  );
});
