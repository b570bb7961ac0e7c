// The parts list: found by fragments, kept by its numbers, loaded from a file as a whole.
import { and, asc, count, eq, gt, inArray, like, or, type SQL } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { addPart, listParts, PartOut, PartsEffect } from '#api/stores.ts';
import type { PartId, TaxId } from '#core/ids.ts';
import { seesMoney, type Role } from '#core/people.ts';
import type { ListRead, PartRow } from '#core/stores/index.ts';
import { bulkInsert, escapeLike, type Db, type Tx } from '../platform/database.ts';
import { Refused, refuse, stale } from '../platform/refuse.ts';
import { unlessTaken, type Told, type Write } from '../platform/writing.ts';
import { tax } from '../settle/tables.ts';
import { readPartsIn } from './jobs.ts';
import { part, stockMove } from './tables.ts';

type Query = Pick<Asked<typeof listParts>['query'], 'q' | 'retired'>;
type PartRowHeld = typeof part.$inferSelect;

/** Each word stands in the number or in the name. */
export function isCalled(q: string | undefined): SQL | undefined {
  const words = (q ?? '').split(/\s+/).filter((w) => w !== '');
  return and(
    ...words.slice(0, 6).map((word) => {
      const text = `%${escapeLike(word)}%`;
      return or(like(part.number, text), like(part.name, text));
    }),
  );
}

const conditionsOf = ({ q, retired }: Query): SQL | undefined =>
  and(retired === 'with' ? undefined : eq(part.retired, false), isCalled(q));

const shown = ({ row, taxName }: { row: PartRowHeld; taxName: string | null }, money: boolean): PartOut => ({
  ...row,
  tax: taxName,
  ...(!money && { listPrice: null, cost: null }),
});

/** A page of parts by number; `after`: the number the last page ended with. */
export async function pageOfParts(db: Db, query: Query, after: string | undefined, limit: number, role: Role) {
  const rows = await db
    .select({ row: part, taxName: tax.name })
    .from(part)
    .leftJoin(tax, eq(tax.id, part.taxId))
    .where(and(conditionsOf(query), after === undefined ? undefined : gt(part.number, after)))
    .orderBy(asc(part.number))
    .limit(limit + 1);
  const items = rows.slice(0, limit).map((r) => shown(r, seesMoney(role)));
  return { items, next: rows.length > limit ? (items.at(-1)?.number ?? null) : null };
}

export async function partsFound(db: Db, { after, limit, ...query }: Asked<typeof listParts>['query'], role: Role) {
  const [[counted], page] = await Promise.all([
    db.select({ total: count() }).from(part).where(conditionsOf(query)),
    pageOfParts(db, query, after, limit ?? 60, role),
  ]);
  return { ...page, total: counted?.total ?? 0 };
}

type PartBody = Asked<typeof addPart>['body'];

async function mustBeTax(tx: Tx, id: TaxId | null): Promise<void> {
  if (id === null) return;
  const [known] = await tx.db.select({ id: tax.id }).from(tax).where(eq(tax.id, id));
  if (!known) refuse('not-found', 'That tax does not exist; choose another.', 'taxId');
}

const unlessNumbered = <T>(work: () => Promise<T>): Promise<T> =>
  unlessTaken('There is a part of that number already; choose another.', 'number', work);

export const addPartTo = (write: Write, body: PartBody): Promise<{ id: PartId }> =>
  unlessNumbered(() =>
    write(async (tx, told) => {
      await mustBeTax(tx, body.taxId);
      const [made] = await tx.db.insert(part).values(body).$returningId();
      const id = made?.id as PartId;
      told({ subject: 'part', id, text: `added ${body.number} ${body.name}` });
      return { id };
    }),
  );

/** How a part is counted stays while any of it was moved: moves of pieces are none of metres, and units are known from the first on. */
async function mustKeepCount(
  tx: Tx,
  was: PartRowHeld,
  is: { readonly unit: string; readonly serialTracked: boolean },
): Promise<void> {
  if (was.unit === is.unit && was.serialTracked === is.serialTracked) return;
  const [moved] = await tx.db
    .select({ id: stockMove.id })
    .from(stockMove)
    .where(eq(stockMove.partId, was.id))
    .orderBy(asc(stockMove.id))
    .limit(1);
  if (!moved) return;
  const field = was.unit === is.unit ? 'serialTracked' : 'unit';
  const how = was.unit === is.unit ? (was.serialTracked ? 'by serial' : 'without serials') : `in ${was.unit}`;
  refuse('conflict', `${was.number} was moved already: it stays counted ${how}. Add another part instead.`, field);
}

export const changePartOf = (write: Write, id: PartId, { version, ...body }: PartBody & { version: number }) =>
  unlessNumbered(() =>
    write(async (tx, told) => {
      const [row] = await tx.db.select().from(part).where(eq(part.id, id)).for('update');
      if (!row) refuse('not-found', 'That part does not exist.');
      if (row.version !== version) stale(row);
      await mustKeepCount(tx, row, body);
      await mustBeTax(tx, body.taxId);
      await tx.db
        .update(part)
        .set({ ...body, version: version + 1 })
        .where(eq(part.id, id));
      told({ subject: 'part', id, text: `changed ${body.number} ${body.name}` });
    }),
  );

type Planned = { readonly row: PartRow; readonly taxId: TaxId | null; readonly held: PartRowHeld | null };

