import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { workingDaysOf } from '../calendars/index.ts';
import { asLocalDate } from '../time/index.ts';
import { aSchedule, type Given } from '../a-schedule.ts';
import { agreementYear, checkHours, onSiteMinutes, placeHours, proposeVisits, type Deviation } from './index.ts';

const d = asLocalDate;

describe('contracted hours', () => {
  // Common practice: the year's total of contracted hours is kept when months get different factors.
  it('are placed with their sum kept to the minute, each within a minute of its share', () => {
    const factors = fc.array(
      fc.integer({ min: 0, max: 4000 }).map((n) => n / 1000),
      { minLength: 1, maxLength: 60 },
    );
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 100_000 }), factors, (total, given) => {
        const minutes = placeHours(total, given);
        const sum = given.reduce((a, b) => a + b, 0);
        if (sum === 0) return void expect(minutes.every((m) => m === 0)).toBe(true);
        expect(minutes.reduce((a, b) => a + b, 0)).toBe(total);
        minutes.forEach((m, i) => expect(Math.abs(m - (total * (given[i] as number)) / sum)).toBeLessThan(1));
      }),
    );
  });
  it('give the minutes over to the largest remainders, of equal ones to the earlier visit', () => {
    expect(placeHours(10, [1, 1, 1])).toEqual([4, 3, 3]);
    expect(placeHours(100, [1.5, 1, 1, 0.5])).toEqual([38, 25, 25, 12]);
    expect(placeHours(1, [0.001, 0.002, 0.002])).toEqual([0, 1, 0]);
  });
  // Common practice: hours on site = contracted hours per visit ÷ crew size, travel on top.
  it('are divided by the crew, rounded up for each', () => {
    expect([onSiteMinutes(240, 2), onSiteMinutes(241, 2), onSiteMinutes(90, 1)]).toEqual([120, 121, 90]);
  });

  const given: Given = {
    rule: 'FREQ=MONTHLY;BYMONTHDAY=10',
    convention: 'none',
    lead: 0,
    agreementTerm: { from: d('2026-07-01'), to: d('2028-06-30') },
    lineTerms: [{ from: d('2026-07-01'), to: null }],
    hours: { totalMinutes: 6000, factors: [2, null, null, null, null, null, 0.5, 0.5] },
  };
  const minutesOf = (over: Given = {}) =>
    proposeVisits(aSchedule(workingDaysOf(null), { ...given, ...over }), d('2028-06-30')).visits.map((v) => v.minutes);

  it('hold for each agreement year, by the month of the identifying date', () => {
    const minutes = minutesOf();
    expect(minutes).toHaveLength(24);
    expect(minutes.slice(0, 12)).toEqual([250, 250, 500, 500, 500, 500, 1000, 500, 500, 500, 500, 500]);
    expect(minutes.slice(12)).toEqual(minutes.slice(0, 12));
  });
  it('of other visits do not change when one is skipped, moved or added', () => {
    const plain = { part: 1, agreed: false, movedTo: null, skipped: null, added: false };
    const deviations: Deviation[] = [
      { ...plain, nominal: d('2026-09-10'), skipped: 'closed' },
      { ...plain, nominal: d('2026-10-10'), movedTo: d('2027-01-03') },
      { ...plain, nominal: d('2026-11-02'), added: true },
    ];
    // The added one takes what its job plan says.
    expect(minutesOf({ deviations }).slice(0, 12)).toEqual([
      250, 250, 500, 90, 500, 500, 1000, 500, 500, 500, 500, 500,
    ]);
  });
  it('run in years from the first day of the term', () => {
    expect(agreementYear(d('2024-02-29'), d('2026-02-27'))).toEqual({ from: '2025-02-28', behind: '2026-02-28' });
    expect(agreementYear(d('2026-07-01'), d('2027-06-30'))).toEqual({ from: '2026-07-01', behind: '2027-07-01' });
  });
  it.each([
    [{ totalMinutes: 0, factors: [] }, 'hours.totalMinutes'],
    [{ totalMinutes: 60, factors: [-1] }, 'hours.factors.0'],
    [{ totalMinutes: 60, factors: [], visits: 0 }, 'hours.visits'],
    [{ totalMinutes: 60, factors: [], visits: 1.5 }, 'hours.visits'],
    [{ totalMinutes: 60, factors: [1, 1.23456] }, 'hours.factors.1'],
    [{ totalMinutes: 60, factors: Array.from({ length: 12 }, () => 0) }, 'hours.factors'],
  ])('refuses %o at %s', (hours, field) => {
    expect(checkHours(hours).map((r) => r.field)).toEqual([field]);
    expect(checkHours({ totalMinutes: 60, factors: [0, 0, 1.125], visits: 12 })).toEqual([]);
  });
});
