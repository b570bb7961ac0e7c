// One act on many orders: each by its own rules, in one transaction; those that refuse it stay as they are and are named.
import type { Asked } from '#api/contract.ts';
import type { actOnMany, BulkEffect, previewBulk } from '#api/order-lists.ts';
import { recordEvent, type OrderAct } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { previewed } from '../platform/preview.ts';
import { contentOf } from '../platform/request-key.ts';
import { alreadyRecorded, appendAct, withTechnician } from './commands.ts';
import { loadOrders } from './loading.ts';

type Ask = Asked<typeof previewBulk>['body'];

async function actIn(
  tx: Tx,
  who: Person,
  { ids, act: sent }: Ask,
  requestKey: string,
  now: Instant,
): Promise<BulkEffect> {
  const act: OrderAct = await withTechnician(tx, sent);
  const wanted = [...new Set(ids)].sort((a, b) => a - b);
  const loaded = new Map((await loadOrders(tx.db, wanted, 'lock')).map((l) => [l.order.id, l]));
  const content = contentOf({ act: sent });
  let done = 0;
  const refused: BulkEffect['refused'] = [];
  for (const id of wanted) {
    const one = loaded.get(id);
    if (!one) {
      refused.push({ id, title: '', reason: 'That work order does not exist.' });
      continue;
    }
    const { order, facts, events } = one;
    if ((await alreadyRecorded(tx, one, requestKey, content)) !== null) {
      done += 1;
      continue;
    }
    const at = now < order.startedAt ? order.startedAt : now;
    const decided = recordEvent(facts, events, { at, recordedAt: now, act });
    if (decided.ok) {
      await appendAct(tx, one, { at, act, requestKey, who: who.id, content }, now);
      done += 1;
    } else refused.push({ id, title: order.title, reason: decided.refusals.map((r) => r.message).join(' ') });
  }
  return { done, refused };
}

/** The same, looked at and given up. */
export const previewOfMany = (database: Database, who: Person, ask: Ask, now: Instant): Promise<BulkEffect> =>
  previewed(database, (tx) => actIn(tx, who, ask, 'a-preview', now));

/** A repeated request key changes nothing, and says the same. */
export const actOnManyBy = (
  database: Database,
  who: Person,
  { requestKey, ...ask }: Asked<typeof actOnMany>['body'],
  now: Instant,
): Promise<BulkEffect> => database.transact((tx) => actIn(tx, who, ask, requestKey, now));
