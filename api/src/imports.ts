// Imports on the wire: a file, how its columns are read, the dry run, the run with its progress, and undoing it.
import * as v from 'valibot';
import type { ImportId } from '#core/ids.ts';
import { ASSET_KEYS, DATE_FORMATS, DELIMITERS, ENCODINGS, IMPORT_KINDS, IMPORT_STATES } from '#core/imports/index.ts';
import { WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { done, idText, instantNumber, octets } from './shapes.ts';

export const MAX_IMPORT_BYTES = 40 * 1024 * 1024;
/** Remarks sent with the answer; all of them come as CSV. */
export const REMARKS_SHOWN = 300;

export const importSettings = v.object({
  encoding: v.picklist(ENCODINGS),
  delimiter: v.picklist(DELIMITERS),
  dateFormat: v.picklist(DATE_FORMATS),
  key: v.picklist(ASSET_KEYS),
  mapping: v.record(
    v.pipe(v.string(), v.maxLength(60)),
    v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(500)),
  ),
});
/** What is said of rows; those of which the same is said stand together, the first line in front. */
const remark = v.object({
  line: v.number(),
  column: v.string(),
  message: v.string(),
  /** How many rows it is said of, and the first of their lines. */
  rows: v.number(),
  lines: v.array(v.number()),
});
export const importTally = v.object({
  /** What is made, by kind: customers, places, assets … */
  created: v.record(v.string(), v.number()),
  updated: v.number(),
  unchanged: v.number(),
  refused: v.number(),
});
export const importPage = v.object({
  id: v.number(),
  kind: v.picklist(IMPORT_KINDS),
  fileName: v.string(),
  state: v.picklist(IMPORT_STATES),
  rows: v.number(),
  rowsDone: v.number(),
  settings: importSettings,
  /** The mapping was remembered from a file with the same head. */
  remembered: v.boolean(),
  head: v.array(v.string()),
  sample: v.array(v.array(v.string())),
  /** Dates in the file that cannot be read without being told their order. */
  needsDateFormat: v.boolean(),
  tally: importTally,
  bad: v.array(remark),
  badTotal: v.number(),
  notes: v.array(remark),
  notesTotal: v.number(),
  problem: v.nullable(v.string()),
  createdAt: instantNumber,
  who: v.nullable(v.string()),
});
export type ImportPage = v.InferOutput<typeof importPage>;
const params = v.object({ id: idText<ImportId>() });

/** The body is the file itself, as application/octet-stream. */
export const beginImport = contract({
  method: 'POST',
  path: '/api/imports',
  summary: 'Hand in a CSV file; nothing is written to the register',
  room: 'register',
  may: WRITERS,
  touches: ['imports'],
  query: v.object({
    kind: v.picklist(IMPORT_KINDS),
    name: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(200)),
    encoding: v.optional(v.picklist(ENCODINGS)),
  }),
  body: octets,
  bodyLimit: MAX_IMPORT_BYTES + 1024,
  answer: importPage,
});
export const setImport = contract({
  method: 'PUT',
  path: '/api/imports/:id/settings',
  summary: 'Say how the columns are read; answers with the dry run',
  room: 'register',
  may: WRITERS,
  touches: ['imports'],
  params,
  body: importSettings,
  answer: importPage,
});
export const readImport = contract({
  method: 'GET',
  path: '/api/imports/:id',
  summary: 'An import and how far it has come',
  room: 'register',
  may: WRITERS,
  reads: ['imports'],
  params,
  answer: importPage,
});
export const startImport = contract({
  method: 'POST',
  path: '/api/imports/:id/run',
  summary: 'Load the good rows',
  room: 'register',
  may: WRITERS,
  touches: ['imports'],
  params,
  answer: done,
});
export const cancelImport = contract({
  method: 'POST',
  path: '/api/imports/:id/cancel',
  summary: 'Stop a running import after its current step; what is loaded can be undone',
  room: 'register',
  may: WRITERS,
  touches: ['imports', 'register', 'setup', 'rota'],
  params,
  answer: done,
});
export const undoImport = contract({
  method: 'POST',
  path: '/api/imports/:id/undo',
  summary: 'Undo an import as a whole, while nothing else depends on it',
  room: 'register',
  may: WRITERS,
  touches: ['imports', 'register', 'agreements', 'setup', 'rota'],
  params,
  answer: done,
});
export const listImports = contract({
  method: 'GET',
  path: '/api/imports',
  summary: 'The newest imports',
  room: 'register',
  may: WRITERS,
  reads: ['imports'],
  answer: v.object({
    items: v.array(
      v.object({
        id: v.number(),
        kind: v.picklist(IMPORT_KINDS),
        fileName: v.string(),
        state: v.picklist(IMPORT_STATES),
        rows: v.number(),
        rowsDone: v.number(),
        tally: importTally,
        createdAt: instantNumber,
        who: v.nullable(v.string()),
      }),
    ),
  }),
});
export const importRemarksCsv = contract({
  method: 'GET',
  path: '/api/imports/:id/remarks.csv',
  summary: 'Rows that do not load, with line, column and what would be right',
  room: 'register',
  may: WRITERS,
  params,
});
