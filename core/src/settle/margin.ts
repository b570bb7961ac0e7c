// Margin: what agreements earn by the day, and what a renewal would have to cost, from failures and what they took.
import type { BilledPeriod } from '../agreements/index.ts';
import { feeOver } from '../agreements/index.ts';
import { addDays, type LocalDate } from '../time/index.ts';

/**
 * What was earned from one day to another, both included: the fees by the day, whenever they are billed. Stretches that follow each
 * other come to what they come to together, for each is what was earned up to its end less what was up to its begin.
 * Minor units. Source: domain-work, Settle (margin of an agreement).
 */
export function earnedIn(periods: readonly BilledPeriod[], from: LocalDate, to: LocalDate): number {
  const [first] = periods;
  if (!first || to < from) return 0;
  const upTo = (day: LocalDate): number => (day < first.from ? 0 : feeOver(periods, first.from, day));
  return upTo(to) - upTo(addDays(from, -1));
}

/** The probability of at most n events where `mean` are expected. Summed from the largest term down, so that nothing is lost. */
function poissonUpTo(n: number, mean: number): number {
  if (mean === 0) return 1;
  let logTerm = -mean;
  let sum = Math.exp(logTerm);
  for (let k = 1; k <= n; k += 1) {
    logTerm += Math.log(mean / k);
    sum += Math.exp(logTerm);
  }
  return Math.min(1, sum);
}

/** Where a falling function crosses a value, between two bounds. */
function crossing(of: (x: number) => number, value: number, least: number, most: number): number {
  let [low, high] = [least, most];
  for (let i = 0; i < 80; i += 1) {
    const middle = (low + high) / 2;
    if (of(middle) > value) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

export type Interval = { readonly low: number; readonly high: number };
/** In four of five cases. */
const CONFIDENCE = 0.8;

/**
 * The exact two-sided interval of an expected number of events, after n were seen: below it so many or more, above it so many or fewer
 * would be seen in less than a tenth of cases each. Source: Garwood 1936; NIST/SEMATECH e-Handbook 8.4.5.1 (by chi-square, of which this
 * is the same).
 */
export function poissonInterval(n: number, confidence = CONFIDENCE): Interval {
  const tail = (1 - confidence) / 2;
  const most = n + 20 + 10 * Math.sqrt(n + 1);
  return {
    low: n === 0 ? 0 : crossing((mean) => poissonUpTo(n - 1, mean), 1 - tail, 0, most),
    high: crossing((mean) => poissonUpTo(n, mean), tail, 0, most),
  };
}

/** What an agreement took so far, for saying what its next year may take. */
export type AgreementPast = {
  /** Repairs done, and the machines and years in which they came. */
  readonly failures: number;
  readonly machineYears: number;
  /** Machines covered now. */
  readonly machines: number;
  /** Of a repair, in the middle; minor units. */
  readonly medianCost: number;
  /** Of planned work in a year; minor units. */
  readonly plannedCost: number;
};
export type Forecast = {
  /** Failures to expect in a year, with their interval. */
  readonly failures: number;
  readonly range: Interval;
  /** Minor units for the year, at what is expected and at the ends of its interval. */
  readonly cost: number;
  readonly costRange: Interval;
};

/** The next year of an agreement; null: there is no time to learn from. Source: domain-work, Settle (margin: forecast). */
export function forecastOf({
  failures,
  machineYears,
  machines,
  medianCost,
  plannedCost,
}: AgreementPast): Forecast | null {
  if (machineYears <= 0) return null;
  const each = machines / machineYears;
  const { low, high } = poissonInterval(failures);
  const costOf = (n: number): number => Math.round(n * medianCost + plannedCost);
  const expected = failures * each;
  const range = { low: low * each, high: high * each };
  return {
    ...{ failures: expected, range, cost: costOf(expected) },
    costRange: { low: costOf(range.low), high: costOf(range.high) },
  };
}

/** The yearly price that leaves so many whole percent of it after a cost; null: none would. Minor units, rounded up. */
export const priceFor = (cost: number, marginPercent: number): number | null =>
  marginPercent >= 100 ? null : Math.ceil((cost * 100) / (100 - marginPercent));

/** What is left of a price after a cost, in percent of the price; null where nothing is asked. */
export const marginPercentOf = (price: number, cost: number): number | null =>
  price === 0 ? null : ((price - cost) / price) * 100;
