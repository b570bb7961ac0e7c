// How readings are kept: weeks made and dropped, sums by the hour and day held against a plain aggregate, and curves drawn from them.
import { sql } from 'drizzle-orm';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { asInstant, DAY, HOUR, instant, MINUTE, type Instant } from '#core/time/index.ts';
import { keepWeeks, sumReadings } from '../src/signals/storing.ts';
import { curveOf } from '../src/signals/curve.ts';
import { takePack } from '../src/signals/index.ts';
import { reading, readingDay, readingHour, staleHour } from '../src/tables.ts';
import { buildWorld, must, openHouse, type TestHouse } from './house.ts';

const NOW = asInstant('2026-11-24T09:20:00Z');
const KEY = 'urn:dev:os:kept';
let house: TestHouse;
let assetId: number;
beforeAll(async () => {
  house = await openHouse('2026-11-24T09:20:00Z');
  const call = await house.as('coordinator');
  assetId = (await buildWorld(call, { assets: 1 })).assetIds[0] as number;
  must(await call('POST', '/api/devices', { assetId, key: KEY }));
});
afterAll(() => house.close());

const say = (points: readonly (readonly [at: number, value: number])[], now: Instant = NOW, channel = 'chamber') =>
  takePack(
    house.database,
    points.map(([at, v]) => ({ n: `${KEY}:${channel}`, t: at / 1000, v })),
    now,
  );
const partitions = async (): Promise<string[]> => {
  const [rows] = (await house.database.db.execute(
    sql`select partition_name as name from information_schema.partitions where table_schema = database() and table_name = 'reading' order by partition_ordinal_position`,
  )) as unknown as [{ name: string }[]];
  return rows.map((r) => r.name);
};

it('makes room for the weeks to come, once, and drops what is older than readings are kept', async () => {
  await keepWeeks(house.database, NOW);
  const before = await partitions();
  expect(before.slice(-6)).toEqual(['p_20261130', 'p_20261207', 'p_20261214', 'p_20261221', 'p_20261228', 'p_open']);
  expect(await keepWeeks(house.database, NOW)).toEqual({ made: 0, dropped: 0 });
  await say([[NOW - HOUR, 4.5]]);
  // A server that was away for half a year finds its rows where they were.
  const { made } = await keepWeeks(house.database, instant(NOW + 180 * DAY));
  expect([made > 20, await house.database.db.$count(reading)]).toEqual([true, 1]);
  const { dropped } = await keepWeeks(house.database, instant(NOW + 500 * DAY));
  expect([dropped > 10, await house.database.db.$count(reading), (await partitions()).at(-1)]).toEqual([
    true,
    0,
    'p_open',
  ]);
});

it('sums by the hour and day what a plain aggregate finds, also what came late', async () => {
  const { db } = house.database;
  const point = fc.tuple(
    fc.integer({ min: -4 * 24 * 60, max: 0 }),
    fc.integer({ min: -9000, max: 4000 }).map((n) => n / 100 + 0.005),
  );
  const random = fc.sample(fc.uniqueArray(point, { selector: ([m]) => m, minLength: 300, maxLength: 300 }), 1)[0] as [
    number,
    number,
  ][];
  const at = ([minutes, value]: [number, number]) => [NOW + minutes * MINUTE, value] as const;
  await say(random.slice(0, 200).map(at), NOW);
  await sumReadings(house.database, NOW);
  await say(random.slice(200).map(at), NOW);
  expect(await db.$count(staleHour)).toBeGreaterThan(10);
  await sumReadings(house.database, NOW);
  expect(await db.$count(staleHour)).toBe(0);
  const settled = random.map(at).filter(([t]) => Math.floor(t / HOUR) * HOUR + HOUR <= NOW - HOUR - 5 * MINUTE);
  for (const [rows, span, stored] of [
    [await db.select().from(readingHour), HOUR, (r: { hour: Instant }) => r.hour],
    [await db.select().from(readingDay), DAY, (r: { day: Instant }) => r.day],
  ] as [{ n: number; low: number; high: number; sum: number }[], number, (r: never) => Instant][]) {
    const expected = new Map<number, number[]>();
    for (const [t, v] of settled)
      expected.set(Math.floor(t / span) * span, [...(expected.get(Math.floor(t / span) * span) ?? []), v]);
    expect(rows.map((r) => stored(r as never)).sort()).toEqual([...expected.keys()].sort());
    for (const r of rows) {
      const values = expected.get(stored(r as never)) as number[];
      expect(r.n).toBe(values.length);
      expect(r.low).toBeCloseTo(Math.min(...values), 9);
      expect(r.high).toBeCloseTo(Math.max(...values), 9);
      expect(r.sum).toBeCloseTo(
        values.reduce((a, b) => a + b, 0),
        6,
      );
    }
  }
});

it('draws any span in some hundred points, with the least and most of each part, up to the newest', async () => {
  const { db } = house.database;
  const week = Array.from(
    { length: 7 * 24 * 60 },
    (_, i) => [NOW - (7 * 24 * 60 - i) * MINUTE, Math.sin(i / 90) * 10 + (i === 5000 ? 99 : 0)] as const,
  );
  for (let i = 0; i < week.length; i += 1000) await say(week.slice(i, i + 1000), NOW, 'year');
  await sumReadings(house.database, NOW);
  const id = assetId as never;
  for (const days of [1, 3, 7, 30, 400]) {
    const points = await curveOf(db, id, 'year', days, NOW);
    const inSpan = week.filter(([t]) => t > NOW - days * DAY);
    expect(points.length).toBeLessThan(800);
    expect(Math.max(...points.map((p) => p.high))).toBeCloseTo(Math.max(...inSpan.map(([, v]) => v)), 9);
    expect(Math.min(...points.map((p) => p.low))).toBeCloseTo(Math.min(...inSpan.map(([, v]) => v)), 9);
    expect(points.map((p) => p.at)).toEqual([...points.map((p) => p.at)].sort((a, b) => a - b));
    for (const p of points) expect(p.low <= p.value + 1e-9 && p.value <= p.high + 1e-9).toBe(true);
    // Nothing of the newest is missing for not being summed yet.
    expect(NOW - (points.at(-1)?.at ?? 0)).toBeLessThan(days > 120 ? DAY : 2 * HOUR);
  }
  expect(await curveOf(db, id, 'nothing', 30, NOW)).toEqual([]);
});
