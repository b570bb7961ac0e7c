// The demo world: as large as promised, the same for the same seed, and true to the core's own rules.
import { count, countDistinct, eq, isNotNull } from 'drizzle-orm';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { loadDemo, type DemoWorld } from '#demo/load.ts';
import { CUSTOMERS, PEOPLE } from '#demo/scenario.ts';
import { AGREEMENTS } from '#demo/scenario-agreements.ts';
import { seeded } from '#demo/random.ts';
import { advance, isOfParts, seriesRule, watchedFrom } from '#core/signals/index.ts';
import { addDays, asInstant, asLocalDate, DAY, instant } from '#core/time/index.ts';
import { stateOfOrder } from '#core/orders/index.ts';
import { packOf, type SimulatedDevice } from '#standins/devices.ts';
import { calendarBook } from '../src/calendars/index.ts';
import { migrateDatabase, type Database } from '../src/platform/database.ts';
import {
  agreement,
  alert,
  alertRule,
  asset,
  assetClass,
  clock,
  customer,
  orderEvent,
  person,
  reading,
  visit,
  workOrder,
} from '../src/tables.ts';
import { deriveOrderClocks, loadOrder } from '../src/orders/index.ts';
import { previewRun } from '../src/upkeep/index.ts';
import { freshDatabase } from './house.ts';

const NOW = asInstant('2026-11-24T09:20:00Z');
const TODAY = asLocalDate('2026-11-24');
let database: Database;
let world: DemoWorld;
beforeAll(async () => {
  ({ database } = await freshDatabase());
  await migrateDatabase(database);
  world = await loadDemo(database, NOW);
});
afterAll(() => database.close());

const counted = async (table: Parameters<Database['db']['$count']>[0]): Promise<number> => database.db.$count(table);

describe('the demo world', () => {
  it('is at least as large as the scenario asks', async () => {
    expect(await counted(customer)).toBe(CUSTOMERS.length);
    expect(await counted(customer)).toBeGreaterThanOrEqual(8);
    expect(await counted(asset)).toBeGreaterThanOrEqual(220);
    expect(await counted(agreement)).toBe(AGREEMENTS.length);
    expect(await counted(person)).toBe(PEOPLE.length);
    expect(world.devices.length).toBeGreaterThanOrEqual(20);
    expect(await counted(reading)).toBeGreaterThan(3000);
  });

  it('reaches back twelve months and more, in visits, repairs and clocks of every kind', async () => {
    const rows = await database.db.select().from(clock);
    expect(new Set(rows.map((c) => c.state))).toEqual(new Set(['running', 'paused', 'met', 'missed']));
    expect(Math.min(...rows.map((c) => c.startedAt))).toBeLessThan(NOW - 365 * DAY);
    const visits = await database.db.select().from(visit);
    const late = visits.filter((v) => v.completedOn !== null && v.completedOn > v.windowTo).length;
    const undone = visits.filter((v) => v.completedOn === null && v.windowTo < TODAY && v.state === 'raised').length;
    expect([
      late > 10,
      undone > 5,
      visits.some((v) => v.state === 'declined'),
      visits.some((v) => v.windowTo < addDays(TODAY, -365)),
    ]).toEqual([true, true, true, true]);
  });

  it('every order’s events could have happened, and give the stage and clocks that are stored', async () => {
    const orders = await database.db.select().from(workOrder);
    const repairs = orders.filter((o) => o.kind === 'repair');
    const preventive = orders.filter((o) => o.kind === 'preventive').filter((_, i) => i % 20 === 0);
    for (const row of [...repairs, ...preventive]) {
      const { facts, events } = await loadOrder(database.db, row.id, 'look');
      const state = stateOfOrder(facts, events);
      expect([row.id, state.ok ? state.value.stage : state.refusals[0]?.message]).toEqual([row.id, row.stage]);
      if (state.ok)
        expect([state.value.restoredAt, state.value.doneAt, state.value.technician]).toEqual([
          row.restoredAt,
          row.doneAt,
          row.technician,
        ]);
    }
    const columns = {
      line: clock.orderLineId,
      target: clock.target,
      state: clock.state,
      dueAt: clock.dueAt,
      stoppedAt: clock.stoppedAt,
      leftMs: clock.leftMs,
      note: clock.note,
    };
    const before = await database.db.select(columns).from(clock).orderBy(clock.orderLineId, clock.target);
    await database.transact(async (tx) => {
      await tx.db.delete(clock);
      const book = await calendarBook(tx.db);
      for (const row of repairs) {
        const { order, lines, events } = await loadOrder(tx.db, row.id, 'look');
        await deriveOrderClocks(tx, book, order, lines, events, NOW);
      }
    });
    // What is left depends on the moment of deriving; everything else on the events alone.
    const settled = (rows: typeof before) =>
      rows.map((r) => ({ ...r, leftMs: r.state === 'running' ? null : r.leftMs }));
    expect(settled(await database.db.select(columns).from(clock).orderBy(clock.orderLineId, clock.target))).toEqual(
      settled(before),
    );
  });

  it('no visit has two orders, and no event lies in the future', async () => {
    const [visits] = await database.db
      .select({ n: count(), orders: countDistinct(visit.orderId) })
      .from(visit)
      .where(isNotNull(visit.orderId));
    expect(visits?.n).toBe(visits?.orders);
    const events = await database.db.select({ at: orderEvent.at }).from(orderEvent);
    expect(Math.max(...events.map((e) => e.at))).toBeLessThanOrEqual(NOW);
  });

  it('leaves the run something to do, and its traps where a coordinator stumbles over them', async () => {
    const run = await previewRun(database, { to: TODAY, today: TODAY, scope: {} }, { limit: 200 });
    expect(run.counts.proposed).toBeGreaterThan(5);
    expect(new Set(run.nothing.filter((n) => n.kind === 'needs action').map((n) => n.code))).toEqual(
      new Set(['draft', 'suspended', 'zero duration']),
    );
    // What a reading says is due may be over already; by the calendar nothing is.
    const over = run.proposals.filter((p) => p.windowTo < TODAY);
    expect(over.every((p) => /by (cycles|runs)$/.test(p.jobPlan)) && over.length < 10).toBe(true);
  });

  it('has one freezer failing right now, with an order raised by itself', async () => {
    const alerts = await database.db.select().from(alert);
    expect(alerts).toHaveLength(1);
    const [order] = await database.db
      .select()
      .from(workOrder)
      .where(eq(workOrder.id, alerts[0]?.orderId as (typeof workOrder.$inferSelect)['id']));
    expect(order).toMatchObject({
      kind: 'repair',
      stage: 'raised',
      title: 'Chamber too warm',
      startedAt: alerts[0]?.startedAt,
    });
  });
});

