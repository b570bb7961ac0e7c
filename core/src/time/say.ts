// Dates in words, the same wherever a person reads them: "Tue 17 Mar 2026".
import { weekdayOf, type LocalDate } from './local-date.ts';

export const SHORT_DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'] as const;
export const SHORT_MONTHS = [
  'Jan',
  'Feb',
  'Mar',
  'Apr',
  'May',
  'Jun',
  'Jul',
  'Aug',
  'Sep',
  'Oct',
  'Nov',
  'Dec',
] as const;

/** "17 Mar 2026". */
export function sayDay(date: LocalDate): string {
  return `${Number(date.slice(8))} ${SHORT_MONTHS[Number(date.slice(5, 7)) - 1]} ${date.slice(0, 4)}`;
}

/** "Tue 17 Mar 2026". */
export function sayDate(date: LocalDate): string {
  return `${SHORT_DAYS[weekdayOf(date) - 1]} ${sayDay(date)}`;
}
