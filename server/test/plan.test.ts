// The plan says what the schedules say, after whatever was done: kept up from change to change it is the plan worked out anew.
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, expect, it } from 'vitest';
import fc from 'fast-check';
import { asLocalDate, type LocalDate } from '#core/time/index.ts';
import { computeRun, keepPlanned } from '../src/upkeep/index.ts';
import { plannedVisit, planState, schedule, scheduleOutlook } from '../src/tables.ts';
import {
  agreementInForce,
  buildWorld,
  forgetPlan,
  openHouse,
  type Caller,
  type TestHouse,
  type World,
} from './house.ts';

const TODAY = asLocalDate('2026-11-24');
let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { rule: 'FREQ=MONTHLY;BYMONTHDAY=25' });
  await agreementInForce(call, world);
});
beforeEach(() => keepPlanned(house.database, { today: TODAY }));
afterAll(() => house.close());

async function planned() {
  const { db } = house.database;
  const visits = await db.select().from(plannedVisit).orderBy(plannedVisit.scheduleId, plannedVisit.nominal);
  const outlooks = await db.select().from(scheduleOutlook).orderBy(scheduleOutlook.scheduleId);
  return {
    visits: visits.map(({ written: _, ...v }) => v),
    outlooks: outlooks.map((o) => ({ ...o, since: null, digest: null })),
  };
}
const horizon = async (): Promise<LocalDate> =>
  (await house.database.db.select().from(planState))[0]?.horizon as LocalDate;

type Listed = { items: { id: number }[] };
const openOrders = async () => (await call<Listed>('GET', '/api/orders?kind=preventive&show=open')).body.items;
const firstProposal = async () => {
  const { proposals } = (
    await call<{ proposals: { scheduleId: number; nominal: string }[] }>('GET', '/api/upkeep?to=2026-12-20')
  ).body;
  return proposals.slice(0, 1).map(({ scheduleId, nominal }) => ({ scheduleId, nominal }));
};
const decide = async (decision: object) => {
  const visits = await firstProposal();
  if (visits.length > 0) await call('POST', '/api/upkeep/decide', { visits, to: '2026-12-20', decision });
};
const onOrder = async (act: object) => {
  const [order] = await openOrders();
  const told = { requestKey: randomUUID(), at: '2026-11-24T10:00:00Z', act };
  if (order) await call('POST', `/api/orders/${order.id}/events`, told);
};
const ACTS: Readonly<Record<string, () => Promise<unknown>>> = {
  raise: async () => call('POST', '/api/upkeep/commit', { to: '2026-12-20', only: await firstProposal() }),
  hold: () => decide({ kind: 'held', reason: 'closed', until: null }),
  decline: () => decide({ kind: 'declined', reason: 'not wanted' }),
  'call off': () => onOrder({ kind: 'called off', text: 'no access' }),
  arrive: () => onOrder({ kind: 'arrived' }),
  suspend: async () => {
    const { version } = (await call<{ version: number }>('GET', `/api/agreements/${world.agreementId}`)).body;
    await call('POST', `/api/agreements/${world.agreementId}/stage`, { version, to: 'suspended', reason: 'unpaid' });
  },
  resume: async () => {
    const { version } = (await call<{ version: number }>('GET', `/api/agreements/${world.agreementId}`)).body;
    await call('POST', `/api/agreements/${world.agreementId}/stage`, { version, to: 'in force', reason: 'paid' });
  },
  'out of service': async () => {
    const { version } = (await call<{ version: number }>('GET', `/api/assets/${world.assetIds[0]}`)).body;
    const told = { version, on: '2026-11-24', act: { kind: 'out of service' }, note: '' };
    await call('POST', `/api/assets/${world.assetIds[0]}/life`, told);
  },
};

it('kept up after any acts it is the plan worked out anew', { timeout: 120_000 }, async () => {
  const acts = fc.array(fc.constantFrom(...Object.keys(ACTS)), { minLength: 1, maxLength: 3 });
  await fc.assert(
    fc.asyncProperty(acts, async (names) => {
      for (const name of names) await ACTS[name]?.();
      await keepPlanned(house.database, { today: TODAY });
      const kept = await planned();
      await keepPlanned(house.database, { today: TODAY, whole: true });
      expect(kept).toEqual(await planned());
    }),
    { numRuns: 25, seed: 12 },
  );
});

it('has every visit that a run to its end owes, and no other', async () => {
  await keepPlanned(house.database, { today: TODAY, whole: true });
  const { owed, absorbed, nothing } = await computeRun(house.database.db, await horizon());
  const { visits, outlooks } = await planned();
  const names = (of: readonly { row: { schedule: { id: number } }; visit: { nominal: string; planned: string } }[]) =>
    of.map((o) => `${o.row.schedule.id} ${o.visit.nominal} ${o.visit.planned}`).sort();
  expect(visits.map((v) => `${v.scheduleId} ${v.nominal} ${v.planned}`).sort()).toEqual(names(owed));
  expect(absorbed).toEqual([]);
  expect(outlooks.filter((o) => o.kind !== null)).toHaveLength(nothing.length);
});

it('nothing changed costs nothing, and what did not change is not written again', async () => {
  const { db } = house.database;
  await forgetPlan(house.database);
  await keepPlanned(house.database, { today: TODAY });
  const before = await db.select().from(plannedVisit);
  expect(await keepPlanned(house.database, { today: TODAY })).toBe(0);
  await keepPlanned(house.database, { today: TODAY, whole: true });
  expect(await db.select().from(plannedVisit)).toEqual(before);
});

it('two at once plan one after the other, to the same end', async () => {
  await Promise.all([1, 2, 3].map(() => keepPlanned(house.database, { today: TODAY, whole: true })));
  const once = await planned();
  await keepPlanned(house.database, { today: TODAY, whole: true });
  expect(await planned()).toEqual(once);
});

it('forgets schedules that are gone, the last ones too', async () => {
  const { db } = house.database;
  expect(await db.$count(scheduleOutlook)).toBe(await db.$count(schedule));
  await house.database.pool.query('SET FOREIGN_KEY_CHECKS = 0');
  for (const table of ['visit', 'schedule']) await house.database.pool.query('DELETE FROM ??', [table]);
  await keepPlanned(house.database, { today: TODAY, whole: true });
  expect(await planned()).toEqual({ visits: [], outlooks: [] });
});
