// What orders that are raised begin with: their events, and which of them were decided against something.
import type { OrderId, PersonId } from '#core/ids.ts';
import { exceptionsOf, type OrderEvent } from '#core/orders/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, insertedIds, type Tx } from '../platform/database.ts';
import { addExceptions } from './exceptions.ts';

export type Recorded = OrderEvent & { readonly by: PersonId | null };

export type Begun = {
  readonly orderId: OrderId;
  readonly tasks: readonly { readonly text: string; readonly mandatory: boolean }[];
  /** In the same order. */
  readonly taskIds: readonly number[];
  readonly events: readonly Recorded[];
};

export async function writeEvents(tx: Tx, orders: readonly Begun[]): Promise<void> {
  const all = orders.flatMap(({ orderId, events }) => events.map((event) => ({ orderId, event })));
  const first = await bulkInsert(
    tx.connection,
    'order_event',
    ['order_id', 'at', 'recorded_at', 'person_id', 'act'],
    all.map(({ orderId, event: e }) => [
      ...[orderId, instantText(e.at), instantText(e.recordedAt), e.by, JSON.stringify(e.act)],
    ]),
  );
  const decided = orders.flatMap(({ orderId, tasks, taskIds, events }) =>
    exceptionsOf({ tasks: tasks.map((t, i) => ({ ...t, id: taskIds[i] as number, lineId: 0 })) }, events).map(
      (found) => ({ orderId, ...found }),
    ),
  );
  if (decided.length === 0) return;
  const made = await insertedIds(tx.connection, first, all.length);
  const idOf = new Map(all.map(({ event }, i) => [event, made[i] as number]));
  await addExceptions(
    tx,
    decided.map(({ orderId, kind, event }) => ({
      ...{ eventId: idOf.get(event) as number, orderId, kind, at: event.at, personId: event.by },
    })),
  );
}
