// A local date: a day on the wall calendar of some place, without zone or time of day.
// Due dates, terms and holidays are local dates; arithmetic runs on integer days since 1970-01-01.

declare const localDateBrand: unique symbol;
/** A proleptic Gregorian date as `YYYY-MM-DD`, years 1600 to 9999. */
export type LocalDate = string & { readonly [localDateBrand]: true };

/** Days since 1970-01-01; the form in which dates are counted with. */
export type DayNumber = number;

export type CivilDate = { readonly year: number; readonly month: number; readonly day: number };

/** 1 = Monday … 7 = Sunday (ISO 8601). */
export type Weekday = 1 | 2 | 3 | 4 | 5 | 6 | 7;

const pattern = /^(\d{4})-(\d{2})-(\d{2})$/;

export function isLeapYear(year: number): boolean {
  return (year % 4 === 0 && year % 100 !== 0) || year % 400 === 0;
}

const monthLengths = [31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31] as const;

export function daysInMonth(year: number, month: number): number {
  return month === 2 && isLeapYear(year) ? 29 : (monthLengths[month - 1] ?? 0);
}

/** Days since 1970-01-01 of a civil date (the era arithmetic of a 400-year cycle of 146,097 days). */
export function dayNumberOfCivil(year: number, month: number, day: number): DayNumber {
  const y = month <= 2 ? year - 1 : year;
  const era = Math.floor(y / 400);
  const yearOfEra = y - era * 400;
  const dayOfYear = Math.floor((153 * (month + (month > 2 ? -3 : 9)) + 2) / 5) + day - 1;
  const dayOfEra = yearOfEra * 365 + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100) + dayOfYear;
  return era * 146097 + dayOfEra - 719468;
}

export function civilOfDayNumber(day: DayNumber): CivilDate {
  const z = day + 719468;
  const era = Math.floor(z / 146097);
  const dayOfEra = z - era * 146097;
  const yearOfEra = Math.floor(
    (dayOfEra - Math.floor(dayOfEra / 1460) + Math.floor(dayOfEra / 36524) - Math.floor(dayOfEra / 146096)) / 365,
  );
  const dayOfYear = dayOfEra - (365 * yearOfEra + Math.floor(yearOfEra / 4) - Math.floor(yearOfEra / 100));
  const shifted = Math.floor((5 * dayOfYear + 2) / 153);
  const month = shifted < 10 ? shifted + 3 : shifted - 9;
  return {
    year: yearOfEra + era * 400 + (month <= 2 ? 1 : 0),
    month,
    day: dayOfYear - Math.floor((153 * shifted + 2) / 5) + 1,
  };
}

const two = (n: number): string => (n < 10 ? `0${n}` : String(n));

export function localDate(year: number, month: number, day: number): LocalDate {
  return `${String(year).padStart(4, '0')}-${two(month)}-${two(day)}` as LocalDate;
}

/** Reads `YYYY-MM-DD` (ISO 8601 extended calendar date); anything else, or a day that does not exist, gives null. */
export function parseLocalDate(text: string): LocalDate | null {
  const found = pattern.exec(text);
  if (!found) return null;
  const [year, month, day] = [Number(found[1]), Number(found[2]), Number(found[3])];
  if (year < 1600 || month < 1 || month > 12 || day < 1 || day > daysInMonth(year, month)) return null;
  return text as LocalDate;
}

/** Reads a date that the program itself wrote; a malformed one is a fault, not a refusal. */
export function asLocalDate(text: string): LocalDate {
  const date = parseLocalDate(text);
  if (date === null) throw new Error(`not a local date: ${text}`);
  return date;
}

export function toDayNumber(date: LocalDate): DayNumber {
  return dayNumberOfCivil(Number(date.slice(0, 4)), Number(date.slice(5, 7)), Number(date.slice(8, 10)));
}

/** Dates of the years that are planned in are written over and over: each is put into words once. */
const WRITTEN_DAYS = 84_000;
// Made in its full length: one that grows from day 20,000 on would be kept as a table of hashes, three times as slow.
const written: (LocalDate | undefined)[] = new Array<undefined>(WRITTEN_DAYS).fill(undefined);

export function fromDayNumber(day: DayNumber): LocalDate {
  const known = written[day];
  if (known !== undefined) return known;
  const civil = civilOfDayNumber(day);
  const date = localDate(civil.year, civil.month, civil.day);
  if (day >= 0 && day < WRITTEN_DAYS) written[day] = date;
  return date;
}

export function addDays(date: LocalDate, days: number): LocalDate {
  return fromDayNumber(toDayNumber(date) + days);
}

export function daysBetween(from: LocalDate, to: LocalDate): number {
  return toDayNumber(to) - toDayNumber(from);
}

/** Adds calendar months; a day the target month lacks becomes its last day. */
export function addMonths(date: LocalDate, months: number): LocalDate {
  const { year, month, day } = civilOfDayNumber(toDayNumber(date));
  const index = year * 12 + (month - 1) + months;
  const [y, m] = [Math.floor(index / 12), (((index % 12) + 12) % 12) + 1];
  return localDate(y, m, Math.min(day, daysInMonth(y, m)));
}

/** Day 0 (1970-01-01) was a Thursday. */
export function weekdayOfDayNumber(day: DayNumber): Weekday {
  return (((((day + 3) % 7) + 7) % 7) + 1) as Weekday;
}

export function weekdayOf(date: LocalDate): Weekday {
  return weekdayOfDayNumber(toDayNumber(date));
}

export type IsoWeek = { readonly year: number; readonly week: number };

/** ISO 8601 week: Monday first, week 1 holds the year's first Thursday. */
export function isoWeekOf(date: LocalDate): IsoWeek {
  const day = toDayNumber(date);
  const thursday = day - weekdayOfDayNumber(day) + 4;
  const year = civilOfDayNumber(thursday).year;
  return { year, week: Math.floor((thursday - dayNumberOfCivil(year, 1, 1)) / 7) + 1 };
}

/** The same ISO week's day with another weekday ("Tuesdays become Wednesdays"). */
export function withWeekday(date: LocalDate, weekday: Weekday): LocalDate {
  return addDays(date, weekday - weekdayOf(date));
}
