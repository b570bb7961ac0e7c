// Working days: how a due date moves over a site's calendar, and how working days are counted.
import { civilOfDayNumber, fromDayNumber, toDayNumber, type LocalDate } from '../time/index.ts';
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
  return {
    isWorkingDay: (date) => open(toDayNumber(date)),
    move(date, convention) {
      const moved = moveDay(toDayNumber(date), convention);
      return moved === null ? null : fromDayNumber(moved);
    },
    addWorkingDays(date, n) {
      const step = n < 0 ? -1 : 1;
      let day: number | null = toDayNumber(date);
      for (let left = Math.abs(n); left > 0 && day !== null; left -= 1) day = seek(day + step, step);
      return day === null ? null : fromDayNumber(day);
    },
  };
}
