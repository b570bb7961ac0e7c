// Periods of standing, taken apart into whole months, which are kept counted, and the days at their ends.
import { refusal, refused, decided, type Decided } from '../refusal.ts';
import { addDays, addMonths, daysBetween, sayDate, sayDay, type LocalDate } from '../time/index.ts';

/** Days, both included. */
export type Days = { readonly from: LocalDate; readonly to: LocalDate };

/** The first day of the month that holds a day; a month is named by it. */
export const monthOf = (day: LocalDate): LocalDate => `${day.slice(0, 7)}-01` as LocalDate;

export const daysOfMonth = (month: LocalDate): Days => ({ from: month, to: addDays(addMonths(month, 1), -1) });

/** Months from the one that holds a day to the one that holds another, both included. */
export function monthsBetween(from: LocalDate, to: LocalDate): LocalDate[] {
  const months: LocalDate[] = [];
  for (let month = monthOf(from); month <= to; month = addMonths(month, 1)) months.push(month);
  return months;
}

/**
 * A month is summed in thirds: its first ten days, the ten after them and the rest. So many of them, from its beginning, are summed; all
 * three are the month.
 */
export type Thirds = 0 | 1 | 2 | 3;

/** The days of a month’s thirds from its beginning: of the first two those to its 20th. Refused: none of them. */
export function daysOfThirds(month: LocalDate, thirds: Exclude<Thirds, 0>): Days {
  return thirds === 3 ? daysOfMonth(month) : { from: month, to: addDays(month, 10 * thirds - 1) };
}

/** In which third of its month a day lies. */
export const thirdOf = (day: LocalDate): Exclude<Thirds, 0> => {
  const number = Number(day.slice(8));
  return number <= 10 ? 1 : number <= 20 ? 2 : 3;
};

/** What is known of a month: which of its thirds are summed, whether the quarter that begins with it is, and whether it is closed. */
export type MonthKnown = { readonly thirds: Thirds; readonly isQuarterSummed: boolean; readonly isClosed: boolean };

/** What was summed together, by its first month: of one month the thirds after `after` up to `upTo`, of a quarter everything (0 to 3). */
export type Summed = {
  readonly month: LocalDate;
  readonly months: 1 | 3;
  readonly after: Thirds;
  readonly upTo: Exclude<Thirds, 0>;
};

/** Days that are counted; those taken off lie in thirds that are among the sums, and not in the period. */
export type Stretch = Days & { readonly isClosed: boolean; readonly isTakenOff: boolean };
export type Pieces = {
  readonly sums: readonly Summed[];
  readonly days: readonly Stretch[];
};

/** Whether a month is the first of a quarter. */
export const beginsQuarter = (month: LocalDate): boolean => Number(month.slice(5, 7)) % 3 === 1;

const nearest = (days: readonly number[], day: number): number =>
  days.reduce((best, at, i) => (Math.abs(at - day) < Math.abs((days[best] as number) - day) ? i : best), 0);

type Numbered = { readonly from: number; readonly to: number; readonly isTakenOff: boolean };

/**
 * A month’s days `from` to `to`, by their numbers, as thirds that are summed and the fewest days that make up for the rest: each end of
 * the thirds is the one that is nearest.
 */
function thirdsAndDays(month: LocalDate, { from, to }: { from: number; to: number }, thirds: Thirds) {
  const ends = [0];
  for (const n of [1, 2, 3] as const) if (n <= thirds) ends.push(Number(daysOfThirds(month, n).to.slice(8)));
  const [after, upTo] = [nearest(ends, from - 1), nearest(ends, to)] as [Thirds, Thirds];
  const [start, end] = [ends[after] as number, ends[upTo] as number];
  const counted = Math.abs(start - (from - 1)) + Math.abs(end - to);
  if (upTo === 0 || after >= upTo || counted > to - from)
    return { sum: null, days: [{ from, to, isTakenOff: false }] satisfies Numbered[] };
  const days: Numbered[] = [
    start < from ? { from: start + 1, to: from - 1, isTakenOff: true } : { from, to: start, isTakenOff: false },
    end > to ? { from: to + 1, to: end, isTakenOff: true } : { from: end + 1, to, isTakenOff: false },
  ];
  const sum: Summed = { month, months: 1, after, upTo };
  return { sum, days: days.filter((n) => n.from <= n.to) };
}

