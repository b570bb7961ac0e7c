// Prices: broken periods by actual days, the index formula, and money that is never lost by rounding.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { readAmount, sayAmountOf, sayMoney, parseCurrency, timesRatio, type Currency } from '../money.ts';
import { asLocalDate } from '../time/index.ts';
import {
  addIndexValue,
  billedPeriods,
  byMonth,
  checkIndexation,
  indexedPrice,
  type BillingPlan,
  type PricedStretch,
} from './index.ts';

const d = asLocalDate;
const plan = (over: Partial<BillingPlan> = {}): BillingPlan => ({
  per: 'month',
  timing: 'in advance',
  indexation: null,
  ...over,
});
const whole = (minor: number, from: string, to: string | null = null): PricedStretch => ({
  ...{ key: 'whole', label: 'the agreement' },
  term: { from: d(from), to: to === null ? null : d(to) },
  minor,
});

describe('the price formula P₁ = P₀·(a + b·I₁/I₀)', () => {
  // EN 13269 practice (from memory): 20 % fixed, 80 % follows an index that rose from 100 to 105 → 1,000.00 becomes 1,040.00.
  const indexation = { fixedPercent: 20, base: 100_00, values: [{ from: d('2027-01-01'), hundredths: 105_00 }] };
  it('1,000.00 with a = 0.2, b = 0.8, I₀ = 100, I₁ = 105 is 1,040.00', () => {
    expect(indexedPrice(1000_00, indexation, d('2027-01-01'))).toBe(1040_00);
    expect(indexedPrice(1000_00, indexation, d('2026-12-31'))).toBe(1000_00);
  });
  it('a new value holds from its day; one on or before the newest, of nothing, or without a formula is refused', () => {
    const code = (from: string, hundredths: number, to: Parameters<typeof addIndexValue>[0] = indexation) => {
      const taken = addIndexValue(to, { from: d(from), hundredths });
      return taken.ok ? taken.value.values.map((v) => v.hundredths) : taken.refusals[0]?.code;
    };
    expect(code('2027-01-02', 106_00)).toEqual([105_00, 106_00]);
    expect(code('2027-01-01', 106_00)).toBe('out-of-order');
    expect(code('2028-01-01', 0)).toBe('invalid');
    expect(code('2028-01-01', 106_00, null)).toBe('unsupported');
  });

  it('agrees with the formula in floating point to the cent, for any figures', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 9_999_999 }),
        fc.nat(100),
        fc.integer({ min: 50_00, max: 200_00 }),
        fc.integer({ min: 50_00, max: 200_00 }),
        (minor, a, base, value) => {
          const exact = indexedPrice(
            minor,
            { fixedPercent: a, base, values: [{ from: d('2026-01-01'), hundredths: value }] },
            d('2026-06-01'),
          );
          expect(Math.abs(exact - minor * (a / 100 + ((100 - a) / 100) * (value / base)))).toBeLessThanOrEqual(
            0.5 + 1e-6,
          );
        },
      ),
    );
  });
  // EN 16931: an amount is rounded half-up once, at line level; price × index × share of the period × quantity is one exact product.
  it('price, index and share of the period are rounded once: 1.00 × 1.046 × 15/30 is 0.52, not half of 1.05', () => {
    const rises = { fixedPercent: 0, base: 1000_00, values: [{ from: d('2026-01-01'), hundredths: 1046_00 }] };
    const half = billedPeriods(
      plan({ indexation: rises }),
      { from: d('2026-06-01'), to: null },
      [whole(1_00, '2026-06-16')],
      d('2026-06-01'),
      d('2026-06-30'),
    );
    expect(half.map((p) => p.minor)).toEqual([52]);
    const visits = ['2026-06-02', '2026-06-09', '2026-06-16'].map(d);
    const perVisit = billedPeriods(
      plan({ per: 'visit', indexation: rises }),
      { from: d('2026-06-01'), to: null },
      [whole(1_00, '2026-06-01')],
      d('2026-06-01'),
      d('2026-06-30'),
      visits,
    );
    expect(perVisit[0]).toMatchObject({ minor: 314, parts: [{ held: 3, of: 1 }] });
  });
  it.each([
    [{ ...indexation, fixedPercent: 120 }, 'indexation.fixedPercent'],
    [{ ...indexation, base: 0 }, 'indexation.base'],
    [{ ...indexation, values: [{ from: d('2027-01-01'), hundredths: -1 }] }, 'indexation.values.0.hundredths'],
  ])('refuses what cannot be calculated with, at its field', (wrong, field) => {
    expect(checkIndexation(wrong)).toMatchObject({ ok: false, refusals: [{ field }] });
  });
});

