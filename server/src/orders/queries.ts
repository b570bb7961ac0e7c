// Reading work orders: lists and the order page.
import { group } from 'd3-array';
import { SQL, and, asc, count, eq, inArray, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type * as contracts from '#api/order-lists.ts';
import type { OrderSort } from '#api/order-lists.ts';
import type { ClockOut, OrderRow } from '#api/orders.ts';
import type { AgreementId, OrderId } from '#core/ids.ts';
import { FINISHED_STAGES, OPEN_STAGES } from '#core/orders/index.ts';
import type { Priority } from '#core/service-levels/index.ts';
import { addDays, DAY, instant, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { placesOf } from '../places/index.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { person } from '../platform/tables.ts';
import { clock, isTechnician, lineLocation, OPEN_INDEX, orderLine, technicianName, workOrder } from './tables.ts';
import { showClock } from './clock-rows.ts';
import { withException } from './exceptions.ts';

export type OrderFilter = Omit<Asked<typeof contracts.listOrders>['query'], 'after' | 'limit' | 'sort'>;
type At = { readonly now: Instant; readonly today: LocalDate };

const WEEK = 7;
const ENDS_BEFORE = { late: 0, today: 1, week: WEEK } as const;

/**
 * Any filters of what is open are answered from one index that holds all they ask for, however they are combined; told so, the
 * database does not walk the newest orders of a kind until it has found enough. What picks few by itself has an index of its own.
 */
function walkedBy({ show, stage, kind, customer: of, depot, technician, waiting, due }: OrderFilter) {
  const picksFew = of ?? depot ?? waiting ?? (technician === 'none' ? undefined : technician);
  const isOfOpen = due !== undefined || (stage === undefined && (show ?? 'open') === 'open');
  const isFiltered = kind !== undefined || technician === 'none' || due !== undefined;
  return picksFew === undefined && isOfOpen && isFiltered ? { forceIndex: OPEN_INDEX } : {};
}

function conditionsOf(filter: OrderFilter, { now, today }: At): SQL[] {
  const { show, stage, kind, customer: of, depot, technician, waiting, priority, older, due, exception } = filter;
  // Nothing is due of a finished one, and none waits: said of them all, the open ones alone are looked through.
  const isOfOpen = due !== undefined || waiting !== undefined;
  const stages = stage ?? (show === 'finished' ? FINISHED_STAGES : show === 'all' && !isOfOpen ? null : OPEN_STAGES);
  return [
    stages && inArray(workOrder.stage, [...stages]),
    kind && eq(workOrder.kind, kind),
    of && eq(workOrder.customerId, of),
    depot && eq(workOrder.depotId, depot),
    technician === 'none' && and(isNull(workOrder.technicianId), isNull(workOrder.technician)),
    technician && technician !== 'none' && eq(workOrder.technicianId, technician),
    waiting === 'any' && isNotNull(workOrder.waitingFor),
    waiting && waiting !== 'any' && eq(workOrder.waitingFor, waiting),
    priority && eq(workOrder.priority, priority as Priority),
    older !== undefined && lt(workOrder.startedAt, instant(now - older * DAY)),
    due && lt(workOrder.nextDue, addDays(today, ENDS_BEFORE[due])),
    exception && withException,
  ].filter((x): x is SQL => x instanceof SQL);
}

/** Rows for the given orders, in the order of `ids`, each with the open clock that is due next. */
export async function orderRows(db: Db, ids: readonly OrderId[], now: Instant): Promise<OrderRow[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({
      order: workOrder,
      customer: customer.name,
      technician: technicianName,
      assetId: orderLine.assetId,
      tag: asset.tag,
      locationId: lineLocation,
      path: location.path,
      due: visit.due,
    })
    .from(workOrder)
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .leftJoin(visit, eq(visit.id, orderLine.visitId))
    .leftJoin(person, isTechnician)
    // Said of both tables: told of the orders alone, the database walks through all lines there are.
    .where(and(inArray(workOrder.id, [...ids]), inArray(orderLine.orderId, [...ids])))
    .orderBy(asc(orderLine.id));
  const [places, book, clocks] = await Promise.all([
    placesOf(
      db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    calendarBook(db),
    db
      .select({ clock, tag: asset.tag })
      .from(clock)
      .innerJoin(asset, eq(asset.id, clock.assetId))
      .where(and(inArray(clock.orderId, [...ids]), inArray(clock.state, ['running', 'paused'])))
      .orderBy(asc(clock.dueAt), asc(clock.orderId)),
  ]);
  const nextClock = new Map<number, ClockOut>();
  for (const row of clocks)
    if (!nextClock.has(row.clock.orderId)) nextClock.set(row.clock.orderId, showClock(row, book, now));
  // The first of its machines stands for the order.
  const byId = group(rows, (r) => r.order.id);
  return ids.flatMap((id) => {
    const of = byId.get(id);
    const row = of?.[0];
    if (!row) return [];
    const { order } = row;
    return [
      {
        id,
        kind: order.kind,
        stage: order.stage,
        priority: order.priority,
        title: order.title,
        customer: row.customer,
        place: places.of(row.locationId).label,
        tag: row.tag ?? '',
        assetId: row.assetId,
        machines: new Set(of.map((r) => r.assetId)).size,
        technician: row.technician,
        plannedFor: order.plannedFor,
        startedAt: order.startedAt,
        due: of.reduce<LocalDate | null>((first, { due }) => (due && (!first || due < first) ? due : first), null),
        nextDue: order.nextDue,
        waitingFor: order.waitingFor,
        nextClock: nextClock.get(id) ?? null,
      },
    ];
  });
}

const SORTED_BY = {
  newest: { by: workOrder.id, down: true, hasEmpty: false },
  oldest: { by: workOrder.startedAt, down: false, hasEmpty: false },
  due: { by: workOrder.nextDue, down: false, hasEmpty: true },
} as const;

/** A page of orders without how many there are, the newest first unless asked otherwise. */
export async function pageOfOrders(
  db: Db,
  filter: OrderFilter,
  sort: OrderSort,
  after: string | undefined,
  limit: number,
  at: At,
) {
  const { by, ...asked } = SORTED_BY[sort];
  const { behind, order, markOf } = keyset(by, workOrder.id, { ...asked, after });
  const rows = await db
    .select({ id: workOrder.id, sortedBy: sql<string | null>`${by}` })
    .from(workOrder, walkedBy(filter))
    .where(and(...conditionsOf(filter, at), behind))
    .orderBy(...order)
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const last = page.at(-1);
  return {
    items: await orderRows(
      db,
      page.map((r) => r.id),
      at.now,
    ),
    next: rows.length > limit && last ? markOf(last.sortedBy, last.id) : null,
  };
}

/** Counting further says nothing to whoever looks at the list, and costs as much as all of it. */
const COUNTED = 1000;

export async function listOrders(
  db: Db,
  { after, limit, sort, ...filter }: Asked<typeof contracts.listOrders>['query'],
  at: At,
) {
  const some = db
    .select({ id: workOrder.id })
    .from(workOrder, walkedBy(filter))
    .where(and(...conditionsOf(filter, at)))
    .limit(COUNTED + 1)
    .as('some');
  const [[counted], page] = await Promise.all([
    db.select({ total: count() }).from(some),
    pageOfOrders(db, filter, sort ?? 'newest', after, limit ?? 60, at),
  ]);
  const total = counted?.total ?? 0;
  return { ...page, total: Math.min(total, COUNTED), more: total > COUNTED };
}

/** What agreements want said to whoever works with them. */
export async function remindersOf(db: Db, ids: readonly AgreementId[]): Promise<string[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({ number: agreement.number, text: agreement.reminder })
    .from(agreement)
    .where(inArray(agreement.id, [...ids]))
    .orderBy(asc(agreement.id));
  return rows.flatMap((r) => (r.text === '' ? [] : [`${r.number}: ${r.text}`]));
}
