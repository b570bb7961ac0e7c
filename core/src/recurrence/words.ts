// Rules in plain words, read: “every 3 months on the first Monday”, “alternate Tuesdays”, “last working day of the quarter”.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { daysInMonth, readTypedDate, SHORT_DAYS, SHORT_MONTHS, type LocalDate, type Weekday } from '../time/index.ts';
import { monthParts, QUARTER_ENDS, QUARTER_STARTS, type MonthPoint, type ShortMonthPolicy } from './editing.ts';
import type { Frequency, RecurrenceRule } from './rule.ts';

type Unit = 'day' | 'week' | 'month' | 'quarter' | 'year';

/** What was understood so far; each is said at most once. */
type Understood = {
  unit?: Unit;
  interval?: number;
  /** "of the month", "of every quarter": what the point lies in. */
  scope?: Unit;
  /** Counted weekdays and working days: 1 the first, -1 the last. */
  ordinal?: number;
  of?: 'weekday' | 'working day' | 'day';
  day?: number;
  short?: ShortMonthPolicy;
  count?: number;
  until?: LocalDate;
  weekdays: Weekday[];
  months: number[];
};

/** Every date read here names its year. */
const ANY_DAY = '2026-01-01' as LocalDate;

const EXAMPLE = 'for example “every 3 months on the first Monday” or “25th of every month”';

const WEEKDAY =
  '(mon(?:days?)?|tue(?:s|sdays?)?|wed(?:s|nesdays?)?|thu(?:rs?|rsdays?)?|fri(?:days?)?|sat(?:urdays?)?|sun(?:days?)?)';
const MONTH =
  '(jan(?:uary)?|feb(?:ruary)?|mar(?:ch)?|apr(?:il)?|may|june?|july?|aug(?:ust)?|sept?(?:ember)?|oct(?:ober)?|nov(?:ember)?|dec(?:ember)?)';
const ORDINAL = '(first|second|third|fourth|fifth|last but one|second last|last|1st|2nd|3rd|4th|5th)';
const UNIT = '(day|week|month|quarter|year)';
const COUNTS = ['one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten', 'eleven', 'twelve'];
const NUMBER = `(\\d{1,4}|${COUNTS.join('|')})`;
const ORDINALS: Readonly<Record<string, number>> = {
  first: 1,
  '1st': 1,
  second: 2,
  '2nd': 2,
  third: 3,
  '3rd': 3,
  fourth: 4,
  '4th': 4,
  fifth: 5,
  '5th': 5,
  last: -1,
  'last but one': -2,
  'second last': -2,
};
const ADVERBS: Readonly<Record<string, readonly [number, Unit]>> = {
  daily: [1, 'day'],
  weekly: [1, 'week'],
  fortnightly: [2, 'week'],
  monthly: [1, 'month'],
  quarterly: [3, 'month'],
  'half-yearly': [6, 'month'],
  yearly: [1, 'year'],
  annually: [1, 'year'],
};

const numberOf = (word: string): number => COUNTS.indexOf(word) + 1 || Number(word);
const weekdayOf = (word: string): Weekday =>
  (SHORT_DAYS.findIndex((d) => d.toLowerCase() === word.slice(0, 3)) + 1) as Weekday;
const monthOf = (word: string): number => SHORT_MONTHS.findIndex((m) => m.toLowerCase() === word.slice(0, 3)) + 1;

/** Says one thing; false where something else of the kind was said before. */
function say<K extends keyof Understood>(rule: Understood, key: K, value: Understood[K]): boolean {
  if (rule[key] !== undefined && rule[key] !== value) return false;
  rule[key] = value;
  return true;
}

const often = (rule: Understood, interval: number, unit: Unit): boolean =>
  say(rule, 'interval', interval) && say(rule, 'unit', unit);

const counted = (rule: Understood, ordinal: string, of: 'weekday' | 'working day'): boolean =>
  say(rule, 'ordinal', ORDINALS[ordinal] as number) && say(rule, 'of', of);

type Phrase = readonly [pattern: string, take: (rule: Understood, words: readonly string[]) => boolean];