/**
 * Takes a period of days (both ends included) apart: quarters, then thirds of months, that are summed already, and stretches of days that
 * are not, each as long as it can be and of closed months or of open ones alone. Where a third lies in it in part, it is counted or
 * taken off whichever are fewer days: five at either end at most, of what is summed. Sums less what is taken off, and the other
 * stretches, have every day of the period once and no other.
 */
export function piecesOf({ from, to }: Days, knownOf: (month: LocalDate) => MonthKnown): Pieces {
  const sums: Summed[] = [];
  const days: Stretch[] = [];
  const isWhole = (month: LocalDate, months: number): boolean =>
    month >= from && addDays(addMonths(month, months), -1) <= to;
  for (let month = monthOf(from); month <= to;) {
    const { thirds, isQuarterSummed, isClosed } = knownOf(month);
    if (isQuarterSummed && beginsQuarter(month) && isWhole(month, 3)) {
      sums.push({ month, months: 3, after: 0, upTo: 3 });
      month = addMonths(month, 3);
      continue;
    }
    const whole = daysOfMonth(month);
    const own = { from: whole.from > from ? whole.from : from, to: whole.to < to ? whole.to : to };
    const numbers = { from: daysBetween(month, own.from) + 1, to: daysBetween(month, own.to) + 1 };
    const apart = thirdsAndDays(month, numbers, thirds);
    if (apart.sum) sums.push(apart.sum);
    for (const { from: first, to: end, isTakenOff } of apart.days) {
      const stretch = { from: addDays(month, first - 1), to: addDays(month, end - 1), isClosed, isTakenOff };
      const last = days.at(-1);
      const goesOn = last && last.isClosed === isClosed && last.isTakenOff === isTakenOff;
      if (goesOn && addDays(last.to, 1) === stretch.from) days[days.length - 1] = { ...last, to: stretch.to };
      else days.push(stretch);
    }
    month = addMonths(month, 1);
  }
  return { sums, days };
}

/** As many days just before a period as it has itself; whole months where it is made of them. */
export function periodBefore({ from, to }: Days): Days {
  const months = monthsBetween(from, to);
  const isWhole = from === months[0] && to === daysOfMonth(months.at(-1) as LocalDate).to;
  if (isWhole) return { from: addMonths(from, -months.length), to: addDays(from, -1) };
  return { from: addDays(from, -daysBetween(from, to) - 1), to: addDays(from, -1) };
}

/** A zone's day may end this much later than another's; and what was begun on a month's last day is over by then. */
const DAYS_AFTER = 2;

/** How many thirds of a month are over everywhere. */
export const thirdsOver = (month: LocalDate, today: LocalDate): Thirds =>
  ([3, 2, 1] as const).find((n) => addDays(daysOfThirds(month, n).to, DAYS_AFTER) <= today) ?? 0;

/** Whether a month is over everywhere. */
export const isOver = (month: LocalDate, today: LocalDate): boolean => thirdsOver(month, today) === 3;

/**
 * Decides whether a month may be closed. Months are closed one after the other, without a gap, from the first in which something was
 * promised. Refused: one that is closed, is not the next, or is not over in every zone. `open`: what somebody has still to settle of
 * it; with some, a reason is asked.
 */
export function closeStanding(
  month: LocalDate,
  {
    lastClosed,
    first,
    today,
    open,
    reason,
  }: {
    readonly lastClosed: LocalDate | null;
    readonly first: LocalDate;
    readonly today: LocalDate;
    readonly open: number;
    readonly reason: string;
  },
): Decided<Days> {
  const say = (m: LocalDate): string => sayDay(m).replace(/^\d+ /, '');
  if (lastClosed !== null && month <= lastClosed)
    return refused(refusal('conflict', `${say(month)} is closed already.`, 'month'));
  const next = lastClosed === null ? first : addMonths(lastClosed, 1);
  if (month !== next) return refused(refusal('out-of-order', `Close ${say(next)} first.`, 'month'));
  if (!isOver(month, today))
    return refused(
      refusal(
        'not-ready',
        `${say(month)} is not over everywhere; close it from ${sayDate(addDays(addMonths(month, 1), DAYS_AFTER - 1))} on.`,
        'month',
      ),
    );
  if (open > 0 && reason.trim() === '')
    return refused(
      refusal(
        'missing',
        'Something of it is still open; settle it first, or say why it is closed in spite of that.',
        'reason',
      ),
    );
  return decided(daysOfMonth(month));
}
