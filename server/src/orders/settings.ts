// How orders are raised and told of: customers who are over their credit terms, and what people outside hear of which stage.
import { eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { changeOrderSettings } from '#api/calls.ts';
import { ORDER_TELLINGS, type OrderTelling, type OverTerms } from '#core/orders/index.ts';
import type { Db } from '../platform/database.ts';
import { stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { orderSetting } from './tables.ts';

const ONLY_ROW = eq(orderSetting.id, 1);
type OrderSettings = { overTerms: OverTerms; tells: OrderTelling[]; version: number };
const USUAL: OrderSettings = { overTerms: 'ask', tells: [...ORDER_TELLINGS], version: 1 };

export async function orderSettings(db: Db): Promise<OrderSettings> {
  const [row] = await db.select().from(orderSetting).where(ONLY_ROW);
  return row ? { overTerms: row.overTerms, tells: row.tells ?? USUAL.tells, version: row.version } : USUAL;
}

export const changeSettings = (
  write: Write,
  { overTerms, tells, version }: Asked<typeof changeOrderSettings>['body'],
): Promise<void> =>
  write(async (tx, told) => {
    // The row is made by whoever comes first; both then wait for it.
    await tx.db
      .insert(orderSetting)
      .values({ id: 1, ...USUAL })
      .onDuplicateKeyUpdate({ set: { id: 1 } });
    const [row] = await tx.db.select().from(orderSetting).where(ONLY_ROW).for('update');
    if (row && row.version !== version) stale({ ...row, tells: row.tells ?? USUAL.tells });
    await tx.db
      .update(orderSetting)
      .set({ overTerms, ...(tells && { tells }), version: version + 1 })
      .where(ONLY_ROW);
    told({ subject: 'order settings', id: 1, text: `customers over their terms: ${overTerms}` });
  });
