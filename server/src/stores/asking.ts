// What orders hand to the stores: needs of the lines that are raised, and what is let go once nobody goes any more.
import { and, eq, gt, inArray } from 'drizzle-orm';
import { group } from 'd3-array';
import type { OrderId, OrderLineId, PartId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import { orderLine } from '../orders/tables.ts';
import type { Tx } from '../platform/database.ts';
import { whenOrders, type RaisedLine } from '../platform/order-life.ts';
import { leaveCovering } from './covering.ts';
import { askForParts, orderNeedsNothing, type NewNeed } from './needs.ts';
import { part, partNeed, stock, store } from './tables.ts';

/** Stock is kept from the first store on. */
export async function keepsStock({ db }: Pick<Tx, 'db'>): Promise<boolean> {
  const [any] = await db.select({ id: store.id }).from(store).limit(1);
  return any !== undefined;
}

/** What the orders they follow did not use of what they needed, by order and machine. */
async function restOf({ db }: Tx, ids: readonly OrderId[]) {
  const rows = await db
    .select({
      ...{ orderId: partNeed.orderId, partId: partNeed.partId, wanted: partNeed.wanted, used: partNeed.used },
      assetId: orderLine.assetId,
    })
    .from(partNeed)
    .innerJoin(orderLine, eq(orderLine.id, partNeed.orderLineId))
    .where(inArray(partNeed.orderId, [...ids]));
  return group(rows, (r) => `${r.orderId} ${r.assetId}`);
}

async function wantedBy(tx: Tx, lines: readonly RaisedLine[]): Promise<NewNeed[]> {
  const following = lines.filter((l) => l.followsId !== null);
  const rest =
    following.length === 0
      ? null
      : await restOf(
          tx,
          following.map((l) => l.followsId as OrderId),
        );
  const assetOf = new Map<OrderLineId, number | null>(
    rest === null
      ? []
      : (
          await tx.db
            .select({ id: orderLine.id, assetId: orderLine.assetId })
            .from(orderLine)
            .where(
              inArray(
                orderLine.id,
                following.map((l) => l.lineId),
              ),
            )
        ).map((l) => [l.id, l.assetId]),
  );
  return lines.flatMap(({ orderId, lineId, plan, followsId }) => {
    const left = rest?.get(`${followsId} ${assetOf.get(lineId)}`);
    const asked = left
      ? left.map((n) => ({ partId: n.partId, thousandths: n.wanted - n.used }))
      : (plan?.parts ?? []).map((p) => ({ partId: p.partId as PartId, thousandths: p.thousandths }));
    return asked.filter((n) => n.thousandths > 0).map((n) => ({ orderId, lineId, ...n }));
  });
}

/** Consumables that lie in no store are brought along anyway; parts that are gone from the list are asked for by nobody. */
async function withoutUnkept(tx: Tx, needs: readonly NewNeed[]): Promise<NewNeed[]> {
  const ids = [...new Set(needs.map((n) => n.partId))];
  if (ids.length === 0) return [];
  const parts = await tx.db
    .select({ id: part.id, consumable: part.consumable })
    .from(part)
    .where(inArray(part.id, ids));
  const kept = await tx.db.selectDistinct({ id: stock.partId }).from(stock).where(inArray(stock.partId, ids));
  const isKept = new Set(kept.map((k) => k.id));
  const asked = new Set(parts.filter((p) => !p.consumable || isKept.has(p.id)).map((p) => p.id));
  return needs.filter((n) => asked.has(n.partId));
}

async function raised(tx: Tx, lines: readonly RaisedLine[], now: Instant): Promise<void> {
  const asking = lines.filter((l) => l.followsId !== null || (l.plan?.parts.length ?? 0) > 0);
  if (asking.length === 0 || !(await keepsStock(tx))) return;
  const needs = await withoutUnkept(tx, await wantedBy(tx, asking));
  if (needs.length === 0) return;
  await askForParts(tx, needs, now);
  await leaveCovering(tx, { orders: [...new Set(needs.map((n) => n.orderId))] });
}

async function planned(tx: Tx, id: OrderId): Promise<void> {
  const [any] = await tx.db
    .select({ id: partNeed.id })
    .from(partNeed)
    .where(and(eq(partNeed.orderId, id), gt(partNeed.wanted, 0)))
    .limit(1);
  if (any) await leaveCovering(tx, { orders: [id], planned: true });
}

async function over(tx: Tx, id: OrderId): Promise<void> {
  const parts = await orderNeedsNothing(tx, id);
  if (parts.length > 0) await leaveCovering(tx, { parts });
}

/** Said once, where the room is loaded. */
export const answeringOrders = (): void => whenOrders({ raised, planned, over });
