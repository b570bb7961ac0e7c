// How much of a part there was, day by day, and how much of it work takes from month to month.
import { addDays, addMonths, asLocalDate, type LocalDate } from '../time/index.ts';
import type { Dated } from './reorder.ts';

/**
 * What was on hand at the end of each day from `from` to `today`, both included, worked back from what is there now: each day had what the
 * next one has less what moved on that next day. Moves before `from` and after `today` say nothing. Thousandths of a unit.
 * Source: domain-work, Stores: on hand is the sum of the moves.
 */
export function onHandByDay(onHand: number, moved: readonly Dated[], from: LocalDate, today: LocalDate): Dated[] {
  const sums = new Map<LocalDate, number>();
  for (const { day, thousandths } of moved) sums.set(day, (sums.get(day) ?? 0) + thousandths);
  const back: Dated[] = [];
  let there = onHand;
  for (let day = today; day >= from; day = addDays(day, -1)) {
    back.push({ day, thousandths: there });
    there -= sums.get(day) ?? 0;
  }
  return back.reverse();
}

export type Monthly = { readonly month: string; readonly thousandths: number };

/** Sums by month ("2026-11"), `count` of them from `first` on, those of nothing as 0; what lies outside counts nowhere. Thousandths. */
export function byMonth(all: readonly Dated[], first: string, count: number): Monthly[] {
  const sums = new Map<string, number>();
  for (const { day, thousandths } of all) sums.set(day.slice(0, 7), (sums.get(day.slice(0, 7)) ?? 0) + thousandths);
  const begin = asLocalDate(`${first}-01`);
  return Array.from({ length: count }, (_, i) => {
    const month = addMonths(begin, i).slice(0, 7);
    return { month, thousandths: sums.get(month) ?? 0 };
  });
}

/**
 * How often what lies in a store went out in a year, in hundredths: the worth taken over the mean of what lay there at its beginning and
 * lies there now, half-up. Null where nothing lay there either time. Source: the common measure of stock turnover, at cost.
 */
export function turnoverOf(taken: number, before: number, now: number): number | null {
  const mean = before + now;
  return mean <= 0 ? null : Math.floor((2 * taken * 100) / mean + 0.5);
}
