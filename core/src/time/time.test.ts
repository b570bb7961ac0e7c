import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { Temporal } from 'temporal-polyfill';
import {
  addDays,
  addMonths,
  asLocalDate,
  asZone,
  civilOfDayNumber,
  dayNumberOfCivil,
  formatDuration,
  fromDayNumber,
  instant,
  instantOfWall,
  isoWeekOf,
  localDateAt,
  offsetAt,
  parseDuration,
  parseInstant,
  parseLocalDate,
  parseZone,
  readTypedDate,
  readTypedTime,
  sayDate,
  sayTimeOfDay,
  sayLength,
  startOfDay,
  toDayNumber,
  toInstant,
  toWallTime,
  weekdayOf,
  withWeekday,
} from './index.ts';

describe('local dates', () => {
  it('count days as the ISO calendar of Temporal does', () => {
    fc.assert(
      fc.property(fc.integer({ min: -100_000, max: 200_000 }), (day) => {
        const { year, month, day: d } = civilOfDayNumber(day);
        const other = new Temporal.PlainDate(1970, 1, 1).add({ days: day });
        expect([year, month, d]).toEqual([other.year, other.month, other.day]);
        expect(dayNumberOfCivil(year, month, d)).toBe(day);
        expect(weekdayOf(fromDayNumber(day))).toBe(other.dayOfWeek);
        expect(isoWeekOf(fromDayNumber(day))).toEqual({ year: other.yearOfWeek, week: other.weekOfYear });
      }),
    );
  });

  it('refuse what is no date (ISO 8601)', () => {
    for (const text of ['2023-02-29', '31/02/2023', '2023-13-01', '2023-1-1', '', '2023-04-31'])
      expect(parseLocalDate(text)).toBeNull();
    expect(parseLocalDate('2024-02-29')).toBe('2024-02-29');
  });

  // ISO 8601 week date, as quoted in checks: 2026-W53 = 28 Dec 2026 – 3 Jan 2027.
  it('keep 28 Dec 2026 to 3 Jan 2027 in week 53 of 2026', () => {
    expect(isoWeekOf(asLocalDate('2026-12-28'))).toEqual({ year: 2026, week: 53 });
    expect(isoWeekOf(asLocalDate('2027-01-03'))).toEqual({ year: 2026, week: 53 });
    expect(isoWeekOf(asLocalDate('2027-01-04'))).toEqual({ year: 2027, week: 1 });
  });

  // Common practice: Tuesdays to Wednesdays, same weeks, none lost.
  it('move a weekday inside its ISO week', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60_000 }), fc.integer({ min: 1, max: 7 }), (day, weekday) => {
        const date = fromDayNumber(day);
        const moved = withWeekday(date, weekday as 1);
        expect(weekdayOf(moved)).toBe(weekday);
        expect(isoWeekOf(moved)).toEqual(isoWeekOf(date));
      }),
    );
  });

  it('add months to the last day that exists', () => {
    expect(addMonths(asLocalDate('2026-01-31'), 1)).toBe('2026-02-28');
    expect(addMonths(asLocalDate('2026-01-31'), -11)).toBe('2025-02-28');
    expect(addDays(asLocalDate('2024-02-28'), 2)).toBe('2024-03-01');
  });
});

describe('zones (IANA tz database)', () => {
  const zones = ['Europe/Lisbon', 'Europe/Madrid', 'America/New_York', 'Australia/Lord_Howe', 'UTC'];

  it('turn wall times into instants as Temporal’s `compatible` does, gaps and repeats included', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...zones),
        fc.integer({ min: 10_000, max: 25_000 }),
        fc.integer({ min: 0, max: 1439 }),
        (name, day, minutes) => {
          const zone = asZone(name);
          const other = Temporal.PlainDateTime.from({
            ...civilOfDayNumber(day),
            hour: Math.floor(minutes / 60),
            minute: minutes % 60,
          });
          const expected = other.toZonedDateTime(name, { disambiguation: 'compatible' }).epochMilliseconds;
          expect(instantOfWall(zone, day, minutes)).toBe(expected);
        },
      ),
      { numRuns: 600 },
    );
  });

  it('agree with Temporal in every minute around the changes of 2026', () => {
    const changes: [string, string][] = [
      ['Europe/Lisbon', '2026-03-29'],
      ['Europe/Lisbon', '2026-10-25'],
      ['Europe/Madrid', '2026-03-29'],
      ['Europe/Madrid', '2026-10-25'],
      ['America/New_York', '2026-03-08'],
      ['America/New_York', '2026-11-01'],
      ['Australia/Lord_Howe', '2026-04-05'],
      ['Australia/Lord_Howe', '2026-10-04'],
    ];
    for (const [name, date] of changes) {
      for (let minutes = 0; minutes < 300; minutes += 5) {
        const time = Temporal.PlainDate.from(date).toPlainDateTime({
          hour: Math.floor(minutes / 60),
          minute: minutes % 60,
        });
        const got = toInstant(asZone(name), { date: asLocalDate(date), minutes });
        expect([name, minutes, got]).toEqual([name, minutes, time.toZonedDateTime(name).epochMilliseconds]);
      }
    }
  });

  it('move a skipped time forward by the gap and take the earlier of a repeated one', () => {
    const lisbon = asZone('Europe/Lisbon');
    const skipped = toInstant(lisbon, { date: asLocalDate('2026-03-29'), minutes: 90 });
    expect(toWallTime(lisbon, skipped)).toEqual({ date: '2026-03-29', minutes: 150 });
    const repeated = toInstant(lisbon, { date: asLocalDate('2026-10-25'), minutes: 90 });
    expect(new Date(repeated).toISOString()).toBe('2026-10-25T00:30:00.000Z');
    const lordHowe = asZone('Australia/Lord_Howe');
    expect(offsetAt(lordHowe, Date.UTC(2026, 6, 1)) - offsetAt(lordHowe, Date.UTC(2026, 0, 1))).toBe(-30 * 60_000);
  });

  it('know the date and its first instant', () => {
    expect(localDateAt(asZone('Europe/Madrid'), instant(Date.UTC(2026, 0, 31, 23, 30)))).toBe('2026-02-01');
    expect(new Date(startOfDay(asZone('Europe/Madrid'), asLocalDate('2026-07-01'))).toISOString()).toBe(
      '2026-06-30T22:00:00.000Z',
    );
  });

  it('refuse names that are no zone', () => {
    for (const text of ['Europe/Atlantis', '+01:00', 'Lisbon', '']) expect(parseZone(text)).toBeNull();
  });
});

