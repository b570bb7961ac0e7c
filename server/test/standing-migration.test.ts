// Promises and visits of the version before keep counting: on the day, at the site and for the depot that their orders were of.
import { eq } from 'drizzle-orm';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { asInstant } from '#core/time/index.ts';
import { migrateDatabase, type Database } from '../src/platform/database.ts';
import { rebuild } from '../src/platform/derived.ts';
import { deriveAgain } from '../src/orders/derive-again.ts';
import { ROOMS } from '../src/rooms.ts';
import { clock, orderLine, serviceLevel, signalShard, standingMonth, standingSum, visit } from '../src/tables.ts';
import { freshDatabase, migrationsUpTo } from './house.ts';

let database: Database;
beforeAll(async () => {
  ({ database } = await freshDatabase());
  await migrateDatabase(database, await migrationsUpTo(84));
});
afterAll(() => database.close());

it('what was there counts where and when it was', async () => {
  const old = (text: string) => database.pool.query(text);
  await old('SET FOREIGN_KEY_CHECKS = 0');
  await old("INSERT INTO customer (name) VALUES ('Norvela')");
  await old("INSERT INTO asset_class (name) VALUES ('Freezer')");
  await old("INSERT INTO depot (name) VALUES ('Ribeira')");
  await old("INSERT INTO location (name, full_name, path) VALUES ('Site', 'Site', '/1/')");
  await old("INSERT INTO location (parent_id, name, full_name, path) VALUES (1, 'Hall', 'Site > Hall', '/1/2/')");
  await old(
    `INSERT INTO asset (customer_id, class_id, location_id, maker, model, serial, tag, serial_plain, owner)
     VALUES (1, 1, 2, 'Vessmark', 'ULF-720', 'S1', 'T1', 's1', 'customer')`,
  );
  await old(
    `INSERT INTO work_order (kind, stage, priority, title, customer_id, agreement_id, zone, started_at, depot_id)
     VALUES ('repair', 'done', 2, 'Warm', 1, 1, 'Europe/Lisbon', '2026-10-20 08:00:00', 1)`,
  );
  await old(
    "INSERT INTO order_line (order_id, asset_id, visit_id, promises) VALUES (1, 1, 1, '{}'), (1, NULL, NULL, '{}')",
  );
  await old(
    `INSERT INTO clock (order_line_id, order_id, asset_id, customer_id, agreement_id, zone, target, state, promised_minutes, started_at, due_at)
     VALUES (1, 1, 1, 1, 1, 'Europe/Lisbon', 'arrival', 'met', 240, '2026-10-20 08:00:00', '2026-10-20 12:00:00'),
            (1, 1, 1, 1, 1, 'Europe/Lisbon', 'response', 'paused', 240, '2026-10-20 08:00:00', NULL)`,
  );
  await old(
    `INSERT INTO visit (schedule_id, nominal, part, asset_id, agreement_id, job_plan_id, due, planned, window_from, window_to, state, order_id)
     VALUES (1, '2026-10-20', 1, 1, 1, 1, '2026-10-20', '2026-10-20', '2026-10-15', '2026-10-27', 'raised', 1),
            (1, '2026-11-20', 1, 1, 1, 1, '2026-11-20', '2026-11-20', '2026-11-15', '2026-11-27', 'declined', NULL)`,
  );
  await migrateDatabase(database);
  const { db } = database;
  expect(await db.select().from(orderLine)).toMatchObject([
    { placeId: 2, siteId: 1 },
    { placeId: null, siteId: null },
  ]);
  expect(await db.select().from(clock)).toMatchObject([
    { target: 'arrival', dueOn: '2026-10-20', siteId: 1, depotId: 1, priority: 2, missCause: null },
    { target: 'response', dueOn: null, siteId: 1, depotId: 1, priority: 2 },
  ]);
  expect(await db.select().from(visit)).toMatchObject([
    { siteId: 1, depotId: 1 },
    { siteId: null, depotId: null },
  ]);
});

