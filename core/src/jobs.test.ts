import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { waitAfter } from './jobs.ts';

describe('a job that fails', () => {
  it('waits longer each time, then is laid aside', () => {
    expect([1, 2, 3, 4, 5, 6].map((n) => waitAfter(n, 0))).toEqual([
      10_000,
      60_000,
      300_000,
      1_800_000,
      7_200_000,
      null,
    ]);
  });

  it('is spread by no more than a fifth, and never comes back before an earlier wait', () =>
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 4 }), fc.double({ min: 0, max: 0.999, noNaN: true }), (n, chance) => {
        const [wait, next] = [waitAfter(n, chance) as number, waitAfter(n + 1, 0) as number];
        expect(wait).toBeGreaterThanOrEqual(waitAfter(n, 0) as number);
        expect(wait).toBeLessThanOrEqual((waitAfter(n, 0) as number) * 1.2);
        expect(next).toBeGreaterThan(wait);
      }),
    ));
});
