// Where the next page begins in lists by day, part and store.
import { refuse } from '../platform/refuse.ts';

export type DayMark = { readonly day: string; readonly partId: number; readonly storeId: number };

const MARK = /^(\d{4}-\d\d-\d\d) (\d{1,10}) (\d{1,10})$/;

export const sayMark = ({ day, partId, storeId }: DayMark): string => `${day} ${partId} ${storeId}`;

/** Null: from the first. Refused: what no page before gave. */
export function readMark(after: string | undefined): DayMark | null {
  if (after === undefined) return null;
  const [, day, part, store] = MARK.exec(after) ?? [];
  if (day === undefined) refuse('invalid', 'Ask for the next page with the `next` of the page before.', 'after');
  return { day, partId: Number(part), storeId: Number(store) };
}
