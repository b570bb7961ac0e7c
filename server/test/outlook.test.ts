// The outlook of schedules says what the run says, on random days and after random acts, and forgets schedules that are gone.
import { afterAll, beforeAll, expect, it } from 'vitest';
import fc from 'fast-check';
import { addDays, asLocalDate, type LocalDate } from '#core/time/index.ts';
import { computeRun, lookOut, previewRun } from '../src/upkeep/index.ts';
import { visitKey } from '../src/upkeep/owed.ts';
import { outlook, schedule } from '../src/tables.ts';
import { agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call);
  await agreementInForce(call, world);
});
afterAll(() => house.close());

/** The outlook as the run itself would have it. */
async function wanted(day: LocalDate) {
  const { db } = house.database;
  const { owed, nothing, held } = await computeRun(db, addDays(day, 31));
  const isHeld = (o: (typeof owed)[number]) => held.has(visitKey(o.row.schedule.id, o.visit.nominal));
  const due = owed.filter((o) => o.visit.raise <= day);
  return {
    toRaise: due.filter((o) => !isHeld(o)).length,
    held: due.filter(isHeld).length,
    next:
      owed
        .filter((o) => o.visit.raise > day && !isHeld(o))
        .map((o) => o.visit.raise)
        .sort()[0] ?? null,
    care: nothing.filter((n) => n.nothing.kind === 'needs action').length,
  };
}
async function kept() {
  const rows = await house.database.db.select().from(outlook);
  return {
    toRaise: rows.reduce((n, r) => n + r.toRaise, 0),
    held: rows.reduce((n, r) => n + r.held, 0),
    next: rows.flatMap((r) => r.nextRaise ?? []).sort()[0] ?? null,
    care: rows.filter((r) => r.careReason !== null).length,
  };
}

it('is the run’s, on any day and whatever was raised, held or let go before', { timeout: 120_000 }, async () => {
  const day = fc.integer({ min: -40, max: 200 }).map((n) => addDays(asLocalDate('2026-11-24'), n));
  const act = fc.constantFrom('raise', 'hold', 'release', 'nothing');
  await fc.assert(
    fc.asyncProperty(day, act, async (on, what) => {
      const { proposals } = await previewRun(house.database.db, asLocalDate('2026-12-20'), asLocalDate('2026-11-24'));
      const [first] = proposals;
      const visits = first ? [{ scheduleId: first.scheduleId, nominal: first.nominal }] : [];
      if (first && what === 'hold')
        await call('POST', '/api/upkeep/hold', { visits, to: '2026-12-20', reason: 'closed' });
      if (first && what === 'release') await call('POST', '/api/upkeep/release', { visits });
      if (first && what === 'raise') await call('POST', '/api/upkeep/commit', { to: '2026-12-20', only: visits });
      await lookOut(house.database, on);
      expect(await kept()).toEqual(await wanted(on));
    }),
    { numRuns: 40, seed: 11 },
  );
});

it('forgets schedules that are gone, the last ones too', async () => {
  const { db } = house.database;
  await lookOut(house.database, asLocalDate('2026-11-24'));
  expect((await db.select().from(outlook)).length).toBe(await db.$count(schedule));
  await house.database.pool.query('SET FOREIGN_KEY_CHECKS = 0');
  await house.database.pool.query('DELETE FROM visit');
  await house.database.pool.query('DELETE FROM schedule');
  await lookOut(house.database, asLocalDate('2026-11-24'));
  expect(await db.select().from(outlook)).toEqual([]);
});
