// The plan of an import: the file read as it is mapped, and what loading it would do; dry run and loading stand on it.
import {
  checkMapping,
  IMPORT_DATES,
  IMPORT_FIELDS,
  needsDateFormat,
  planImport,
  type ImportKind,
  type ImportSettings,
} from '#core/imports/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import type { importRun } from './tables.ts';
import { readContent } from '../platform/content.ts';
import { hangChildren, registerRows, writeAssets, writeGround, writeUpdates, type Origin } from './assets.ts';
import { prepareAgreements } from './agreements.ts';
import { loadHeld } from './held.ts';
import { mapped, readTable, textOf, type FileTable } from './file.ts';
import { inSteps, ONE_STEP, type Prepared } from './steps.ts';
import { prepareTable } from './lists.ts';

export type Run = typeof importRun.$inferSelect;
/** How a file is to be read. */
type Asked = Pick<Run, 'kind' | 'settings'>;

export async function fileOf(db: Db, run: Pick<Run, 'sha256' | 'settings'>): Promise<FileTable> {
  const bytes = await readContent(db, run.sha256);
  return readTable(textOf(bytes, run.settings.encoding), run.settings.delimiter);
}

async function prepareAssets(db: Db, file: FileTable, run: Asked, now: Instant, zone: string): Promise<Prepared> {
  const rows = registerRows(mapped(file, 'assets', run.settings));
  const { dateFormat, key } = run.settings;
  const plan = planImport(rows, await loadHeld(db, rows), localDateAt(zone as never, now), { dateFormat, key });
  const only = { ...plan, customers: [], classes: [], locations: [], shares: [], assets: [], updates: [] };
  const small = plan.assets.length + plan.updates.length <= ONE_STEP;
  const steps: Prepared['steps'] = small
    ? [
        {
          rows: plan.assets.length + plan.updates.length,
          write: async (tx, origin) => {
            await writeGround(tx, plan, origin);
            await writeAssets(tx, plan, origin);
            await hangChildren(tx, plan, origin);
            await writeUpdates(tx, plan, origin);
          },
        },
      ]
    : [
        { rows: 0, write: (tx, origin) => writeGround(tx, plan, origin) },
        ...inSteps(plan.assets).map((assets) => ({
          rows: assets.length,
          write: (tx: Parameters<typeof writeAssets>[0], origin: Origin) =>
            writeAssets(tx, { ...only, assets }, origin),
        })),
        ...inSteps(plan.assets.filter((a) => a.parentTag !== null)).map((assets) => ({
          rows: 0,
          write: (tx: Parameters<typeof writeAssets>[0], origin: Origin) =>
            hangChildren(tx, { ...only, assets }, origin),
        })),
        ...inSteps(plan.updates).map((updates) => ({
          rows: updates.length,
          write: (tx: Parameters<typeof writeAssets>[0], origin: Origin) =>
            writeUpdates(tx, { ...only, updates }, origin),
        })),
      ];
  return {
    created: {
      customers: plan.customers.length,
      classes: plan.newClasses.length,
      places: plan.locations.length,
      assets: plan.assets.length,
    },
    updated: plan.updates.length,
    unchanged: plan.alreadyHeld,
    bad: plan.bad,
    notes: plan.notes,
    steps: plan.assets.length + plan.updates.length === 0 ? [] : steps,
  };
}

/** The plan of a file against the register as it stands; dry run and loading stand on it. */
export function prepare(db: Db, file: FileTable, run: Asked, now: Instant, zone: string): Promise<Prepared> {
  if (run.kind === 'assets') return prepareAssets(db, file, run, now, zone);
  const rows = mapped(file, run.kind, run.settings);
  if (run.kind === 'agreements') return prepareAgreements(db, rows, run.settings);
  return prepareTable(db, run.kind, rows, run.settings, now, zone);
}

export const tallyOf = (prepared: Prepared) => ({
  created: Object.fromEntries(Object.entries(prepared.created).filter(([, n]) => n > 0)),
  updated: prepared.updated,
  unchanged: prepared.unchanged,
  refused: new Set(prepared.bad.map((b) => b.line)).size,
});

export function datesUnclear(kind: ImportKind, file: FileTable, settings: ImportSettings): boolean {
  const columns = IMPORT_FIELDS[kind].flatMap((f) =>
    IMPORT_DATES.includes(f.name) && settings.mapping[f.name] !== undefined ? [settings.mapping[f.name] as number] : [],
  );
  return (
    settings.dateFormat === 'yyyy-mm-dd' &&
    columns.some((c) => needsDateFormat(file.records.map((r) => r.cells[c] ?? '')))
  );
}

/** Whether the file can be planned at all: its columns are mapped and its dates are clear. */
export function isReadable({ kind, settings }: Asked, file: FileTable): boolean {
  return checkMapping(kind, settings, file.head.length).length === 0 && !datesUnclear(kind, file, settings);
}
