// The days of a visit: the wanted weekday, what the editor shows of any cadence, and what it warns of.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { weekdaysOpen, workingDaysOf } from '../calendars/index.ts';
import { aSchedule, ruleOf } from '../a-schedule.ts';
import {
  addDays,
  asLocalDate,
  asZone,
  daysBetween,
  toDayNumber,
  weekdayOf,
  type LocalDate,
  type Weekday,
} from '../time/index.ts';
import type { Cadence } from './cadence.ts';
import { concernsOf } from './concerns.ts';
import { visitDays, type DateTerms } from './dates.ts';
import { previewCadence, proposeVisits } from './propose.ts';
import type { Schedule } from './schedule.ts';

const d = asLocalDate;
const ALWAYS = workingDaysOf(null);
const OFFICE = workingDaysOf({
  name: 'Weekdays',
  zone: asZone('Europe/Lisbon'),
  weekly: weekdaysOpen(540, 1020),
  closed: [{ date: d('2026-12-08'), name: 'Holiday' }],
  extraOpen: [],
});
const TERMS: DateTerms = {
  convention: 'following',
  earlyDays: 5,
  lateDays: 7,
  lead: 14,
  leadUnit: 'calendar days',
  weekday: null,
};

describe('a wanted weekday', () => {
  const planned = (over: Partial<DateTerms>, on: string): LocalDate | undefined =>
    visitDays({ ...TERMS, ...over }, OFFICE, toDayNumber(d(on)), null)?.planned;

  it('is the nearest open one inside the window; the due date and the window stay', () => {
    // 1 Dec 2026 is a Tuesday.
    expect(planned({ weekday: 4 }, '2026-12-01')).toBe('2026-12-03');
    expect(planned({ weekday: 5 }, '2026-12-01')).toBe('2026-12-04');
    expect(planned({ weekday: 6 }, '2026-12-01')).toBe('2026-12-01');
    expect(visitDays({ ...TERMS, weekday: 4 }, OFFICE, toDayNumber(d('2026-12-01')), null)).toEqual({
      due: '2026-12-01',
      windowFrom: '2026-11-26',
      windowTo: '2026-12-08',
      planned: '2026-12-03',
      raise: '2026-11-19',
    });
  });

  it('that is closed gives way to the next best, or to the due date', () => {
    expect(planned({ weekday: 2 }, '2026-12-10')).toBe('2026-12-15');
    expect(planned({ weekday: 2, lateDays: 4 }, '2026-12-10')).toBe('2026-12-10');
  });

  it('against a search of every day of the window', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 400 }),
        fc.integer({ min: 1, max: 7 }),
        fc.integer({ min: 0, max: 14 }),
        fc.integer({ min: 0, max: 14 }),
        (n, weekday, earlyDays, lateDays) => {
          const terms = { ...TERMS, earlyDays, lateDays, weekday: weekday as Weekday };
          const days = visitDays(terms, OFFICE, toDayNumber(addDays(d('2026-06-01'), n)), null);
          if (!days) throw new Error('no days');
          let best: LocalDate | null = null;
          for (let day = days.windowFrom; day <= days.windowTo; day = addDays(day, 1)) {
            const distance = Math.abs(daysBetween(days.due, day));
            if (weekdayOf(day) !== weekday || distance > 14 || !(day === days.due || OFFICE.isWorkingDay(day)))
              continue;
            if (best === null || distance < Math.abs(daysBetween(days.due, best))) best = day;
          }
          expect(days.planned).toBe(best ?? days.due);
        },
      ),
    );
  });

  it('does not move a day that somebody chose', () => {
    const chosen = { day: toDayNumber(d('2026-12-02')), agreed: false };
    expect(visitDays({ ...TERMS, weekday: 4 }, OFFICE, toDayNumber(d('2026-12-01')), chosen)?.planned).toBe(
      '2026-12-02',
    );
  });
});

