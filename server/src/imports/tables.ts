// Imports: their runs, what stood before, kept mappings.
import { index, int, mysqlEnum, mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import { IMPORT_KINDS, IMPORT_STATES, type ImportSettings } from '#core/imports/index.ts';
import type { ImportId, PersonId } from '#core/ids.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';

export type ImportTally = {
  readonly created: Readonly<Record<string, number>>;
  readonly updated: number;
  readonly unchanged: number;
  readonly refused: number;
};

export const importRun = mysqlTable(
  'import_run',
  {
    id: rowId<ImportId>(),
    kind: mysqlEnum(IMPORT_KINDS).notNull(),
    fileName: varchar({ length: 200 }).notNull(),
    sha256: varchar({ length: 64 }).notNull(),
    settings: jsonColumn<ImportSettings>().notNull(),
    state: mysqlEnum(IMPORT_STATES).notNull(),
    rows: int().notNull(),
    /** Rows written so far. Whichever server goes on plans the file anew: what is written counts as held already. */
    rowsDone: int().notNull().default(0),
    tally: jsonColumn<ImportTally>().notNull(),
    createdAt: instantColumn().notNull(),
    personId: reference<PersonId>(),
    problem: varchar({ length: 500 }),
  },
  (t) => [index('import_run_state').on(t.state), index('import_run_created').on(t.createdAt)],
);

/** What an import changed in rows that were there before, so that undoing puts the old values back. */
export const importBefore = mysqlTable(
  'import_before',
  {
    importId: reference<ImportId>()
      .notNull()
      .references(() => importRun.id),
    subject: mysqlEnum(['asset', 'customer', 'contact', 'location', 'travel time']).notNull(),
    subjectId: int({ unsigned: true }).notNull(),
    /** The row’s version after the import: another one means that somebody changed it since. */
    version: int().notNull(),
    values: jsonColumn<Record<string, unknown>>('before_values').notNull(),
  },
  (t) => [primaryKey({ columns: [t.importId, t.subject, t.subjectId] })],
);

/** The mapping last used for a file with this head, per kind. */
export const importMapping = mysqlTable(
  'import_mapping',
  {
    kind: mysqlEnum(IMPORT_KINDS).notNull(),
    head: varchar({ length: 64 }).notNull(),
    settings: jsonColumn<ImportSettings>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.kind, t.head] })],
);
