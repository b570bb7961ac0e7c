// A parts list as a file: what each row says, and what is wrong with it, by its line.
import { readAmount } from '../money.ts';
import type { Part } from './part.ts';

export const PARTS_HEAD = [
  'number',
  'name',
  'unit',
  'list price',
  'cost',
  'consumable',
  'serial tracked',
  'tax',
] as const;
export const MOST_PARTS_IN_FILE = 5000;

export type PartRow = Part & { readonly line: number; readonly tax: string };
export type PartRemark = { readonly line: number; readonly column: string; readonly message: string };
export type PartsRead = { readonly rows: readonly PartRow[]; readonly bad: readonly PartRemark[] };

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

/** Reads one record; a row with something wrong is left out and said, whole. */
function readRow(cells: Readonly<Record<string, string>>, line: number): PartRow | PartRemark[] {
  const bad: PartRemark[] = [];
  const say = (column: string, message: string): void => void bad.push({ line, column, message });
  const text = (column: string, most: number): string => {
    const value = (cells[column] ?? '').trim();
    if (value === '') say(column, 'This is needed.');
    else if (value.length > most) say(column, `At most ${most} characters.`);
    return value;
  };
  const amount = (column: string): number => {
    const read = readAmount(cells[column] ?? '');
    if (read === null || read < 0 || read > 1e12) say(column, 'Write an amount such as 12.50.');
    return read ?? 0;
  };
  const flag = (column: string): boolean => {
    const read = YES[(cells[column] ?? '').trim().toLowerCase()];
    if (read === undefined) say(column, 'Write yes or no.');
    return read ?? false;
  };
  const row: PartRow = {
    line,
    number: text('number', 60),
    name: text('name', 120),
    unit: (cells['unit'] ?? '').trim().slice(0, 20) || 'piece',
    listPrice: amount('list price'),
    cost: amount('cost'),
    consumable: flag('consumable'),
    serialTracked: flag('serial tracked'),
    tax: (cells['tax'] ?? '').trim(),
  };
  return bad.length > 0 ? bad : row;
}

/**
 * Reads records of a parts list, the first of which is the head. Columns may stand in any order and case; number, name, list price
 * and cost are needed. A number that stands twice is said at its second line. Source of the layout: our own file.
 */
export function readParts(records: readonly (readonly string[])[]): PartsRead {
  const [head = [], ...body] = records;
  const names = head.map((h) => h.trim().toLowerCase());
  const missing = ['number', 'name', 'list price', 'cost'].filter((n) => !names.includes(n));
  if (missing.length > 0)
    return { rows: [], bad: [{ line: 1, column: missing.join(', '), message: 'The first line lacks this column.' }] };
  if (body.length > MOST_PARTS_IN_FILE)
    return {
      rows: [],
      bad: [{ line: 1, column: '', message: `A file has at most ${MOST_PARTS_IN_FILE} parts; divide it.` }],
    };
  const rows: PartRow[] = [];
  const bad: PartRemark[] = [];
  const seen = new Map<string, number>();
  for (const [i, record] of body.entries()) {
    const line = i + 2;
    if (record.every((cell) => cell.trim() === '')) continue;
    const read = readRow(Object.fromEntries(names.map((n, at) => [n, record[at] ?? ''])), line);
    if (Array.isArray(read)) {
      bad.push(...read);
      continue;
    }
    const before = seen.get(read.number.toLowerCase());
    if (before !== undefined) {
      bad.push({ line, column: 'number', message: `${read.number} stands in line ${before} already.` });
      continue;
    }
    seen.set(read.number.toLowerCase(), line);
    rows.push(read);
  }
  return { rows, bad };
}
