// Reading work orders: lists and the order page.
import { group } from 'd3-array';
import { type SQL, and, asc, count, desc, eq, inArray, lt } from 'drizzle-orm';
import type { ClockOut, OrderRow } from '#api/orders.ts';
import type { AgreementId, CustomerId, OrderId } from '#core/ids.ts';
import { type OrderKind, FINISHED_STAGES, OPEN_STAGES } from '#core/orders/index.ts';
import { type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { placesOf } from '../places/index.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { person } from '../platform/tables.ts';
import { clock, isTechnician, lineLocation, orderLine, technicianName, workOrder } from './tables.ts';
import { showClock } from './clock-rows.ts';

export type OrderFilter = {
  readonly show?: 'open' | 'finished' | 'all';
  readonly kind?: OrderKind;
  readonly customer?: CustomerId;
};

function conditionsOf(filter: OrderFilter): SQL[] {
  const wanted: SQL[] = [];
  if (filter.show === 'finished') wanted.push(inArray(workOrder.stage, [...FINISHED_STAGES]));
  if (filter.show === undefined || filter.show === 'open') wanted.push(inArray(workOrder.stage, [...OPEN_STAGES]));
  if (filter.kind) wanted.push(eq(workOrder.kind, filter.kind));
  if (filter.customer) wanted.push(eq(workOrder.customerId, filter.customer));
  return wanted;
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
        nextClock: nextClock.get(id) ?? null,
      },
    ];
  });
}

/** A page of orders, the newest first, without how many there are. */
export async function pageOfOrders(db: Db, filter: OrderFilter, after: OrderId | null, limit: number, now: Instant) {
  const ids = await db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(and(...conditionsOf(filter), after === null ? undefined : lt(workOrder.id, after)))
    .orderBy(desc(workOrder.id))
    .limit(limit + 1);
  const page = ids.slice(0, limit).map((r) => r.id);
  return {
    items: await orderRows(db, page, now),
    next: ids.length > limit ? String(page[page.length - 1]) : null,
  };
}

export async function listOrders(db: Db, filter: OrderFilter, after: OrderId | null, limit: number, now: Instant) {
  const [[counted], page] = await Promise.all([
    db
      .select({ total: count() })
      .from(workOrder)
      .where(and(...conditionsOf(filter))),
    pageOfOrders(db, filter, after, limit, now),
  ]);
  return { ...page, total: counted?.total ?? 0 };
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
