// A register file in one step, read and loaded whole: the preview and the load stand on the same plan.
import { runImport } from '#api/register.ts';
import type { ImportSummary } from '#api/register.ts';
import { checkColumns, planImport, REGISTER_COLUMNS, type ImportPlan, type RegisterRow } from '#core/imports/index.ts';
import { type Instant, type LocalDate } from '#core/time/index.ts';
import { keepAudit } from '../platform/audit.ts';
import { type Database, type Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { readTable, refuseFile } from './file.ts';
import { loadHeld } from './held.ts';
import { hangChildren, writeAssets, writeGround, writeUpdates } from './assets.ts';

/** Rows taken at a time by the one-step route; larger files go by an import that shows its progress. */
export const MAX_ROWS = 20_000;

/** Rows of a register file with all its columns, by name. */
export function readRows(text: string): RegisterRow[] {
  if (text.includes('\u0000') || text.includes('\uFFFD'))
    refuseFile('This is not a text file in UTF-8; save it as CSV in UTF-8 and choose it again.');
  const { head, records } = readTable(text, ',', MAX_ROWS);
  const names = head.map((name) => name.toLowerCase());
  const wrong = checkColumns(names);
  if (wrong.length > 0) return refuseFile(`${wrong.join(' ')} The first line must be: ${REGISTER_COLUMNS.join(',')}`);
  return records.map(({ line, cells }) => ({
    line,
    cells: Object.fromEntries(names.map((name, i) => [name, cells[i] ?? ''])) as RegisterRow['cells'],
  }));
}

function summarise(rows: number, plan: ImportPlan): ImportSummary {
  return {
    rows,
    customers: plan.customers.map((c) => c.name),
    classes: [...plan.newClasses],
    locations: plan.locations.length,
    assets: plan.assets.length,
    alreadyHeld: plan.alreadyHeld,
    updated: plan.updates.length,
    bad: [...plan.bad],
    notes: [...plan.notes],
    sample: plan.assets.slice(0, 8).map((a) => ({
      line: a.line,
      tag: a.tag,
      model: `${a.className} ${a.model}`,
      customer: a.customer,
      place: a.locationPath,
    })),
  };
}

export async function previewRegister(db: Db, text: string, today: LocalDate): Promise<ImportSummary> {
  const rows = readRows(text);
  return summarise(rows.length, planImport(rows, await loadHeld(db, rows), today));
}

/** Loads the good rows of a file, all in one transaction, and says what it did. */
export async function importRegister(
  database: Database,
  who: Person,
  fileName: string,
  text: string,
  now: Instant,
  today: LocalDate,
): Promise<ImportSummary> {
  const rows = readRows(text);
  return database.transact(async (tx) => {
    const plan = planImport(rows, await loadHeld(tx.db, rows), today);
    const origin = { who, now, fileName, importId: null };
    await writeGround(tx, plan, origin);
    await writeAssets(tx, plan, origin);
    await hangChildren(tx, plan, origin);
    await writeUpdates(tx, plan, origin);
    await keepAudit(
      tx,
      who,
      'import',
      0,
      `imported ${fileName}: ${plan.assets.length} assets, ${plan.bad.length} rows refused`,
    );
    await announce(tx, runImport);
    return summarise(rows.length, plan);
  });
}
