// How orders are raised: what happens to calls of customers who are over their credit terms.
import { eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { changeOrderSettings } from '#api/calls.ts';
import type { OverTerms } from '#core/orders/index.ts';
import type { Db } from '../platform/database.ts';
import { stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { orderSetting } from './tables.ts';

const ONLY_ROW = eq(orderSetting.id, 1);
const USUAL = { overTerms: 'ask', version: 1 } as const;

export async function overTerms(db: Db): Promise<{ readonly overTerms: OverTerms; readonly version: number }> {
  const [row] = await db
    .select({ overTerms: orderSetting.overTerms, version: orderSetting.version })
    .from(orderSetting)
    .where(ONLY_ROW);
  return row ?? USUAL;
}

export const changeSettings = (
  write: Write,
  { overTerms: wanted, version }: Asked<typeof changeOrderSettings>['body'],
): Promise<void> =>
  write(async (tx, told) => {
    // The row is made by whoever comes first; both then wait for it.
    await tx.db
      .insert(orderSetting)
      .values({ id: 1, ...USUAL })
      .onDuplicateKeyUpdate({ set: { id: 1 } });
    const [row] = await tx.db.select().from(orderSetting).where(ONLY_ROW).for('update');
    if (row && row.version !== version) stale(row);
    await tx.db
      .update(orderSetting)
      .set({ overTerms: wanted, version: version + 1 })
      .where(ONLY_ROW);
    told({ subject: 'order settings', id: 1, text: `customers over their terms: ${wanted}` });
  });
