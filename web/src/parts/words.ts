// Words and numbers as screens show them: dates, times with their zone, lengths, percentages.
import { sayAmountOf } from '#core/money.ts';
import {
  daysBetween,
  localDateAt,
  sayDate,
  sayLength,
  SHORT_DAYS,
  SHORT_MONTHS,
  toWallTime,
  weekdayOf,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';

export { sayDate };

/** "17 Mar", with the year only when it is another than the reader's. */
export function sayShortDate(date: LocalDate, today: LocalDate): string {
  const day = `${Number(date.slice(8))} ${SHORT_MONTHS[Number(date.slice(5, 7)) - 1]}`;
  return date.slice(0, 4) === today.slice(0, 4) ? day : `${day} ${date.slice(0, 4)}`;
}

/** "Tue 17 Mar": the day stands beside a year that is plain. */
export const sayDateOfYear = (date: LocalDate): string =>
  `${SHORT_DAYS[weekdayOf(date) - 1]} ${sayShortDate(date, date)}`;

const KILOBYTE = 1024;
/** "12 kB", "2.4 MB", "9.8 GB". */
export function sayBytes(n: number): string {
  if (n < KILOBYTE ** 2) return `${Math.max(1, Math.round(n / KILOBYTE))} kB`;
  return n < 1000 * KILOBYTE ** 2 ? `${(n / KILOBYTE ** 2).toFixed(1)} MB` : `${(n / KILOBYTE ** 3).toFixed(1)} GB`;
}

export function sayTime(at: Instant, zone: Zone): string {
  const { minutes } = toWallTime(zone, at);
  return `${String(Math.floor(minutes / 60)).padStart(2, '0')}:${String(minutes % 60).padStart(2, '0')}`;
}

/** "11:40" today, "Wed 08:10" within a week either way, else "Tue 17 Mar 08:10". */
export function sayMoment(at: Instant, now: Instant, zone: Zone): string {
  const [date, today] = [localDateAt(zone, at), localDateAt(zone, now)];
  const time = sayTime(at, zone);
  const days = daysBetween(today, date);
  if (days === 0) return time;
  if (Math.abs(days) < 7) return `${SHORT_DAYS[weekdayOf(date) - 1]} ${time}`;
  return `${SHORT_DAYS[weekdayOf(date) - 1]} ${sayShortDate(date, today)} ${time}`;
}

/** A zone's short name for "where it differs from the reader's": its city. */
export function sayZone(zone: string): string {
  return (zone.split('/').pop() ?? zone).replaceAll('_', ' ');
}

/** In tenths of a percent; what is less than all is never said to be all. */
export function sayShare(share: number | null): string {
  if (share === null) return '–';
  return share === 1 ? '100 %' : `${Math.min(share * 100, 99.9).toFixed(1)} %`;
}

export function sayMinutes(minutes: number): string {
  return sayLength(minutes * 60_000, 'as hours');
}

/** Hours with a tenth, for figures that are compared: "47.2 h". */
export const sayHours = (minutes: number): string =>
  `${(minutes / 60).toLocaleString('en-GB', { maximumFractionDigits: 1 })} h`;

export function plural(n: number, one: string, many = `${one}s`): string {
  return `${n} ${n === 1 ? one : many}`;
}

/** A number with a true minus sign. */
export function sayValue(value: number | string): string {
  return String(value).replace('-', '−');
}

/** "−86 to −74 °C", "from 0.4 m/s", or nothing where any answer is expected. */
export function sayExpected({
  from,
  to,
  unit,
}: {
  from: number | null;
  to: number | null;
  unit: string | null;
}): string {
  const tail = unit ? ` ${unit}` : '';
  if (from !== null && to !== null) return `${sayValue(from)} to ${sayValue(to)}${tail}`;
  if (from !== null) return `from ${sayValue(from)}${tail}`;
  return to !== null ? `up to ${sayValue(to)}${tail}` : '';
}

/** An amount in minor units, with its currency. */
export const sayMoney = (minor: number, currency: string): string => `${currency} ${sayAmountOf(minor, currency)}`;
