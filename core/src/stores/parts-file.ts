// A parts list as a file: what each row says of a part.
import type { Part } from './part.ts';
import { readList, type ListRead } from './list-file.ts';

export const PARTS_HEAD = [
  'number',
  'name',
  'unit',
  'list price',
  'cost',
  'consumable',
  'serial tracked',
  'tax',
  'warranty months',
] as const;
const MOST_MONTHS = 600;

/** `warrantyMonths` null: the file says nothing of it. */
export type PartRow = Part & { readonly line: number; readonly tax: string; readonly warrantyMonths: number | null };

/** Number, name, list price and cost are needed; how the others are left out is said in `list-file.ts`. */
export const readParts = (records: readonly (readonly string[])[]): ListRead<PartRow> =>
  readList(records, ['number', 'name', 'list price', 'cost'], (cells, line) => ({
    line,
    number: cells.text('number', 60),
    name: cells.text('name', 120),
    unit: cells.of('unit').slice(0, 20) || 'piece',
    listPrice: cells.amount('list price'),
    cost: cells.amount('cost'),
    consumable: cells.flag('consumable'),
    serialTracked: cells.flag('serial tracked'),
    tax: cells.of('tax'),
    warrantyMonths: cells.whole('warranty months', MOST_MONTHS),
  }));
