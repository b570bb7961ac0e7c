// A CSV file as handed in: its text in the chosen encoding, its head, and its rows by field.
import { parse } from 'csv-parse/sync';
import { refusal } from '#core/refusal.ts';
import {
  checkMapping,
  DELIMITERS,
  type Delimiter,
  type Encoding,
  type ImportKind,
  type ImportSettings,
  type TableRow,
} from '#core/imports/index.ts';
import { Refused } from '../platform/refuse.ts';

export const MAX_IMPORT_ROWS = 150_000;

export const refuseFile = (message: string, field = 'file'): never => {
  throw new Refused([refusal('malformed', message, field)]);
};

/** The text of a file. One that is not in the chosen encoding is refused: it is never read by guess. */
export function textOf(bytes: Buffer, encoding: Encoding): string {
  let text: string;
  try {
    text = new TextDecoder(encoding, { fatal: true }).decode(bytes);
  } catch {
    return refuseFile(
      'This is not text in UTF-8. Save it as CSV in UTF-8, or choose the encoding Windows-1252 if that is what it is.',
      'encoding',
    );
  }
  if (text.includes('\u0000') || text.includes('\uFFFD'))
    refuseFile('This is not a text file; save the table as CSV and choose it again.');
  return text;
}

const MOST_COLUMNS = 200;
const LONGEST_ROW = 100_000;
const [QUOTE, NEWLINE] = ['"'.charCodeAt(0), '\n'.charCodeAt(0)];

/** Refuses, before anything is parsed, a file with too many rows, a row with too many cells, and one that does not end. */
function checkShape(text: string, delimiter: Delimiter, most: number): void {
  const comma = delimiter.charCodeAt(0);
  // The row that is read now, the head being 0.
  let [row, begin, cells, quoted] = [0, 0, 1, false];
  for (let i = 0; i <= text.length; i += 1) {
    const code = i < text.length ? text.charCodeAt(i) : NEWLINE;
    if (code === QUOTE) quoted = !quoted;
    if (i - begin > LONGEST_ROW)
      refuseFile(
        `Row ${row} is longer than ${LONGEST_ROW.toLocaleString('en-GB')} characters; perhaps a double quote that opens a text is never closed.`,
      );
    if (quoted) continue;
    if (code === comma) cells += 1;
    if (cells > MOST_COLUMNS)
      refuseFile(`Row ${row} has more than ${MOST_COLUMNS} cells; leave out the columns that are not needed.`);
    if (code !== NEWLINE) continue;
    const isBlank = i === begin || (i === begin + 1 && text[begin] === '\r');
    if (!isBlank) row += 1;
    [begin, cells] = [i + 1, 1];
  }
  if (row - 1 > most) refuseFile(`The file has ${row - 1} rows; at most ${most} are taken at a time. Split it.`);
}

/** The delimiter that the first line has most of; proposed, then chosen by a person. */
export function delimiterOf(text: string): Delimiter {
  const end = text.indexOf('\n');
  const line = text.slice(0, Math.min(end < 0 ? text.length : end, LONGEST_ROW));
  const counts = DELIMITERS.map((d) => line.split(d).length);
  return DELIMITERS[counts.indexOf(Math.max(...counts))] ?? ',';
}

type Record_ = { readonly record: string[]; readonly info: { readonly lines: number } };

export type FileTable = {
  readonly head: readonly string[];
  readonly records: readonly { readonly line: number; readonly cells: readonly string[] }[];
};

/** Head and records (RFC 4180, a byte order mark allowed), each with its line number. */
export function readTable(text: string, delimiter: Delimiter, most = MAX_IMPORT_ROWS): FileTable {
  checkShape(text, delimiter, most);
  let found: Record_[];
  try {
    found = parse(text, {
      bom: true,
      trim: true,
      skip_empty_lines: true,
      relax_column_count: true,
      info: true,
      delimiter,
    }) as unknown as Record_[];
  } catch (error) {
    return refuseFile(`The file cannot be read as CSV: ${(error as Error).message}.`);
  }
  const [head, ...body] = found;
  if (!head) return refuseFile('The file is empty; its first line names the columns.');
  const odd = body.find(({ record }) => record.length !== head.record.length);
  if (odd)
    refuseFile(
      `Line ${odd.info.lines} has ${odd.record.length} cells instead of ${head.record.length}; put texts that hold a comma in double quotes, or choose another delimiter.`,
    );
  return { head: head.record, records: body.map(({ record, info }) => ({ line: info.lines, cells: record })) };
}

/** Rows by field name, as the mapping says. */
export function mapped(table: FileTable, kind: ImportKind, settings: ImportSettings): TableRow[] {
  const wrong = checkMapping(kind, settings, table.head.length);
  if (wrong.length > 0) refuseFile(wrong.join(' '), 'mapping');
  const fields = Object.entries(settings.mapping);
  return table.records.map(({ line, cells }) => ({
    line,
    cells: Object.fromEntries(fields.map(([name, at]) => [name, cells[at] ?? ''])),
  }));
}
