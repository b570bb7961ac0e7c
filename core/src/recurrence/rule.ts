// Recurrence rules over dates: the RFC 5545 subset that maintenance schedules use.
import { parseLocalDate, type LocalDate, type Weekday } from '../time/index.ts';
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';

export type Frequency = 'DAILY' | 'WEEKLY' | 'MONTHLY' | 'YEARLY';

/** A weekday, with an ordinal in month or year rules: 1 = first, -1 = last. */
export type WeekdayPart = { readonly weekday: Weekday; readonly ordinal: number | null };

export type RecurrenceRule = {
  readonly frequency: Frequency;
  readonly interval: number;
  readonly byMonth: readonly number[];
  readonly byMonthDay: readonly number[];
  readonly byDay: readonly WeekdayPart[];
  readonly bySetPos: readonly number[];
  readonly weekStart: Weekday;
  readonly count: number | null;
  /** Inclusive. */
  readonly until: LocalDate | null;
};

export const WEEKDAY_CODES = ['MO', 'TU', 'WE', 'TH', 'FR', 'SA', 'SU'] as const;

const SUBSET = ['FREQ', 'INTERVAL', 'BYMONTH', 'BYMONTHDAY', 'BYDAY', 'BYSETPOS', 'WKST', 'COUNT', 'UNTIL'];
const OUTSIDE: Record<string, string> = {
  BYWEEKNO: 'weeks of the year',
  BYYEARDAY: 'days of the year',
  BYHOUR: 'times of day',
  BYMINUTE: 'times of day',
  BYSECOND: 'times of day',
};
const MAX_INTERVAL = 1000;
const MAX_COUNT = 10_000;

function integers(text: string, low: number, high: number, zero: 'zero allowed' | 'no zero'): number[] | null {
  const numbers = text.split(',').map((part) => (/^[+-]?\d{1,5}$/.test(part) ? Number(part) : NaN));
  const fine = numbers.every((n) => n >= low && n <= high && (zero === 'zero allowed' || n !== 0));
  return fine ? numbers : null;
}

function weekdayParts(text: string): WeekdayPart[] | null {
  const parts: WeekdayPart[] = [];
  for (const part of text.split(',')) {
    const found = /^([+-]?\d{1,2})?(MO|TU|WE|TH|FR|SA|SU)$/.exec(part);
    if (!found) return null;
    const ordinal = found[1] === undefined ? null : Number(found[1]);
    if (ordinal !== null && (ordinal === 0 || Math.abs(ordinal) > 53)) return null;
    parts.push({ weekday: (WEEKDAY_CODES.indexOf(found[2] as 'MO') + 1) as Weekday, ordinal });
  }
  return parts;
}

function untilDate(text: string): LocalDate | null {
  const found = /^(\d{4})(\d{2})(\d{2})(?:T\d{6}Z?)?$/.exec(text);
  return found ? parseLocalDate(`${found[1]}-${found[2]}-${found[3]}`) : null;
}

function checkCombination(rule: RecurrenceRule): Refusal[] {
  const found: Refusal[] = [];
  const hasOrdinal = rule.byDay.some((d) => d.ordinal !== null);
  if (hasOrdinal && (rule.frequency === 'DAILY' || rule.frequency === 'WEEKLY')) {
    found.push(
      refusal(
        'invalid',
        `BYDAY with an ordinal (such as 1MO) needs FREQ=MONTHLY or YEARLY, not ${rule.frequency}.`,
        'rule',
      ),
    );
  }
  if (rule.frequency === 'WEEKLY' && rule.byMonthDay.length > 0) {
    found.push(refusal('invalid', 'BYMONTHDAY does not go with FREQ=WEEKLY; use FREQ=MONTHLY.', 'rule'));
  }
  if (rule.count !== null && rule.until !== null) {
    found.push(refusal('invalid', 'COUNT and UNTIL exclude each other; keep one.', 'rule'));
  }
  const byParts = rule.byMonth.length + rule.byMonthDay.length + rule.byDay.length;
  if (rule.bySetPos.length > 0 && byParts === 0) {
    found.push(
      refusal('invalid', 'BYSETPOS chooses among the dates of another BY part; add one, such as BYDAY.', 'rule'),
    );
  }
  return found;
}

/**
 * Reads the text of an RRULE value (with or without the `RRULE:` prefix).
 * Refused by name: BYWEEKNO, BYYEARDAY and times of day (outside the subset), unknown parts, values out of range,
 * combinations that RFC 5545, section 3.3.10 forbids.
 */
