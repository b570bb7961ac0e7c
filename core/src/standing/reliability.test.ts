// How dependable machines were, against published values and by drawing lots; and what is still to come in a period.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { DAY, HOUR, instant, MINUTE } from '../time/index.ts';
import { seeded } from '../random.ts';
import {
  availabilityOf,
  chiSquareQuantile,
  forecastOf,
  meanTimeInterval,
  reliabilityOf,
  repeatsOf,
  type Outage,
} from './index.ts';

const at = (days: number) => instant(Date.UTC(2026, 0, 1) + days * DAY);
const outage = (from: number, to: number | null): Outage => ({ from: at(from), to: to === null ? null : at(to) });

describe('chi-square quantiles', () => {
  // NIST/SEMATECH e-Handbook, 1.3.6.7.4: critical values of the chi-square distribution.
  it.each([
    [0.95, 2, 5.991],
    [0.95, 10, 18.307],
    [0.99, 20, 37.566],
    [0.975, 4, 11.143],
    [0.9, 30, 40.256],
    [0.05, 10, 3.94],
    [0.025, 20, 9.591],
    [0.1, 2, 0.211],
    [0.01, 40, 22.164],
  ])('at %s with %s degrees of freedom are %s', (p, degrees, value) => {
    expect(chiSquareQuantile(p, degrees)).toBeCloseTo(value, 3);
  });
  it('are asked for even degrees only', () => {
    expect(() => chiSquareQuantile(0.5, 3)).toThrow(RangeError);
    expect(() => chiSquareQuantile(0.5, 0)).toThrow(RangeError);
  });
});

describe('the mean time between failures', () => {
  // NIST/SEMATECH e-Handbook, 8.4.5.1: factors on the estimate for a two-sided interval of 90 %.
  it.each([
    [1, 0.2108, 19.4958],
    [2, 0.3177, 5.6281],
    [3, 0.3869, 3.669],
    [4, 0.437, 2.9276],
    [5, 0.4756, 2.5379],
    [10, 0.5895, 1.843],
  ])('after %s failures lies between %s and %s of what was seen', (failures, lower, upper) => {
    const { lower: low, upper: high } = meanTimeInterval(1000 * failures, failures) ?? { lower: 0, upper: 0 };
    expect([low / 1000, (high ?? 0) / 1000]).toEqual([
      expect.closeTo(lower, 3) as number,
      expect.closeTo(upper, 2) as number,
    ]);
  });

  it('has a lower limit where nothing failed, and none where nothing operated', () => {
    // −T / ln(0.1): so long nothing failing leaves one chance in ten for less.
    expect(meanTimeInterval(1000, 0)).toEqual({ lower: expect.closeTo(1000 / Math.log(10), 6) as number, upper: null });
    expect(meanTimeInterval(0, 0)).toBeNull();
  });

  it('lies in its interval about as often as is said', () => {
    const draw = seeded(7);
    let inside = 0;
    const [runs, truth, length] = [4000, 100, 1000];
    for (let i = 0; i < runs; i += 1) {
      let [failures, time] = [0, 0];
      while ((time += -truth * Math.log(1 - draw())) < length) failures += 1;
      const interval = meanTimeInterval(length, failures);
      if (interval && interval.lower <= truth && truth <= (interval.upper ?? Infinity)) inside += 1;
    }
    // Failures are whole, so that the interval covers a little more than it says, never less.
    expect(inside / runs).toBeGreaterThan(0.89);
    expect(inside / runs).toBeLessThan(0.95);
  });

  it('counts failures that began in the period, and how long those took that are over', () => {
    const outages = [outage(-3, 2), outage(5, 6), outage(10, 13), outage(20, null), outage(40, 41)];
    const of = reliabilityOf(outages, at(0), at(31), 26 * DAY);
    expect([of.failures, of.betweenMs, of.restoreMs, of.restored]).toEqual([3, (26 / 3) * DAY, 2 * DAY, 2]);
    expect(reliabilityOf([], at(0), at(31), 31 * DAY)).toMatchObject({ failures: 0, betweenMs: null, restoreMs: null });
    // IEC 60050-192: steady state availability = MTBF / (MTBF + MTTR), where every outage is over.
    const closed = reliabilityOf([outage(5, 6), outage(10, 13)], at(0), at(40), 36 * DAY);
    const { betweenMs = 0, restoreMs = 0 } = closed;
    expect((betweenMs ?? 0) / ((betweenMs ?? 0) + (restoreMs ?? 0))).toBe(availabilityOf(1, 40 * DAY, 4 * DAY));
  });
});

it('an availability of 99.9 % leaves 8 h 45.6 min of a year of 365 days', () => {
  expect(availabilityOf(1, 365 * DAY, 8 * HOUR + 45.6 * MINUTE)).toBeCloseTo(0.999, 12);
});

describe('repeated failures', () => {
  it('are those within so long after the machine was up again, also where failures overlap', () => {
    const all = [outage(0, 2), outage(9, 10), outage(9.5, 14), outage(20, null), outage(60, 61)];
    expect(repeatsOf(all.toReversed(), 7 * DAY)).toEqual([all[1], all[3]]);
    expect(repeatsOf(all, 6 * DAY)).toEqual([all[3]]);
    expect(repeatsOf([outage(0, null), outage(3, 4)], 7 * DAY)).toEqual([]);
  });
});

describe('what is still to come', () => {
  const tiers = [
    { below: 9500, credit: 500 },
    { below: 9000, credit: 1000 },
  ];
  it('says how many more misses the next tier is away', () => {
    // Twenty promises in half of the period, one missed: twenty more, of which one more may be missed at 95 %.
    expect(forecastOf({ met: 19, missed: 1 }, 0.5, 3, tiers)).toEqual({
      ...{ toCome: 20, share: 0.95 },
      tiers: [
        { tier: tiers[0], misses: 2 },
        { tier: tiers[1], misses: 4 },
      ],
    });
    // Below the first already; the second is out of reach.
    expect(forecastOf({ met: 94, missed: 6 }, 0.99, 0, tiers).tiers).toEqual([{ tier: tiers[1], misses: null }]);
    expect(forecastOf({ met: 0, missed: 0 }, 0, 5, tiers)).toMatchObject({ toCome: 5, share: null });
    expect(forecastOf({ met: 10, missed: 0 }, 1, 0, tiers).tiers.map((t) => t.misses)).toEqual([null, null]);
  });

  it('is the least number that lies below, by trying each', () => {
    const whole = fc.nat(60);
    fc.assert(
      fc.property(whole, whole, whole, fc.integer({ min: 1, max: 10_000 }), (met, missed, known, below) => {
        const { toCome, tiers: found } = forecastOf({ met, missed }, 0.5, known, [{ below, credit: 1 }]);
        expect(toCome).toBe(Math.max(known, met + missed));
        const tried = Array.from({ length: toCome + 1 }, (_, j) => j).find(
          (j) => (met + toCome - j) * 10_000 < below * (met + missed + toCome),
        );
        const isReached = met + missed > 0 && met * 10_000 < below * (met + missed);
        expect(found).toEqual(isReached ? [] : [{ tier: { below, credit: 1 }, misses: tried ?? null }]);
      }),
    );
  });
});
