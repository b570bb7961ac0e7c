// Credit terms: whether being over them follows from what customers owe, and of whom that has to be looked at again.
import { eq } from 'drizzle-orm';
import type { CustomerId } from '#core/ids.ts';
import { bulkInsert, type Db, type Tx } from '../platform/database.ts';
import { creditSetting } from './tables.ts';

/** There is one row. */
const ID = 1;

/** Days past due that are let go; null: customers are marked by hand. */
export async function creditGrace(db: Db): Promise<number | null> {
  const [row] = await db.select().from(creditSetting).where(eq(creditSetting.id, ID));
  return row?.graceDays ?? null;
}

/** From now on it follows from what they owe, after so many days; null: it is set by hand again. */
export const followCredit = async (tx: Tx, graceDays: number | null): Promise<void> =>
  void (await tx.db.insert(creditSetting).values({ id: ID, graceDays }).onDuplicateKeyUpdate({ set: { graceDays } }));

/** Leaves a note that their terms are looked at again, in the transaction that changes something of it. */
export async function markCredit(tx: Tx, ids: readonly CustomerId[]): Promise<void> {
  const each = [...new Set(ids)].sort((a, b) => a - b);
  if (each.length === 0) return;
  await bulkInsert(
    tx.connection,
    'credit_mark',
    ['customer_id', 'marks'],
    each.map((id) => [id, 1]),
    'ON DUPLICATE KEY UPDATE marks = marks + 1',
  );
}
