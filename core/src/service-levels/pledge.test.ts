import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { checkPledge, creditAmount, creditOf, marginOf, NO_PLEDGE, type Pledge } from './index.ts';

const pledge = (over: Partial<Pledge> = {}): Pledge => ({
  ...NO_PLEDGE,
  tiers: [
    { below: 9500, credit: 500 },
    { below: 9000, credit: 1000 },
    { below: 8000, credit: 2500 },
  ],
  ...over,
});
const fields = (p: Pledge): (string | undefined)[] => {
  const checked = checkPledge(p);
  return checked.ok ? [] : checked.refusals.map((r) => r.field);
};

describe('a service credit', () => {
  it.each([
    [1, 0],
    [0.95, 0],
    [0.9499, 500],
    [0.9, 500],
    [0.899, 1000],
    [0.5, 2500],
    [0, 2500],
    [null, 0],
  ])('attainment %s gives %i hundredths of a percent: the tier it fell below, not their sum', (attainment, credit) =>
    expect(creditOf(pledge(), attainment)).toBe(credit),
  );

  it('a cap is never exceeded', () => {
    expect(creditOf(pledge({ cap: 1500 }), 0.1)).toBe(1500);
    expect(creditOf(pledge({ cap: 1500 }), 0.92)).toBe(500);
  });

  it('a worse attainment never gives less', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(share, share, (a, b) => {
        const [worse, better] = a < b ? [a, b] : [b, a];
        expect(creditOf(pledge({ cap: 2000 }), worse)).toBeGreaterThanOrEqual(creditOf(pledge({ cap: 2000 }), better));
      }),
    );
  });

  it('10 % of 12,400.00 is 1,240.00; 2.5 % of 0.10 is rounded half-up to nothing', () => {
    expect(creditAmount(1_240_000, 1000)).toBe(124_000);
    expect(creditAmount(10, 250)).toBe(0);
    expect(creditAmount(20, 250)).toBe(1);
  });
});

describe('a pledge', () => {
  it('is kept with its tiers in order', () => {
    const checked = checkPledge(pledge({ tiers: [...pledge().tiers].reverse() }));
    expect(checked.ok && checked.value.tiers.map((t) => t.below)).toEqual([9500, 9000, 8000]);
  });
  it.each<[string, Partial<Pledge>, string]>([
    ['a warning at nothing left', { warnPercent: 0 }, 'pledge.warnPercent'],
    ['an availability over 100 %', { availability: { target: 10_001, calendarId: null } }, 'pledge.availability'],
    ['a cap of nothing', { cap: 0 }, 'pledge.cap'],
    ['a credit over the fee', { tiers: [{ below: 9500, credit: 10_001 }] }, 'pledge.tiers'],
    [
      'two tiers alike',
      {
        tiers: [
          { below: 9500, credit: 5 },
          { below: 9500, credit: 6 },
        ],
      },
      'pledge.tiers',
    ],
    [
      'a worse attainment that gives less',
      {
        tiers: [
          { below: 9500, credit: 500 },
          { below: 9000, credit: 400 },
        ],
      },
      'pledge.tiers',
    ],
  ])('is refused with %s', (_, over, field) => expect(fields(pledge(over))).toEqual([field]));
});

describe('the margin of a clock', () => {
  const running = (left: number, warnPercent: number) =>
    marginOf({ state: 'running', left: left * 60_000, promisedMinutes: 100, warnPercent });
  it('is short at the share its service level warns at', () => {
    expect([running(26, 25), running(25, 25), running(50, 50), running(51, 50)]).toEqual([
      'enough',
      'short',
      'short',
      'enough',
    ]);
  });
});
