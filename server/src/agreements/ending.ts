// Ending an agreement: what is open under it is shown first, and kept or called off as decided.
import { and, asc, count, eq, inArray, sql } from 'drizzle-orm';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { AgreementId, OrderId } from '#core/ids.ts';
import type { Db } from '../platform/database.ts';
import { asset } from '../assets/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';

const SHOWN = 50;

const isOpen = (id: AgreementId) => and(eq(workOrder.agreementId, id), inArray(workOrder.stage, [...OPEN_STAGES]));

export async function openOrderIds(db: Db, id: AgreementId): Promise<OrderId[]> {
  const rows = await db.select({ id: workOrder.id }).from(workOrder).where(isOpen(id)).orderBy(asc(workOrder.id));
  return rows.map((r) => r.id);
}

/** Orders that are not finished and visits that are held back under an agreement. */
export async function openWork(db: Db, id: AgreementId) {
  const [orders, [total], [held]] = await Promise.all([
    db
      .select({
        id: workOrder.id,
        title: workOrder.title,
        kind: workOrder.kind,
        stage: workOrder.stage,
        // The first of its machines stands for the order.
        tag: sql<string>`min(${asset.tag})`,
      })
      .from(workOrder)
      .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
      .innerJoin(asset, eq(asset.id, orderLine.assetId))
      .where(isOpen(id))
      .groupBy(workOrder.id, workOrder.title, workOrder.kind, workOrder.stage)
      .orderBy(asc(workOrder.id))
      .limit(SHOWN),
    db.select({ n: count() }).from(workOrder).where(isOpen(id)),
    db
      .select({ n: count() })
      .from(visit)
      .where(and(eq(visit.agreementId, id), eq(visit.state, 'held'))),
  ]);
  return { orders, ordersTotal: total?.n ?? 0, heldVisits: held?.n ?? 0 };
}
