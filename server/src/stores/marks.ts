// The mark of an order that waits for parts: it sets and clears itself by the order's needs.
import { asc, eq } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import { isSoon, markOf, type Lacking } from '#core/stores/index.ts';
import { addDays, instant, localDateAt, type Instant } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Tx } from '../platform/database.ts';
import type { ActAsk } from '../orders/index.ts';
import { storeSettings } from './settings.ts';
import { part, partNeed } from './tables.ts';

/** What is to be recorded on an order, which is held until the end; null: its mark is as its needs say. */
export async function markOfOrder(tx: Tx, id: OrderId, now: Instant): Promise<ActAsk | null> {
  const [order] = await tx.db.select().from(workOrder).where(eq(workOrder.id, id)).for('update');
  if (!order) return null;
  const needs = await tx.db
    .select({ need: partNeed, name: part.name })
    .from(partNeed)
    .innerJoin(part, eq(part.id, partNeed.partId))
    .where(eq(partNeed.orderId, id))
    .orderBy(asc(partNeed.id));
  const { holdDays } = await storeSettings(tx.db);
  const day = order.plannedFor ?? order.wishedOn ?? order.nextDue;
  const soon = isSoon(day, addDays(localDateAt(order.zone, now), holdDays));
  const lacking = needs.map(({ need, name }): Lacking => ({
    ...{ id: need.id, name, open: soon ? need.open : 0, anyway: need.anyway },
  }));
  const act = markOf(order, lacking);
  if (!act) return null;
  const at = instant(Math.max(now, order.startedAt));
  return { at, act, requestKey: `parts ${order.version}`, who: null };
}
