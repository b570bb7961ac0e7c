// How stock is kept in this house: what is held how far ahead, what is approved, and whether work that waits for parts is planned.
import { eq } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { keepStoreSettings } from '#api/stock.ts';
import type { Db } from '../platform/database.ts';
import { stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { storeSetting } from './tables.ts';

const HOUSE = 1;
const ONLY_ROW = eq(storeSetting.id, HOUSE);
type StoreSettings = Omit<typeof storeSetting.$inferSelect, 'id'>;
const USUAL: StoreSettings = { planWaiting: false, holdDays: 21, reviewDays: 7, approvalLimit: null, version: 1 };

export async function storeSettings(db: Db): Promise<StoreSettings> {
  const [row] = await db.select().from(storeSetting).where(ONLY_ROW);
  if (!row) return USUAL;
  const { id: _, ...kept } = row;
  return kept;
}

export const keepSettings = (write: Write, { version, ...asked }: BodyOf<typeof keepStoreSettings>): Promise<void> =>
  write(async (tx, told) => {
    // The row is made by whoever comes first; both then wait for it.
    await tx.db
      .insert(storeSetting)
      .values({ id: HOUSE, ...USUAL })
      .onDuplicateKeyUpdate({ set: { id: HOUSE } });
    const [row] = await tx.db.select().from(storeSetting).where(ONLY_ROW).for('update');
    if (row && row.version !== version) stale(row);
    await tx.db
      .update(storeSetting)
      .set({ ...asked, version: version + 1 })
      .where(ONLY_ROW);
    told({ subject: 'store settings', id: HOUSE, text: `parts are held for ${asked.holdDays} days ahead` });
  });