describe('ISO 8601 text', () => {
  it('round-trips durations', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 100_000 }), (m) => {
        expect(parseDuration(formatDuration(m))).toBe(m);
      }),
    );
    expect(parseDuration('P1DT2H')).toBe(26 * 60);
    expect(parseDuration('P1W')).toBe(7 * 1440);
    for (const text of ['P', 'PT', 'P1Y', 'PT30S', '3h']) expect(parseDuration(text)).toBeNull();
  });

  it('asks an instant for its offset and refuses impossible days', () => {
    expect(parseInstant('2026-03-17T09:20:00+01:00')).toBe(Date.UTC(2026, 2, 17, 8, 20));
    for (const text of ['2026-03-17T09:20', '2026-02-30T09:20Z', '2026-03-17T25:00Z', 'soon'])
      expect(parseInstant(text)).toBeNull();
  });

  it('says lengths in words', () => {
    expect([
      sayLength(190 * 60_000),
      sayLength(40 * 60_000),
      sayLength(8 * 3_600_000),
      sayLength(52 * 3_600_000),
    ]).toEqual(['3 h 10 min', '40 min', '8 h', '2 d 4 h']);
    expect(toDayNumber(asLocalDate('1970-01-01'))).toBe(0);
  });
});

describe('dates as people type them', () => {
  const today = asLocalDate('2026-11-24');
  it.each([
    ['2026-03-17', '2026-03-17'],
    ['17 Mar 2026', '2026-03-17'],
    ['Tue 17 March 2026', '2026-03-17'],
    ['17 march', '2026-03-17'],
    ['17/3/2026', '2026-03-17'],
    ['17.3.', '2026-03-17'],
    ['3/4/26', '2026-04-03'],
    ['today', '2026-11-24'],
    ['Tomorrow', '2026-11-25'],
    ['+14', '2026-12-08'],
    ['-1 day', '2026-11-23'],
  ])('%s is %s', (typed, date) => expect(readTypedDate(typed, today)).toBe(date));
  it.each(['', '31/2/2026', '29 Feb 2026', '13 Foo', '17', '2026-13-01', '4/13/2026'])('“%s” cannot be read', (typed) =>
    expect(readTypedDate(typed, today)).toBeNull(),
  );
  it('what is said can be typed again', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60_000 }), (day) => {
        expect(readTypedDate(sayDate(fromDayNumber(day)), today)).toBe(fromDayNumber(day));
      }),
    );
  });
});

describe('a typed time of day', () => {
  it.each([
    ['9:40', 580],
    ['09.40', 580],
    ['940', 580],
    ['0940', 580],
    ['9', 540],
    ['9h', 540],
    ['9 h 40', 580],
    [' 23:59 ', 1439],
    ['0:00', 0],
  ])('%s is minute %d', (typed, minutes) => expect(readTypedTime(typed)).toBe(minutes));
  it.each(['', '24:00', '12:60', '9:4', '99', '2460', 'noon', '9:40 pm', '-1', '09:400'])('%s is none', (typed) =>
    expect(readTypedTime(typed)).toBeNull(),
  );
  it('reads what it says, on every minute of a day', () => {
    for (let minute = 0; minute < 1440; minute += 1) expect(readTypedTime(sayTimeOfDay(minute))).toBe(minute);
  });
});
