// Promises and visits of the version before keep counting: on the day, at the site and for the depot that their orders were of.
import { afterAll, beforeAll, expect, it } from 'vitest';
import { asInstant } from '#core/time/index.ts';
import { migrateDatabase, type Database } from '../src/platform/database.ts';
import { deriveAgain } from '../src/orders/derive-again.ts';
import { clock, orderLine, serviceLevel, signalShard, visit } from '../src/tables.ts';
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
