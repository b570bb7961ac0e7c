// One time entry over several orders: each of its pieces divided by stated shares, or equally.
import { refusal, type Refusal } from '../refusal.ts';
import { shareOut } from '../share-out.ts';
import type { EntryPiece } from './entry.ts';

const MOST_ORDERS = 50;
const MOST_SHARE = 10_000;

/** Refused: no order, too many, shares that are no whole numbers from 0 to 10,000, all of them 0. */
export function checkShares(shares: readonly number[]): Refusal[] {
  if (shares.length === 0) return [refusal('missing', 'Choose the order it was for.', 'lines')];
  if (shares.length > MOST_ORDERS)
    return [refusal('too-large', `One entry goes to at most ${MOST_ORDERS} orders.`, 'lines')];
  const found = shares.flatMap((share, i) =>
    Number.isInteger(share) && share >= 0 && share <= MOST_SHARE
      ? []
      : [refusal('invalid', 'A share is a whole number from 0 to 10,000.', `lines.${i}.share`)],
  );
  return found.length === 0 && shares.every((s) => s === 0)
    ? [refusal('invalid', 'Every share is 0; give at least one more than 0.', 'lines.0.share')]
    : found;
}

/**
 * The pieces that each order gets, in the order of the shares: every hours-kind piece is divided by itself, minutes by largest
 * remainder with the sum kept; of equal remainders the earlier order gets the minute. Pieces of no minutes are left out.
 * Source: domain, Time and rates; settled questions, Time.
 */
export function divideEntry(pieces: readonly EntryPiece[], shares: readonly number[]): EntryPiece[][] {
  const divided = pieces.map((piece) => shareOut(piece.minutes, shares));
  return shares.map((_, i) =>
    pieces.flatMap((piece, k) => {
      const minutes = divided[k]?.[i] ?? 0;
      return minutes === 0 ? [] : [{ ...piece, minutes }];
    }),
  );
}
