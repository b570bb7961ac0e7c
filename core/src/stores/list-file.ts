// Lists of parts as files: the head, each row by its number once, and what is wrong, by its line.
import { readAmount } from '../money.ts';
import { MOST_IN_STORE } from './stock.ts';
import { THOUSANDTHS } from './part.ts';

export type PartRemark = { readonly line: number; readonly column: string; readonly message: string };
export type ListRead<Row> = { readonly rows: readonly Row[]; readonly bad: readonly PartRemark[] };
export const MOST_ROWS_IN_FILE = 20_000;

const YES: Readonly<Record<string, boolean>> = {
  yes: true,
  y: true,
  '1': true,
  true: true,
  no: false,
  n: false,
  '0': false,
  false: false,
  '': false,
};

/** The cells of one row, read with what is wrong in them said. A column that the file has not is empty. */
export type Cells = ReturnType<typeof cellsOf>;

function cellsOf(row: Readonly<Record<string, string>>, line: number) {
  const bad: PartRemark[] = [];
  const say = (column: string, message: string): void => void bad.push({ line, column, message });
  const of = (column: string): string => (row[column] ?? '').trim();
  return {
    ...{ bad, say, of },
    has: (column: string): boolean => column in row,
    text(column: string, most: number): string {
      const value = of(column);
      if (value === '') say(column, 'This is needed.');
      else if (value.length > most) say(column, `At most ${most} characters.`);
      return value;
    },
    amount(column: string): number {
      const read = readAmount(of(column));
      if (read === null || read < 0 || read > 1e12) say(column, 'Write an amount such as 12.50.');
      return read ?? 0;
    },
    flag(column: string): boolean {
      const read = YES[of(column).toLowerCase()];
      if (read === undefined) say(column, 'Write yes or no.');
      return read ?? false;
    },
    /** Whole numbers up to `most`; null where it is empty. */
    whole(column: string, most: number): number | null {
      const text = of(column);
      if (text === '') return null;
      const read = /^\d{1,9}$/.test(text) ? Number(text) : NaN;
      if (!(read <= most)) say(column, `A whole number up to ${most}.`);
      return read <= most ? read : null;
    },
    /** Thousandths of a unit; null where it is empty. */
    quantity(column: string): number | null {
      const text = of(column).replace(',', '.');
      if (text === '') return null;
      const read = /^\d{1,9}(\.\d{1,3})?$/.test(text) ? Math.round(Number(text) * THOUSANDTHS) : NaN;
      if (!(read <= MOST_IN_STORE)) say(column, 'A quantity with at most three decimals, such as 2 or 0.5.');
      return read <= MOST_IN_STORE ? read : null;
    },
  };
}

/**
 * Reads records of a list of parts, the first of which is the head; columns may stand in any order and case. A row with something wrong is
 * left out and said, whole; a number that stands twice is said at its second line. Refused as a whole: a head that lacks what is needed,
 * more rows than a file may have. Source of the layout: our own files.
 */
export function readList<Row extends { readonly number: string }>(
  records: readonly (readonly string[])[],
  needed: readonly string[],
  readRow: (cells: Cells, line: number) => Row,
): ListRead<Row> {
  const [head = [], ...body] = records;
  const names = head.map((h) => h.trim().toLowerCase());
  const missing = needed.filter((n) => !names.includes(n));
  if (missing.length > 0)
    return { rows: [], bad: [{ line: 1, column: missing.join(', '), message: 'The first line lacks this column.' }] };
  if (body.length > MOST_ROWS_IN_FILE)
    return {
      rows: [],
      bad: [{ line: 1, column: '', message: `A file has at most ${MOST_ROWS_IN_FILE} rows; divide it.` }],
    };
  const rows: Row[] = [];
  const bad: PartRemark[] = [];
  const seen = new Map<string, number>();
  for (const [i, record] of body.entries()) {
    const line = i + 2;
    if (record.every((cell) => cell.trim() === '')) continue;
    const cells = cellsOf(Object.fromEntries(names.map((n, at) => [n, record[at] ?? ''])), line);
    const row = readRow(cells, line);
    const before = seen.get(row.number.toLowerCase());
    if (row.number !== '' && before !== undefined)
      cells.say('number', `${row.number} stands in line ${before} already.`);
    seen.set(row.number.toLowerCase(), before ?? line);
    if (cells.bad.length > 0) bad.push(...cells.bad);
    else rows.push(row);
  }
  return { rows, bad };
}
