// How orders are raised and told of: customers who are over their credit terms, and what people outside hear of which stage.
import { eq, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { changeOrderSettings } from '#api/calls.ts';
import { ORDER_TELLINGS, type OrderTelling, type OverTerms } from '#core/orders/index.ts';
import { checkPriorities, PRIORITIES, USUAL_PRIORITIES, type Priority } from '#core/service-levels/index.ts';
import type { Db } from '../platform/database.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { prioritiesInUse } from './priorities.ts';
import { orderSetting } from './desk-tables.ts';

const ONLY_ROW = eq(orderSetting.id, 1);
type OrderSettings = { overTerms: OverTerms; tells: OrderTelling[]; priorities: string[]; version: number };
const USUAL: OrderSettings = {
  overTerms: 'ask',
  tells: [...ORDER_TELLINGS],
  priorities: [...USUAL_PRIORITIES],
  version: 1,
};

export async function orderSettings(db: Db): Promise<OrderSettings> {
  const [row] = await db.select().from(orderSetting).where(ONLY_ROW);
  return row ? settingsOf(row) : USUAL;
}

const settingsOf = (row: typeof orderSetting.$inferSelect): OrderSettings => ({
  ...{ overTerms: row.overTerms, tells: row.tells ?? USUAL.tells, version: row.version },
  priorities: row.priorities ?? USUAL.priorities,
});

/**
 * Refused: a priority that the provider has no name for. One that may be taken from the list is held until the transaction ends: who
 * takes it away waits, and then finds it in use.
 */
export async function mustBeNamed(db: Db, priority: Priority, field: string): Promise<void> {
  // So many there always are.
  if (priority <= USUAL_PRIORITIES.length) return;
  // Counted by what is locked: a plain read would tell what was before it was waited for.
  const [[row]] = (await db.execute(
    sql`select json_length(priorities) named from order_setting where ${ONLY_ROW} lock in share mode`,
  )) as unknown as [[{ named: number | null }?]];
  const named = row?.named ?? USUAL_PRIORITIES.length;
  if (priority > named) refuse('not-found', `There are priorities 1 to ${named}; choose one of them.`, field);
}

export const changeSettings = (
  write: Write,
  { overTerms, tells, priorities, version }: Asked<typeof changeOrderSettings>['body'],
): Promise<void> =>
  write(async (tx, told) => {
    // The row is made by whoever comes first; both then wait for it.
    await tx.db
      .insert(orderSetting)
      .values({ id: 1, ...USUAL })
      .onDuplicateKeyUpdate({ set: { id: 1 } });
    const [row] = await tx.db.select().from(orderSetting).where(ONLY_ROW).for('update');
    if (row && row.version !== version) stale(settingsOf(row));
    const named = priorities && [...accept(checkPriorities(priorities))];
    if (named) {
      const used = await prioritiesInUse(tx.db);
      const lost = PRIORITIES.find((p) => p > named.length && used.has(p));
      if (lost !== undefined)
        refuse(
          'conflict',
          `Priority ${lost} is in use by ${used.get(lost)}; keep it, or change that first.`,
          'priorities',
        );
    }
    await tx.db
      .update(orderSetting)
      .set({ overTerms, ...(tells && { tells }), ...(named && { priorities: named }), version: version + 1 })
      .where(ONLY_ROW);
    told({ subject: 'order settings', id: 1, text: `customers over their terms: ${overTerms}` });
  });
