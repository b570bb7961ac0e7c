import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import rrule from 'rrule';
import { RRuleTemporal } from 'rrule-temporal';
import { Temporal } from 'temporal-polyfill';
import { addDays, asLocalDate, weekdayOf, type LocalDate, type Weekday } from '../time/index.ts';
import {
  editOfRule,
  expandDates,
  nextDates,
  parseRule,
  printRule,
  ruleFromEdit,
  sayRule,
  WEEKDAY_CODES,
  type EditedRule,
  type RecurrenceRule,
} from './index.ts';

const d = (text: string): LocalDate => asLocalDate(text);
function rule(text: string): RecurrenceRule {
  const read = parseRule(text);
  if (!read.ok) throw new Error(read.refusals.map((r) => r.message).join(' '));
  return read.value;
}
const first = (text: string, anchor: string, n: number): LocalDate[] => nextDates(rule(text), d(anchor), d(anchor), n);

const integers = (low: number, high: number, max: number) =>
  fc.uniqueArray(
    fc.integer({ min: low, max: high }).filter((n) => n !== 0),
    { minLength: 1, maxLength: max },
  );
const part = (name: string, values: fc.Arbitrary<(string | number)[]>) =>
  fc.option(
    values.map((v) => `;${name}=${v.join(',')}`),
    { nil: '' },
  );
const plainDays = fc.uniqueArray(fc.constantFrom(...WEEKDAY_CODES), { minLength: 1, maxLength: 4 });
const ordinalDays = fc.uniqueArray(
  fc.tuple(fc.constantFrom(1, 2, 3, 4, 5, -1, -2), fc.constantFrom(...WEEKDAY_CODES)).map(([n, day]) => `${n}${day}`),
  { minLength: 1, maxLength: 3 },
);
const joined = (...parts: fc.Arbitrary<string>[]) => fc.tuple(...parts).map((texts) => texts.join(''));
const months = part('BYMONTH', integers(1, 12, 4));
const monthDays = part('BYMONTHDAY', integers(-31, 31, 4));
const randomRule = fc.oneof(
  joined(fc.constant('FREQ=DAILY'), part('BYDAY', plainDays), months, monthDays),
  joined(
    fc.constant('FREQ=WEEKLY'),
    part('BYDAY', plainDays),
    months,
    part('WKST', fc.constantFrom(['SU'], ['MO'], ['TH'])),
  ),
  joined(fc.constant('FREQ=MONTHLY'), fc.oneof(part('BYDAY', plainDays), part('BYDAY', ordinalDays)), months),
  joined(fc.constant('FREQ=MONTHLY'), monthDays, months),
  joined(fc.constant('FREQ=MONTHLY;BYDAY=MO,TU,WE,TH,FR'), part('BYSETPOS', integers(-4, 4, 2)), months),
  joined(fc.constant('FREQ=YEARLY'), months, monthDays),
  joined(fc.constant('FREQ=YEARLY'), part('BYDAY', ordinalDays), part('BYMONTH', integers(1, 12, 3))),
);
const complete = fc
  .tuple(
    randomRule,
    fc.integer({ min: 1, max: 5 }),
    fc.option(fc.integer({ min: 1, max: 30 }), { nil: null }),
    fc.integer({ min: 0, max: 6000 }),
  )
  .map(([text, interval, count, day]) => ({
    text: `${text};INTERVAL=${interval}${count === null ? '' : `;COUNT=${count}`}`,
    anchor: addDays(d('2008-01-01'), day),
  }));

