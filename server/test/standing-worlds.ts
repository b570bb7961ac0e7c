// Random worlds of orders and visits, and what core counts in them from their events and facts.
import { randomUUID } from 'node:crypto';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import type { StandingBy } from '#api/standing.ts';
import { clockEventsOf } from '#core/orders/index.ts';
import { deriveClocks } from '#core/service-levels/index.ts';
import { attainmentOf, upkeepCompliance, type CountedClock, type CountedVisit } from '#core/standing/index.ts';
import { addDays, asLocalDate, HOUR, instant, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../src/calendars/index.ts';
import { loadOrder } from '../src/orders/index.ts';
import { countsChanged } from '../src/platform/counts-changed.ts';
import { topOf } from '../src/places/index.ts';
import { asset, location, orderLine, schedule, visit, workOrder } from '../src/tables.ts';
import { must, type Caller, type TestHouse, type World } from './house.ts';

export const TODAY = asLocalDate('2026-11-24');

const ACTS = ['told', 'arrived', 'paused', 'resumed', 'restored', 'done', 'called off'] as const;
export const someActs = fc.array(fc.record({ kind: fc.constantFrom(...ACTS), hour: fc.integer({ min: 0, max: 40 }) }), {
  maxLength: 6,
});
export const anOrder = (daysAgo: fc.Arbitrary<number>) =>
  fc.record({
    asset: fc.nat(4),
    priority: fc.constantFrom(1, 2),
    daysAgo,
    acts: someActs,
  });
export const aVisit = (oldest: number) =>
  fc.record({
    daysAgo: fc.integer({ min: -10, max: oldest }),
    length: fc.integer({ min: 0, max: 12 }),
    doneAfter: fc.option(fc.integer({ min: -8, max: 20 })),
    state: fc.constantFrom('raised', 'raised', 'raised', 'declined', 'absorbed', 'called off'),
  });

type Valued<A> = A extends fc.Arbitrary<infer T> ? T : never;
export type Order = Valued<ReturnType<typeof anOrder>>;
export type Visited = Valued<ReturnType<typeof aVisit>>;

export type Built = { readonly house: TestHouse; readonly call: Caller; readonly world: World };

/** Tells acts of an order, hours after its start; what cannot have happened is refused and left. */
export async function tellActs({ house, call }: Built, id: number, start: Instant, acts: Order['acts']): Promise<void> {
  for (const { kind, hour } of acts)
    await call('POST', `/api/orders/${id}/events`, {
      requestKey: randomUUID(),
      at: new Date(Math.min(start + hour * HOUR, house.now)).toISOString(),
      act: { kind, ...(kind === 'told' && { technician: 'technician' }), reason: 'no access', text: 'as told' },
    });
}

export type Raised = { readonly id: number; readonly start: Instant };

export async function raiseOrders(built: Built, orders: readonly Order[]): Promise<Raised[]> {
  const { house, call, world } = built;
  const raised: Raised[] = [];
  for (const { asset: machine, priority, daysAgo, acts } of orders) {
    const start = instant(house.now - daysAgo * 24 * HOUR);
    const body = must(
      await call<{ id: number }>('POST', '/api/orders', {
        requestKey: randomUUID(),
        assetIds: [world.assetIds[machine]],
        ...{
          priority,
          cause: 'wear',
          title: 'Warm',
          receivedAt: new Date(start).toISOString(),
          lateReason: 'told by paper',
        },
      }),
    );
    await tellActs(built, body.id, start, acts);
    raised.push({ id: body.id, start });
  }
  return raised;
}

let nominal = asLocalDate('2030-01-01');
export async function writeVisits({ house: { database } }: Built, visits: readonly Visited[]): Promise<void> {
  const [owed] = await database.db.select().from(schedule).limit(1);
  const [stands] = await database.db
    .select({ placeId: location.id, path: location.path })
    .from(asset)
    .innerJoin(location, eq(location.id, asset.locationId))
    .where(eq(asset.id, owed?.assetId ?? (0 as never)));
  if (!owed || !stands) throw new Error('the world has no schedule');
  const { placeId } = stands;
  const siteId = topOf(stands.path);
  const [order] = await database.db.select({ id: workOrder.id }).from(workOrder).limit(1);
  for (const { daysAgo, length, doneAfter, state } of visits) {
    const windowTo = addDays(TODAY, -daysAgo);
    const windowFrom = addDays(windowTo, -length);
    nominal = addDays(nominal, 1);
    const isRaised = order !== undefined && state === 'raised';
    const [row] = await database.db
      .insert(visit)
      .values({
        ...{ siteId, orderId: isRaised ? order.id : null },
        ...{ scheduleId: owed.id, assetId: owed.assetId, agreementId: owed.agreementId, nominal, windowFrom, windowTo },
        ...{ due: windowTo, planned: windowTo, jobPlanId: owed.jobPlanId },
        state: state as never,
        completedOn: doneAfter === null ? null : addDays(windowTo, doneAfter),
      })
      .$returningId();
    // The line of its order says where its machine stood; one without an order is of the site.
    if (isRaised)
      await database.db.insert(orderLine).values({
        ...{ orderId: order.id, assetId: owed.assetId, visitId: row?.id ?? null },
        placeId,
        siteId,
        promises: {},
      });
    await database.transact((tx) => countsChanged(tx, [windowTo], TODAY));
  }
}

export type Keyed<T> = T & { readonly of: Readonly<Record<StandingBy, number>>; readonly place: number };

/** All promises, derived anew from the events, and all visits. */
export async function everything({ database: { db }, now }: TestHouse) {
  const book = await calendarBook(db);
  const clocks: Keyed<CountedClock>[] = [];
  const machines = new Map((await db.select().from(asset)).map((a) => [a.id, a]));
  for (const { id } of await db.select({ id: workOrder.id }).from(workOrder)) {
    const { order: row, lines, events } = await loadOrder(db, id, 'look');
    for (const line of lines)
      for (const c of deriveClocks(row.startedAt, clockEventsOf(events, line), line.promises, book.timeOf, now))
        clocks.push({
          state: c.state,
          ...('dueAt' in c ? { dueAt: c.dueAt, dueOn: localDateAt(row.zone, c.dueAt) } : { dueAt: null, dueOn: null }),
          of: {
            ...{ asset: line.assetId as number, agreement: row.agreementId ?? 0, customer: row.customerId },
            ...{ site: line.siteId ?? 0, depot: row.depotId ?? 0 },
          },
          place: line.placeId ?? 0,
        });
  }
  const placeOf = new Map((await db.select().from(orderLine)).map((l) => [l.visitId, l.placeId]));
  const visits: Keyed<CountedVisit>[] = (await db.select().from(visit)).flatMap((v) =>
    v.state === 'held' || v.state === 'accepted'
      ? []
      : [
          {
            ...{ ...v, state: v.state },
            of: {
              ...{ asset: v.assetId, agreement: v.agreementId, depot: 0 },
              customer: machines.get(v.assetId)?.customerId as number,
              site: v.siteId ?? 0,
            },
            place: placeOf.get(v.id) ?? v.siteId ?? 0,
          },
        ],
  );
  return { clocks, visits };
}

export const amissOf = (r: { missed: number; owed: number; inWindow: number }): number =>
  r.missed + r.owed - r.inWindow;

export function counted(
  { clocks, visits }: Awaited<ReturnType<typeof everything>>,
  now: Instant,
  from: LocalDate,
  to: LocalDate,
  own: (x: Keyed<object>) => boolean,
) {
  const period = { from, to: addDays(to, 1) };
  const { met, missed } = attainmentOf(clocks.filter(own), period, now);
  const { owed, inWindow, declined } = upkeepCompliance(visits.filter(own), period, TODAY);
  return { met, missed, owed, inWindow, declined };
}