/** What may stand next, the longer before the shorter. A phrase that contradicts what was said before gives false. */
const PHRASES: readonly Phrase[] = [
  [`(?:every (?:other|second)|alternate) ${UNIT}s?`, (r, [unit = '']) => often(r, 2, unit as Unit)],
  [
    `(?:every (?:other|second)|alternate) ${WEEKDAY}`,
    (r, [day = '']) => often(r, 2, 'week') && r.weekdays.push(weekdayOf(day)) > 0,
  ],
  [`every ${NUMBER} ${UNIT}s?`, (r, [n = '', unit = '']) => often(r, numberOf(n), unit as Unit)],
  ['every working day', (r) => often(r, 1, 'week') && r.weekdays.push(1, 2, 3, 4, 5) > 0],
  [`of (?:the|every) ${UNIT}`, (r, [unit = '']) => say(r, 'scope', unit as Unit)],
  [`every ${UNIT}`, (r, [unit = '']) => often(r, 1, unit as Unit)],
  [`(${Object.keys(ADVERBS).join('|')})`, (r, [word = '']) => often(r, ...(ADVERBS[word] as readonly [number, Unit]))],
  [`${ORDINAL} working day`, (r, [n = '']) => counted(r, n, 'working day')],
  [
    `${ORDINAL} ${WEEKDAY}`,
    (r, [n = '', day = '']) => counted(r, n, 'weekday') && r.weekdays.push(weekdayOf(day)) === 1,
  ],
  ['last day', (r) => say(r, 'of', 'day') && say(r, 'day', 31) && say(r, 'short', 'clamp')],
  ['first day', (r) => say(r, 'of', 'day') && say(r, 'day', 1)],
  ['or the month’s last day', (r) => say(r, 'short', 'clamp')],
  ['months without it are left out', (r) => say(r, 'short', 'skip')],
  ['day (\\d{1,2})', (r, [n = '']) => say(r, 'of', 'day') && say(r, 'day', Number(n))],
  ['(\\d{1,2})(?:st|nd|rd|th)', (r, [n = '']) => say(r, 'of', 'day') && say(r, 'day', Number(n))],
  [`(\\d{1,2})(?= ${MONTH})`, (r, [n = '']) => say(r, 'of', 'day') && say(r, 'day', Number(n))],
  [
    `until ((?:${WEEKDAY} )?(?:\\d{4}-\\d{2}-\\d{2}|\\d{1,2} [a-z]+ \\d{4}))`,
    (r, [date = '']) => {
      const until = readTypedDate(date, ANY_DAY);
      return until !== null && say(r, 'until', until);
    },
  ],
  [`${NUMBER} times`, (r, [n = '']) => say(r, 'count', numberOf(n))],
  [`${WEEKDAY}`, (r, [day = '']) => r.weekdays.push(weekdayOf(day)) > 0],
  [`${MONTH}`, (r, [month = '']) => r.months.push(monthOf(month)) > 0],
  ['(?:on|in|the|of|and|every|at)', () => true],
];

const READERS = PHRASES.map(([pattern, take]) => ({ reader: new RegExp(`${pattern}(?=\\s|$)\\s*`, 'y'), take }));

/** Lower case, no marks between the words, brackets opened. */
const plain = (text: string): string =>
  text
    .toLowerCase()
    .replaceAll("'", '’')
    .replace(/[,;().]/g, ' ')
    .replace(/\beach\b/g, 'every')
    .replace(/\s+/g, ' ')
    .trim();

const wrong = (message: string): Decided<never> => refused(refusal('invalid', message, 'words'));

function understand(text: string): Decided<Understood> {
  const rule: Understood = { weekdays: [], months: [] };
  const words = plain(text);
  for (let at = 0; at < words.length;) {
    const next = words.slice(at).split(' ')[0] as string;
    let length = 0;
    for (const { reader, take } of READERS) {
      reader.lastIndex = at;
      const found = reader.exec(words);
      if (!found) continue;
      if (!take(rule, found.slice(1)))
        return wrong(`“${found[0].trim()}” does not go with what stands before it; a second schedule can have it.`);
      length = found[0].length;
      break;
    }
    if (length === 0) return wrong(`“${next}” is not understood; write ${EXAMPLE}.`);
    at += length;
  }
  return decided(rule);
}

const dayThatNoneHas = ({ day, short, months }: Understood): boolean =>
  day !== undefined && short !== 'clamp' && months.length > 0 && months.every((m) => day > daysInMonth(2028, m));