describe('the same seed', () => {
  it('gives the same numbers, another seed others', () => {
    const list = (seed: number) => {
      const random = seeded(seed);
      return Array.from({ length: 50 }, () => random.whole(1, 1000));
    };
    expect(list(7)).toEqual(list(7));
    expect(list(7)).not.toEqual(list(8));
    expect(list(7).every((n) => n >= 1 && n <= 1000)).toBe(true);
  });
});

describe('simulated devices', () => {
  const device = (
    scenario: SimulatedDevice['scenario'],
    kind: SimulatedDevice['kind'] = 'freezer',
    setPoint = -80,
  ): SimulatedDevice => ({ key: 'urn:dev:os:test', kind, setPoint, scenario });
  const chamber = (d: SimulatedDevice, minutes: number): number | undefined =>
    packOf(d, minutes, 1_700_000_000)?.find((r) => r.n === 'chamber')?.v;
  it('healthy ones stay near their set point', () => {
    for (let m = 0; m < 2000; m += 7) expect(Math.abs((chamber(device('healthy'), m) ?? 0) + 80)).toBeLessThan(1);
  });
  it('a failing freezer warms past its limit and stays there', () => {
    expect(chamber(device('slowly fails'), -30)).toBeLessThan(-78);
    for (const minutes of [0, 10, 60, 600]) expect(chamber(device('slowly fails'), minutes)).toBeGreaterThan(-65);
  });
  it('a door left open warms for a while, then the cold comes back', () => {
    const fridge = device('door left open', 'refrigerator', 4.8);
    expect(chamber(fridge, 20)).toBeGreaterThan(8);
    expect(packOf(fridge, 20, 0)?.find((r) => r.n === 'door')?.vb).toBe(true);
    expect(chamber(fridge, 60)).toBeLessThan(6);
  });
  it('a power cut stops the compressor, a steriliser stops mid-cycle, a silent sensor says nothing', () => {
    expect(packOf(device('power cut'), 15, 0)?.find((r) => r.n === 'compressor')?.v).toBe(0);
    expect(chamber(device('stops mid-cycle', 'steriliser', 121), 20)).toBeLessThan(100);
    expect(packOf(device('falls silent'), 10, 0)).toBeNull();
    expect(packOf(device('healthy', 'cabinet', 0.45), 10, 0)?.[0]).toMatchObject({ n: 'airspeed', u: 'm/s' });
  });
  it('under the demo’s own rules every trouble raises an alert within half an hour, and nothing healthy ever does', async () => {
    const rules = await database.db.select().from(alertRule);
    const alertAfterMinutes = (d: SimulatedDevice, className: string, hours: number): number | null => {
      // What is only a part of others is nobody's alert, and what is made of others reads no device.
      const own = rules.filter((r) => r.assetClassId === classIds.get(className) && !r.partOnly && !isOfParts(r));
      expect(own.length).toBeGreaterThan(0);
      const states = own.map(() => watchedFrom(instant(1_764_000_000_000)));
      for (let second = 10; second <= hours * 3600; second += 10) {
        const at = instant(1_764_000_000_000 + second * 1000);
        const records = packOf(d, second / 60, 0) ?? [];
        for (const [i, rule] of own.entries()) {
          const value = records.find((r) => r.n === rule.channel)?.v;
          if (value === undefined) continue;
          const next = advance(seriesRule(rule), states[i] as (typeof states)[number], [{ at, value }], at);
          states[i] = next.state;
          if (next.happened.some((h) => h.kind === 'started')) return second / 60;
        }
      }
      return null;
    };
    const classIds = new Map((await database.db.select().from(assetClass)).map((c) => [c.name, c.id]));
    const inTrouble = [
      [device('slowly fails'), 'Ultra-low freezer'],
      [device('power cut'), 'Ultra-low freezer'],
      [device('door left open', 'refrigerator', 4.8), 'Vaccine refrigerator'],
      [device('stops mid-cycle', 'steriliser', 121), 'Steam steriliser'],
    ] as const;
    for (const [d, name] of inTrouble) {
      const minutes = alertAfterMinutes(d, name, 1);
      expect(minutes, d.scenario).not.toBeNull();
      expect(minutes, d.scenario).toBeLessThan(30);
    }
    for (const d of world.devices) {
      if (d.scenario !== 'healthy') continue;
      const name = {
        freezer: d.setPoint === -80 ? 'Ultra-low freezer' : 'Plasma freezer',
        refrigerator: 'Vaccine refrigerator',
        steriliser: 'Steam steriliser',
        cabinet: 'Biosafety cabinet',
      }[d.kind];
      expect(alertAfterMinutes(d, name, 6), d.key).toBeNull();
    }
  });
});
