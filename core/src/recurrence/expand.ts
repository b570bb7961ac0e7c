// Expanding a rule into dates, on integer days: one period (day, week, month, year) at a time.
import {
  civilOfDayNumber,
  dayNumberOfCivil,
  daysInMonth,
  fromDayNumber,
  isLeapYear,
  toDayNumber,
  weekdayOfDayNumber,
  type DayNumber,
  type LocalDate,
} from '../time/index.ts';
import type { RecurrenceRule, WeekdayPart } from './rule.ts';

/** No rule is followed past this year: one that has not fired by then never fires. */
const LAST_YEAR = 2199;
const LAST_DAY = dayNumberOfCivil(LAST_YEAR, 12, 31);

export type Stretch = { readonly from: LocalDate; readonly to: LocalDate };

type Compiled = {
  readonly rule: RecurrenceRule;
  readonly anchor: DayNumber;
  readonly until: DayNumber;
  readonly months: readonly boolean[] | null;
  readonly weekdays: readonly boolean[] | null;
  readonly monthDays: readonly number[];
  readonly byDay: readonly WeekdayPart[];
  readonly byMonth: readonly number[];
};

/** Parts the rule leaves out are taken from the anchor (RFC 5545, section 3.3.10: "information missing … is taken from DTSTART"). */
function compile(rule: RecurrenceRule, anchorDate: LocalDate): Compiled {
  const anchor = toDayNumber(anchorDate);
  const { month, day } = civilOfDayNumber(anchor);
  const weekday = weekdayOfDayNumber(anchor);
  let { byDay, byMonthDay: monthDays, byMonth } = rule;
  if (rule.frequency === 'WEEKLY' && byDay.length === 0) byDay = [{ weekday, ordinal: null }];
  if (rule.frequency === 'MONTHLY' && byDay.length === 0 && monthDays.length === 0) monthDays = [day];
  if (rule.frequency === 'YEARLY' && byDay.length === 0 && monthDays.length === 0) {
    monthDays = [day];
    if (byMonth.length === 0) byMonth = [month];
  }
  const flags = (size: number, values: readonly number[]) => Array.from({ length: size }, (_, i) => values.includes(i));
  return {
    rule,
    anchor,
    monthDays,
    byDay,
    byMonth,
    until: rule.until === null ? LAST_DAY : Math.min(toDayNumber(rule.until), LAST_DAY),
    months: byMonth.length > 0 ? flags(13, byMonth) : null,
    weekdays:
      byDay.length > 0
        ? flags(
            8,
            byDay.map((d) => d.weekday),
          )
        : null,
  };
}

function datesOfWeek(c: Compiled, weekStartDay: DayNumber, out: number[]): void {
  for (let day = weekStartDay; day < weekStartDay + 7; day += 1) {
    if (!c.weekdays?.[weekdayOfDayNumber(day)]) continue;
    if (c.months && !c.months[civilOfDayNumber(day).month]) continue;
    out.push(day);
  }
}

/** The days of [first, first + length) that one BYDAY part names. */
function pushWeekdays(part: WeekdayPart, first: DayNumber, length: number, out: number[]): void {
  const firstMatch = first + ((part.weekday - weekdayOfDayNumber(first) + 7) % 7);
  const end = first + length;
  if (part.ordinal === null) {
    for (let day = firstMatch; day < end; day += 7) out.push(day);
    return;
  }
  const lastMatch = firstMatch + Math.floor((end - 1 - firstMatch) / 7) * 7;
  const day = part.ordinal > 0 ? firstMatch + (part.ordinal - 1) * 7 : lastMatch + (part.ordinal + 1) * 7;
  if (day >= first && day < end) out.push(day);
}

function datesOfMonth(c: Compiled, year: number, month: number, out: number[]): void {
  const first = dayNumberOfCivil(year, month, 1);
  const length = daysInMonth(year, month);
  if (c.monthDays.length > 0) {
    for (const n of c.monthDays) {
      const day = n > 0 ? n : length + 1 + n;
      if (day < 1 || day > length) continue;
      if (c.byDay.length > 0 && !dayMatches(c, first + day - 1, first, length)) continue;
      out.push(first + day - 1);
    }
    return;
  }
  for (const part of c.byDay) pushWeekdays(part, first, length, out);
}

/** BYDAY limits where BYMONTHDAY expands. */
function dayMatches(c: Compiled, day: DayNumber, first: DayNumber, length: number): boolean {
  return c.byDay.some((part) => {
    if (part.weekday !== weekdayOfDayNumber(day)) return false;
    if (part.ordinal === null) return true;
    const matches: number[] = [];
    pushWeekdays(part, first, length, matches);
    return matches[0] === day;
  });
}

function datesOfYear(c: Compiled, year: number, out: number[]): void {
  if (c.monthDays.length > 0 || c.byMonth.length > 0) {
    for (let month = 1; month <= 12; month += 1) if (!c.months || c.months[month]) datesOfMonth(c, year, month, out);
    return;
  }
  const first = dayNumberOfCivil(year, 1, 1);
  for (const part of c.byDay) pushWeekdays(part, first, isLeapYear(year) ? 366 : 365, out);
}

