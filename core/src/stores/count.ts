// Counting: what was found against what should be there, and whose holds go where less is there than is held.
import type { NeedId } from '../ids.ts';
import { compareNeeds, type OpenNeed } from './cover.ts';

export type Counted = {
  /** Thousandths: what was found less what should have been there at that instant. */
  readonly difference: number;
  /** Of what is kept by serial: which should be there and are not, and which are there and should not be. */
  readonly missing: readonly string[];
  readonly found: readonly string[];
};

/** What a count says: later moves change nothing of it. Serials are those of parts that have them. Source: domain-work, Stores. */
export function countAgainst(
  expected: { readonly onHand: number; readonly serials: readonly string[] },
  counted: { readonly thousandths: number; readonly serials: readonly string[] },
): Counted {
  const [there, seen] = [new Set(expected.serials), new Set(counted.serials)];
  return {
    difference: counted.thousandths - expected.onHand,
    missing: expected.serials.filter((s) => !seen.has(s)),
    found: counted.serials.filter((s) => !there.has(s)),
  };
}

export type HeldForNeed = Pick<OpenNeed, 'id' | 'day' | 'priority' | 'askedAt'> & { readonly held: number };

/**
 * How much each need keeps where only so much is there: those whose turn is first keep theirs, the last lose it and become open.
 * Thousandths. Source: domain-work, Settled questions: counted below reserved stands, and the reservations needed last become needs.
 */
export function keptOfHeld(holds: readonly HeldForNeed[], there: number): ReadonlyMap<NeedId, number> {
  let left = Math.max(0, there);
  const kept = new Map<NeedId, number>();
  for (const { id, held } of [...holds].sort((a, b) => compareNeeds(a, b))) {
    const own = Math.min(held, left);
    kept.set(id, own);
    left -= own;
  }
  return kept;
}
