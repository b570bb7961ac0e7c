// What lies in a store as a file: how each part is kept there, and what was counted.
import { readList, type ListRead } from './list-file.ts';

/** As a store gives it; what follows from its moves is not read again. */
export const SHELVES_HEAD = [
  'number',
  'name',
  'unit',
  'bin',
  'minimum',
  'maximum',
  'on hand',
  'held',
  'free',
  'average',
  'value',
] as const;

export type ShelfRow = {
  readonly line: number;
  readonly number: string;
  /** Empty: it says nothing of how the part is counted. */
  readonly unit: string;
  /** Null: the file has no such column, so it stays as it is. */
  readonly bin: string | null;
  readonly kept: { readonly minimum: number | null; readonly maximum: number | null } | null;
  /** Thousandths; null: it was not counted. */
  readonly counted: number | null;
};

/** The number is needed. Minimum and maximum stand together or not at all; `counted` is what lay there. */
export const readShelvesFile = (records: readonly (readonly string[])[]): ListRead<ShelfRow> =>
  readList(records, ['number'], (cells, line) => {
    const [minimum, maximum] = [cells.quantity('minimum'), cells.quantity('maximum')];
    if ((minimum === null) !== (maximum === null))
      cells.say(minimum === null ? 'minimum' : 'maximum', 'Give both, or neither.');
    if (minimum !== null && maximum !== null && maximum < minimum)
      cells.say('maximum', 'The maximum is no less than the minimum.');
    const bin = cells.of('bin');
    if (bin.length > 40) cells.say('bin', 'At most 40 characters.');
    return {
      ...{ line, number: cells.text('number', 60), unit: cells.of('unit') },
      bin: cells.has('bin') ? bin : null,
      kept: cells.has('minimum') && cells.has('maximum') ? { minimum, maximum } : null,
      counted: cells.quantity('counted'),
    };
  });
