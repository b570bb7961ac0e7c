// The readable form of a rule: what the schedule editor offers, its RRULE, and the sentence that describes it.
import { civilOfDayNumber, sayDate, toDayNumber, weekdayOf, type LocalDate, type Weekday } from '../time/index.ts';
import type { RecurrenceRule, WeekdayPart } from './rule.ts';

/** Days 29–31 in a shorter month: moved to the month's last day, or left out (what a bare BYMONTHDAY does). */
export type ShortMonthPolicy = 'clamp' | 'skip';

export type EditedRule =
  | { readonly every: 'day'; readonly interval: number }
  | { readonly every: 'week'; readonly interval: number; readonly weekdays: readonly Weekday[] }
  | { readonly every: 'month'; readonly interval: number; readonly months: readonly number[]; readonly on: MonthPoint }
  | { readonly every: 'year'; readonly interval: number; readonly month: number; readonly on: MonthPoint };

export type MonthPoint =
  | { readonly kind: 'day'; readonly day: number; readonly short: ShortMonthPolicy }
  | { readonly kind: 'weekday'; readonly ordinal: number; readonly weekday: Weekday }
  /** Monday to Friday, whatever the calendar says; the convention moves it over a place's closed days. */
  | { readonly kind: 'working day'; readonly ordinal: number };

export const QUARTER_STARTS: readonly number[] = [1, 4, 7, 10];
export const QUARTER_ENDS: readonly number[] = [3, 6, 9, 12];
const WORKING_DAYS: readonly WeekdayPart[] = ([1, 2, 3, 4, 5] as const).map((weekday) => ({ weekday, ordinal: null }));

export type RuleEnd = { readonly count: number | null; readonly until: LocalDate | null };

const noEnd: RuleEnd = { count: null, until: null };

export function monthParts(on: MonthPoint): Pick<RecurrenceRule, 'byMonthDay' | 'byDay' | 'bySetPos'> {
  if (on.kind === 'working day') return { byMonthDay: [], byDay: WORKING_DAYS, bySetPos: [on.ordinal] };
  if (on.kind === 'weekday')
    return { byMonthDay: [], byDay: [{ weekday: on.weekday, ordinal: on.ordinal }], bySetPos: [] };
  if (on.day > 28 && on.short === 'clamp') {
    // "The last of the days 28 to n that the month has" is the day clamped, in plain RFC 5545.
    const days = Array.from({ length: on.day - 27 }, (_, i) => 28 + i);
    return { byMonthDay: days, byDay: [], bySetPos: [-1] };
  }
  return { byMonthDay: [on.day], byDay: [], bySetPos: [] };
}

export function ruleFromEdit(edit: EditedRule, end: RuleEnd = noEnd): RecurrenceRule {
  const base = {
    interval: edit.interval,
    byMonth: [],
    byMonthDay: [],
    byDay: [],
    bySetPos: [],
    weekStart: 1 as Weekday,
    ...end,
  };
  switch (edit.every) {
    case 'day':
      return { ...base, frequency: 'DAILY' };
    case 'week': {
      const byDay: WeekdayPart[] = [...edit.weekdays]
        .sort((a, b) => a - b)
        .map((weekday) => ({ weekday, ordinal: null }));
      return { ...base, frequency: 'WEEKLY', byDay };
    }
    case 'month':
      return { ...base, frequency: 'MONTHLY', byMonth: [...edit.months].sort((a, b) => a - b), ...monthParts(edit.on) };
    case 'year':
      return { ...base, frequency: 'YEARLY', byMonth: [edit.month], ...monthParts(edit.on) };
  }
}

const isWorkingDays = (byDay: readonly WeekdayPart[]): boolean =>
  byDay.length === 5 && WORKING_DAYS.every((w) => byDay.some((d) => d.weekday === w.weekday && d.ordinal === null));

function monthPointOf(rule: RecurrenceRule, anchor: LocalDate): MonthPoint | null {
  const [day, ...others] = rule.byMonthDay;
  const only = rule.byDay[0];
  const [position, ...positions] = rule.bySetPos;
  if (position !== undefined && positions.length === 0 && Math.abs(position) <= 5 && isWorkingDays(rule.byDay))
    return rule.byMonthDay.length === 0 ? { kind: 'working day', ordinal: position } : null;
  if (rule.byMonthDay.length === 0 && rule.byDay.length === 0 && rule.bySetPos.length === 0) {
    return { kind: 'day', day: civilOfDayNumber(toDayNumber(anchor)).day, short: 'skip' };
  }
  if (
    only &&
    rule.byDay.length === 1 &&
    only.ordinal !== null &&
    !day &&
    rule.bySetPos.length === 0 &&
    Math.abs(only.ordinal) <= 5
  ) {
    return { kind: 'weekday', ordinal: only.ordinal, weekday: only.weekday };
  }
  if (rule.byDay.length > 0 || day === undefined) return null;
  if (others.length === 0 && rule.bySetPos.length === 0 && day === -1) return { kind: 'day', day: 31, short: 'clamp' };
  if (others.length === 0 && rule.bySetPos.length === 0 && day > 0) return { kind: 'day', day, short: 'skip' };
  const run = rule.byMonthDay.every((d, i) => d === 28 + i);
  const last = rule.byMonthDay[rule.byMonthDay.length - 1] as number;
  return run && others.length > 0 && rule.bySetPos.join() === '-1' ? { kind: 'day', day: last, short: 'clamp' } : null;
}