it('pledges of before warn nobody, and clocks that run learn from when they run short', async () => {
  const { database: own } = await freshDatabase();
  await migrateDatabase(own, await migrationsUpTo(86));
  const old = (text: string) => own.pool.query(text);
  await old('SET FOREIGN_KEY_CHECKS = 0');
  await old(
    `INSERT INTO service_level (name, targets, pauses, pledge)
     VALUES ('Cold', '{}', '[]', '{"warnPercent":30,"availability":null,"tiers":[],"cap":null}'), ('Plain', '{}', '[]', NULL)`,
  );
  await old(
    `INSERT INTO work_order (kind, stage, priority, title, customer_id, zone, started_at)
     VALUES ('repair', 'raised', 1, 'Warm', 1, 'Europe/Lisbon', '2026-11-24 08:00:00')`,
  );
  await old(
    `INSERT INTO order_line (order_id, asset_id, promises) VALUES (1, 1,
     '{"restoration":{"promise":{"minutes":240,"measure":"elapsed"},"serviceLevelId":1,"pauses":[],"warnPercent":30}}')`,
  );
  await old(
    `INSERT INTO order_event (order_id, at, recorded_at, act)
     VALUES (1, '2026-11-24 08:00:00', '2026-11-24 08:00:00', '{"kind":"raised","text":""}')`,
  );
  await old(
    `INSERT INTO clock (order_line_id, order_id, asset_id, customer_id, zone, target, state, promised_minutes, warn_percent, started_at, due_at, derivation)
     VALUES (1, 1, 1, 1, 'Europe/Lisbon', 'restoration', 'running', 240, 30, '2026-11-24 08:00:00', '2026-11-24 12:00:00', 6)`,
  );
  await migrateDatabase(own);
  const levels = await own.db.select().from(serviceLevel);
  expect(levels.map((l) => l.pledge)).toEqual([
    { warnPercent: 30, availability: null, tiers: [], cap: null, warnings: [], upkeep: null },
    null,
  ]);
  expect((await own.db.select().from(signalShard)).every((s) => s.taken === 0)).toBe(true);
  expect(await deriveAgain(own, asInstant('2026-11-24T09:00:00Z'))).toBe(1);
  // Thirty percent of four hours are left at 10:48.
  expect(await own.db.select().from(clock)).toMatchObject([
    { state: 'running', shortAt: asInstant('2026-11-24T10:48:00Z'), warnSteps: null, warnAt: null },
  ]);
  await own.close();
});

it('a month that is closed keeps its figures to its 10th and 20th; sums of open ones are taken anew', async () => {
  const { database: own } = await freshDatabase();
  await migrateDatabase(own, await migrationsUpTo(88));
  const old = (text: string) => own.pool.query(text);
  await old('SET FOREIGN_KEY_CHECKS = 0');
  await old(
    `INSERT INTO standing_month (month, changes, summed, quarter_summed, closed_at, closed_by, adjusted)
     VALUES ('2026-09-01', 2, 2, NULL, '2026-10-03 08:00:00', 1, 2), ('2026-10-01', 5, 5, NULL, NULL, NULL, NULL)`,
  );
  await old(
    `INSERT INTO closed_count (month, thing, thing_id, on_day, counted_as, asset_id, agreement_id, customer_id, site_id, depot_id)
     VALUES ('2026-09-01', 'arrival', 1, '2026-09-10', 'met', 1, 1, 1, 4, 1), ('2026-09-01', 'arrival', 2, '2026-09-11', 'missed', 2, 1, 1, 4, 1),
            ('2026-09-01', 'visit', 1, '2026-09-20', 'in window', 1, 1, 1, 4, NULL), ('2026-09-01', 'visit', 2, '2026-09-21', 'out of window', 1, NULL, 1, 4, 1)`,
  );
  const sum = (of: string, id: number, met: number, missed: number, owed: number, inWindow: number) =>
    old(`INSERT INTO standing_sum (summed_for, months, month, subject_id, met, missed, owed, in_window, declined, amiss, changes)
         VALUES ('${of}', 1, '2026-09-01', ${id}, ${met}, ${missed}, ${owed}, ${inWindow}, 0, ${missed + owed - inWindow}, 2)`);
  await sum('asset', 1, 0, 0, 1, 0);
  await sum('asset', 2, 0, 1, 0, 0);
  await sum('site', 4, 1, 1, 2, 1);
  await sum('agreement', 0, 0, 0, 1, 0);
  await sum('agreement', 1, 1, 1, 1, 1);
  await sum('customer', 1, 1, 1, 2, 1);
  await sum('depot', 0, 0, 0, 1, 1);
  await sum('depot', 1, 1, 1, 1, 0);
  await sum('all', 0, 1, 1, 2, 1);
  await migrateDatabase(own);
  const now = asInstant('2026-10-20T09:00:00Z');
  // What is held is what the closed month has, third by third, for each that it is summed for.
  const months = ROOMS.flatMap((room) => room.derived ?? []).filter((k) => k.what === 'standing months');
  expect(await rebuild(own, months, now, false)).toMatchObject([{ seen: 2, differing: [] }]);
  const [site] = await own.db.select().from(standingSum).where(eq(standingSum.summedFor, 'site'));
  expect(site).toMatchObject({
    met10: 1,
    missed10: 0,
    owed10: 0,
    met20: 1,
    missed20: 1,
    owed20: 1,
    inWindow20: 1,
    owed: 2,
  });
  expect(await own.db.select().from(standingMonth)).toMatchObject([
    { month: '2026-09-01', changes: 2, summed: 2 },
    { month: '2026-10-01', changes: 6, summed: 5 },
  ]);
  await own.close();
});
