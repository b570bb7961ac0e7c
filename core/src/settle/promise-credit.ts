// What an agreement gives back of a period's fee where promises were not kept as its service levels pledge.
import { attainmentShare, type Attainment } from '../standing/index.ts';
import { creditAmount, creditOf, type Pledge } from '../service-levels/index.ts';
import type { LocalDate } from '../time/index.ts';

/** Promises under one service level that fell due on one day at the place, and how they were kept. */
export type PromiseDay = Attainment & { readonly levelId: number; readonly day: LocalDate };

export type PromiseFacts = {
  readonly days: readonly PromiseDay[];
  /** What a service level is called and pledged on a day; null: nothing. */
  readonly pledgeOf: (levelId: number, on: LocalDate) => { readonly name: string; readonly pledge: Pledge } | null;
  /** Periods that ended before this day are credited: what is still to come may yet be kept. */
  readonly today: LocalDate;
};

export const NO_PROMISES: PromiseFacts = { days: [], pledgeOf: () => null, today: '0001-01-01' as LocalDate };

export type PromiseCredit = Attainment & { readonly levelId: number; readonly name: string; readonly minor: number };

/**
 * The credits of a period that has ended, in minor units above 0: of each service level the tier its attainment fell below, of the
 * period's net fee with its differences, rounded half-up; together never more than the fee. Nothing for a period that still runs, where
 * no promise fell due, and where nothing was pledged. Source: domain, Standing (service credit); settled questions, Settle.
 */
export function creditsOfPeriod(
  { days, pledgeOf, today }: PromiseFacts,
  { from, to, fee }: { readonly from: LocalDate; readonly to: LocalDate; readonly fee: number },
): PromiseCredit[] {
  if (to >= today || fee <= 0) return [];
  const byLevel = new Map<number, { met: number; missed: number }>();
  for (const { levelId, day, met, missed } of days) {
    if (day < from || day > to) continue;
    const own = byLevel.get(levelId) ?? { met: 0, missed: 0 };
    byLevel.set(levelId, { met: own.met + met, missed: own.missed + missed });
  }
  let left = fee;
  return [...byLevel]
    .sort(([a], [b]) => a - b)
    .flatMap(([levelId, kept]): PromiseCredit[] => {
      const held = kept.missed === 0 ? null : pledgeOf(levelId, to);
      if (!held) return [];
      const minor = Math.min(left, creditAmount(fee, creditOf(held.pledge, attainmentShare(kept))));
      left -= minor;
      return minor > 0 ? [{ levelId, name: held.name, ...kept, minor }] : [];
    });
}