// Second and third opinion: the packages rrule and rrule-temporal, on 1,000 random rules each.
describe('random rules against other packages', () => {
  it('agrees with rrule', () => {
    fc.assert(
      fc.property(complete, ({ text, anchor }) => {
        const to = addDays(anchor, 1200);
        // The package searches to the year 9999 for rules that rarely fire: an end past the stretch keeps it short.
        const other = new rrule.RRule({
          ...rrule.RRule.parseString(text),
          dtstart: new Date(`${anchor}T00:00:00Z`),
          until: new Date(`${addDays(to, 40)}T00:00:00Z`),
        });
        const expected = other
          .between(new Date(`${anchor}T00:00:00Z`), new Date(`${to}T00:00:00Z`), true)
          .map((x) => x.toISOString().slice(0, 10))
          .filter((x) => x < to);
        expect(expandDates(rule(text), anchor, { from: anchor, to })).toEqual(expected);
      }),
      { numRuns: 1000 },
    );
  }, 120_000);

  it('agrees with rrule-temporal', () => {
    fc.assert(
      fc.property(complete, ({ text, anchor }) => {
        const other = new RRuleTemporal({
          rruleString: `DTSTART;TZID=UTC:${anchor.replaceAll('-', '')}T000000\nRRULE:${text}`,
        });
        const start = Temporal.PlainDate.from(anchor).toZonedDateTime('UTC');
        const to = addDays(anchor, 1500);
        const expected = other
          .between(new Date(start.epochMilliseconds), new Date(`${to}T00:00:00Z`), true)
          .map((x) => x.toPlainDate().toString())
          .filter((x) => x < to);
        expect(expandDates(rule(text), anchor, { from: anchor, to })).toEqual(expected);
      }),
      { numRuns: 1000 },
    );
  }, 240_000);

  it('gives the same dates whichever day it starts reading from, and round-trips its text', () => {
    fc.assert(
      fc.property(complete, fc.integer({ min: 0, max: 2000 }), ({ text, anchor }, skip) => {
        const [from, to] = [addDays(anchor, skip), addDays(anchor, 3000)];
        const all = expandDates(rule(text), anchor, { from: anchor, to });
        expect(expandDates(rule(text), anchor, { from, to })).toEqual(all.filter((x) => x >= from));
        expect(parseRule(printRule(rule(text)))).toEqual({ ok: true, value: rule(text) });
      }),
      { numRuns: 300 },
    );
  });
});

describe('refusals', () => {
  it.each([
    ['FREQ=YEARLY;BYWEEKNO=20', 'BYWEEKNO'],
    ['FREQ=YEARLY;BYYEARDAY=1', 'BYYEARDAY'],
    ['FREQ=DAILY;BYHOUR=9', 'BYHOUR'],
    ['FREQ=HOURLY', 'FREQ=HOURLY'],
    ['BYDAY=MO', 'FREQ'],
    ['FREQ=WEEKLY;BYDAY=1MO', 'ordinal'],
    ['FREQ=WEEKLY;BYMONTHDAY=3', 'BYMONTHDAY'],
    ['FREQ=DAILY;COUNT=3;UNTIL=20260101', 'exclude'],
    ['FREQ=DAILY;INTERVAL=0', 'INTERVAL'],
    ['FREQ=MONTHLY;BYMONTHDAY=32', 'BYMONTHDAY'],
    ['FREQ=MONTHLY;BYSETPOS=1', 'BYSETPOS'],
    ['FREQ=DAILY;COLOUR=RED', 'COLOUR'],
    ['FREQ=DAILY;FREQ=DAILY', 'twice'],
    ['FREQ=DAILY;UNTIL=20260230', 'UNTIL'],
    ['FREQ=WEEKLY;BYDAY=XX', 'BYDAY'],
  ])('%s names %s', (text, named) => {
    const read = parseRule(text);
    expect(read.ok ? '' : read.refusals.map((r) => r.message).join(' ')).toContain(named);
  });

  it('a rule that never fires has no next date, and the search ends', () => {
    expect(first('FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30', '2026-01-01', 1)).toEqual([]);
    expect(first('FREQ=DAILY;UNTIL=20250101', '2026-01-01', 1)).toEqual([]);
  });

  it('a rule without end is cut at the limit asked for', () => {
    expect(
      expandDates(rule('FREQ=DAILY'), d('2026-01-01'), { from: d('2026-01-01'), to: d('2199-01-01') }, 50),
    ).toHaveLength(50);
  });
});