function dayFits(c: Compiled, day: DayNumber): boolean {
  if (c.weekdays && !c.weekdays[weekdayOfDayNumber(day)]) return false;
  if (!c.months && c.monthDays.length === 0) return true;
  const civil = civilOfDayNumber(day);
  if (c.months && !c.months[civil.month]) return false;
  if (c.monthDays.length === 0) return true;
  const length = daysInMonth(civil.year, civil.month);
  return c.monthDays.some((n) => (n > 0 ? n : length + 1 + n) === civil.day);
}

function sortUnique(days: number[]): void {
  if (days.length < 2) return;
  days.sort((a, b) => a - b);
  let kept = 1;
  for (let i = 1; i < days.length; i += 1) if (days[i] !== days[kept - 1]) days[kept++] = days[i] as number;
  days.length = kept;
}

function chooseBySetPos(days: number[], positions: readonly number[]): number[] {
  const chosen = positions
    .map((p) => days[p > 0 ? p - 1 : days.length + p])
    .filter((d): d is number => d !== undefined);
  sortUnique(chosen);
  return chosen;
}

/** Calls `take` for each date from the anchor on, in order, until it answers false or the rule ends. Skips whole periods before `from` when it may. */
function walk(c: Compiled, from: DayNumber, take: (day: DayNumber) => boolean): void {
  const { rule } = c;
  const anchorCivil = civilOfDayNumber(c.anchor);
  const weekAnchor = c.anchor - ((weekdayOfDayNumber(c.anchor) - rule.weekStart + 7) % 7);
  const monthAnchor = anchorCivil.year * 12 + anchorCivil.month - 1;
  // COUNT runs from the anchor, so counted rules may not skip ahead.
  const skipTo = rule.count === null && from > c.anchor ? from : c.anchor;
  const target = civilOfDayNumber(skipTo);
  const ahead: Record<RecurrenceRule['frequency'], number> = {
    DAILY: skipTo - c.anchor,
    WEEKLY: Math.floor((skipTo - weekAnchor) / 7),
    MONTHLY: target.year * 12 + target.month - 1 - monthAnchor,
    YEARLY: target.year - anchorCivil.year,
  };
  let step = Math.max(0, Math.floor(ahead[rule.frequency] / rule.interval)) * rule.interval;
  let left = rule.count ?? Infinity;
  const found: number[] = [];
  for (; ; step += rule.interval) {
    found.length = 0;
    let begin: number;
    switch (rule.frequency) {
      case 'DAILY':
        begin = c.anchor + step;
        if (dayFits(c, begin)) found.push(begin);
        break;
      case 'WEEKLY':
        begin = weekAnchor + step * 7;
        datesOfWeek(c, begin, found);
        break;
      case 'MONTHLY': {
        const index = monthAnchor + step;
        const [year, month] = [Math.floor(index / 12), (index % 12) + 1];
        if (year > LAST_YEAR) return;
        begin = dayNumberOfCivil(year, month, 1);
        if (!c.months || c.months[month]) datesOfMonth(c, year, month, found);
        break;
      }
      case 'YEARLY':
        if (anchorCivil.year + step > LAST_YEAR) return;
        begin = dayNumberOfCivil(anchorCivil.year + step, 1, 1);
        datesOfYear(c, anchorCivil.year + step, found);
        break;
    }
    if (begin > c.until) return;
    if (found.length > 1) sortUnique(found);
    const chosen = rule.bySetPos.length > 0 ? chooseBySetPos(found, rule.bySetPos) : found;
    for (let i = 0; i < chosen.length; i += 1) {
      const day = chosen[i] as number;
      if (day < c.anchor) continue;
      if (day > c.until || left <= 0) return;
      left -= 1;
      if (day >= from && !take(day)) return;
    }
    if (left <= 0) return;
  }
}

/**
 * The rule's dates (as day numbers) with from ≤ date < to, at most `limit`. The anchor is the DTSTART: INTERVAL and COUNT
 * run from it; the anchor itself counts only when it fits the rule. Dates after 2199 do not exist.
 * Source: RFC 5545, sections 3.3.10 and 3.8.5.3.
 */
export function expandDays(
  rule: RecurrenceRule,
  anchor: LocalDate,
  from: DayNumber,
  to: DayNumber,
  limit = 10_000,
): DayNumber[] {
  const days: DayNumber[] = [];
  walk(compile(rule, anchor), from, (day) => {
    if (day >= to) return false;
    days.push(day);
    return days.length < limit;
  });
  return days;
}

/** As `expandDays`, with dates; the stretch includes its start and excludes its end. */
export function expandDates(rule: RecurrenceRule, anchor: LocalDate, stretch: Stretch, limit = 10_000): LocalDate[] {
  return expandDays(rule, anchor, toDayNumber(stretch.from), toDayNumber(stretch.to), limit).map(fromDayNumber);
}

/** The next dates on or after a day; an empty answer means that the rule never fires (again) before 2200. */
export function nextDates(rule: RecurrenceRule, anchor: LocalDate, from: LocalDate, howMany: number): LocalDate[] {
  return expandDays(rule, anchor, toDayNumber(from), LAST_DAY + 1, howMany).map(fromDayNumber);
}
