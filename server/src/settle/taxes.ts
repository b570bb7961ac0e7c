// Taxes: their names and rates, and the one that holds where nothing else is said.
import { and, asc, eq, ne } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { addTax } from '#api/settle.ts';
import type { TaxId } from '#core/ids.ts';
import { rateFits } from '#core/settle/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { writeNamed, type Write } from '../platform/writing.ts';
import { tax } from './tables.ts';

export const taxesOf = (db: Db) => db.select().from(tax).orderBy(asc(tax.name)).limit(200);

type TaxBody = Asked<typeof addTax>['body'];

function columnsOf({ isStandard, ...body }: TaxBody) {
  if (!rateFits(body))
    refuse(
      'invalid',
      body.category === 'S'
        ? 'The standard rate has a percentage above 0.'
        : 'Only the standard rate has a percentage.',
      'hundredths',
    );
  return { ...body, isStandard: isStandard ? true : null };
}

/** Only one tax is the standard: the other is it no more. */
async function beOnlyStandard(tx: Tx, id: TaxId | null, isStandard: boolean | null): Promise<void> {
  if (isStandard !== true) return;
  await tx.db
    .update(tax)
    .set({ isStandard: null })
    .where(and(eq(tax.isStandard, true), id === null ? undefined : ne(tax.id, id)));
}

export const addTaxTo = (write: Write, body: TaxBody) =>
  writeNamed(write, 'tax', `added ${body.name}`, async (tx) => {
    const columns = columnsOf(body);
    await beOnlyStandard(tx, null, columns.isStandard);
    const [row] = await tx.db.insert(tax).values(columns).$returningId();
    return { id: row?.id as number };
  });

/** Refused: a tax changed since it was read, and taking the standard away from the only one that is. */
export const changeTaxOf = (write: Write, id: TaxId, { version, ...body }: TaxBody & { version: number }) =>
  writeNamed(write, 'tax', `changed ${body.name}`, async (tx) => {
    const [row] = await tx.db.select().from(tax).where(eq(tax.id, id)).for('update');
    if (!row) refuse('not-found', 'That tax does not exist.');
    if (row.version !== version) stale({ ...row, isStandard: row.isStandard === true });
    const columns = columnsOf(body);
    if (row.isStandard === true && columns.isStandard === null)
      refuse('conflict', 'This is the standard tax; make another one the standard instead.', 'isStandard');
    await beOnlyStandard(tx, id, columns.isStandard);
    await tx.db
      .update(tax)
      .set({ ...columns, version: version + 1 })
      .where(eq(tax.id, id));
    return { id };
  });
