// Orders, their clocks and the days on which their visits were done, as their events say them.
import { asc, eq, inArray } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import { isFinished, saidOfLines, stateOfOrder } from '#core/orders/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Tx } from '../platform/database.ts';
import { differences, type DerivedRows } from '../platform/derived.ts';
import { visit } from '../upkeep/tables.ts';
import { completedOf, lineColumns, stateColumns, writeSaid, writeState } from './commands.ts';
import { clocksSaid, deriveOrderClocks, nextDueOf } from './order-clocks.ts';
import { addExceptions, exceptionRows } from './exceptions.ts';
import { loadOrders, nextOrders } from './loading.ts';
import { clock, orderException, workOrder } from './tables.ts';

const AT_ONCE = 200;

type ClockRow = typeof clock.$inferSelect;

/** Clocks by line and target, without what only the database knows. */
const keyed = (rows: readonly Omit<ClockRow, 'id'>[]): Record<string, unknown> =>
  Object.fromEntries(
    rows
      .map((r) => [`${r.orderLineId} ${r.target}`, r] as const)
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([key, r]) => [key, Object.fromEntries(Object.entries(r).sort(([a], [b]) => (a < b ? -1 : 1)))]),
  );

async function heldBy(tx: Tx, ids: readonly OrderId[]) {
  const [clocks, visits, exceptions] = await Promise.all([
    tx.db
      .select()
      .from(clock)
      .where(inArray(clock.orderId, [...ids])),
    tx.db
      .select({ orderId: visit.orderId, completedOn: visit.completedOn, due: visit.due })
      .from(visit)
      .where(inArray(visit.orderId, [...ids])),
    tx.db
      .select()
      .from(orderException)
      .where(inArray(orderException.orderId, [...ids]))
      .orderBy(asc(orderException.eventId)),
  ]);
  return { clocks, visits, exceptions };
}

export const ordersDerived: DerivedRows = {
  what: 'orders',
  async look(tx, after, now, mend) {
    const ids = await nextOrders(tx.db, after, AT_ONCE);
    if (ids.length === 0) return { last: null, seen: 0, differing: [] };
    const book = await calendarBook(tx.db);
    const loaded = await loadOrders(tx.db, ids, mend ? 'lock' : 'look');
    const { clocks, visits, exceptions } = await heldBy(tx, ids);
    const wrong: string[] = [];
    for (const one of loaded) {
      const { order, facts, events, lines } = one;
      const state = stateOfOrder(facts, events);
      if (!state.ok) {
        wrong.push(`order ${order.id}: its events cannot have happened: ${state.refusals[0]?.message}`);
        continue;
      }
      const own = clocksSaid(one, book, now);
      const dues = visits.filter((x) => x.orderId === order.id).map((x) => x.due);
      const nextDue = nextDueOf(order, own, dues, isFinished(state.value.stage));
      const off = differences<object>(order, { ...stateColumns(state.value), nextDue });
      for (const visited of visits.filter((x) => x.orderId === order.id))
        off.push(...differences<object>(visited, { completedOn: completedOf(order, state.value) }));
      const said = saidOfLines(lines, events, state.value);
      for (const line of lines) {
        const ofLine = said.get(line.id);
        if (ofLine) off.push(...differences<object>(line, lineColumns(ofLine)));
      }
      if (off.length > 0) {
        wrong.push(`order ${order.id}: ${off.join('; ')}`);
        if (mend) {
          await writeState(tx, order, lines, state.value, now);
          await writeSaid(tx, lines, said);
          await tx.db.update(workOrder).set({ nextDue }).where(eq(workOrder.id, order.id));
        }
      }
      const decided = exceptionRows(order.id, facts, events);
      const kept = exceptions.filter((e) => e.orderId === order.id);
      if (JSON.stringify(decided) !== JSON.stringify(kept)) {
        wrong.push(`exceptions of order ${order.id}: ${differences({ kept }, { kept: decided }).join('; ')}`);
        if (mend) {
          await tx.db.delete(orderException).where(eq(orderException.orderId, order.id));
          await addExceptions(tx, decided);
        }
      }
      const held = keyed(clocks.filter((c) => c.orderId === order.id).map(({ id: _, ...c }) => c));
      const derived = keyed(own as Omit<ClockRow, 'id'>[]);
      if (JSON.stringify(held) !== JSON.stringify(derived)) {
        wrong.push(
          `clocks of order ${order.id}: ${differences(held, derived).join('; ') || 'more than its events say'}`,
        );
        if (mend) await deriveOrderClocks(tx, book, order, lines, events, now);
      }
    }
    return { last: ids.length < AT_ONCE ? null : (ids.at(-1) as number), seen: ids.length, differing: wrong };
  },
};
