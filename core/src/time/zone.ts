// Time zones: from wall time to instants and back, by the run time's IANA tz database.
// Offsets are read once per zone and year into a table, so that hot paths never ask Intl.
import { DAY, type Instant } from './instant.ts';
import { civilOfDayNumber, dayNumberOfCivil, fromDayNumber, toDayNumber, type LocalDate } from './local-date.ts';

declare const zoneBrand: unique symbol;
/** An IANA zone name the run time knows, such as `Europe/Lisbon`. */
export type Zone = string & { readonly [zoneBrand]: true };

/** Wall time: minutes after midnight of a date, 0 to 1,440 (24:00 is the next midnight). */
export type WallTime = { readonly date: LocalDate; readonly minutes: number };

type YearOffsets = { readonly starts: readonly number[]; readonly offsets: readonly number[] };

const formatters = new Map<string, Intl.DateTimeFormat>();
const tables = new Map<string, Map<number, YearOffsets>>();

function formatterOf(zone: string): Intl.DateTimeFormat {
  let formatter = formatters.get(zone);
  if (!formatter) {
    formatter = new Intl.DateTimeFormat('en-US', {
      timeZone: zone,
      hourCycle: 'h23',
      year: 'numeric',
      month: 'numeric',
      day: 'numeric',
      hour: 'numeric',
      minute: 'numeric',
      second: 'numeric',
      era: 'short',
    });
    formatters.set(zone, formatter);
  }
  return formatter;
}

/** A known zone name, or null. Fixed offsets such as `+01:00` are refused: a place keeps its zone's clock changes. */
export function parseZone(text: string): Zone | null {
  if (text !== 'UTC' && !/^[A-Za-z_]+\/[A-Za-z0-9_+\-/]+$/.test(text)) return null;
  try {
    formatterOf(text);
    return text as Zone;
  } catch {
    return null;
  }
}

export function asZone(text: string): Zone {
  const zone = parseZone(text);
  if (zone === null) throw new Error(`not a known zone: ${text}`);
  return zone;
}

function askOffset(zone: string, at: number): number {
  const values: Record<string, number> = {};
  for (const part of formatterOf(zone).formatToParts(at)) {
    if (part.type !== 'literal' && part.type !== 'era') values[part.type] = Number(part.value);
  }
  const days = dayNumberOfCivil(values.year ?? 0, values.month ?? 1, values.day ?? 1);
  const wall =
    days * DAY + (values.hour ?? 0) * 3_600_000 + (values.minute ?? 0) * 60_000 + (values.second ?? 0) * 1000;
  return wall - Math.floor(at / 1000) * 1000;
}

function firstWithNewOffset(zone: string, low: number, high: number, offsetLow: number): number {
  let [a, b] = [low, high];
  while (b - a > 1000) {
    const middle = Math.floor((a + b) / 2000) * 1000;
    if (askOffset(zone, middle) === offsetLow) a = middle;
    else b = middle;
  }
  return b;
}

function readYear(zone: string, year: number): YearOffsets {
  const start = dayNumberOfCivil(year, 1, 1) * DAY;
  const end = dayNumberOfCivil(year + 1, 1, 1) * DAY;
  const starts = [start];
  const offsets = [askOffset(zone, start)];
  const step = 10 * DAY;
  for (let at = start; at < end; at += step) {
    const next = Math.min(at + step, end);
    const before = offsets[offsets.length - 1] as number;
    const after = askOffset(zone, next);
    if (after === before) continue;
    starts.push(firstWithNewOffset(zone, at, next, before));
    offsets.push(after);
  }
  return { starts, offsets };
}

/** As `readYear`, read once. */
function yearOf(zone: string, year: number): YearOffsets {
  let years = tables.get(zone);
  if (!years) tables.set(zone, (years = new Map<number, YearOffsets>()));
  let table = years.get(year);
  if (!table) years.set(year, (table = readYear(zone, year)));
  return table;
}

/** An instant from which another offset holds, in milliseconds. */
export type OffsetChange = { readonly at: Instant; readonly before: number; readonly after: number };

/** When clocks are changed in a zone from the first day of a year to the last of another, by the time-zone database. */
export function offsetChanges(zone: Zone, fromYear: number, toYear: number): OffsetChange[] {
  const found: OffsetChange[] = [];
  for (let year = fromYear; year <= toYear; year += 1) {
    const { starts, offsets } = yearOf(zone, year);
    for (let i = 1; i < starts.length; i += 1)
      found.push({ at: starts[i] as Instant, before: offsets[i - 1] as number, after: offsets[i] as number });
  }
  return found;
}

/** Offset from UTC in milliseconds that holds in the zone at the instant. */
export function offsetAt(zone: Zone, at: number): number {
  const table = yearOf(zone, civilOfDayNumber(Math.floor(at / DAY)).year);
  let index = table.starts.length - 1;
  while (index > 0 && (table.starts[index] as number) > at) index -= 1;
  return table.offsets[index] as number;
}

/**
 * The instant of a wall time. A repeated local time is its earlier instant; a skipped one is moved forward by the
 * length of the gap (RFC 5545, section 3.3.5; Temporal's `compatible`).
 */
export function instantOfWall(zone: Zone, day: number, minutes: number): Instant {
  const wall = day * DAY + minutes * 60_000;
  const before = offsetAt(zone, wall - DAY);
  const after = offsetAt(zone, wall + DAY);
  if (before === after) return (wall - before) as Instant;
  const early = wall - before;
  if (offsetAt(zone, early) === before) return early as Instant;
  const late = wall - after;
  return (offsetAt(zone, late) === after ? late : early) as Instant;
}

/** As `instantOfWall`, but a repeated local time is its later instant: what is written down after the hour was lived twice. */
export function laterInstantOfWall(zone: Zone, day: number, minutes: number): Instant {
  const first = instantOfWall(zone, day, minutes);
  const wall = day * DAY + minutes * 60_000;
  const late = wall - offsetAt(zone, wall + DAY);
  return late > first && offsetAt(zone, late) === wall - late ? (late as Instant) : first;
}

export function toInstant(zone: Zone, wall: WallTime): Instant {
  return instantOfWall(zone, toDayNumber(wall.date), wall.minutes);
}

export function toWallTime(zone: Zone, at: Instant): WallTime {
  const wall = at + offsetAt(zone, at);
  const day = Math.floor(wall / DAY);
  return { date: fromDayNumber(day), minutes: Math.floor((wall - day * DAY) / 60_000) };
}

/** The local date at an instant in a zone. */
export function localDateAt(zone: Zone, at: Instant): LocalDate {
  return fromDayNumber(Math.floor((at + offsetAt(zone, at)) / DAY));
}

/** The first instant of a local date in a zone. */
export function startOfDay(zone: Zone, date: LocalDate): Instant {
  return instantOfWall(zone, toDayNumber(date), 0);
}