/** What is missing or too much, in words. */
function objection(rule: Understood, unit: Unit): string | null {
  const { day, of, ordinal, weekdays, months, interval = 1 } = rule;
  const hasPoint = of !== undefined;
  if (interval < 1 || interval > 1000) return `Every 1 to 1000 ${unit}s.`;
  if (day !== undefined && (day < 1 || day > 31)) return 'A month has the days 1 to 31.';
  if (unit === 'day' && (hasPoint || weekdays.length > 0 || months.length > 0))
    return 'Every so many days goes without weekdays, days of the month and months.';
  if (unit === 'week' && (hasPoint || months.length > 0))
    return 'Every so many weeks goes with weekdays only, for example “every 2 weeks on Tuesday”.';
  if (unit !== 'week' && weekdays.length > 0 && ordinal === undefined)
    return 'Which one of the month? Write for example “the first Monday” or “the last Friday”.';
  if (of === 'weekday' && weekdays.length !== 1) return 'One weekday of the month; a second schedule can have another.';
  if (of === 'day' && weekdays.length > 0) return 'Either a day of the month or a weekday, not both.';
  if (unit === 'year' && months.length === 0 && hasPoint)
    return 'In which month? Write for example “every year in April on the first Monday”.';
  if (unit === 'year' && months.length > 1 && interval > 1)
    return 'Several months go with every year only; for rarer ones write one schedule for each month.';
  if (rule.count !== undefined && rule.until !== undefined) return 'Either so many times or until a date, not both.';
  return null;
}

function pointOf({ of, ordinal, weekdays, day, short }: Understood): MonthPoint | null {
  switch (of) {
    case undefined:
      return null;
    case 'day':
      return { kind: 'day', day: day as number, short: short ?? 'clamp' };
    case 'working day':
      return { kind: 'working day', ordinal: ordinal as number };
    case 'weekday':
      return { kind: 'weekday', ordinal: ordinal as number, weekday: weekdays[0] as Weekday };
  }
}

/** "Of the quarter" and "of the year" name months: the last one for what is last, else the first. */
function scoped(rule: Understood): Understood {
  const { scope, unit, months, ordinal, day } = rule;
  if (scope === undefined || unit !== undefined) return rule;
  const atEnd = (ordinal ?? day ?? 1) < 0 || day === 31;
  if (months.length > 0 || scope === 'month') return { ...rule, unit: scope === 'year' ? 'year' : 'month' };
  if (scope === 'quarter') return { ...rule, unit: 'month', months: [...(atEnd ? QUARTER_ENDS : QUARTER_STARTS)] };
  if (scope === 'year') return { ...rule, unit: 'year', months: [atEnd ? 12 : 1] };
  return { ...rule, unit: scope };
}

const FREQUENCIES: Readonly<Record<Exclude<Unit, 'quarter'>, Frequency>> = {
  day: 'DAILY',
  week: 'WEEKLY',
  month: 'MONTHLY',
  year: 'YEARLY',
};

/**
 * Reads a rule in plain words, as `sayRule` says it and as people write it. Days 29 to 31 are clamped unless it is said that
 * short months are left out. Refused: words that are not understood (named), two things that exclude each other, a weekday of
 * the month without saying which, days that no named month has.
 */
export function readRuleWords(text: string): Decided<RecurrenceRule> {
  const read = understand(text);
  if (!read.ok) return read;
  const said = scoped(read.value);
  const months = [...new Set(said.months)].sort((a, b) => a - b);
  const weekdays = [...new Set(said.weekdays)].sort((a, b) => a - b);
  const rule: Understood = { ...said, months, weekdays };
  const named =
    rule.unit ??
    (weekdays.length > 0 && rule.of === undefined ? 'week' : rule.of || months.length > 0 ? 'month' : null);
  if (named === null) return wrong(`Say how often; write ${EXAMPLE}.`);
  const problem = objection(rule, named);
  if (problem) return wrong(problem);
  if (dayThatNoneHas(rule)) return wrong(`No month named has a day ${rule.day}; write for example “the last day”.`);
  const unit = named === 'quarter' || (named === 'year' && months.length > 1) ? 'month' : named;
  const point = pointOf(rule);
  return decided({
    frequency: FREQUENCIES[unit],
    interval: (rule.interval ?? 1) * (named === 'quarter' ? 3 : 1),
    byMonth: months,
    ...(point ? monthParts(point) : { byMonthDay: [], bySetPos: [], byDay: [] }),
    ...(unit === 'week' && { byDay: weekdays.map((weekday) => ({ weekday, ordinal: null })) }),
    weekStart: 1,
    count: rule.count ?? null,
    until: rule.until ?? null,
  });
}