const isSame = ({ row, taxId, held }: Planned): boolean =>
  held !== null &&
  held.name === row.name &&
  held.unit === row.unit &&
  held.listPrice === row.listPrice &&
  held.cost === row.cost &&
  held.consumable === row.consumable &&
  held.serialTracked === row.serialTracked &&
  held.warrantyMonths === (row.warrantyMonths ?? held.warrantyMonths) &&
  held.taxId === taxId;

const AT_ONCE = 1000;
/** More on one page nobody reads. */
export const SHOWN_REMARKS = 200;

/** Parts that would be counted in another way and of which any was moved already. */
async function movedAmong(db: Db, planned: readonly Planned[]): Promise<ReadonlySet<PartId>> {
  const ids = planned.flatMap(({ row, held }) =>
    held && (held.unit !== row.unit || held.serialTracked !== row.serialTracked) ? [held.id] : [],
  );
  const found = new Set<PartId>();
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    const rows = await db
      .selectDistinct({ id: stockMove.partId })
      .from(stockMove)
      .where(inArray(stockMove.partId, ids.slice(i, i + AT_ONCE)));
    for (const r of rows) found.add(r.id);
  }
  return found;
}

/** What a file would do, by the parts that are there now; both the preview and the loading stand on it. */
async function planOf(
  db: Db,
  { rows, bad: misread }: ListRead<PartRow>,
  lock: 'look' | 'lock',
): Promise<{ planned: Planned[]; effect: PartsEffect }> {
  const taxes = new Map((await db.select().from(tax)).map((t) => [t.name.toLowerCase(), t.id]));
  const held = new Map<string, PartRowHeld>();
  for (let i = 0; i < rows.length; i += AT_ONCE) {
    const numbers = rows.slice(i, i + AT_ONCE).map((r) => r.number);
    const query = db.select().from(part).where(inArray(part.number, numbers)).orderBy(asc(part.id));
    for (const p of lock === 'lock' ? await query.for('update') : await query) held.set(p.number.toLowerCase(), p);
  }
  const bad = [...misread];
  const planned = rows.flatMap((row): Planned[] => {
    const taxId = row.tax === '' ? null : (taxes.get(row.tax.toLowerCase()) ?? undefined);
    if (taxId === undefined) {
      bad.push({
        line: row.line,
        column: 'tax',
        message: `There is no tax “${row.tax}”; leave it empty or add it in Setup.`,
      });
      return [];
    }
    return [{ row, taxId, held: held.get(row.number.toLowerCase()) ?? null }];
  });
  const moved = await movedAmong(db, planned);
  const kept = planned.filter(({ row, held: was }) => {
    if (was === null || !moved.has(was.id)) return true;
    if (was.unit === row.unit && was.serialTracked === row.serialTracked) return true;
    const column = was.unit === row.unit ? 'serial tracked' : 'unit';
    bad.push({ line: row.line, column, message: `${row.number} was moved already: how it is counted stays.` });
    return false;
  });
  const other = kept.filter((p) => !isSame(p));
  const added = other.filter((p) => p.held === null);
  const effect: PartsEffect = {
    added: added.length,
    changed: other.length - added.length,
    unchanged: kept.length - other.length,
    ...{ bad: bad.sort((a, b) => a.line - b.line).slice(0, SHOWN_REMARKS), wrong: bad.length },
    sample: other.slice(0, 12).map(({ row, held: was }) => ({
      ...{ number: row.number, name: row.name },
      what: was === null ? 'added' : 'changed',
    })),
  };
  return { planned: other, effect };
}

export const previewOfParts = async (db: Db, text: string): Promise<PartsEffect> =>
  (await planOf(db, await readPartsIn(text), 'look')).effect;

const COLUMNS = ['number', 'name', 'unit', 'list_price', 'cost', 'consumable', 'serial_tracked', 'tax_id'];
const CHANGED = ['name', 'unit', 'list_price', 'cost', 'consumable', 'serial_tracked', 'tax_id', 'warranty_months'];

/** New ones are added and known ones written over, in few statements however long the list is. */
const writeParts = (tx: Tx, planned: readonly Planned[]): Promise<number[]> =>
  bulkInsert(
    tx.connection,
    'part',
    [...COLUMNS, 'warranty_months'],
    planned.map(({ row, taxId, held }) => [
      ...[row.number, row.name, row.unit, row.listPrice, row.cost, row.consumable ? 1 : 0, row.serialTracked ? 1 : 0],
      ...[taxId, row.warrantyMonths ?? held?.warrantyMonths ?? 0],
    ]),
    `ON DUPLICATE KEY UPDATE ${CHANGED.map((c) => `${c} = VALUES(${c})`).join(', ')}, version = version + 1`,
  );

/** Loads a file. Refused as a whole while a row of it is wrong: the preview says which. */
export const importPartsFrom = async (write: Write, text: string): Promise<PartsEffect> => {
  const read = await readPartsIn(text);
  return write(async (tx: Tx, told: Told) => {
    const { planned, effect } = await planOf(tx.db, read, 'lock');
    const [first] = effect.bad;
    if (first)
      throw new Refused([
        { code: 'invalid', field: 'text', message: `Line ${first.line}, ${first.column}: ${first.message}` },
      ]);
    await writeParts(tx, planned);
    if (planned.length > 0)
      told({ subject: 'part', id: 0, text: `loaded a list: ${effect.added} added, ${effect.changed} changed` });
    return effect;
  });
};
