// Mean times between failures and to restoration over the wire, by a few failures worked out by hand.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { FailingMachine, ModelReliability } from '#api/reliability.ts';
import { meanTimeInterval } from '#core/standing/index.ts';
import { DAY } from '#core/time/index.ts';
import { buildWorld, must, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
const at = (day: number, hour = 0) => `2026-11-${String(day).padStart(2, '0')}T${String(hour).padStart(2, '0')}:00:00Z`;

/** A repair from a day on, of a machine that is up again on another, or not yet. */
async function failed(machine: number, from: string, to: string | null, priority = 1): Promise<number> {
  const ask = { assetIds: [world.assetIds[machine]], cause: 'wear', priority, title: 'Down', receivedAt: from };
  const { id } = must(await call<{ id: number }>('POST', '/api/orders', { ...ask, requestKey: randomUUID() }));
  const act = async (when: string, body: object) =>
    must(await call('POST', `/api/orders/${id}/events`, { requestKey: randomUUID(), at: when, act: body }));
  if (to !== null) {
    await act(to, { kind: 'arrived' });
    await act(to, { kind: 'restored' });
  }
  return id;
}

beforeAll(async () => {
  house = await openHouse('2026-11-24T00:00:00Z');
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 3 });
});
afterAll(() => house.close());

const read = async (from: string, to: string) =>
  must(
    await call<{ models: ModelReliability[]; machines: FailingMachine[] }>(
      'GET',
      `/api/standing/reliability?from=${from}&to=${to}`,
    ),
  );

it('counts failures, the time machines ran, and those that came back', async () => {
  await failed(0, at(1), at(2));
  await failed(0, at(10), at(12));
  await failed(1, at(20), null);
  // What only works poorly is no failure; what was called off neither.
  await failed(2, at(5), at(6), 2);
  const off = await failed(2, at(7), null);
  const body = { requestKey: randomUUID(), at: at(8), act: { kind: 'called off', text: 'a mistake' } };
  must(await call('POST', `/api/orders/${off}/events`, body));
  const { models, machines } = await read('2026-11-01', '2026-11-30');
  const of = models.filter((m) => m.failures > 0);
  const sum = (pick: (m: ModelReliability) => number) => of.reduce((n, m) => n + pick(m), 0);
  expect([sum((m) => m.failures), sum((m) => m.repeats), sum((m) => m.restored)]).toEqual([3, 1, 2]);
  // To now, which is the 24th: days to come are no time that anything ran.
  const ran = models.map((m) => m.machines).reduce((a, b) => a + b, 0) * 23 * DAY;
  expect(ran).toBe(3 * 23 * DAY);
  const down = (1 + 2 + 4) * DAY;
  const operated = of.reduce((n, m) => n + (m.betweenDays ?? 0) * m.failures, 0);
  const rest = models.filter((m) => m.failures === 0).reduce((n, m) => n + m.machines * 23, 0);
  expect(operated + rest).toBeCloseTo((ran - down) / DAY, 9);
  for (const m of of) {
    const interval = meanTimeInterval((m.betweenDays ?? 0) * m.failures, m.failures);
    expect([m.lowerDays, m.upperDays]).toEqual([interval?.lower, interval?.upper]);
    expect(m.lowerDays as number).toBeLessThan(m.betweenDays as number);
    expect(m.upperDays as number).toBeGreaterThan(m.betweenDays as number);
  }
  expect(machines).toEqual([
    expect.objectContaining({ assetId: world.assetIds[0], failures: 2, repeats: 1, restoreMinutes: 1.5 * 24 * 60 }),
  ]);
});

it('looks back for what a failure repeats, and counts in the period only', async () => {
  const { models, machines } = await read('2026-11-08', '2026-11-15');
  expect(models.reduce((n, m) => n + m.failures, 0)).toBe(1);
  expect(models.reduce((n, m) => n + m.repeats, 0)).toBe(1);
  expect(machines).toEqual([]);
  // Before any of it, and in days to come: nothing failed, nothing ran.
  const before = await read('2026-09-01', '2026-09-30');
  expect(before.models.map((m) => [m.failures, m.betweenDays, m.upperDays])).toEqual(
    before.models.map(() => [0, null, null]),
  );
  expect((await read('2026-12-01', '2026-12-31')).models).toEqual([]);
});

it('is for the office', async () => {
  const technician = await house.as('technician');
  const url = '/api/standing/reliability?from=2026-11-01&to=2026-11-30';
  expect((await technician('GET', url)).status).toBe(403);
  expect((await call('GET', url.replace('2026-11-30', '2026-10-01'))).status).toBe(422);
});
