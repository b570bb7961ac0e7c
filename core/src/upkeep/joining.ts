// Joining: visits at one place for one customer that can be done on one day become one order.
import { addDays, daysBetween, type LocalDate } from '../time/index.ts';

export type JoiningVisit<Key> = {
  readonly key: Key;
  /** Whose visit it is: two of one schedule never make one order. */
  readonly scheduleId: number;
  readonly due: LocalDate;
  readonly windowFrom: LocalDate;
  /** Includes this day. */
  readonly windowTo: LocalDate;
  readonly raise: LocalDate;
  /** The day a person chose for it, which it keeps; null: any open day of its window will do. */
  readonly chosen: LocalDate | null;
};

export type JoinedVisits<Key> = {
  /** In the order of their due dates. */
  readonly keys: readonly Key[];
  /** The day of the order. */
  readonly day: LocalDate;
  readonly raise: LocalDate;
};

type Span = { readonly from: LocalDate; readonly to: LocalDate };

const dayOf = <Key>(v: JoiningVisit<Key>): LocalDate => v.chosen ?? v.due;
const spanOf = <Key>(v: JoiningVisit<Key>): Span =>
  v.chosen === null ? { from: v.windowFrom, to: v.windowTo } : { from: v.chosen, to: v.chosen };

const later = (a: LocalDate, b: LocalDate): LocalDate => (a > b ? a : b);
const earlier = (a: LocalDate, b: LocalDate): LocalDate => (a < b ? a : b);

function firstOpen({ from, to }: Span, notBefore: LocalDate, isOpen: (day: LocalDate) => boolean): LocalDate | null {
  const begin = later(from, notBefore);
  for (let i = 0; i <= daysBetween(begin, to); i += 1) {
    const day = addDays(begin, i);
    if (isOpen(day)) return day;
  }
  return null;
}

/**
 * Visits at one place for one customer as the orders they make together: in the order of their due dates, all within `spanDays`
 * of the first and sharing an open day inside every window; the order’s day is the first such day from the earliest due date, and
 * it is raised at the earliest raise date. A visit that shares no day, or is of a schedule that is in it, begins an order of its own.
 * Source: settled questions, Joining. `isOpen`: whether the place is open on a day.
 */
export function joinVisits<Key>(
  visits: readonly JoiningVisit<Key>[],
  spanDays: number,
  isOpen: (day: LocalDate) => boolean,
): JoinedVisits<Key>[] {
  const left = [...visits].sort((a, b) => (dayOf(a) < dayOf(b) ? -1 : dayOf(a) > dayOf(b) ? 1 : 0));
  const joined: JoinedVisits<Key>[] = [];
  const taken = new Set<JoiningVisit<Key>>();
  for (const [i, first] of left.entries()) {
    if (taken.has(first)) continue;
    const keys = [first.key];
    const schedules = new Set([first.scheduleId]);
    let span = spanOf(first);
    let day = dayOf(first);
    let raise = first.raise;
    const last = addDays(day, spanDays);
    const from = day;
    for (const next of left.slice(i + 1)) {
      if (dayOf(next) > last) break;
      if (taken.has(next) || schedules.has(next.scheduleId)) continue;
      const own = spanOf(next);
      const shared = { from: later(span.from, own.from), to: earlier(span.to, own.to) };
      const open = shared.from > shared.to ? null : firstOpen(shared, from, isOpen);
      if (open === null) continue;
      taken.add(next);
      keys.push(next.key);
      schedules.add(next.scheduleId);
      [span, day, raise] = [shared, open, earlier(raise, next.raise)];
    }
    joined.push({ keys, day, raise });
  }
  return joined;
}

/**
 * Whether some of the visits of an order still make it on its day: within the span of the first, the day inside every window and
 * open, and the one that each chosen visit keeps. What holds for an order holds for any part of it.
 */
export function staysJoined<Key>(
  visits: readonly JoiningVisit<Key>[],
  day: LocalDate,
  spanDays: number,
  isOpen: (day: LocalDate) => boolean,
): boolean {
  const days = visits.map(dayOf).sort();
  const [first, last] = [days[0], days.at(-1)];
  if (first === undefined || last === undefined) return true;
  const fits = (v: JoiningVisit<Key>): boolean => {
    const { from, to } = spanOf(v);
    return day >= from && day <= to;
  };
  return daysBetween(first, last) <= spanDays && isOpen(day) && visits.every(fits);
}
