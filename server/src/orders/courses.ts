// How finished orders went, kept for the figures of dispatch: derived from their events in the transaction that ends them.
import { and, asc, eq, gt, inArray, isNotNull, isNull, ne } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import { courseOf, type OrderEvent } from '#core/orders/index.ts';
import { localDateAt, type LocalDate } from '#core/time/index.ts';
import { bulkInsert, type Database, type Db, type Tx } from '../platform/database.ts';
import { visit } from '../upkeep/tables.ts';
import { differences, type DerivedRows } from '../platform/derived.ts';
import { loadOrders, nextOrders, type LoadedOrder } from './loading.ts';
import { clock, orderCourse, workOrder } from './tables.ts';

type Row = typeof orderCourse.$inferSelect;
export type Ended = Pick<
  typeof workOrder.$inferSelect,
  'id' | 'kind' | 'zone' | 'depotId' | 'technicianId' | 'startedAt'
> & { readonly events: readonly OrderEvent[] };

/** The places' days by which somebody had to be at each order: of its arrival promise, its first other promise, or its window's end. */
async function dueDays(db: Db, orders: readonly Ended[]): Promise<Map<OrderId, LocalDate>> {
  const ids = orders.map((o) => o.id);
  const [clocks, visits] = await Promise.all([
    db
      .select({ orderId: clock.orderId, target: clock.target, dueAt: clock.dueAt })
      .from(clock)
      .where(and(inArray(clock.orderId, ids), isNotNull(clock.dueAt), ne(clock.state, 'void')))
      .orderBy(asc(clock.dueAt)),
    db
      .select({ orderId: visit.orderId, windowTo: visit.windowTo })
      .from(visit)
      .where(inArray(visit.orderId, ids))
      .orderBy(asc(visit.windowTo)),
  ]);
  const days = new Map<OrderId, LocalDate>();
  const zoneOf = new Map(orders.map((o) => [o.id, o.zone]));
  // The first of each is taken; what was promised goes before the window, and the arrival before all.
  for (const { orderId, windowTo } of visits) if (orderId !== null && !days.has(orderId)) days.set(orderId, windowTo);
  const ofArrival = clocks.filter((c) => c.target === 'arrival');
  for (const { orderId, dueAt } of [...clocks.toReversed(), ...ofArrival.toReversed()]) {
    const zone = zoneOf.get(orderId);
    if (zone && dueAt) days.set(orderId, localDateAt(zone, dueAt));
  }
  return days;
}

/** The courses of those that are done, as their events say them. */
export async function coursesSaid(db: Db, orders: readonly Ended[]): Promise<Row[]> {
  if (orders.length === 0) return [];
  const due = await dueDays(db, orders);
  return orders.flatMap((o): Row[] => {
    const course = courseOf(o, o.events, due.get(o.id) ?? null);
    if (!course) return [];
    const { doneOn, ...rest } = course;
    return [{ orderId: o.id, doneOn, kind: o.kind, depotId: o.depotId, technicianId: o.technicianId, ...rest }];
  });
}

const COLUMNS = [
  ...['order_id', 'done_on', 'kind', 'depot_id', 'technician_id'],
  ...['told_minutes', 'sent_minutes', 'in_time', 'at_first_go'],
];
// Not deleted first: what a delete does not find keeps others from writing beside it.
const OVER_THE_OLD = `ON DUPLICATE KEY UPDATE ${COLUMNS.map((c) => `${c} = VALUES(${c})`).join(', ')}`;

/** Keeps them, over what was kept of the same orders before. */
export async function keepCourses(tx: Tx, orders: readonly Ended[]): Promise<void> {
  const rows = await coursesSaid(tx.db, orders);
  await bulkInsert(
    tx.connection,
    'order_course',
    COLUMNS,
    rows.map((r) => [
      ...[r.orderId, r.doneOn, r.kind, r.depotId, r.technicianId],
      ...[r.toldMinutes, r.sentMinutes, r.inTime === null ? null : Number(r.inTime), Number(r.atFirstGo)],
    ]),
    OVER_THE_OLD,
  );
}

const AT_ONCE = 200;
const endedOf = ({ order, events }: LoadedOrder): Ended => ({ ...order, events });

/** After orders and their clocks, by which it is known when somebody had to be there. */
export const coursesDerived: DerivedRows = {
  what: 'courses of finished orders',
  async look(tx, after, _now, mend) {
    const ids = await nextOrders(tx.db, after, AT_ONCE);
    if (ids.length === 0) return { last: null, seen: 0, differing: [] };
    const loaded = await loadOrders(tx.db, ids, mend ? 'lock' : 'look');
    const said = new Map((await coursesSaid(tx.db, loaded.map(endedOf))).map((c) => [c.orderId, c]));
    const kept = await tx.db.select().from(orderCourse).where(inArray(orderCourse.orderId, ids));
    const heldOf = new Map(kept.map((c) => [c.orderId, c]));
    const wrong = loaded.filter(({ order: { id } }) => JSON.stringify(heldOf.get(id)) !== JSON.stringify(said.get(id)));
    if (mend && wrong.length > 0) {
      await tx.db.delete(orderCourse).where(
        inArray(
          orderCourse.orderId,
          wrong.flatMap(({ order: { id } }) => (heldOf.has(id) ? [id] : [])),
        ),
      );
      await keepCourses(tx, wrong.map(endedOf));
    }
    return {
      last: ids.length < AT_ONCE ? null : (ids.at(-1) as number),
      seen: ids.length,
      differing: wrong.map(
        ({ order: { id } }) =>
          `course of order ${id}: ${differences({ kept: heldOf.get(id) ?? null }, { kept: said.get(id) ?? null }).join('; ')}`,
      ),
    };
  },
};

/** Of orders that were done before courses were kept; at a start, some at a time. Gives how many. */
export async function keepMissingCourses(database: Database): Promise<number> {
  for (let [after, done] = [0 as OrderId, 0]; ;) {
    const rows = await database.db
      .select({ id: workOrder.id })
      .from(workOrder)
      .leftJoin(orderCourse, eq(orderCourse.orderId, workOrder.id))
      .where(and(gt(workOrder.id, after), inArray(workOrder.stage, ['done', 'settled']), isNull(orderCourse.orderId)))
      .orderBy(asc(workOrder.id))
      .limit(AT_ONCE);
    const ids = rows.map((r) => r.id);
    if (ids.length === 0) return done;
    await database.transact(async (tx) => {
      await keepCourses(tx, (await loadOrders(tx.db, ids, 'lock')).map(endedOf));
    });
    [after, done] = [ids.at(-1) as OrderId, done + ids.length];
  }
}
