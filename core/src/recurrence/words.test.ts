// Rules in plain words: what is said is read back, and what people write gives the days they mean.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, parseLocalDate, toDayNumber, type LocalDate, type Weekday } from '../time/index.ts';
import { ruleFromEdit, sayRule, type EditedRule, type MonthPoint } from './editing.ts';
import { expandDays } from './expand.ts';
import { parseRule, printRule, type RecurrenceRule } from './rule.ts';
import { readRuleWords } from './words.ts';

const d = (text: string): LocalDate => parseLocalDate(text) as LocalDate;

const days = (rule: RecurrenceRule, anchor: LocalDate): number[] => {
  const from = toDayNumber(anchor);
  return expandDays(rule, anchor, from, from + 4000, 4000);
};

const ordinal = fc.constantFrom(1, 2, 3, 4, 5, -1, -2);
const weekday = fc.integer({ min: 1, max: 7 }).map((n) => n as Weekday);
const point: fc.Arbitrary<MonthPoint> = fc.oneof(
  fc.record({ kind: fc.constant('weekday' as const), ordinal, weekday }),
  fc.record({ kind: fc.constant('working day' as const), ordinal }),
  fc.record({
    kind: fc.constant('day' as const),
    day: fc.integer({ min: 1, max: 31 }),
    short: fc.constantFrom('clamp' as const, 'skip' as const),
  }),
);
const interval = fc.integer({ min: 1, max: 36 });
const someMonths = fc.oneof(
  fc.constantFrom([1, 4, 7, 10], [3, 6, 9, 12]),
  fc.uniqueArray(fc.integer({ min: 1, max: 12 }), { maxLength: 12 }).map((m) => m.sort((a, b) => a - b)),
);
const edit: fc.Arbitrary<EditedRule> = fc.oneof(
  fc.record({ every: fc.constant('day' as const), interval }),
  fc.record({
    every: fc.constant('week' as const),
    interval,
    weekdays: fc.uniqueArray(weekday, { minLength: 1 }).map((w) => w.sort((a, b) => a - b)),
  }),
  fc.record({ every: fc.constant('month' as const), interval, months: someMonths, on: point }),
  fc.record({ every: fc.constant('year' as const), interval, month: fc.integer({ min: 1, max: 12 }), on: point }),
);
const end = fc.oneof(
  fc.constant({ count: null, until: null }),
  fc.integer({ min: 1, max: 400 }).map((count) => ({ count, until: null })),
  fc.integer({ min: 0, max: 3000 }).map((n) => ({ count: null, until: addDays(d('2026-02-01'), n) })),
);
const anchorDay = fc.integer({ min: 0, max: 800 }).map((n) => addDays(d('2026-01-01'), n));

const longest = [31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];
/** Day 30 of February alone: refused when it is written, whatever becomes of short months. */
const isOfNoMonth = (rule: EditedRule): boolean => {
  if (rule.every === 'day' || rule.every === 'week' || rule.on.kind !== 'day') return false;
  const { day, short } = rule.on;
  if (short === 'clamp') return false;
  const months = rule.every === 'year' ? [rule.month] : rule.months;
  return months.length > 0 && months.every((m) => day > (longest[m - 1] as number));
};

describe('what is said of a rule', () => {
  it('is read back as a rule with the same days', () => {
    fc.assert(
      fc.property(edit, end, anchorDay, (edited, until, anchor) => {
        fc.pre(!isOfNoMonth(edited));
        const rule = ruleFromEdit(edited, until);
        const said = sayRule(rule, anchor, '');
        const read = readRuleWords(said);
        expect(read.ok ? days(read.value, anchor) : [said, read.refusals]).toEqual(days(rule, anchor));
      }),
      { numRuns: 600 },
    );
  });

  it('is read back too where the rule leaves its day to the day it counts from', () => {
    for (const text of [
      'FREQ=WEEKLY;INTERVAL=3',
      'FREQ=MONTHLY;BYMONTH=3,9',
      'FREQ=YEARLY',
      'FREQ=MONTHLY;BYMONTHDAY=-1',
    ]) {
      const parsed = parseRule(text);
      if (!parsed.ok) throw new Error(text);
      const anchor = d('2026-03-17');
      const read = readRuleWords(sayRule(parsed.value, anchor, text));
      expect(read.ok && days(read.value, anchor)).toEqual(days(parsed.value, anchor));
    }
  });
});

