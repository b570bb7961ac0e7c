// One time entry over several orders: each of its pieces divided by stated shares, or equally.
import { refusal, type Refusal } from '../refusal.ts';
import { shareOut } from '../share-out.ts';
import { localDateAt, MINUTE, type LocalDate, type Zone } from '../time/index.ts';
import type { Entry, EntryPiece } from './entry.ts';
import { hoursKindOfDay, piecesOf, type HoursKind, type NightSpan, type Piece, type PlaceHours } from './hours-kind.ts';

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

/** One of the orders an entry is for: the hours of its place, the night of its rate card, and its share. */
export type ForOrder = { readonly place: PlaceHours; readonly night: NightSpan; readonly share: number };

/** A stretch of the entry in which every place has one hours kind, in the order of the places. */
type Stretch = { readonly day: LocalDate; readonly minutes: number; readonly hours: readonly HoursKind[] };

const nightKey = (night: NightSpan): string => (night === null ? 'none' : `${night.from}-${night.to}`);

function stretchesOf(entry: Entry, over: readonly ForOrder[], zone: Zone): Stretch[] {
  const { span, day, minutes } = entry;
  if (span === null)
    return [{ day, minutes, hours: over.map(({ place }) => entry.hours ?? hoursKindOfDay(place, day)) }];
  // Orders of one place under one card are cut alike: once.
  const known = new Map<PlaceHours, Map<string, Piece[]>>();
  const cutFor = ({ place, night }: ForOrder): Piece[] => {
    const of = known.get(place) ?? new Map<string, Piece[]>();
    known.set(place, of);
    const key = nightKey(night);
    const pieces = of.get(key) ?? piecesOf(span, place, night, zone);
    of.set(key, pieces);
    return pieces;
  };
  const cuts = over.map(cutFor);
  const edges = [...new Set(cuts.flatMap((pieces) => pieces.map((p) => p.from)))].sort((a, b) => a - b);
  return edges.map((from, i) => ({
    day: localDateAt(zone, from),
    minutes: ((edges[i + 1] ?? span.to) - from) / MINUTE,
    hours: cuts.map((pieces) => (pieces.findLast((p) => p.from <= from) as Piece).hours),
  }));
}

/**
 * The pieces that each order gets, in the order given: every hours-kind piece is divided by itself, minutes by largest remainder
 * with the sum kept; of equal remainders the earlier order gets the minute. Places in other hours, and cards with another night, cut
 * the entry where either changes. Pieces of no minutes are left out. Source: domain, Time and rates; settled questions, Time.
 */
export function divideEntry(entry: Entry, over: readonly ForOrder[], zone: Zone): EntryPiece[][] {
  const shares = over.map((o) => o.share);
  const stretches = stretchesOf(entry, over, zone);
  const divided = stretches.map((s) => shareOut(s.minutes, shares));
  return over.map((_, i) =>
    stretches.flatMap(({ day, hours }, k) => {
      const minutes = divided[k]?.[i] ?? 0;
      return minutes === 0 ? [] : [{ day, hours: hours[i] as HoursKind, minutes }];
    }),
  );
}
