import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { billedPeriods, type BillingPlan } from '../agreements/index.ts';
import { addDays, asLocalDate, daysBetween } from '../time/index.ts';
import { earnedIn, forecastOf, marginPercentOf, poissonInterval, priceFor } from './margin.ts';

const day = asLocalDate;
const plan = (per: BillingPlan['per'], timing: BillingPlan['timing'] = 'in advance'): BillingPlan => ({
  per,
  timing,
  indexation: null,
});

describe('what is earned by the day', () => {
  const periods = (per: BillingPlan['per'], minor: number) =>
    billedPeriods(
      plan(per),
      { from: day('2026-01-01'), to: null },
      [{ key: 'k', label: '', minor, term: { from: day('2026-01-01'), to: null } }],
      day('2026-01-01'),
      day('2026-12-31'),
    );
  it('is the fee of a year by its days, however it is billed', () => {
    expect(earnedIn(periods('year', 365_00), day('2026-03-01'), day('2026-03-31'))).toBe(31_00);
    expect(earnedIn(periods('month', 31_00), day('2026-03-01'), day('2026-03-31'))).toBe(31_00);
    expect(earnedIn(periods('month', 31_00), day('2026-03-01'), day('2026-03-10'))).toBe(10_00);
    expect(earnedIn(periods('month', 31_00), day('2025-01-01'), day('2025-12-31'))).toBe(0);
    expect(earnedIn([], day('2026-01-01'), day('2026-12-31'))).toBe(0);
    expect(earnedIn(periods('month', 31_00), day('2026-03-10'), day('2026-03-01'))).toBe(0);
  });
  it('of stretches that follow each other comes to what it comes to together, to the cent', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('month' as const, 'quarter' as const, 'year' as const),
        fc.integer({ min: 1, max: 999_999 }),
        fc.uniqueArray(fc.integer({ min: 1, max: 360 }), { maxLength: 8 }),
        (per, minor, cuts) => {
          const all = periods(per, minor);
          const [begin, end] = [day('2026-01-01'), day('2026-12-31')];
          const starts = [0, ...cuts.toSorted((a, b) => a - b)].map((n) => addDays(begin, n));
          const parts = starts.map((from, i) =>
            earnedIn(all, from, starts[i + 1] ? addDays(starts[i + 1] as never, -1) : end),
          );
          expect(parts.reduce((sum, n) => sum + n, 0)).toBe(earnedIn(all, begin, end));
          expect(Math.min(...parts)).toBeGreaterThanOrEqual(0);
          expect(daysBetween(begin, end)).toBe(364);
        },
      ),
    );
  });
});

describe('the interval of a number of failures', () => {
  // NIST/SEMATECH e-Handbook of Statistical Methods, 8.4.5.1: factors that multiply r / T for 80 % two-sided limits of the MTBF are
  // 2r/χ²; its table gives for r = 1: 0.2571 and 9.4912, for r = 5: 0.5391 and 2.0554, for r = 10: 0.6491 and 1.6074 (r failures,
  // end of test by time: the upper limit of the rate has 2(r + 1) degrees of freedom).
  it.each([
    [1, 0.2571, 9.4912],
    [2, 0.3758, 3.7607],
    [5, 0.5391, 2.0554],
    [10, 0.6491, 1.6074],
  ])('of %i is that of the handbook', (n, lower, upper) => {
    const { low, high } = poissonInterval(n);
    expect(n / high).toBeCloseTo(lower, 3);
    expect(n / low).toBeCloseTo(upper, 3);
  });
  it('of none begins at nothing and ends where none is seen in a tenth of cases', () => {
    expect(poissonInterval(0)).toEqual({ low: 0, high: expect.closeTo(Math.log(10), 6) as number });
  });
  it('holds its number, and is wider the more sure one wants to be', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 400 }), (n) => {
        const [narrow, wide] = [poissonInterval(n, 0.5), poissonInterval(n, 0.95)];
        expect(wide.low <= narrow.low && narrow.low <= n && n <= narrow.high && narrow.high <= wide.high).toBe(true);
      }),
    );
  });
});

describe('a renewal', () => {
  const past = { failures: 10, machineYears: 20, machines: 8, medianCost: 300_00, plannedCost: 1_000_00 };
  it('is expected to cost its failures at what one took, and its planned work', () => {
    // 10 in 20 machine-years: half a failure for each of 8 machines.
    const forecast = forecastOf(past);
    expect([forecast?.failures, forecast?.cost]).toEqual([4, 2_200_00]);
    expect(forecast?.range.low).toBeCloseTo(poissonInterval(10).low * 0.4, 9);
    expect(forecast && forecast.costRange.low < forecast.cost && forecast.cost < forecast.costRange.high).toBe(true);
    expect(forecastOf({ ...past, machineYears: 0 })).toBeNull();
  });
  it('has the price that leaves the margin, and not a cent less', () => {
    expect([priceFor(750_00, 25), priceFor(0, 25), priceFor(1, 100)]).toEqual([1_000_00, 0, null]);
    expect([marginPercentOf(1_000_00, 750_00), marginPercentOf(0, 5)]).toEqual([25, null]);
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e9 }), fc.integer({ min: 0, max: 99 }), (cost, percent) => {
        const price = priceFor(cost, percent) as number;
        expect(marginPercentOf(price, cost)).toBeGreaterThanOrEqual(percent - 1e-9);
        expect(marginPercentOf(price - 1, cost) ?? -Infinity).toBeLessThan(percent + 1e-9);
      }),
    );
  });
});
