// Correcting what was told of an order: the act that says so, and everything derived again, in one transaction.
import { correctEvent, type Correction } from '#core/orders/index.ts';
import type { OrderId, PersonId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { accept } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import { alreadyRecorded, appendAct } from './commands.ts';
import { loadOrder } from './loading.ts';

/** Whether it was recorded now: a repeated request key changes nothing. Refused: what core refuses. */
export async function correctIn(
  tx: Tx,
  who: PersonId,
  id: OrderId,
  { requestKey, ...correction }: Correction & { readonly requestKey: string },
  now: Instant,
): Promise<boolean> {
  const loaded = await loadOrder(tx.db, id, 'lock');
  const content = contentOf({ correction });
  if ((await alreadyRecorded(tx, loaded, requestKey, content)) !== null) return false;
  const { act } = accept(correctEvent(loaded.facts, loaded.recorded, correction, now));
  await appendAct(tx, loaded, { at: now, act, requestKey, who, content }, now);
  return true;
}
