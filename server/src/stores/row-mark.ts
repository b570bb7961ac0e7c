// Where the next page begins in lists of parts in stores, by what they are sorted by first: a day, or a worth.
import { refuse } from '../platform/refuse.ts';

export type DayMark = { readonly day: string; readonly partId: number; readonly storeId: number };
export type WorthMark = { readonly worth: number; readonly storeId: number; readonly partId: number };

const DAY_MARK = /^(\d{4}-\d\d-\d\d) (\d{1,10}) (\d{1,10})$/;
const WORTH_MARK = /^(-?\d{1,15}) (\d{1,10}) (\d{1,10})$/;

/** What a mark says, in its order; null: from the first. Refused: what no page before gave. */
function partsOf(after: string | undefined, mark: RegExp): readonly [string, number, number] | null {
  if (after === undefined) return null;
  const [, first, second, third] = mark.exec(after) ?? [];
  if (first === undefined) refuse('invalid', 'Ask for the next page with the `next` of the page before.', 'after');
  return [first, Number(second), Number(third)];
}

export const sayMark = ({ day, partId, storeId }: DayMark): string => `${day} ${partId} ${storeId}`;
export function readMark(after: string | undefined): DayMark | null {
  const read = partsOf(after, DAY_MARK);
  return read && { day: read[0], partId: read[1], storeId: read[2] };
}

export const sayWorthMark = ({ worth, storeId, partId }: WorthMark): string => `${worth} ${storeId} ${partId}`;
export function readWorthMark(after: string | undefined): WorthMark | null {
  const read = partsOf(after, WORTH_MARK);
  return read && { worth: Number(read[0]), storeId: read[1], partId: read[2] };
}
