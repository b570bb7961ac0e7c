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

/** What is known of a month: whether it was summed, whether the quarter that begins with it was, and whether it is closed. */
export type MonthKnown = { readonly isSummed: boolean; readonly isQuarterSummed: boolean; readonly isClosed: boolean };

/** Months that were summed together, by the first of them. */
export type Summed = { readonly month: LocalDate; readonly months: 1 | 3 };

/** Days that are counted; those taken off lie in a month whose sum is among the sums, and not in the period. */
export type Stretch = Days & { readonly isClosed: boolean; readonly isTakenOff: boolean };
export type Pieces = {
  readonly sums: readonly Summed[];
  readonly days: readonly Stretch[];
};

/** Whether a month is the first of a quarter. */
export const beginsQuarter = (month: LocalDate): boolean => Number(month.slice(5, 7)) % 3 === 1;

/** What of a month lies in a period, or with `isTakenOff` what of it does not: at most two stretches. */
function partOf(whole: Days, { from, to }: Days, isClosed: boolean, isTakenOff: boolean): Stretch[] {
  const own = { from: whole.from > from ? whole.from : from, to: whole.to < to ? whole.to : to };
  if (!isTakenOff) return [{ ...own, isClosed, isTakenOff }];
  const rest = [
    { from: whole.from, to: addDays(own.from, -1) },
    { from: addDays(own.to, 1), to: whole.to },
  ];
  return rest.filter((r) => r.from <= r.to).map((r) => ({ ...r, isClosed, isTakenOff }));
}

/**
 * Takes a period of days (both ends included) apart: quarters, then months, that lie in it whole and are summed already, and stretches of
 * days that are not, each as long as it can be and of closed months or of open ones alone. Of a month that is summed and lies in it by
 * more than half, its sum less the days that do not: the fewer days are counted. Sums less what is taken off, and the other stretches,
 * have every day of the period once and no other.
 */
export function piecesOf({ from, to }: Days, knownOf: (month: LocalDate) => MonthKnown): Pieces {
  const sums: Summed[] = [];
  const days: Stretch[] = [];
  const isWhole = (month: LocalDate, months: number): boolean =>
    month >= from && addDays(addMonths(month, months), -1) <= to;
  for (let month = monthOf(from); month <= to;) {
    const { isSummed, isQuarterSummed, isClosed } = knownOf(month);
    const months = isQuarterSummed && beginsQuarter(month) && isWhole(month, 3) ? 3 : 1;
    const whole = daysOfMonth(month);
    const [part] = partOf(whole, { from, to }, isClosed, false) as [Stretch];
    const isMost = 2 * (daysBetween(part.from, part.to) + 1) > daysBetween(whole.from, whole.to) + 1;
    if (months === 3 || (isSummed && isMost)) sums.push({ month, months });
    if (months === 1 && !(isSummed && isWhole(month, 1)))
      for (const own of partOf(whole, { from, to }, isClosed, isSummed && isMost)) {
        const last = days.at(-1);
        const goesOn = last && last.isClosed === isClosed && last.isTakenOff === own.isTakenOff;
        if (goesOn && addDays(last.to, 1) === own.from) days[days.length - 1] = { ...last, to: own.to };
        else days.push(own);
      }
    month = addMonths(month, months);
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

/** Whether a month is over everywhere. */
export const isOver = (month: LocalDate, today: LocalDate): boolean =>
  addDays(addMonths(month, 1), DAYS_AFTER - 1) <= today;

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
