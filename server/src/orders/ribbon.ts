// The trouble lane: repairs from their start to restoration, with a notch where each promise ended.
import { and, eq, inArray } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { TroubleBar } from '#api/ribbon.ts';
import type { AssetId } from '#core/ids.ts';
import { asZone, startOfDay } from '#core/time/index.ts';
import type { Lane } from '../platform/lanes.ts';
import { clock, orderLine, workOrder } from './tables.ts';

export const troubleLane: Lane = async (db, ids, stretch) => {
  const trouble = new Map<AssetId, { trouble: TroubleBar[] }>(ids.map((id) => [id, { trouble: [] }]));
  const since = startOfDay(asZone('UTC'), stretch.from);
  const worked = await db
    .select({ assetId: orderLine.assetId, orderId: orderLine.orderId })
    .from(orderLine)
    .where(and(inArray(orderLine.assetId, [...ids]), eq(orderLine.off, false)));
  const orders =
    worked.length === 0
      ? []
      : await db
          .select()
          .from(workOrder)
          .where(
            inArray(
              workOrder.id,
              worked.map((w) => w.orderId),
            ),
          );
  const orderOf = new Map(orders.map((o) => [o.id, o]));
  const rows = worked
    .flatMap(({ assetId, orderId }) => {
      const order = orderOf.get(orderId);
      const shown = order?.kind === 'repair' && (order.startedAt >= since || order.restoredAt === null);
      return shown && assetId !== null ? [{ assetId, order }] : [];
    })
    .sort((a, b) => a.order.startedAt - b.order.startedAt);
  if (rows.length === 0) return trouble;
  const clocks = await db
    .select({ orderId: clock.orderId, assetId: clock.assetId, state: clock.state, dueAt: clock.dueAt })
    .from(clock)
    .where(
      inArray(
        clock.orderId,
        rows.map((r) => r.order.id),
      ),
    );
  for (const { assetId, order } of rows) {
    if (order.stage === 'called off') continue;
    const own = clocks.filter((c) => c.orderId === order.id && c.assetId === assetId);
    const missed = own.some(
      (c) => c.state === 'missed' || (c.state === 'running' && c.dueAt !== null && c.dueAt < stretch.now),
    );
    trouble.get(assetId)?.trouble.push({
      orderId: order.id,
      from: order.startedAt,
      to: order.restoredAt ?? order.handedOnAt ?? order.doneAt,
      missed,
      label: `${orderNumber(order.id)} ${order.title}`,
      notches: own.flatMap((c) => (c.dueAt === null ? [] : [c.dueAt])),
    });
  }
  return trouble;
};
