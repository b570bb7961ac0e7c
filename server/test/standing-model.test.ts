// Standing counted by the database and by core, held together on random worlds: promises as their orders' events derive them, visits
// as they stand, over random periods, for every agreement, asset, customer, site and depot and for the whole; months that are over are
// summed now and then, and what counts in them changes afterwards.
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { Answer } from '#api/contract.ts';
import { STANDING_BY, type readStanding, type StandingBy } from '#api/standing.ts';
import { clockEventsOf } from '#core/orders/index.ts';
import { deriveClocks } from '#core/service-levels/index.ts';
import { attainmentOf, upkeepCompliance, type CountedClock, type CountedVisit } from '#core/standing/index.ts';
import { addDays, asLocalDate, HOUR, instant, localDateAt, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../src/calendars/index.ts';
import { loadOrder } from '../src/orders/index.ts';
import { countsChanged } from '../src/platform/counts-changed.ts';
import { sumMonths } from '../src/standing/index.ts';
import { asset, location, schedule, standingSum, visit, workOrder } from '../src/tables.ts';
import { agreementInForce, buildWorld, openHouse, type Caller, type TestHouse, type World } from './house.ts';

const TODAY = asLocalDate('2026-11-24');

let house: TestHouse;
let call: Caller;
let world: World;
beforeAll(async () => {
  house = await openHouse();
  call = await house.as('coordinator');
  world = await buildWorld(call, { assets: 5, minutes: 60 });
  await agreementInForce(call, world);
});
afterAll(() => house.close());

const ACTS = ['told', 'arrived', 'paused', 'resumed', 'restored', 'done', 'called off'] as const;
const order = fc.record({
  asset: fc.nat(4),
  priority: fc.constantFrom(1, 2),
  daysAgo: fc.integer({ min: 1, max: 25 }),
  acts: fc.array(fc.record({ kind: fc.constantFrom(...ACTS), hour: fc.integer({ min: 0, max: 40 }) }), {
    maxLength: 6,
  }),
});
const visited = fc.record({
  daysAgo: fc.integer({ min: -10, max: 40 }),
  length: fc.integer({ min: 0, max: 12 }),
  doneAfter: fc.option(fc.integer({ min: -8, max: 20 })),
  state: fc.constantFrom('raised', 'raised', 'raised', 'declined', 'absorbed', 'called off'),
});

type Valued<A> = A extends fc.Arbitrary<infer T> ? T : never;
type Order = Valued<typeof order>;
type Visited = Valued<typeof visited>;

let nominal = asLocalDate('2030-01-01');
async function writeWorld(orders: readonly Order[], visits: readonly Visited[]) {
  for (const { asset, priority, daysAgo, acts } of orders) {
    const start = instant(house.now - daysAgo * 24 * HOUR);
    const raised = await call<{ id: number }>('POST', '/api/orders', {
      requestKey: randomUUID(),
      assetIds: [world.assetIds[asset]],
      ...{ priority, cause: 'wear', title: 'Warm', receivedAt: new Date(start).toISOString() },
    });
    for (const { kind, hour } of acts) {
      const at = Math.min(start + hour * HOUR, house.now);
      await call('POST', `/api/orders/${raised.body.id}/events`, {
        requestKey: randomUUID(),
        at: new Date(at).toISOString(),
        act: { kind, ...(kind === 'told' && { technician: 'technician' }), reason: 'no access', text: 'as told' },
      });
    }
  }
  const [owed] = await house.database.db.select().from(schedule).limit(1);
  if (!owed) throw new Error('the world has no schedule');
  for (const { daysAgo, length, doneAfter, state } of visits) {
    const windowTo = addDays(TODAY, -daysAgo);
    const windowFrom = addDays(windowTo, -length);
    nominal = addDays(nominal, 1);
    await house.database.db.insert(visit).values({
      ...{ scheduleId: owed.id, assetId: owed.assetId, agreementId: owed.agreementId, nominal, windowFrom, windowTo },
      ...{ due: windowTo, planned: windowTo, jobPlanId: owed.jobPlanId },
      state: state as never,
      completedOn: doneAfter === null ? null : addDays(windowTo, doneAfter),
    });
    await house.database.transact((tx) => countsChanged(tx, [windowTo], TODAY));
  }
}

type Keyed<T> = T & { readonly of: Readonly<Record<StandingBy, number>> };

/** All promises, derived anew from the events, and all visits. */
async function everything() {
  const { db } = house.database;
  const book = await calendarBook(db);
  const clocks: Keyed<CountedClock>[] = [];
  const paths = new Map((await db.select().from(location)).map((l) => [l.id, l.path]));
  const siteOf = (id: number | null): number => Number(paths.get(id as never)?.split('/')[1] ?? 0);
  const machines = new Map((await db.select().from(asset)).map((a) => [a.id, a]));
  for (const { id } of await db.select({ id: workOrder.id }).from(workOrder)) {
    const { order: row, lines, events } = await loadOrder(db, id, 'look');
    for (const line of lines)
      for (const c of deriveClocks(row.startedAt, clockEventsOf(events, line), line.promises, book.timeOf, house.now))
        clocks.push({
          state: c.state,
          ...('dueAt' in c ? { dueAt: c.dueAt, dueOn: localDateAt(row.zone, c.dueAt) } : { dueAt: null, dueOn: null }),
          of: {
            ...{ asset: line.assetId as number, agreement: row.agreementId ?? 0, customer: row.customerId },
            ...{ site: siteOf(line.placeId), depot: row.depotId ?? 0 },
          },
        });
  }
  const visits: Keyed<CountedVisit>[] = (await db.select().from(visit)).flatMap((v) =>
    v.state === 'held' || v.state === 'accepted'
      ? []
      : [
          {
            ...{ ...v, state: v.state },
            of: {
              ...{ asset: v.assetId as number, agreement: v.agreementId as number, depot: 0 },
              customer: machines.get(v.assetId)?.customerId as number,
              site: siteOf(machines.get(v.assetId)?.locationId ?? null),
            },
          },
        ],
  );
  return { clocks, visits };
}

const amissOf = (r: { missed: number; owed: number; inWindow: number }): number => r.missed + r.owed - r.inWindow;

function counted(
  { clocks, visits }: Awaited<ReturnType<typeof everything>>,
  from: LocalDate,
  to: LocalDate,
  own: (x: Keyed<object>) => boolean,
) {
  const period = { from, to: addDays(to, 1) };
  const { met, missed } = attainmentOf(clocks.filter(own), period, house.now);
  const { owed, inWindow, declined } = upkeepCompliance(visits.filter(own), period, TODAY);
  return { met, missed, owed, inWindow, declined };
}

it('the database counts as core does', { timeout: 240_000 }, async () => {
  let seen = 0;
  await fc.assert(
    fc.asyncProperty(
      fc.array(order, { minLength: 1, maxLength: 4 }),
      fc.array(visited, { minLength: 1, maxLength: 8 }),
      fc.integer({ min: 0, max: 40 }),
      fc.integer({ min: 0, max: 45 }),
      fc.boolean(),
      async (orders, visits, ago, days, isSummed) => {
        await writeWorld(orders, visits);
        if (isSummed) await sumMonths(house.database, house.now);
        const all = await everything();
        const from = addDays(TODAY, -ago);
        const to = addDays(from, days);
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
            const figures = counted(all, from, to, (x) => x.of[by] === id);
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
          const whole = counted(all, from, to, () => true);
          expect(body.total).toMatchObject({
            met: whole.met,
            missed: whole.missed,
            owed: whole.owed,
            inWindow: whole.inWindow,
          });
        }
      },
    ),
    { numRuns: 10, seed: 4 },
  );
  expect(seen).toBeGreaterThan(100);
  expect(await house.database.db.$count(standingSum)).toBeGreaterThan(0);
});
