// How dependable machines were: mean times between failures and to restoration, with how sure one can be of them.
import type { Instant } from '../time/index.ts';
import type { Outage } from './availability.ts';

/** The probability that a chi-square variable of 2k degrees of freedom lies at or below x: even ones have a closed form. */
function chiSquareBelow(x: number, k: number): number {
  let [term, sum] = [1, 1];
  for (let i = 1; i < k; i += 1) sum += term *= x / 2 / i;
  return 1 - Math.exp(-x / 2) * sum;
}

/**
 * The value below which a chi-square variable of an even number of degrees of freedom lies with a probability, 0 < p < 1.
 * Throws for an odd number, which intervals of a mean time between failures never ask for.
 * Source: NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.6.6.6.
 */
export function chiSquareQuantile(p: number, degrees: number): number {
  if (degrees <= 0 || degrees % 2 !== 0) throw new RangeError('an even number of degrees of freedom');
  const k = degrees / 2;
  let [low, high] = [0, degrees + 10];
  while (chiSquareBelow(high, k) < p) high *= 2;
  for (let i = 0; i < 80; i += 1) {
    const middle = (low + high) / 2;
    if (chiSquareBelow(middle, k) < p) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}

/** Both in the measure of the operating time; `upper` null: nothing failed, so there is none. */
export type Interval = { readonly lower: number; readonly upper: number | null };

/** How sure an interval is where nobody asks for another. */
export const USUAL_CONFIDENCE = 0.9;

/**
 * The limits between which the true mean time between failures lies with a confidence, from failures seen in an operating time that ended
 * by itself (time truncated). Without a failure the lower limit is one-sided. Null: nothing operated.
 * Source: NIST/SEMATECH e-Handbook, 8.4.5.1 (exponential model, chi-square limits).
 */
export function meanTimeInterval(operating: number, failures: number, confidence = USUAL_CONFIDENCE): Interval | null {
  if (operating <= 0) return null;
  const rest = 1 - confidence;
  if (failures === 0) return { lower: (2 * operating) / chiSquareQuantile(1 - rest, 2), upper: null };
  return {
    lower: (2 * operating) / chiSquareQuantile(1 - rest / 2, 2 * failures + 2),
    upper: (2 * operating) / chiSquareQuantile(rest / 2, 2 * failures),
  };
}

export type Reliability = {
  readonly failures: number;
  /** Milliseconds: of service less downtime, and of that for each failure; null: none failed. */
  readonly operatingMs: number;
  readonly betweenMs: number | null;
  readonly interval: Interval | null;
  /** Mean time to restoration over those that were restored; null: none was. */
  readonly restoreMs: number | null;
  readonly restored: number;
};

/**
 * Mean time between failures and to restoration of a machine, or of several taken together: failures that began in the period, operating
 * time over it, and how long those took that are over. Source: IEC 60050-192 (192-05-13 mean operating time between failures, 192-07-23 mean
 * time to restoration).
 */
export function reliabilityOf(
  outages: readonly Outage[],
  from: Instant,
  to: Instant,
  operatingMs: number,
  confidence = USUAL_CONFIDENCE,
): Reliability {
  const begun = outages.filter((o) => o.from >= from && o.from < to);
  const took = begun.flatMap((o) => (o.to === null ? [] : [o.to - o.from]));
  return {
    failures: begun.length,
    operatingMs,
    betweenMs: begun.length === 0 ? null : operatingMs / begun.length,
    interval: meanTimeInterval(operatingMs, begun.length, confidence),
    restoreMs: took.length === 0 ? null : took.reduce((a, b) => a + b, 0) / took.length,
    restored: took.length,
  };
}

/** Failures of one machine that came within so long after it was up again: each is one that the repair before did not prevent. */
export function repeatsOf<O extends Outage>(outages: readonly O[], withinMs: number): O[] {
  const inOrder = outages.toSorted((a, b) => a.from - b.from);
  let up: Instant | null = null;
  return inOrder.filter((o) => {
    const repeats = up !== null && o.from >= up && o.from - up <= withinMs;
    if (o.to !== null && (up === null || o.to > up)) up = o.to;
    return repeats;
  });
}
