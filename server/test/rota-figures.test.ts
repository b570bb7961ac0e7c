// Figures of dispatch over the routes: told and sent by the median, planned in time, done at first go, time on the way and overtime, each
// reckoned by hand here; one's own to whoever goes out; and the kept courses as the events say them.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { DispatchFigures, FiguresRow } from '#api/rota-figures.ts';
import type { OrderPage } from '#api/orders.ts';
import { ROOMS } from '../src/rooms.ts';
import { rebuild } from '../src/platform/derived.ts';
import { orderCourse } from '../src/tables.ts';
import { keepMissingCourses } from '../src/orders/courses.ts';
import { agreementInForce, must } from './house.ts';
import { openRota, repairOf, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
const orders: number[] = [];

const act = async (order: number, at: string, acted: object): Promise<void> =>
  void must(
    await here.desk('POST', `/api/orders/${order}/events`, {
      requestKey: randomUUID(),
      at: `2026-11-24T${at}Z`,
      act: acted,
    }),
  );
const figures = async (call = here.desk): Promise<FiguresRow[]> =>
  must(await call<{ rows: FiguresRow[] }>('GET', '/api/rota/figures?month=2026-11')).rows;
const rowOf = async (name: string): Promise<DispatchFigures> => {
  const row = (await figures()).find((r) => r.of.name === name);
  if (!row) throw new Error(`No row of ${name}.`);
  return row.now;
};

beforeAll(async () => {
  here = await openRota(6);
  await agreementInForce(here.desk, here.world, {}, {});
  const { lia, rui } = here.people;
  const planned = (technicianId: number, date: string) => ({ kind: 'planned', technicianId, technician: '', date });
  const told = (technicianId: number) => ({ kind: 'told', technicianId, technician: '' });
  for (let i = 0; i < 4; i += 1)
    orders.push(await repairOf(here, here.world.assetIds[i], { receivedAt: '2026-11-24T06:00:00Z' }));
  const [first, second, third, open] = orders as [number, number, number, number];
  // In time, told after 10, sent after 20 minutes, done at first go.
  await act(first, '06:10:00', told(lia));
  await act(first, '06:15:00', planned(lia, '2026-11-24'));
  await act(first, '06:20:00', { kind: 'sent' });
  // For a day that is too late; told by being there after 90 minutes; waits for a part.
  await act(second, '06:15:00', planned(lia, '2026-11-30'));
  await act(third, '06:30:00', told(rui));
  await act(third, '06:31:00', planned(rui, '2026-11-24'));
  await act(third, '06:40:00', { kind: 'sent' });
  await act(open, '06:45:00', told(rui));
  for (const [order, hour] of [
    [first, '07:00'],
    [second, '07:30'],
    [third, '08:00'],
  ] as const)
    await act(order, `${hour}:00`, { kind: 'arrived' });
  await act(second, '08:00:00', { kind: 'paused', reason: 'waiting for parts', text: '' });
  await act(second, '08:30:00', { kind: 'resumed' });
  for (const [i, order] of [first, second, third].entries()) {
    await act(order, `08:4${i}:00`, { kind: 'restored' });
    await act(order, `08:5${i}:00`, { kind: 'done', text: '' });
  }
  const [line] = must(await here.desk<OrderPage>('GET', `/api/orders/${first}`)).lines;
  for (const [personId, kind, from, to] of [
    // Open from nine to six: two hours of this lie outside.
    [lia, 'work', 420, 600],
    [lia, 'travel', 600, 660],
    [rui, 'work', 990, 1080],
  ] as const)
    must(
      await here.desk('POST', '/api/time', {
        ...{ requestKey: randomUUID(), personId, day: '2026-11-23', kind, from, to },
        lines: [{ lineId: line?.id }],
      }),
    );
});
afterAll(() => here?.house.close());

describe('figures of dispatch', () => {
  it('are those of the month, by whom they are of', async () => {
    expect(await rowOf('Everybody')).toEqual({
      ...{ done: 3, repairs: 3, told: 30, sent: 30, inTime: { of: 3, kept: 2 }, firstGo: { of: 3, kept: 2 } },
      ...{ entered: 330, travel: 60, overtime: 120 },
    });
    expect(await rowOf('Lia')).toMatchObject({
      ...{ done: 2, told: 50, sent: 20, inTime: { of: 2, kept: 1 }, firstGo: { of: 2, kept: 1 } },
      ...{ entered: 240, travel: 60, overtime: 120 },
    });
    expect(await rowOf('Rui')).toMatchObject({ done: 1, told: 30, sent: 40, travel: 0, overtime: 0 });
    expect((await figures()).map((r) => r.of.name)).toEqual([
      'Everybody',
      'Pedralonga',
      'Rui',
      'Ribeira',
      'Lia',
      'The technician',
    ]);
  });

  it('of a year end with the month, and are the same there', async () => {
    const ofYear = must(
      await here.desk<{ months: { month: string; figures: DispatchFigures }[] }>(
        'GET',
        `/api/rota/figures/trend?month=2026-11&person=${here.people.lia}`,
      ),
    ).months;
    expect(ofYear).toHaveLength(12);
    expect(ofYear[0]?.month).toBe('2025-12');
    expect(ofYear.at(-1)).toEqual({ month: '2026-11', figures: await rowOf('Lia') });
    expect(ofYear[3]?.figures).toMatchObject({ done: 0, told: null, entered: 0 });
  });

  it('of others are read by the office alone', async () => {
    const own = await here.house.as('technician');
    expect((await figures(own)).map((r) => r.of)).toEqual([
      expect.objectContaining({ kind: 'person', id: here.people.technician }),
    ]);
    for (const of of ['', `&person=${here.people.lia}`, `&depot=${here.depots[0]}`])
      expect((await own('GET', `/api/rota/figures/trend?month=2026-11${of}`)).status).toBe(403);
    expect((await own('GET', `/api/rota/figures/trend?month=2026-11&person=${here.people.technician}`)).status).toBe(
      200,
    );
    expect((await (await here.house.as('storekeeper'))('GET', '/api/rota/figures?month=2026-11')).status).toBe(403);
  });

  it('follow what is told late of an order that is done', async () => {
    const [, second] = orders as [number, number];
    await act(second, '06:50:00', { kind: 'told', technicianId: here.people.lia, technician: '' });
    expect((await rowOf('Lia')).told).toBe(30);
  });

  it('are kept as the events say: lost ones come back, also from before they were kept', async () => {
    const { database, now } = here.house;
    const derived = ROOMS.flatMap((r) => r.derived ?? []);
    const check = async (mend: boolean) => (await rebuild(database, derived, now, mend)).flatMap((r) => r.differing);
    const kept = () => database.db.select().from(orderCourse).orderBy(orderCourse.orderId);
    expect(await check(false)).toEqual([]);
    const before = await kept();
    await database.db.update(orderCourse).set({ atFirstGo: true, toldMinutes: 1 });
    expect((await check(true)).join()).toContain('course of order');
    expect(await kept()).toEqual(before);
    await database.db.delete(orderCourse);
    expect(await keepMissingCourses(database)).toBe(before.length);
    expect(await kept()).toEqual(before);
    expect(await keepMissingCourses(database)).toBe(0);
  });
});
