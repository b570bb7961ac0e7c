// Tax of what a customer pays: by category, on the category's sum, as EN 16931 has it.
import { timesRatio } from '../money.ts';

/** Codes of UNTDID 5305 that EN 16931 allows here: standard rate, zero rated, exempt, reverse charge. */
export const TAX_CATEGORIES = ['S', 'Z', 'E', 'AE'] as const;
export type TaxCategory = (typeof TAX_CATEGORIES)[number];
/** Percent in hundredths: 2300 is 23 %. */
export type TaxRate = { readonly category: TaxCategory; readonly hundredths: number };

export type Taxed = { readonly amount: number; readonly rate: TaxRate };
export type TaxRow = TaxRate & { readonly taxable: number; readonly tax: number };

export type DocumentTotals = {
  /** Sum of line amounts (BT-106). */
  readonly lines: number;
  readonly withoutTax: number;
  readonly tax: number;
  readonly withTax: number;
  readonly rows: readonly TaxRow[];
};

/** What makes rows of one category and rate one. */
export const rateKey = ({ category, hundredths }: TaxRate): string => `${category} ${hundredths}`;

/** Only the standard rate has a percentage. Source: EN 16931, BR-Z-05, BR-E-05, BR-AE-05. */
export const rateFits = ({ category, hundredths }: TaxRate): boolean =>
  category === 'S' ? hundredths > 0 && hundredths <= 10_000 : hundredths === 0;

/**
 * Totals of amounts in minor units. Each category and rate has one row, also at 0; its tax is rounded half-up on its sum, never line
 * by line. Source: EN 16931-1, BR-CO-10 (sum of lines), BR-CO-13 (without tax), BR-CO-14 (tax), BR-CO-15 (with tax), BR-CO-17
 * (tax of a category).
 */
export function totalsOf(amounts: readonly Taxed[]): DocumentTotals {
  const sums = new Map<string, { rate: TaxRate; taxable: number }>();
  for (const { amount, rate } of amounts) {
    const key = rateKey(rate);
    const held = sums.get(key) ?? { rate, taxable: 0 };
    sums.set(key, { rate: held.rate, taxable: held.taxable + amount });
  }
  const rows = [...sums.values()].map(({ rate, taxable }): TaxRow => ({
    ...rate,
    taxable,
    tax: timesRatio(taxable, BigInt(rate.hundredths), 10_000n),
  }));
  const lines = amounts.reduce((sum, a) => sum + a.amount, 0);
  const tax = rows.reduce((sum, r) => sum + r.tax, 0);
  return { lines, withoutTax: lines, tax, withTax: lines + tax, rows };
}
