// Money: exact amounts in whole minor units with a currency; ratios are applied as fractions and rounded half-up, once.

declare const currencyBrand: unique symbol;
/** A code of ISO 4217, three capital letters. */
export type Currency = string & { readonly [currencyBrand]: true };

export type Money = { readonly minor: number; readonly currency: Currency };

/** Minor units of currencies that do not have two decimals. Source: ISO 4217, list one. */
const DECIMALS: Readonly<Record<string, number>> = { JPY: 0, KRW: 0, ISK: 0, CLP: 0, BHD: 3, KWD: 3, TND: 3 };

export const decimalsOf = (currency: string): number => DECIMALS[currency] ?? 2;

/** Reads a currency code; null when it is not three letters. */
export function parseCurrency(text: string): Currency | null {
  const code = text.trim().toUpperCase();
  return /^[A-Z]{3}$/.test(code) ? (code as Currency) : null;
}

/** `minor × over / under`, rounded half-up (away from zero at the half) to whole minor units. Throws on a zero denominator. */
export function timesRatio(minor: number, over: bigint, under: bigint): number {
  if (under === 0n) throw new Error('a ratio has a denominator');
  const product = BigInt(minor) * over;
  const negative = product < 0n !== under < 0n;
  const [n, d] = [product < 0n ? -product : product, under < 0n ? -under : under];
  const rounded = Number((2n * n + d) / (2n * d));
  return negative && rounded !== 0 ? -rounded : rounded;
}

/** Reads "1,250.00", "1250,5" or "1250" into minor units; null when it is no amount or has too many decimals. */
export function readAmount(text: string, currency = 'EUR'): number | null {
  const places = decimalsOf(currency);
  const match = /^(-?)(\d{1,3}(?:[ ,.]\d{3})+|\d+)(?:[.,](\d+))?$/.exec(text.trim());
  if (!match) return null;
  const [, sign, whole = '', fraction = ''] = match;
  if (fraction.length > places || whole.length > 15) return null;
  const minor = Number(whole.replace(/[ ,.]/g, '') + fraction.padEnd(places, '0'));
  return Number.isSafeInteger(minor) ? (sign === '-' ? -minor : minor) : null;
}

/** A whole number of units of 10⁻ⁿ in digits: -1250 with 2 places is "-12.50". Exact. */
export function fixedPoint(units: number, places: number): string {
  const digits = String(Math.abs(units)).padStart(places + 1, '0');
  const whole = digits.slice(0, digits.length - places);
  return `${units < 0 ? '-' : ''}${whole}${places > 0 ? `.${digits.slice(-places)}` : ''}`;
}

/** "1,250.00", in British notation and without the currency. */
export function sayAmountOf(minor: number, currency = 'EUR'): string {
  const [whole = '', fraction] = fixedPoint(minor, decimalsOf(currency)).split('.');
  const grouped = whole.replace(/\B(?=(\d{3})+$)/g, ',');
  return fraction === undefined ? grouped : `${grouped}.${fraction}`;
}

export const sayMoney = ({ minor, currency }: Money): string => `${currency} ${sayAmountOf(minor, currency)}`;
