// Who of the house sees to an order: told at its raising, handed over later, with what was said.
import { and, eq, ne } from 'drizzle-orm';
import type { OrderId, PersonId } from '#core/ids.ts';
import { isFinished } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import { alreadyRecorded, appendAct } from './commands.ts';
import { loadOrder } from './loading.ts';
import { workOrder } from './tables.ts';

export type HandOver = { readonly personId: PersonId; readonly text: string; readonly requestKey: string };

/**
 * A repeated request key changes nothing. Refused: an order that is over, who is no active person of the office or
 * in the field, and who has it in hand already.
 */
export async function handOverIn(
  tx: Tx,
  who: PersonId,
  id: OrderId,
  { requestKey, personId, text }: HandOver,
  now: Instant,
): Promise<void> {
  const loaded = await loadOrder(tx.db, id, 'lock');
  const content = contentOf({ handOver: { personId, text } });
  if ((await alreadyRecorded(tx, loaded, requestKey, content)) !== null) return;
  if (isFinished(loaded.order.stage))
    refuse('conflict', `It is ${loaded.order.stage}: nobody has to see to it any more.`);
  const [to] = await tx.db
    .select({ name: person.name })
    .from(person)
    .where(and(eq(person.id, personId), eq(person.active, true), ne(person.role, 'storekeeper')));
  if (!to) refuse('not-found', 'Choose somebody of the house who is still here.', 'personId');
  if (loaded.order.inChargeId === personId)
    refuse('conflict', `${to.name} has it in hand already; choose somebody else.`, 'personId');
  await tx.db.update(workOrder).set({ inChargeId: personId }).where(eq(workOrder.id, id));
  const act = { kind: 'handed over', personId, person: to.name, text: text.trim() } as const;
  await appendAct(tx, loaded, { at: now, act, requestKey, who, content }, now);
}
