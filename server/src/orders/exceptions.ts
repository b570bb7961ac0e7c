// Decisions on orders that something spoke against: kept as their events say, and listed with who took them.
import { and, asc, eq, gte, inArray, lt, sql, type SQL } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { listExceptions, OrderException } from '#api/order-lists.ts';
import type { OrderId } from '#core/ids.ts';
import { exceptionsOf, type OrderActKind, type OrderFacts } from '#core/orders/index.ts';
import { addDays, startOfDay, type Zone } from '#core/time/index.ts';
import { customer } from '../customers/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Db, type Tx } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { person } from '../platform/tables.ts';
import { loadOrders, type KeptEvent, type LoadedOrder } from './loading.ts';
import { wordsOf } from './say.ts';
import { orderException, workOrder } from './tables.ts';

/** Acts by which something is decided against, or such a decision is taken back; of notes only those an order is raised with. */
const DECIDING: ReadonlySet<OrderActKind> = new Set(['changed', 'task', 'line', 'signed', 'done']);

/** As rows, the first event in front. */
export const exceptionRows = (
  orderId: OrderId,
  facts: Pick<OrderFacts, 'tasks'>,
  events: readonly KeptEvent[],
): (typeof orderException.$inferSelect)[] =>
  exceptionsOf(facts, events).map(({ event: { id, at, by }, kind }) => ({
    ...{ eventId: id, orderId, kind, at, personId: by },
  }));

/** Writes the rows of orders that have none yet. */
export async function addExceptions(tx: Tx, rows: readonly (typeof orderException.$inferSelect)[]): Promise<void> {
  await bulkInsert(
    tx.connection,
    'order_exception',
    ['event_id', 'order_id', 'kind', 'at', 'person_id'],
    rows.map((r) => [r.eventId, r.orderId, r.kind, instantText(r.at), r.personId]),
  );
}

const heldFor = (tx: Tx, orderId: OrderId) =>
  tx.db.select().from(orderException).where(eq(orderException.orderId, orderId)).orderBy(asc(orderException.eventId));

/** Writes what the events of a locked order say over what stood there. */
export async function writeExceptions(
  tx: Tx,
  { order, facts }: Pick<LoadedOrder, 'order' | 'facts'>,
  events: readonly KeptEvent[],
): Promise<void> {
  if (!events.some((e) => DECIDING.has(e.act.kind))) return;
  const said = exceptionRows(order.id, facts, events);
  const held = await heldFor(tx, order.id);
  const gone = held.filter((h) => !said.some((s) => s.eventId === h.eventId)).map((h) => h.eventId);
  // Only where there is something: a deletion that finds nothing would lock the space of other orders.
  if (gone.length > 0) await tx.db.delete(orderException).where(inArray(orderException.eventId, gone));
  await addExceptions(
    tx,
    said.filter((s) => !held.some((h) => h.eventId === s.eventId)),
  );
}

type Filter = Omit<Asked<typeof listExceptions>['query'], 'after' | 'limit'>;

function conditionsOf({ kind, who, depot, from, to }: Filter, zone: Zone): SQL[] {
  return [
    kind && eq(orderException.kind, kind),
    who && eq(orderException.personId, who),
    depot && eq(workOrder.depotId, depot),
    from && gte(orderException.at, startOfDay(zone, from)),
    to && lt(orderException.at, startOfDay(zone, addDays(to, 1))),
  ].filter((x): x is SQL => x !== undefined && typeof x === 'object');
}

const REASON_SHOWN = 400;

/** A page of them, the newest first; days are those of the reader's zone. */
export async function pageOfExceptions(
  db: Db,
  filter: Filter,
  after: string | undefined,
  limit: number,
  zone: Zone,
): Promise<{ items: OrderException[]; next: string | null }> {
  const { behind, order, markOf } = keyset(orderException.at, orderException.eventId, {
    ...{ down: true, hasEmpty: false, after },
  });
  const rows = await db
    .select({
      ...{ id: orderException.eventId, at: orderException.at, kind: orderException.kind },
      ...{ personId: orderException.personId, who: person.name },
      ...{ orderId: workOrder.id, title: workOrder.title, stage: workOrder.stage, customer: customer.name },
      sortedBy: sql<string>`${orderException.at}`,
    })
    .from(orderException)
    .innerJoin(workOrder, eq(workOrder.id, orderException.orderId))
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .leftJoin(person, eq(person.id, orderException.personId))
    .where(and(...conditionsOf(filter, zone), behind))
    .orderBy(...order)
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const loaded = new Map(
    (page.length === 0 ? [] : await loadOrders(db, [...new Set(page.map((r) => r.orderId))], 'look')).map((l) => [
      l.order.id,
      l,
    ]),
  );
  const last = page.at(-1);
  return {
    items: page.map(({ sortedBy: _, personId, who, orderId, title, stage, ...row }) => {
      const own = loaded.get(orderId);
      const event = own?.events.find((e) => e.id === row.id);
      return {
        ...row,
        order: { id: orderId, title, stage },
        text: own && event ? wordsOf(own)(event.act).slice(0, REASON_SHOWN) : '',
        who: personId === null || who === null ? null : { id: personId, name: who },
      };
    }),
    next: rows.length > limit && last ? markOf(last.sortedBy, last.id) : null,
  };
}

/** Orders that have one. */
export const withException = inArray(workOrder.id, sql`(select ${orderException.orderId} from ${orderException})`);
