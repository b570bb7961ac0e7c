// How fast a counted right is used: whether it lasts its period, what lapses with it, and how much more would have lasted.
import { addDays, daysBetween, type LocalDate } from '../time/index.ts';
import type { AllowanceLeft } from './allowance.ts';

export type Pace = {
  /** `used up`: nothing is left. `runs out`: at the pace so far before the period ends. `lapses`: much is left and the end is near. */
  readonly state: 'used up' | 'runs out' | 'lapses' | 'lasts';
  /** When it is used up at the pace so far; null: not within the period. */
  readonly runsOutOn: LocalDate | null;
  /** What the whole period would take at the pace so far, rounded up; null: the period has no end. */
  readonly wholePeriod: number | null;
};

/** Days before the end of a period from which what is left of it is told. */
export const LAPSES_WITHIN_DAYS = 60;
/** Of an open period nothing can be said of its whole. */
const dayCount = ({ from, to }: Pick<AllowanceLeft, 'from' | 'to'>): number | null =>
  to === null ? null : daysBetween(from, to) + 1;

/**
 * The pace of a counted right on a day: what was drawn in the days gone by so far, that day included. Before anything was drawn it lasts.
 * Source: ours; a plain proportion, for a person to judge.
 */
export function paceOf(left: AllowanceLeft, carriesOver: boolean, today: LocalDate): Pace {
  const days = dayCount(left);
  const gone = Math.max(1, daysBetween(left.from, today) + 1);
  const wholePeriod = days === null ? null : Math.ceil((left.drawn * days) / Math.min(gone, days));
  if (left.drawn >= left.granted) return { state: 'used up', runsOutOn: left.usedUpOn, wholePeriod };
  const daysItLasts = left.drawn === 0 ? null : Math.floor((left.granted * gone) / left.drawn);
  const runsOut = daysItLasts === null ? null : addDays(left.from, daysItLasts);
  const runsOutOn = runsOut !== null && (left.to === null || runsOut <= left.to) ? runsOut : null;
  const isNearEnd = left.to !== null && daysBetween(today, left.to) <= LAPSES_WITHIN_DAYS;
  if (runsOutOn !== null) return { state: 'runs out', runsOutOn, wholePeriod };
  return { state: isNearEnd && !carriesOver ? 'lapses' : 'lasts', runsOutOn: null, wholePeriod };
}
