// Where the next page begins in a list by worth, store and part.
import { refuse } from '../platform/refuse.ts';

export type WorthMark = { readonly worth: number; readonly storeId: number; readonly partId: number };

const MARK = /^(-?\d{1,15}) (\d{1,10}) (\d{1,10})$/;

export const sayMark = ({ worth, storeId, partId }: WorthMark): string => `${worth} ${storeId} ${partId}`;

/** Null: from the first. Refused: what no page before gave. */
export function readMark(after: string | undefined): WorthMark | null {
  if (after === undefined) return null;
  const [, worth, store, part] = MARK.exec(after) ?? [];
  if (worth === undefined) refuse('invalid', 'Ask for the next page with the `next` of the page before.', 'after');
  return { worth: Number(worth), storeId: Number(store), partId: Number(part) };
}
