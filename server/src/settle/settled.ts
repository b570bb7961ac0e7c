// The last stage of an order: settled once nothing of it is left to bill, done again when something is.
import { and, asc, eq, inArray, notInArray } from 'drizzle-orm';
import type { OrderId, PersonId } from '#core/ids.ts';
import type { OrderAct } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import { chargePayer, orderApproval, orderLook } from './document-tables.ts';

/** Events and stage of many at once: of an order that is done, nothing else follows from being settled. */
async function move(
  tx: Tx,
  ids: readonly OrderId[],
  act: Extract<OrderAct, { kind: 'settled' | 'unsettled' }>,
  who: PersonId,
  now: Instant,
): Promise<void> {
  if (ids.length === 0) return;
  const [from, to] = act.kind === 'settled' ? (['done', 'settled'] as const) : (['settled', 'done'] as const);
  const held = await tx.db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(and(inArray(workOrder.id, [...ids]), eq(workOrder.stage, from)))
    .orderBy(asc(workOrder.id))
    .for('update');
  const moving = held.map((o) => o.id);
  if (moving.length === 0) return;
  const at = instantText(now);
  await bulkInsert(
    tx.connection,
    'order_event',
    ['order_id', 'at', 'recorded_at', 'person_id', 'act', 'on_site'],
    moving.map((id) => [id, at, at, who === 0 ? null : who, JSON.stringify(act), 0]),
  );
  await tx.db.update(workOrder).set({ stage: to }).where(inArray(workOrder.id, moving));
}

/** Those of them that are approved and of which nothing waits to be billed are settled. */
export async function settleFinished(tx: Tx, ids: readonly OrderId[], who: PersonId, now: Instant): Promise<void> {
  if (ids.length === 0) return;
  const open = await tx.db
    .selectDistinct({ id: chargePayer.orderId })
    .from(chargePayer)
    .where(and(inArray(chargePayer.orderId, [...ids]), eq(chargePayer.state, 'open')));
  const waiting = open.map((o) => o.id);
  const finished = await tx.db
    .select({ id: orderApproval.orderId })
    .from(orderApproval)
    .where(
      and(
        inArray(orderApproval.orderId, [...ids]),
        eq(orderApproval.state, 'approved'),
        waiting.length === 0 ? undefined : notInArray(orderApproval.orderId, waiting),
      ),
    );
  const settled = finished.map((f) => f.id);
  if (settled.length === 0) return;
  await move(tx, settled, { kind: 'settled', text: 'nothing is left to bill' }, who, now);
  await tx.db.update(orderLook).set({ state: 'settled' }).where(inArray(orderLook.orderId, settled));
}

/** Something of them is to be billed again. */
export async function unsettle(
  tx: Tx,
  ids: readonly OrderId[],
  text: string,
  who: PersonId,
  now: Instant,
): Promise<void> {
  if (ids.length === 0) return;
  await move(tx, ids, { kind: 'unsettled', text }, who, now);
  await tx.db
    .update(orderLook)
    .set({ state: 'approved' })
    .where(inArray(orderLook.orderId, [...ids]));
}