describe('what people write', () => {
  const rule = (words: string): string => {
    const read = readRuleWords(words);
    return read.ok ? printRule(read.value) : `refused: ${read.refusals.map((r) => r.message).join(' ')}`;
  };
  it.each([
    ['every 3 months on the first Monday', 'FREQ=MONTHLY;INTERVAL=3;BYDAY=1MO'],
    ['alternate Tuesdays', 'FREQ=WEEKLY;INTERVAL=2;BYDAY=TU'],
    ['25th of every month', 'FREQ=MONTHLY;BYMONTHDAY=25'],
    ['March and September', 'FREQ=MONTHLY;BYMONTH=3,9'],
    ['last working day of the quarter', 'FREQ=MONTHLY;BYMONTH=3,6,9,12;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=-1'],
    ['first working day of each month', 'FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR;BYSETPOS=1'],
    ['Every other week on Mon, Wed and Fri', 'FREQ=WEEKLY;INTERVAL=2;BYDAY=MO,WE,FR'],
    ['1 April and 1 October', 'FREQ=MONTHLY;BYMONTH=4,10;BYMONTHDAY=1'],
    ['every quarter on the second Thursday', 'FREQ=MONTHLY;INTERVAL=3;BYDAY=2TH'],
    ['last day of the month', 'FREQ=MONTHLY;BYMONTHDAY=28,29,30,31;BYSETPOS=-1'],
    ['31st of each month, months without it are left out', 'FREQ=MONTHLY;BYMONTHDAY=31'],
    ['yearly in May on the last Friday', 'FREQ=YEARLY;BYMONTH=5;BYDAY=-1FR'],
    ['every two weeks', 'FREQ=WEEKLY;INTERVAL=2'],
    ['Mondays until 31 Dec 2027', 'FREQ=WEEKLY;BYDAY=MO;UNTIL=20271231'],
    ['every 10 days, 12 times', 'FREQ=DAILY;INTERVAL=10;COUNT=12'],
    ['every working day', 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR'],
  ])('“%s”', (words, text) => {
    expect(rule(words)).toBe(text);
  });

  it.each([
    ['', 'Say how often'],
    ['every blue moon', '“blue” is not understood'],
    ['every 0 months', 'Every 1 to 1000'],
    ['31st of February', 'No month named has a day 31'],
    ['every month on Tuesday', 'Which one of the month?'],
    ['every week on the 5th', 'weekdays only'],
    ['5th and 20th of every month', '“20th” does not go with'],
    ['every year on the first Monday', 'In which month?'],
    ['every 2 years in March and May', 'Several months go with every year only'],
    ['first Monday and Tuesday', 'One weekday of the month'],
    ['Mondays 3 times until 31 Dec 2027', 'Either so many times or until'],
    ['Mondays until 31 Feb 2027', '“until 31 feb 2027” does not go'],
    ['every 2 weeks every 3 months', 'does not go with'],
  ])('“%s” is refused in words', (words, message) => {
    expect(rule(words)).toContain(message);
  });

  it('whatever it is, it is read or refused, and never faults', () => {
    const word = fc.constantFrom(
      ...'every other second 3 months weeks the first last Monday Tue of quarter working day 25th 31 March in and on until 2027-05-01 12 times , . gibberish \u{1F600}'.split(
        ' ',
      ),
    );
    fc.assert(
      fc.property(
        fc.oneof(
          fc.array(word).map((w) => w.join(' ')),
          fc.string(),
        ),
        (words) => {
          const read = readRuleWords(words);
          if (read.ok) expect(parseRule(printRule(read.value))).toEqual(read);
          else expect(read.refusals.every((r) => r.field === 'words' && r.message.length > 10)).toBe(true);
        },
      ),
      { numRuns: 1500 },
    );
  });
});