describe('billing periods', () => {
  const year = { from: d('2026-01-01'), to: d('2026-12-31') };
  it('a year billed by quarter is four amounts on the first of each quarter, or the last in arrears', () => {
    const quarters = billedPeriods(plan({ per: 'quarter' }), year, [whole(300_00, '2026-01-01')], year.from, year.to);
    expect(quarters.map((q) => [q.dueOn, q.minor])).toEqual([
      ['2026-01-01', 300_00],
      ['2026-04-01', 300_00],
      ['2026-07-01', 300_00],
      ['2026-10-01', 300_00],
    ]);
    const later = billedPeriods(
      plan({ per: 'quarter', timing: 'in arrears' }),
      year,
      [whole(300_00, '2026-01-01')],
      year.from,
      year.to,
    );
    expect(later.map((q) => q.dueOn)).toEqual(['2026-03-31', '2026-06-30', '2026-09-30', '2026-12-31']);
  });
  // Pro rata by actual days (common practice): 10 of the 28 days of February at 280.00 are 100.00.
  it('a line that begins in mid-period pays by actual days', () => {
    const [february] = billedPeriods(plan(), year, [whole(280_00, '2026-02-19')], d('2026-02-01'), d('2026-02-28'));
    expect(february?.parts).toEqual([{ key: 'whole', label: 'the agreement', minor: 100_00, held: 10, of: 28 }]);
  });
  it('a term that ends in mid-period pays for the days it held', () => {
    const term = { from: d('2026-01-01'), to: d('2026-04-15') };
    const last = billedPeriods(plan(), term, [whole(300_00, '2026-01-01')], d('2026-04-01'), d('2026-12-31'));
    expect(last).toMatchObject([{ from: '2026-04-01', to: '2026-04-15', minor: 150_00 }]);
  });
  it('an amendment in mid-period charges each price for its own days', () => {
    const parts = [whole(310_00, '2026-01-01', '2026-01-10'), whole(620_00, '2026-01-11')];
    const [january] = billedPeriods(plan(), year, parts, d('2026-01-01'), d('2026-01-31'));
    expect(january?.parts.map((p) => [p.held, p.minor])).toEqual([
      [10, 100_00],
      [21, 420_00],
    ]);
  });
  it('a price per visit is charged for each visit due in the month', () => {
    const visits = ['2026-03-03', '2026-03-17', '2026-05-05', '2027-01-05'].map(d);
    const billed = billedPeriods(
      plan({ per: 'visit' }),
      year,
      [whole(120_00, '2026-01-01')],
      year.from,
      year.to,
      visits,
    );
    expect(byMonth(billed)).toEqual([
      { month: '2026-03', minor: 240_00 },
      { month: '2026-05', minor: 120_00 },
    ]);
  });
  it('the parts of a period lie within a cent each of the full price, however it is cut', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1_000_000 }), fc.integer({ min: 1, max: 30 }), (minor, cut) => {
        const day = (n: number): string => `2026-01-${String(n).padStart(2, '0')}`;
        const parts = [whole(minor, day(1), day(cut)), whole(minor, day(cut + 1))];
        const [january] = billedPeriods(plan(), year, parts, d('2026-01-01'), d('2026-01-31'));
        expect(Math.abs((january?.minor ?? 0) - minor)).toBeLessThanOrEqual(1);
      }),
    );
  });
});

describe('amounts', () => {
  it.each([
    ['1250', 125000],
    ['1,250.00', 125000],
    ['1250,5', 125050],
    ['1 250 000', 125000000],
    ['-3.10', -310],
    ['12.345', 1234500],
    ['12.3456', null],
    ['soon', null],
    ['', null],
  ])('“%s” is read as %s', (text, minor) => expect(readAmount(text)).toBe(minor));
  it('are said in the decimals of their currency (ISO 4217)', () => {
    expect(sayAmountOf(123456789)).toBe('1,234,567.89');
    expect(sayAmountOf(-5)).toBe('-0.05');
    expect(sayMoney({ minor: 1500, currency: parseCurrency('jpy') as Currency })).toBe('JPY 1,500');
    expect(parseCurrency('euro')).toBeNull();
  });
  it('are rounded half-up, once', () => {
    expect([timesRatio(5, 1n, 2n), timesRatio(-5, 1n, 2n), timesRatio(10, 1n, 3n), timesRatio(1, 1n, 3n)]).toEqual([
      3, -3, 3, 0,
    ]);
  });
});