describe('what the editor shows', () => {
  const since = (time: { count: number; unit: 'month' | 'day' } | null): Cadence => ({
    kind: 'since service',
    since: d('2026-01-31'),
    time,
    meter: null,
  });
  const due = (cadence: Cadence, from: string, n: number) =>
    previewCadence(cadence, TERMS, ALWAYS, d(from), n).map((v) => v.due);

  it('of one counted from the last service: each from the one before, the first not before it is owed', () => {
    expect(due(since({ count: 1, unit: 'month' }), '2026-01-01', 3)).toEqual([
      '2026-02-28',
      '2026-03-28',
      '2026-04-28',
    ]);
    expect(due(since({ count: 1, unit: 'month' }), '2026-03-10', 2)).toEqual(['2026-03-10', '2026-04-10']);
    expect(due(since(null), '2026-01-01', 3)).toEqual([]);
  });

  it('and warns of: windows and leads that reach the next visit, absorbing both ways, no end', () => {
    const concerns = (text: string, terms: Partial<DateTerms>, absorb: number | null, to: string | null): string[] => {
      const cadence: Cadence = { kind: 'rule', rule: ruleOf(text), anchor: d('2026-01-06') };
      const visits = previewCadence(cadence, { ...TERMS, ...terms }, ALWAYS, d('2026-01-06'), 12);
      return concernsOf(cadence, visits, absorb, to === null ? null : d(to));
    };
    expect(concerns('FREQ=MONTHLY;BYMONTHDAY=6', {}, null, '2026-12-31')).toEqual([]);
    expect(concerns('FREQ=WEEKLY', { lead: 3 }, null, '2026-12-31')).toEqual([
      'The windows of the visits due on Tue 6 Jan 2026 and Tue 13 Jan 2026 overlap: one visit could count for either.',
    ]);
    expect(concerns('FREQ=WEEKLY', { earlyDays: 0, lateDays: 0 }, null, '2026-12-31')).toEqual([
      'The visit due on Tue 13 Jan 2026 is raised before the one of Tue 6 Jan 2026 is due.',
    ]);
    expect(concerns('FREQ=MONTHLY;BYMONTHDAY=6', {}, 14, '2026-12-31')[0]).toContain('within 14 days to either side');
    expect(concerns('FREQ=MONTHLY;BYMONTHDAY=6', {}, 13, '2026-12-31')).toEqual([]);
    expect(concerns('FREQ=MONTHLY;BYMONTHDAY=6', {}, null, null)).toEqual([
      'Neither the rule nor the agreement ends: visits go on until somebody ends them.',
    ]);
    expect(concerns('FREQ=MONTHLY;BYMONTHDAY=6;COUNT=4', {}, null, null)).toEqual([]);
  });

  it('and says where the rule gives another number of visits than is contracted', () => {
    const cadence: Cadence = { kind: 'rule', rule: ruleOf('FREQ=MONTHLY;BYMONTHDAY=6'), anchor: d('2026-01-06') };
    const visits = previewCadence(cadence, TERMS, ALWAYS, d('2026-01-06'), 12);
    const said = (contracted: number | null): string[] =>
      concernsOf(cadence, visits, null, d('2026-12-31'), { contracted, inYear: visits.length });
    expect([said(null), said(12), said(10)]).toEqual([
      [],
      [],
      ['The rule gives 12 visits in a year; 10 are contracted.'],
    ]);
  });
});

describe('hours of a year over a machine that was swapped', () => {
  it('are shared by the visits of both, to the minute', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 364 }), fc.integer({ min: 60, max: 9000 }), (n, totalMinutes) => {
        const swapped = addDays(d('2026-01-01'), n);
        const hours = { totalMinutes, factors: [2, 1, 1, 0, 1, 1, 1.5, 1, 1, 1, 1, 3] };
        const minutes = (holds: Schedule['holds']): number =>
          proposeVisits(aSchedule(ALWAYS, { rule: 'FREQ=WEEKLY', hours, holds }), d('2027-06-30')).visits.reduce(
            (sum, v) => sum + v.minutes,
            0,
          );
        // The one that was swapped out is asked on its last day: later runs say that it was.
        const out = proposeVisits(
          aSchedule(ALWAYS, {
            rule: 'FREQ=WEEKLY',
            hours,
            lead: 0,
            holds: { from: d('2026-01-01'), to: addDays(swapped, -1) },
          }),
          addDays(swapped, -1),
        ).visits.reduce((sum, v) => sum + v.minutes, 0);
        expect(out + minutes({ from: swapped, to: null })).toBe(totalMinutes);
      }),
    );
  });
});
