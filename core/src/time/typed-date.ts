// Dates as people type them. What was understood is always shown in words beside the field, so nothing is guessed silently.
import {
  addDays,
  civilOfDayNumber,
  parseLocalDate,
  localDate,
  daysInMonth,
  toDayNumber,
  type LocalDate,
} from './local-date.ts';
import { SHORT_DAYS, SHORT_MONTHS } from './say.ts';

function dateOf(year: number, month: number, day: number): LocalDate | null {
  return year >= 1600 && year <= 9999 && month >= 1 && month <= 12 && day >= 1 && day <= daysInMonth(year, month)
    ? localDate(year, month, day)
    : null;
}

function monthOf(word: string): number {
  return SHORT_MONTHS.findIndex((m) => word.toLowerCase().startsWith(m.toLowerCase())) + 1;
}

const fullYear = (text: string | undefined, today: number): number =>
  text === undefined ? today : text.length === 2 ? 2000 + Number(text) : Number(text);

/**
 * Reads "2026-03-17", "17 Mar 2026", "Tue 17 March", "17/3/2026" (day first), "17.3.", "today", "tomorrow", "+14".
 * A date without a year is taken in the year of `today`. Anything else, or a day that does not exist, gives null.
 */
export function readTypedDate(typed: string, today: LocalDate): LocalDate | null {
  const text = typed.trim().toLowerCase().replace(/,/g, ' ').replace(/\s+/g, ' ');
  const { year } = civilOfDayNumber(toDayNumber(today));
  if (text === 'today') return today;
  if (text === 'tomorrow') return addDays(today, 1);
  if (text === 'yesterday') return addDays(today, -1);
  const relative = /^([+-]\d{1,4})(?: days?)?$/.exec(text);
  if (relative) return addDays(today, Number(relative[1]));
  const iso = parseLocalDate(text);
  if (iso) return iso;
  const numeric = /^(\d{1,2})[/.](\d{1,2})(?:[/.](\d{4}|\d{2})?)?$/.exec(text);
  if (numeric) return dateOf(fullYear(numeric[3], year), Number(numeric[2]), Number(numeric[1]));
  const withoutDay = SHORT_DAYS.some((d) => text.startsWith(d.toLowerCase())) ? text.replace(/^[a-z]+ /, '') : text;
  const words = /^(\d{1,2}) ([a-z]{3,9})(?: (\d{4}|\d{2}))?$/.exec(withoutDay);
  return words ? dateOf(fullYear(words[3], year), monthOf(words[2] ?? ''), Number(words[1])) : null;
}

/**
 * Reads a time of day in minutes since midnight: "9:40", "09.40", "940", "0940", "9", "9h", "9 h 40". Anything else, or a
 * time that no clock shows, gives null. 24:00 is the next day's midnight and is refused.
 */
export function readTypedTime(typed: string): number | null {
  const found = /^(\d{1,2})(?:\s*[:.h]\s*|(?=\d{2}$))(\d{2})$|^(\d{1,2})\s*h?$/i.exec(typed.trim());
  if (!found) return null;
  const [hours, minutes] = [Number(found[1] ?? found[3]), Number(found[2] ?? 0)];
  return hours < 24 && minutes < 60 ? hours * 60 + minutes : null;
}

/** Minutes since midnight as a clock shows them, "09:40". */
export function sayTimeOfDay(minutes: number): string {
  const two = (n: number): string => String(n).padStart(2, '0');
  return `${two(Math.floor(minutes / 60))}:${two(minutes % 60)}`;
}
