import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { shareOut } from './share-out.ts';

describe('sharing out', () => {
  it.each([
    [10, [1, 1, 1], [4, 3, 3]],
    [100, [1, 1, 1, 3], [17, 17, 16, 50]],
    [0, [2, 1], [0, 0]],
    [5, [0, 0], [0, 0]],
    [5, [], []],
    [-10, [1, 1, 1], [-4, -3, -3]],
    [7, [0, 1, 0], [0, 7, 0]],
  ])('%i by %j is %j', (total, weights, parts) => {
    expect(shareOut(total, weights)).toEqual(parts);
  });

  it('adds up exactly, and no part is a whole unit away from its exact share', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -1e12, max: 1e12 }),
        fc.array(fc.integer({ min: 0, max: 100_000 }), { minLength: 1, maxLength: 12 }),
        (total, weights) => {
          const sum = weights.reduce((a, b) => a + b, 0);
          const parts = shareOut(total, weights);
          if (sum === 0) return parts.every((p) => p === 0);
          expect(parts.reduce((a, b) => a + b, 0)).toBe(total);
          // |part − total·w/sum| < 1, in whole numbers.
          return parts.every((p, i) => {
            const off = BigInt(p) * BigInt(sum) - BigInt(total) * BigInt(weights[i] as number);
            return (off < 0n ? -off : off) < BigInt(sum);
          });
        },
      ),
    );
  });

  it('gives of two with equal weights the earlier one no less', () => {
    fc.assert(
      fc.property(fc.nat(10_000), fc.array(fc.nat(20), { minLength: 2, maxLength: 10 }), (total, weights) => {
        const parts = shareOut(total, weights);
        return weights.every((w, i) =>
          weights.every((x, j) => j <= i || w !== x || (parts[i] as number) >= (parts[j] as number)),
        );
      }),
    );
  });

  it('knows no halves and no weights below zero', () => {
    expect(() => shareOut(1.5, [1])).toThrow('whole number');
    expect(() => shareOut(1, [-1])).toThrow('not negative');
    expect(() => shareOut(1, [0.5])).toThrow('not negative');
  });
});
