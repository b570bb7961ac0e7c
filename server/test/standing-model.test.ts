// Standing counted by the database and by core, held together on random worlds: promises as their orders' events derive them, visits
// as they stand, over random periods, for every agreement, asset, customer, site and depot and for the whole; months that are over are
// summed now and then, and what counts in them changes afterwards.
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Answer } from '#api/contract.ts';
import {
  STANDING_BY,
  type readStanding,
  type readStandingPlaces,
  type readStandingTotal,
  type standingDetail,
} from '#api/standing.ts';
import type { LocationId } from '#core/ids.ts';
import { addCounts, monthOf, NOTHING_COUNTED } from '#core/standing/index.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { and, eq } from 'drizzle-orm';
import { rebuild } from '../src/platform/derived.ts';
import { ROOMS } from '../src/rooms.ts';
import { sumMonths } from '../src/standing/index.ts';
import { takenApart } from '../src/standing/period.ts';
import { asset, location, standingSum } from '../src/tables.ts';
import { agreementInForce, buildWorld, must, openHouse } from './house.ts';
import {
  amissOf,
  anOrder,
  aVisit,
  counted,
  everything,
  raiseOrders,
  TODAY,
  writeVisits,
  type Built,
} from './standing-worlds.ts';

const THIS_MONTH = monthOf(TODAY);
let built: Built;
/** The site, its floors, and the labs machines stand in; one stands on a floor. */
let places: { id: LocationId; path: string }[];

/** What is told of each place is what core counts there and below, and its parts are the whole. */
async function placesAsCounted(all: Awaited<ReturnType<typeof everything>>, from: LocalDate, to: LocalDate) {
  const path = new Map(places.map((p) => [p.id as number, p.path]));
  for (const { id, path: own } of places) {
    const body = must(
      await built.call<Answer<typeof readStandingPlaces>>('GET', `/api/standing/places/${id}?from=${from}&to=${to}`),
    );
    const within = (top: string) =>
      counted(all, built.house.now, from, to, (x) => path.get(x.place)?.startsWith(top) ?? false);
    expect([id, body.total]).toMatchObject([id, within(own)]);
    expect(body.here).toMatchObject(counted(all, built.house.now, from, to, (x) => path.get(x.place) === own));
    for (const row of body.rows) expect([row.id, row]).toMatchObject([row.id, within(`${own}${row.id}/`)]);
    expect(body.rows.map(amissOf)).toEqual(body.rows.map(amissOf).sort((a, b) => b - a));
    const parts = [...body.rows, body.here, ...(body.moved ? [body.moved] : [])].reduce(addCounts, NOTHING_COUNTED);
    expect(body.total).toMatchObject(parts);
    const { clocks, visits } = must(
      await built.call<Answer<typeof standingDetail>>(
        'GET',
        `/api/standing/detail?from=${from}&to=${to}&by=place&id=${id}`,
      ),
    );
    expect([clocks.length, visits.length]).toEqual([
      Math.min(100, body.total.missed),
      Math.min(100, body.total.owed - body.total.inWindow),
    ]);
  }
}

beforeAll(async () => {
  const house = await openHouse();
  const call = await house.as('coordinator');
  built = { house, call, world: await buildWorld(call, { assets: 5, minutes: 60 }) };
  await agreementInForce(call, built.world);
  const { db } = house.database;
  places = await db.select({ id: location.id, path: location.path }).from(location);
  const floor = places.find((p) => p.path.split('/').length === 4);
  await db.update(asset).set({ locationId: floor?.id }).where(eq(asset.tag, 'Q104'));
});
afterAll(() => built.house.close());

it('the database counts as core does', { timeout: 240_000 }, async () => {
  let seen = 0;
  const sums = new Set<string>();
  await fc.assert(
    fc.asyncProperty(
      fc.array(anOrder(fc.integer({ min: 1, max: 160 })), { minLength: 1, maxLength: 4 }),
      fc.array(aVisit(160), { minLength: 1, maxLength: 8 }),
      fc.oneof(fc.integer({ min: 0, max: 180 }), fc.integer({ min: 150, max: 180 })),
      fc.oneof(fc.integer({ min: 0, max: 200 }), fc.constant(200)),
      fc.boolean(),
      async (orders, visits, ago, days, isSummed) => {
        const { house, call } = built;
        await raiseOrders(built, orders);
        await writeVisits(built, visits);
        if (isSummed) await sumMonths(house.database, house.now);
        const all = await everything(house);
        const from = addDays(TODAY, -ago);
        const to = addDays(from, days);
        for (const sum of (await takenApart(house.database.db, { from, to })).sums)
          sums.add(
            sum.months === 3 ? 'quarter' : `${sum.month === THIS_MONTH ? 'this' : 'a'} month ${sum.after}-${sum.upTo}`,
          );
        for (const by of STANDING_BY) {
          const { status, body } = await call<Answer<typeof readStanding>>(
            'GET',
            `/api/standing?from=${from}&to=${to}&by=${by}`,
          );
          expect(status).toBe(200);
          const ids = new Set([...all.clocks, ...all.visits].map((x) => x.of[by]));
          expect(body.items.map(amissOf)).toEqual(body.items.map(amissOf).sort((a, b) => b - a));
          for (const id of ids) {
            const row = body.items.find((r) => r.id === id);
            const figures = counted(all, house.now, from, to, (x) => x.of[by] === id);
            const { met, missed, owed, inWindow, declined } = row ?? {
              met: 0,
              missed: 0,
              owed: 0,
              inWindow: 0,
              declined: 0,
            };
            expect([by, id, { met, missed, owed, inWindow, declined }]).toEqual([by, id, figures]);
            seen += met + missed + owed;
          }
        }
        await placesAsCounted(all, from, to);
        const whole = counted(all, house.now, from, to, () => true);
        const { body } = await call<Answer<typeof readStandingTotal>>(
          'GET',
          `/api/standing/total?from=${from}&to=${to}`,
        );
        expect(body.total).toMatchObject(whole);
      },
    ),
    { numRuns: 24, seed: 4 },
  );
  expect(seen).toBeGreaterThan(100);
  // Whole quarters were asked for as such.
  expect(await built.house.database.db.$count(standingSum, eq(standingSum.months, 3))).toBeGreaterThan(0);
  // Their sums are what their months have together; what is not is found and put right.
  const { database, now } = built.house;
  const months = ROOMS.flatMap((room) => room.derived ?? []).filter((k) => k.what === 'standing months');
  const look = async (mend: boolean) => (await rebuild(database, months, now, mend))[0]?.differing;
  await sumMonths(database, now);
  expect(await look(false)).toEqual([]);
  const inQuarters = eq(standingSum.months, 3);
  const held = await database.db.select().from(standingSum).where(inQuarters);
  await database.db
    .update(standingSum)
    .set({ met20: 77 })
    .where(and(inQuarters, eq(standingSum.summedFor, 'customer')));
  await database.db.delete(standingSum).where(and(inQuarters, eq(standingSum.summedFor, 'all')));
  expect((await look(true))?.join('; ')).toMatch(/: 2 sums of its quarter are not what its months have/);
  expect(await look(false)).toEqual([]);
  expect(await database.db.select().from(standingSum).where(inQuarters)).toEqual(held);
  // So were whole months, the first and the last thirds of some, and those of this month that are over.
  for (const kind of [/quarter/, /^a month 0-3/, /^a month 0-[12]/, /^a month [12]-3/, /^this month 0-2/])
    expect([...sums].filter((k) => kind.test(k))).not.toEqual([]);
});
