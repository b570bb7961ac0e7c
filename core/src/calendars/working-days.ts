// Working days: how a due date moves over a site's calendar, and how working days are counted.
import { civilOfDayNumber, fromDayNumber, toDayNumber, type DayNumber, type LocalDate } from '../time/index.ts';
import { dayLookup, type Calendar } from './calendar.ts';

export const WORKING_DAY_CONVENTIONS = ['none', 'following', 'modified following', 'preceding', 'nearest'] as const;
export type WorkingDayConvention = (typeof WORKING_DAY_CONVENTIONS)[number];

/** A calendar that has no working day within this many days is treated as never opening. */
const SEARCH_LIMIT_DAYS = 3653;

export type WorkingDays = {
  isWorkingDay(date: LocalDate): boolean;
  /** The date moved by a convention, or null when no working day comes within ten years. */
  move(date: LocalDate, convention: WorkingDayConvention): LocalDate | null;
  /** The n-th working day after (n > 0) or before (n < 0) a date, the date itself not counted; null when there is none within ten years. */
  addWorkingDays(date: LocalDate, n: number): LocalDate | null;
  /** The same over days as numbers, for whoever goes over many. */
  readonly days: {
    readonly isOpen: (day: DayNumber) => boolean;
    readonly move: (day: DayNumber, convention: WorkingDayConvention) => DayNumber | null;
    readonly add: (day: DayNumber, n: number) => DayNumber | null;
  };
};

/** Months counted through the years: the same month of another year is another month. */
function monthOf(day: number): number {
  const { year, month } = civilOfDayNumber(day);
  return year * 12 + month;
}

/**
 * Working days of a calendar: days on which at least one opening span starts. Without a calendar every day counts.
 * Conventions: ISDA Definitions (following, modified following, preceding); `nearest` ties go forward (domain: Recurrence).
 */
export function workingDaysOf(calendar: Calendar | null): WorkingDays {
  const lookup = calendar && dayLookup(calendar);
  const open = (day: number): boolean => !lookup || lookup.spansOn(day).length > 0;
  const seek = (day: number, step: 1 | -1): number | null => {
    for (let i = 0; i <= SEARCH_LIMIT_DAYS; i += 1) if (open(day + i * step)) return day + i * step;
    return null;
  };
  const moveDay = (day: number, convention: WorkingDayConvention): number | null => {
    switch (convention) {
      case 'none':
        return day;
      case 'following':
        return seek(day, 1);
      case 'preceding':
        return seek(day, -1);
      case 'modified following': {
        const next = seek(day, 1);
        const leaves = next !== null && monthOf(next) !== monthOf(day);
        return leaves ? seek(day, -1) : next;
      }
      case 'nearest': {
        const [next, previous] = [seek(day, 1), seek(day, -1)];
        if (next === null || previous === null) return next ?? previous;
        return next - day <= day - previous ? next : previous;
      }
    }
  };
  const add = (from: DayNumber, n: number): DayNumber | null => {
    const step = n < 0 ? -1 : 1;
    let day: DayNumber | null = from;
    for (let left = Math.abs(n); left > 0 && day !== null; left -= 1) day = seek(day + step, step);
    return day;
  };
  const dated = (day: DayNumber | null): LocalDate | null => (day === null ? null : fromDayNumber(day));
  return {
    isWorkingDay: (date) => open(toDayNumber(date)),
    move: (date, convention) => dated(moveDay(toDayNumber(date), convention)),
    addWorkingDays: (date, n) => dated(add(toDayNumber(date), n)),
    days: { isOpen: open, move: moveDay, add },
  };
}
