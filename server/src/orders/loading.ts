// Orders with their tasks, forms, lines and events, as the rules want them.
import { asc, eq, getTableColumns, gt, inArray } from 'drizzle-orm';
import type { OrderId, PersonId } from '#core/ids.ts';
import { asCorrected, type OrderEvent, type OrderFacts, type OrderLineFacts } from '#core/orders/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { asset } from '../assets/tables.ts';
import { orderEvent, orderForm, orderLine, orderTask, workOrder } from './tables.ts';

export type OrderRow = typeof workOrder.$inferSelect;
/** With the tag of its machine, if it has one. */
export type LineRow = typeof orderLine.$inferSelect & { readonly tag: string | null };

/** An event with its id and who recorded it. */
export type KeptEvent = OrderEvent & { readonly id: number; readonly by: PersonId | null };

export type LoadedOrder = {
  readonly order: OrderRow;
  readonly facts: OrderFacts;
  /** As they were recorded, with their times as they were corrected since. */
  readonly events: readonly KeptEvent[];
  /** As they were recorded, word for word. */
  readonly recorded: readonly KeptEvent[];
  readonly lines: readonly LineRow[];
};

function byOrder<T extends { readonly orderId: OrderId }>(rows: readonly T[]): Map<OrderId, T[]> {
  const of = new Map<OrderId, T[]>();
  for (const row of rows) {
    const list = of.get(row.orderId);
    if (list) list.push(row);
    else of.set(row.orderId, [row]);
  }
  return of;
}

/** As the rules know a line. */
export const factsOfLine = ({ id, since, asksFindings, tag }: LineRow): OrderLineFacts => ({
  ...{ id, since, asksFindings },
  ...(tag !== null && { name: tag }),
});

/** A form belongs to the line of its machine. */
function factsOf(
  { kind, startedAt }: OrderRow,
  lines: readonly LineRow[],
  tasks: readonly (typeof orderTask.$inferSelect)[],
  forms: readonly (typeof orderForm.$inferSelect)[],
): OrderFacts {
  const lineOf = new Map(lines.flatMap((l) => (l.assetId === null ? [] : [[l.assetId, l.id] as const])));
  return {
    kind,
    startedAt,
    lines: lines.map(factsOfLine),
    tasks: tasks.map(({ id, orderLineId, text, mandatory }) => ({
      ...{ id, lineId: orderLineId, text, mandatory: mandatory === 1 },
    })),
    forms: forms.map(({ id, assetId, name, questions }) => ({
      ...{ id, lineId: lineOf.get(assetId) ?? 0, name, questions },
    })),
  };
}

const tasksOf = (db: Db, ids: OrderId[]) =>
  db.select().from(orderTask).where(inArray(orderTask.orderId, ids)).orderBy(asc(orderTask.position));
const formsOf = (db: Db, ids: OrderId[]) =>
  db.select().from(orderForm).where(inArray(orderForm.orderId, ids)).orderBy(asc(orderForm.position));
const eventsOf = (db: Db, ids: OrderId[]) =>
  db.select().from(orderEvent).where(inArray(orderEvent.orderId, ids)).orderBy(asc(orderEvent.id));
const linesOf = (db: Db, ids: OrderId[]) =>
  db
    .select({ ...getTableColumns(orderLine), tag: asset.tag })
    .from(orderLine)
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .where(inArray(orderLine.orderId, ids))
    .orderBy(asc(orderLine.id));

/** The next orders after one, by their ids: whoever goes through all of them takes some at a time. */
export const nextOrders = async (db: Db, after: number, most: number): Promise<OrderId[]> =>
  (
    await db
      .select({ id: workOrder.id })
      .from(workOrder)
      .where(gt(workOrder.id, after as OrderId))
      .orderBy(asc(workOrder.id))
      .limit(most)
  ).map((r) => r.id);

/** In the order of their ids, which is the order in which they are locked; looked at, everything of them is read at once. */
export async function loadOrders(db: Db, some: readonly OrderId[], lock: 'lock' | 'look'): Promise<LoadedOrder[]> {
  const ids = [...some];
  const query = db.select().from(workOrder).where(inArray(workOrder.id, ids)).orderBy(asc(workOrder.id));
  // Within a transaction there is one connection, and nothing is read before the lock is held.
  const locked = lock === 'lock' ? await query.for('update') : null;
  const [orders, tasks, forms, events, lines] = await Promise.all([
    locked ?? query,
    tasksOf(db, ids).then(byOrder),
    formsOf(db, ids).then(byOrder),
    eventsOf(db, ids).then(byOrder),
    linesOf(db, ids).then(byOrder),
  ]);
  return orders.map((order) => {
    const recorded = (events.get(order.id) ?? []).map(({ id, at, recordedAt, act, personId: by, onSite }) => ({
      ...{ id, at, recordedAt, act, by },
      ...(onSite && { onSite }),
    }));
    return {
      ...{ order, lines: lines.get(order.id) ?? [], recorded, events: asCorrected(recorded) },
      facts: factsOf(order, lines.get(order.id) ?? [], tasks.get(order.id) ?? [], forms.get(order.id) ?? []),
    };
  });
}

export async function loadOrder(db: Db, id: OrderId, lock: 'lock' | 'look'): Promise<LoadedOrder> {
  const [found] = await loadOrders(db, [id], lock);
  return found ?? refuse('not-found', 'That work order does not exist.');
}
