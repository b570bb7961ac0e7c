// A year of a calendar: its days add up to its working time, clock changes and nights included.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asLocalDate, asZone, fromDayNumber, MINUTE, startOfDay, toDayNumber } from '../time/index.ts';
import { ALWAYS_OPEN, weekdaysOpen, type Calendar } from './calendar.ts';
import { workingDaysOf } from './working-days.ts';
import { workingTimeOf } from './working-time.ts';
import { calendarYear } from './year.ts';

const LISBON = asZone('Europe/Lisbon');
const office: Calendar = {
  ...{ name: 'Office', zone: LISBON, weekly: weekdaysOpen(9 * 60, 18 * 60), closed: [], extraOpen: [] },
};

const span = fc
  .record({ from: fc.integer({ min: 0, max: 1439 }), to: fc.integer({ min: 0, max: 1440 }) })
  .filter((s) => s.from !== s.to);
const day = fc
  .integer({ min: toDayNumber(asLocalDate('2025-12-20')), max: toDayNumber(asLocalDate('2027-01-10')) })
  .map(fromDayNumber);
const calendar: fc.Arbitrary<Calendar> = fc.record({
  name: fc.constant('Any'),
  zone: fc.constantFrom('Europe/Lisbon', 'Australia/Lord_Howe', 'America/St_Johns', 'UTC').map(asZone),
  weekly: fc.array(fc.array(span, { maxLength: 2 }), { minLength: 7, maxLength: 7 }),
  closed: fc.uniqueArray(fc.record({ date: day, name: fc.constant('shut'), holiday: fc.boolean() }), {
    maxLength: 9,
    selector: (d) => d.date,
  }),
  extraOpen: fc.uniqueArray(
    fc.record({ date: day, name: fc.constant('open'), spans: fc.array(span, { minLength: 1, maxLength: 2 }) }),
    { maxLength: 5, selector: (d) => d.date },
  ),
});

describe('a year', () => {
  it('has each of its days, which add up to the working time of the whole, and the working days that dates move over', () => {
    fc.assert(
      fc.property(calendar, (of) => {
        const year = calendarYear(of, 2026);
        expect([year.days.length, year.days[0]?.date, year.days.at(-1)?.date]).toEqual([
          365,
          '2026-01-01',
          '2026-12-31',
        ]);
        const from = startOfDay(of.zone, asLocalDate('2026-01-01'));
        const to = startOfDay(of.zone, asLocalDate('2027-01-01'));
        expect(year.minutes).toBe(workingTimeOf(of).between(from, to) / MINUTE);
        const working = workingDaysOf(of);
        for (const d of year.days) expect(d.isWorkingDay).toBe(working.isWorkingDay(d.date));
      }),
      { numRuns: 60 },
    );
  });

  // 2026 has 261 weekdays (1 January is a Thursday); 365 days of 24 hours are 8,760 h.
  it('of an office is 261 days of nine hours; always open it is 8,760 hours, with an hour less and one more', () => {
    expect(calendarYear(office, 2026)).toMatchObject({ workingDays: 261, minutes: 261 * 9 * 60 });
    const always = calendarYear({ ...office, weekly: ALWAYS_OPEN }, 2026);
    expect([always.minutes, always.workingDays]).toEqual([8760 * 60, 365]);
    expect(always.days.filter((d) => d.minutes !== 1440).map((d) => [d.date, d.minutes])).toEqual([
      ['2026-03-29', 23 * 60],
      ['2026-10-25', 25 * 60],
    ]);
    expect(calendarYear(office, 2028).days).toHaveLength(366);
  });

  it('says of each day that is not as every week why', () => {
    const { days } = calendarYear(
      {
        ...office,
        closed: [
          { date: asLocalDate('2026-12-25'), name: 'Christmas' },
          { date: asLocalDate('2026-12-28'), name: 'Stocktaking', holiday: false },
        ],
        extraOpen: [{ date: asLocalDate('2026-11-28'), name: 'Inspection', spans: [{ from: 600, to: 720 }] }],
      },
      2026,
    );
    expect(
      days.filter((d) => d.named).map((d) => [d.date, d.minutes, d.isWorkingDay, d.named?.kind, d.named?.name]),
    ).toEqual([
      ['2026-11-28', 120, true, 'extra', 'Inspection'],
      ['2026-12-25', 0, false, 'holiday', 'Christmas'],
      ['2026-12-28', 0, false, 'closed', 'Stocktaking'],
    ]);
  });
});
