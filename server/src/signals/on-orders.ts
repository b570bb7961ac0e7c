// What orders are told of alerts.
import { eq } from 'drizzle-orm';
import type { AlertId, AssetId, OrderId } from '#core/ids.ts';
import type { OrderAct } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import { recordActIn } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Tx } from '../platform/database.ts';
import { Refused } from '../platform/refuse.ts';
import type { alert } from './tables.ts';
import type { Rule } from './watched.ts';

/** An alert as it was found. */
export type Found = {
  readonly id: AlertId;
  readonly rule: Rule;
  readonly assetId: AssetId;
  readonly startedAt: Instant;
  readonly worst: number | null;
};

/** A machine's clock may go ahead of ours: on its order nothing is told of later than now. */
export const soonest = (at: Instant, now: Instant): Instant => (at < now ? at : now);

/** Tells an order of an alert; an act of the house, recorded once however often it is found. */
export async function tellOrder(
  tx: Tx,
  order: { id: OrderId; startedAt: Instant },
  act: Extract<OrderAct, { kind: 'alert joined' | 'alert ended' }>,
  told: 'joined' | 'ended' | 'withdrawn',
  at: Instant,
  now: Instant,
): Promise<void> {
  const own = at < order.startedAt ? order.startedAt : soonest(at, now);
  await recordActIn(tx, order.id, { at: own, act, requestKey: `${told}-alert-${act.alertId}`, who: null }, now);
}

/** What an order refuses concerns nothing else that is written with it. */
export async function unlessRefused(
  { connection }: Tx,
  work: () => Promise<void>,
  refused: (why: string) => Promise<void> = () => Promise.resolve(),
): Promise<void> {
  await connection.query('SAVEPOINT one_order');
  try {
    await work();
  } catch (error) {
    if (!(error instanceof Refused)) throw error;
    await connection.query('ROLLBACK TO SAVEPOINT one_order');
    await refused(error.message);
  }
}

/** Tells the order of an alert how it ended, where it has one. */
export async function tellEnd(
  tx: Tx,
  of: Pick<typeof alert.$inferSelect, 'id' | 'orderId'>,
  text: string,
  told: 'ended' | 'withdrawn',
  at: Instant,
  now: Instant,
) {
  if (of.orderId === null) return;
  const [order] = await tx.db
    .select({ id: workOrder.id, startedAt: workOrder.startedAt })
    .from(workOrder)
    .where(eq(workOrder.id, of.orderId));
  if (!order) return;
  await unlessRefused(tx, () => tellOrder(tx, order, { kind: 'alert ended', alertId: of.id, text }, told, at, now));
}
