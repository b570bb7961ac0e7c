// What is still to come in a period: how many more misses the next credit tier is away.
import type { CreditTier } from '../service-levels/index.ts';
import type { Attainment } from './attainment.ts';

export type Forecast = {
  /** Promises that are still to fall due by the pace so far; whole. */
  readonly toCome: number;
  /** Attainment at the period's end where the share so far goes on; null: nothing fell due yet. */
  readonly share: number | null;
  /** Tiers not reached yet, the nearest first, with how many misses of those to come reach each; null: not even all of them. */
  readonly tiers: readonly { readonly tier: CreditTier; readonly misses: number | null }[];
};

/** Thresholds are hundredths of a percent; compared as whole numbers, so that 95 of 100 is not below 95 %. */
const isBelow = (met: number, all: number, { below }: CreditTier): boolean => met * 10_000 < below * all;

/**
 * Looks ahead to the end of a period of which a share (0 to 1) has passed. `known`: clocks that run and fall due in it, of which there are
 * at least so many to come. Source: issue of Standing (forecast to the period's end).
 */
export function forecastOf(
  { met, missed }: Attainment,
  passed: number,
  known: number,
  tiers: readonly CreditTier[],
): Forecast {
  const sofar = met + missed;
  const byPace = passed > 0 && passed < 1 ? Math.round((sofar * (1 - passed)) / passed) : 0;
  const toCome = Math.max(known, byPace);
  const all = sofar + toCome;
  const open = tiers.filter((t) => !isBelow(met, sofar, t)).toSorted((a, b) => b.below - a.below);
  return {
    toCome,
    share: sofar === 0 ? null : met / sofar,
    tiers: open.map((tier) => {
      let misses = 0;
      while (misses <= toCome && !isBelow(met + toCome - misses, all, tier)) misses += 1;
      return { tier, misses: misses > toCome ? null : misses };
    }),
  };
}
