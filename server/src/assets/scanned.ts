// What a scanned code holds: a label of ours, a maker's plate, or the code of a part.
import { asc, eq } from 'drizzle-orm';
import { plainSerial, readLabel } from '#core/assets/index.ts';
import type { AssetId } from '#core/ids.ts';
import type { Db } from '../platform/database.ts';
import { part, serialUnit } from '../stores/tables.ts';
import { asset } from './tables.ts';

/** The machine with this tag, else with this serial; null: none. */
export async function assetByCode(db: Db, code: string): Promise<AssetId | null> {
  const [row] = await db.select({ id: asset.id }).from(asset).where(eq(asset.tag, code)).limit(1);
  if (row) return row.id;
  const [bySerial] = await db
    .select({ id: asset.id })
    .from(asset)
    .where(eq(asset.serialPlain, plainSerial(code)))
    .limit(1);
  return bySerial?.id ?? null;
}

async function partOf(db: Db, code: string): Promise<{ id: number; serial: string | null } | null> {
  const [row] = await db.select({ id: part.id }).from(part).where(eq(part.number, code)).limit(1);
  if (row) return { id: row.id, serial: null };
  const [unit] = await db
    .select({ id: serialUnit.partId, serial: serialUnit.serial })
    .from(serialUnit)
    .where(eq(serialUnit.serial, code))
    .orderBy(asc(serialUnit.partId))
    .limit(1);
  return unit ?? null;
}

/** A label of ours says what it is of; any other code is looked for among machines first, then among parts. */
export async function scanned(db: Db, text: string) {
  const { of, code: read } = readLabel(text);
  const assetId = of === 'part' ? null : await assetByCode(db, read);
  const found = assetId === null && of !== 'asset' ? await partOf(db, read) : null;
  return { assetId, part: found, read };
}