export function parseRule(text: string): Decided<RecurrenceRule> {
  const refusals: Refusal[] = [];
  const say = (message: string, code: 'invalid' | 'unsupported' = 'invalid') =>
    refusals.push(refusal(code, message, 'rule'));
  const parts = new Map<string, string>();
  for (const piece of text
    .trim()
    .toUpperCase()
    .replace(/^RRULE:/, '')
    .split(';')
    .filter((p) => p !== '')) {
    const [name = '', value = ''] = piece.split('=', 2);
    if (OUTSIDE[name]) say(`${name} (${OUTSIDE[name]}) is outside the supported rules.`, 'unsupported');
    else if (!SUBSET.includes(name)) say(`“${name}” is not a part of a recurrence rule.`);
    else if (parts.has(name)) say(`${name} stands twice; a rule names each part once.`);
    else parts.set(name, value);
  }
  const list = (name: string, low: number, high: number): readonly number[] => {
    const value = parts.get(name);
    if (value === undefined) return [];
    const numbers = integers(value, low, high, 'no zero');
    if (!numbers) say(`${name} takes numbers from ${low} to ${high}, not “${value}”.`);
    return numbers ?? [];
  };
  const single = (name: string, high: number): number | null => {
    const value = parts.get(name);
    if (value === undefined) return null;
    const numbers = integers(value, 1, high, 'no zero');
    if (!numbers || numbers.length !== 1) say(`${name} is a whole number from 1 to ${high}, not “${value}”.`);
    return numbers?.[0] ?? null;
  };
  const frequency = parts.get('FREQ');
  if (frequency === undefined) say('A rule starts with FREQ: DAILY, WEEKLY, MONTHLY or YEARLY.');
  else if (!/^(DAILY|WEEKLY|MONTHLY|YEARLY)$/.test(frequency)) {
    const timeOfDay = /^(HOURLY|MINUTELY|SECONDLY)$/.test(frequency);
    say(
      `FREQ=${frequency} is outside the supported rules; use DAILY, WEEKLY, MONTHLY or YEARLY.`,
      timeOfDay ? 'unsupported' : 'invalid',
    );
  }
  const days = parts.has('BYDAY') ? weekdayParts(parts.get('BYDAY') ?? '') : [];
  if (!days) say(`BYDAY takes weekdays such as MO or 1MO, not “${parts.get('BYDAY')}”.`);
  const start = parts.get('WKST') ?? 'MO';
  if (!WEEKDAY_CODES.includes(start as 'MO')) say(`WKST is a weekday such as MO, not “${start}”.`);
  const until = parts.has('UNTIL') ? untilDate(parts.get('UNTIL') ?? '') : null;
  if (parts.has('UNTIL') && !until) say(`UNTIL is a date such as 20261231, not “${parts.get('UNTIL')}”.`);
  const rule: RecurrenceRule = {
    frequency: (frequency ?? 'DAILY') as Frequency,
    interval: single('INTERVAL', MAX_INTERVAL) ?? 1,
    byMonth: list('BYMONTH', 1, 12),
    byMonthDay: list('BYMONTHDAY', -31, 31),
    byDay: days ?? [],
    bySetPos: list('BYSETPOS', -366, 366),
    weekStart: (WEEKDAY_CODES.indexOf(start as 'MO') + 1) as Weekday,
    count: single('COUNT', MAX_COUNT),
    until,
  };
  if (refusals.length === 0) refusals.push(...checkCombination(rule));
  return refusals.length > 0 ? refused(...refusals) : decided(rule);
}

/** Prints a rule as the value of an RRULE property; defaults (INTERVAL=1, WKST=MO) are left out. */
export function printRule(rule: RecurrenceRule): string {
  const day = (d: WeekdayPart): string => `${d.ordinal ?? ''}${WEEKDAY_CODES[d.weekday - 1]}`;
  const parts = [`FREQ=${rule.frequency}`];
  if (rule.interval !== 1) parts.push(`INTERVAL=${rule.interval}`);
  if (rule.byMonth.length > 0) parts.push(`BYMONTH=${rule.byMonth.join(',')}`);
  if (rule.byMonthDay.length > 0) parts.push(`BYMONTHDAY=${rule.byMonthDay.join(',')}`);
  if (rule.byDay.length > 0) parts.push(`BYDAY=${rule.byDay.map(day).join(',')}`);
  if (rule.bySetPos.length > 0) parts.push(`BYSETPOS=${rule.bySetPos.join(',')}`);
  if (rule.weekStart !== 1) parts.push(`WKST=${WEEKDAY_CODES[rule.weekStart - 1]}`);
  if (rule.count !== null) parts.push(`COUNT=${rule.count}`);
  if (rule.until !== null) parts.push(`UNTIL=${rule.until.replaceAll('-', '')}`);
  return parts.join(';');
}
