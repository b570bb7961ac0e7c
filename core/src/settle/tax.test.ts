import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { rateFits, totalsOf, type Taxed, type TaxRate } from './index.ts';

const S = (hundredths: number): TaxRate => ({ category: 'S', hundredths });
const E: TaxRate = { category: 'E', hundredths: 0 };
const on = (amount: number, rate: TaxRate): Taxed => ({ amount, rate });

// Source: EN 16931-1, BR-CO-10, -13, -14, -15, -17.
describe('tax', () => {
  it('is of each category’s sum, not of its lines', () => {
    // Three lines of 0.10 at 25 %: line by line 3 × 0.03 = 0.09, of the sum 0.08 (0.075 half-up).
    const totals = totalsOf([on(10, S(2500)), on(10, S(2500)), on(10, S(2500))]);
    expect(totals).toMatchObject({ lines: 30, withoutTax: 30, tax: 8, withTax: 38 });
    expect(totals.rows).toEqual([{ category: 'S', hundredths: 2500, taxable: 30, tax: 8 }]);
  });

  it('keeps categories and rates apart, and a row at nothing', () => {
    const { rows, tax, withTax } = totalsOf([on(10_000, S(2300)), on(5_000, S(600)), on(700, E), on(0, S(1300))]);
    expect(rows.map((r) => [r.category, r.hundredths, r.taxable, r.tax])).toEqual([
      ['S', 2300, 10_000, 2_300],
      ['S', 600, 5_000, 300],
      ['E', 0, 700, 0],
      ['S', 1300, 0, 0],
    ]);
    expect([tax, withTax]).toEqual([2_600, 18_300]);
  });

  it('of a credit is rounded away from zero as its charge was', () => {
    expect(totalsOf([on(-30, S(2500))]).tax).toBe(-totalsOf([on(30, S(2500))]).tax);
    expect(totalsOf([])).toEqual({ lines: 0, withoutTax: 0, tax: 0, withTax: 0, rows: [] });
  });

  it('has a percentage only at the standard rate', () => {
    expect(
      [
        S(2300),
        S(0),
        S(10_001),
        E,
        { category: 'Z', hundredths: 5 } as const,
        { category: 'AE', hundredths: 0 } as const,
      ].map(rateFits),
    ).toEqual([true, false, false, true, false, true]);
  });

  it('adds up, whatever the order', () => {
    const taxed = fc.record({
      amount: fc.integer({ min: -100_000, max: 1_000_000 }),
      rate: fc.constantFrom(S(2300), S(1300), S(600), E),
    });
    fc.assert(
      fc.property(fc.array(taxed, { maxLength: 12 }), (amounts) => {
        const totals = totalsOf(amounts);
        expect(totals.withTax).toBe(totals.withoutTax + totals.tax);
        expect(totals.rows.reduce((sum, r) => sum + r.taxable, 0)).toBe(totals.lines);
        expect(totalsOf([...amounts].reverse()).tax).toBe(totals.tax);
        // Each category's tax is within half a minor unit of the exact one.
        for (const r of totals.rows)
          expect(Math.abs(r.tax - (r.taxable * r.hundredths) / 10_000)).toBeLessThanOrEqual(0.5);
      }),
    );
  });
});
