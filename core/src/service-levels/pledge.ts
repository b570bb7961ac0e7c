// What a service level pledges beside its targets: when a clock is running short, how available machines are, and what is credited when promises are missed.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import { timesRatio } from '../money.ts';
import type { CalendarId } from '../ids.ts';

/** Attainment below the threshold gives this percentage of the period’s fee. Both in hundredths of a percent. */
export type CreditTier = { readonly below: number; readonly credit: number };

export type Pledge = {
  /** A clock is running short once this many percent of its promise, or less, are left. */
  readonly warnPercent: number;
  /** Agreed availability in hundredths of a percent, over the opening time of a calendar or, without one, around the clock. */
  readonly availability: { readonly target: number; readonly calendarId: CalendarId | null } | null;
  readonly tiers: readonly CreditTier[];
  /** The most that is credited for a period, in hundredths of a percent of its fee; null: no cap. */
  readonly cap: number | null;
};

export const USUAL_WARN_PERCENT = 25;
export const NO_PLEDGE: Pledge = { warnPercent: USUAL_WARN_PERCENT, availability: null, tiers: [], cap: null };

const WHOLE = 10_000;

/** Takes a pledge. Refused, each at its field below `pledge`: percentages out of range, two tiers alike, a worse attainment that gives a smaller credit. */
export function checkPledge(pledge: Pledge): Decided<Pledge> {
  const wrong: Refusal[] = [];
  const at = (field: string, message: string): void => void wrong.push(refusal('invalid', message, `pledge.${field}`));
  const { warnPercent, availability, cap } = pledge;
  if (!Number.isInteger(warnPercent) || warnPercent < 1 || warnPercent > 90)
    at('warnPercent', 'Warn with 1 to 90 percent of the promise left.');
  if (availability && (availability.target <= 0 || availability.target > WHOLE))
    at('availability', 'An availability is above 0 and at most 100 %.');
  if (cap !== null && (cap <= 0 || cap > WHOLE)) at('cap', 'A cap is above 0 and at most 100 % of the fee.');
  const tiers = [...pledge.tiers].sort((a, b) => b.below - a.below);
  tiers.forEach((tier, i) => {
    if (tier.below <= 0 || tier.below > WHOLE || tier.credit <= 0 || tier.credit > WHOLE)
      at('tiers', 'Thresholds and credits are above 0 and at most 100 %.');
    const milder = tiers[i - 1];
    if (milder && milder.below === tier.below) at('tiers', 'Two tiers have the same threshold; keep one of them.');
    else if (milder && tier.credit <= milder.credit)
      at('tiers', 'A lower attainment gives a larger credit; put the tiers in that order.');
  });
  return wrong.length > 0 ? refused(...wrong) : decided({ ...pledge, tiers });
}

/**
 * The credit for an attainment (0 to 1), in hundredths of a percent of the period’s fee: that of the lowest threshold it lies
 * below, not above the cap. Tiers do not add up. No promise fell due (null): nothing is credited. Source: domain, Standing.
 */
export function creditOf(pledge: Pledge, attainment: number | null): number {
  if (attainment === null) return 0;
  const missed = pledge.tiers.filter((t) => attainment * WHOLE < t.below);
  const credit =
    missed.reduce<CreditTier | null>((a, b) => (a === null || b.below < a.below ? b : a), null)?.credit ?? 0;
  return pledge.cap === null ? credit : Math.min(credit, pledge.cap);
}

/** The amount that a credit comes to, rounded half-up. Minor units. */
export const creditAmount = (fee: number, credit: number): number => timesRatio(fee, BigInt(credit), BigInt(WHOLE));