/** The editor's form of a rule, or null when the rule says more than the editor offers (it is then shown as text). */
export function editOfRule(rule: RecurrenceRule, anchor: LocalDate): EditedRule | null {
  const plain = rule.byMonth.length === 0 && rule.byMonthDay.length === 0 && rule.bySetPos.length === 0;
  switch (rule.frequency) {
    case 'DAILY':
      return plain && rule.byDay.length === 0 ? { every: 'day', interval: rule.interval } : null;
    case 'WEEKLY': {
      if (!plain || (rule.weekStart !== 1 && rule.interval > 1)) return null;
      const weekdays = rule.byDay.length > 0 ? rule.byDay.map((d) => d.weekday) : [weekdayOf(anchor)];
      return { every: 'week', interval: rule.interval, weekdays };
    }
    case 'MONTHLY': {
      const on = monthPointOf(rule, anchor);
      return on && { every: 'month', interval: rule.interval, months: rule.byMonth, on };
    }
    case 'YEARLY': {
      const on = monthPointOf(rule, anchor);
      const month = rule.byMonth.length === 0 && plain ? civilOfDayNumber(toDayNumber(anchor)).month : rule.byMonth[0];
      return on && month && rule.byMonth.length <= 1 ? { every: 'year', interval: rule.interval, month, on } : null;
    }
  }
}

const WEEKDAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];
const MONTHS = [
  'January',
  'February',
  'March',
  'April',
  'May',
  'June',
  'July',
  'August',
  'September',
  'October',
  'November',
  'December',
];
const ORDINALS: Record<number, string> = {
  1: 'first',
  2: 'second',
  3: 'third',
  4: 'fourth',
  5: 'fifth',
  [-1]: 'last',
  [-2]: 'last but one',
};

const weekdayName = (day: Weekday): string => WEEKDAYS[day - 1] as string;
const monthName = (month: number): string => MONTHS[month - 1] as string;

function listed(words: readonly string[]): string {
  return words.length < 2 ? (words[0] ?? '') : `${words.slice(0, -1).join(', ')} and ${words[words.length - 1]}`;
}

function every(interval: number, unit: string): string {
  if (interval === 1) return `every ${unit}`;
  return interval === 2 ? `every other ${unit}` : `every ${interval} ${unit}s`;
}

function sayPoint(on: MonthPoint): string {
  if (on.kind === 'weekday') return `on the ${ORDINALS[on.ordinal] ?? `${on.ordinal}.`} ${weekdayName(on.weekday)}`;
  if (on.kind === 'working day') return `on the ${ORDINALS[on.ordinal] ?? `${on.ordinal}.`} working day`;
  if (on.day <= 28) return `on day ${on.day}`;
  if (on.day === 31 && on.short === 'clamp') return 'on the last day';
  return `on day ${on.day} (${on.short === 'clamp' ? 'or the month’s last day' : 'months without it are left out'})`;
}

/** "Of the quarter" where the months say so: the first of its first month, the last of its last. */
function scopeOf(months: readonly number[], on: MonthPoint): 'quarter' | null {
  const place = on.kind === 'day' ? (on.day === 1 ? 1 : on.day === 31 && on.short === 'clamp' ? -1 : 0) : on.ordinal;
  const wanted = place === 1 ? QUARTER_STARTS : place === -1 ? QUARTER_ENDS : null;
  return wanted && months.join() === wanted.join() ? 'quarter' : null;
}

/** The rule as a sentence in plain English; a rule beyond the editor's form is given as its RRULE text. */
export function sayRule(rule: RecurrenceRule, anchor: LocalDate, text: string): string {
  const edit = editOfRule(rule, anchor);
  if (!edit) return text;
  const sentence = ((): string => {
    switch (edit.every) {
      case 'day':
        return every(edit.interval, 'day');
      case 'week':
        return `${every(edit.interval, 'week')} on ${listed(edit.weekdays.map(weekdayName))}`;
      case 'month': {
        const scope = scopeOf(edit.months, edit.on);
        if (edit.interval === 1 && scope) return `${sayPoint(edit.on)} of the ${scope}`;
        const months = edit.months.length > 0 ? `in ${listed(edit.months.map(monthName))}` : '';
        const often = edit.interval === 1 && months ? months : `${every(edit.interval, 'month')} ${months}`.trim();
        return `${often} ${sayPoint(edit.on)}`;
      }
      case 'year':
        return `${every(edit.interval, 'year')} in ${monthName(edit.month)} ${sayPoint(edit.on)}`;
    }
  })();
  const end =
    rule.count !== null ? `, ${rule.count} times` : rule.until !== null ? `, until ${sayDate(rule.until)}` : '';
  return sentence.charAt(0).toUpperCase() + sentence.slice(1) + end;
}
