// Who was warned reads so with the order and answers there; the message speaks their language.
import { randomUUID } from 'node:crypto';
import { and, eq, like } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { WarningsTold } from '#api/clocks.ts';
import { asInstant, instant, MINUTE } from '#core/time/index.ts';
import { warnOfPromises } from '../src/orders/warnings.ts';
import { clockWarning, outbox, person } from '../src/tables.ts';
import { buildWorld, must, NOW as HOUSE_NOW, openHouse, type Caller, type TestHouse } from './house.ts';

const NOW = asInstant(HOUSE_NOW);
let house: TestHouse;
let [office, goes, stores]: Caller[] = [];
let id: number;
beforeAll(async () => {
  house = await openHouse();
  office = await house.as('coordinator');
  goes = await house.as('technician');
  stores = await house.as('storekeeper');
  const world = await buildWorld(office, { assets: 1 });
  const { person: technician } = must(await goes<{ person: { id: number } }>('GET', '/api/session'));
  await house.database.db
    .update(person)
    .set({ language: 'pt', name: 'Duarte' })
    .where(eq(person.id, technician.id as never));
  must(
    await office('PUT', `/api/service-levels/${world.serviceLevelId}`, {
      ...{ version: 1, holdsFrom: '2026-01-02', name: 'Warned', pauses: [] },
      targets: { 1: { restoration: { measure: 'elapsed', minutes: 120 } } },
      pledge: {
        ...{ warnPercent: 25, availability: null, tiers: [], cap: null },
        warnings: [25, 0].map((percent) => ({ percent, inCharge: true, technician: true, people: [] })),
      },
    }),
  );
  id = must(
    await office<{ id: number }>('POST', '/api/orders', {
      ...{ assetIds: [world.assetIds[0]], priority: 1, cause: 'wear', title: 'Too warm', requestKey: randomUUID() },
      receivedAt: new Date(NOW).toISOString(),
    }),
  ).id;
  must(
    await office('POST', `/api/orders/${id}/events`, {
      ...{ requestKey: randomUUID(), at: new Date(NOW).toISOString() },
      act: { kind: 'told', technicianId: technician.id, technician: 'Duarte' },
    }),
  );
});
afterAll(() => house.close());

const read = async (who: Caller | undefined) =>
  must(await (who as Caller)<WarningsTold>('GET', `/api/orders/${id}/warnings`));
const answer = (who: Caller | undefined) =>
  (who as Caller)<{ acknowledged: number }>('POST', `/api/orders/${id}/warnings/acknowledge`);
const said = async (percent: number) =>
  new Map(
    (
      await house.database.db
        .select({ to: outbox.toName, subject: outbox.subject, body: outbox.body })
        .from(outbox)
        .where(and(eq(outbox.aboutId, id), like(outbox.outKey, `% at ${percent} to %`)))
    ).map((m) => [m.to, m]),
  );

it('is nobody before so much is left', async () => {
  await warnOfPromises(house.database, instant(NOW + 89 * MINUTE));
  expect(await read(office)).toMatchObject({ items: [], mayAnswer: false });
});

it('is told in the words of each, and stands with the order', async () => {
  await warnOfPromises(house.database, instant(NOW + 90 * MINUTE));
  const messages = await said(25);
  const own = messages.get('Duarte');
  expect(own?.subject).toMatch(/Too warm: a reposição em serviço, faltam 30 min de 2 h$/);
  expect(own?.body).toContain('a reposição em serviço, faltam 30 min de 2 h; prazo: 24.11.2026, 12:00.');
  const [other] = [...messages.values()].filter((m) => m.to !== 'Duarte');
  expect(other?.body).toContain('back in use has 30 min left of 2 h; it is due Tue 24 Nov 2026, 12:00.');
  expect((await read(office)).items).toEqual([
    {
      ...{ percent: 25, at: NOW + 90 * MINUTE, target: 'restoration', tag: 'Q100', acknowledged: null },
      told: expect.arrayContaining(['Duarte', other?.to]) as string[],
    },
  ]);
});

it('answers, and nobody who was neither warned nor is of the office', async () => {
  expect([(await read(office)).mayAnswer, (await read(goes)).mayAnswer, (await read(stores)).mayAnswer]).toEqual([
    ...[true, true, false],
  ]);
  const before = await house.database.db.select().from(clockWarning);
  expect((await answer(stores)).status).toBe(403);
  expect(await house.database.db.select().from(clockWarning)).toEqual(before);
  for (const method of ['GET', 'POST'] as const) {
    const url = `/api/orders/999999/warnings${method === 'POST' ? '/acknowledge' : ''}`;
    expect((await (office as Caller)(method, url)).status).toBe(404);
  }
  expect(must(await answer(goes)).acknowledged).toBe(1);
  expect((await read(office)).items[0]?.acknowledged?.by).toBe('Duarte');
  expect((await read(goes)).mayAnswer).toBe(false);
  // Sent again it changes nothing.
  expect(must(await answer(office)).acknowledged).toBe(0);
  expect((await read(office)).items[0]?.acknowledged?.by).toBe('Duarte');
});

it('of a promise that was missed says so in the words of each', async () => {
  await warnOfPromises(house.database, instant(NOW + 121 * MINUTE));
  const messages = await said(0);
  expect(messages.get('Duarte')?.subject).toMatch(/a reposição em serviço, fora do prazo$/);
  expect([...messages.values()].find((m) => m.to !== 'Duarte')?.body).toContain('back in use is missed;');
});