describe('the editor’s form', () => {
  const point = fc.oneof(
    fc
      .record({
        kind: fc.constant('day' as const),
        day: fc.integer({ min: 1, max: 31 }),
        short: fc.constantFrom('clamp' as const, 'skip' as const),
      })
      .map((p) => (p.day <= 28 ? { ...p, short: 'skip' as const } : p)),
    fc.record({
      kind: fc.constant('weekday' as const),
      ordinal: fc.constantFrom(1, 2, 3, 4, -1),
      weekday: fc.integer({ min: 1, max: 7 }).map((n) => n as Weekday),
    }),
  );
  const edit: fc.Arbitrary<EditedRule> = fc.oneof(
    fc.record({ every: fc.constant('day' as const), interval: fc.integer({ min: 1, max: 20 }) }),
    fc.record({
      every: fc.constant('week' as const),
      interval: fc.integer({ min: 1, max: 20 }),
      weekdays: fc
        .uniqueArray(
          fc.integer({ min: 1, max: 7 }).map((n) => n as Weekday),
          { minLength: 1 },
        )
        .map((w) => [...w].sort()),
    }),
    fc.record({
      every: fc.constant('month' as const),
      interval: fc.integer({ min: 1, max: 20 }),
      months: fc
        .uniqueArray(fc.integer({ min: 1, max: 12 }), { maxLength: 3 })
        .map((m) => [...m].sort((a, b) => a - b)),
      on: point,
    }),
    fc.record({
      every: fc.constant('year' as const),
      interval: fc.integer({ min: 1, max: 5 }),
      month: fc.integer({ min: 1, max: 12 }),
      on: point,
    }),
  );
  it('round-trips through plain RRULE text, clamp and skip included', () => {
    fc.assert(
      fc.property(edit, (value) => {
        const read = parseRule(printRule(ruleFromEdit(value)));
        expect(read.ok && editOfRule(read.value, d('2026-01-31'))).toEqual(value);
      }),
    );
  });

  it('clamps day 31 to each month’s last day, or skips shorter months', () => {
    const monthly = (short: 'clamp' | 'skip') =>
      nextDates(
        ruleFromEdit({ every: 'month', interval: 1, months: [], on: { kind: 'day', day: 31, short } }),
        d('2027-01-31'),
        d('2027-01-31'),
        4,
      );
    expect(monthly('clamp')).toEqual(['2027-01-31', '2027-02-28', '2027-03-31', '2027-04-30']);
    expect(monthly('skip')).toEqual(['2027-01-31', '2027-03-31', '2027-05-31', '2027-07-31']);
  });

  it('says rules in words', () => {
    const say = (text: string) => sayRule(rule(text), d('2026-01-06'), text);
    expect(say('FREQ=MONTHLY;INTERVAL=3;BYDAY=1TU')).toBe('Every 3 months on the first Tuesday');
    expect(say('FREQ=WEEKLY;INTERVAL=2;BYDAY=TU')).toBe('Every other week on Tuesday');
    expect(say('FREQ=MONTHLY;BYMONTH=4,10;BYMONTHDAY=25')).toBe('In April and October on day 25');
    expect(say('FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=28,29;BYSETPOS=-1')).toBe(
      'Every year in February on day 29 (or the month’s last day)',
    );
    expect(say('FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=-1')).toBe('FREQ=MONTHLY;BYDAY=MO,TU;BYSETPOS=-1');
  });
});

// Common practice, no source.
describe('facts of the trade', () => {
  it('one year of free upkeep, every third month on the first Monday, is exactly 4 visits on first Mondays', () => {
    for (let start = 0; start < 365; start += 13) {
      const anchor = addDays(d('2026-01-01'), start);
      const firstMonday = nextDates(rule('FREQ=MONTHLY;BYDAY=1MO'), anchor, anchor, 1)[0] as LocalDate;
      const year = expandDates(rule('FREQ=MONTHLY;INTERVAL=3;BYDAY=1MO'), firstMonday, {
        from: firstMonday,
        to: addDays(firstMonday, 360),
      });
      expect(year).toHaveLength(4);
      expect(year.every((x) => weekdayOf(x) === 1 && Number(x.slice(8)) <= 7)).toBe(true);
    }
  });

  it('a visit plan on the 25th of every month, and one twice a year', () => {
    expect(first('FREQ=MONTHLY;BYMONTHDAY=25', '2026-01-01', 3)).toEqual(['2026-01-25', '2026-02-25', '2026-03-25']);
    expect(first('FREQ=YEARLY;BYMONTH=4,10;BYMONTHDAY=25', '2026-01-01', 3)).toEqual([
      '2026-04-25',
      '2026-10-25',
      '2027-04-25',
    ]);
  });
});
