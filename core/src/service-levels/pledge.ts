// What a service level pledges beside its targets: when a clock is running short and who is warned, how available machines are, how much
// of the upkeep is done in its window, and what is credited when promises are missed.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import { timesRatio } from '../money.ts';
import type { CalendarId, PersonId } from '../ids.ts';

/** Attainment below the threshold gives this percentage of the period’s fee. Both in hundredths of a percent. */
export type CreditTier = { readonly below: number; readonly credit: number };

/** Once this many percent of a promise, or less, are left, these are told; 0: when it is missed. */
export type WarningStep = {
  readonly percent: number;
  /** Whoever has the order in hand, or where nobody has, the coordinators. */
  readonly inCharge: boolean;
  /** Whoever is planned to go. */
  readonly technician: boolean;
  readonly people: readonly PersonId[];
};

export type Pledge = {
  /** A clock is running short once this many percent of its promise, or less, are left. */
  readonly warnPercent: number;
  /** The earliest first. */
  readonly warnings: readonly WarningStep[];
  /** Agreed availability in hundredths of a percent, over the opening time of a calendar or, without one, around the clock. */
  readonly availability: { readonly target: number; readonly calendarId: CalendarId | null } | null;
  /** Agreed share of visits done in their windows, in hundredths of a percent. */
  readonly upkeep: { readonly target: number } | null;
  readonly tiers: readonly CreditTier[];
  /** The most that is credited for a period, in hundredths of a percent of its fee; null: no cap. */
  readonly cap: number | null;
};

export const USUAL_WARN_PERCENT = 25;
export const NO_PLEDGE: Pledge = {
  ...{ warnPercent: USUAL_WARN_PERCENT, warnings: [], availability: null, upkeep: null, tiers: [], cap: null },
};

const WHOLE = 10_000;
const MOST_LEFT = 90;

/**
 * Takes a pledge. Refused, each at its field below `pledge`: percentages out of range, two warnings or tiers alike, a warning that nobody
 * is told of, a worse attainment that gives a smaller credit.
 */
export function checkPledge(pledge: Pledge): Decided<Pledge> {
  const wrong: Refusal[] = [];
  const at = (field: string, message: string): void => void wrong.push(refusal('invalid', message, `pledge.${field}`));
  const { warnPercent, availability, upkeep, cap } = pledge;
  if (!Number.isInteger(warnPercent) || warnPercent < 1 || warnPercent > MOST_LEFT)
    at('warnPercent', 'Warn with 1 to 90 percent of the promise left.');
  const warnings = [...pledge.warnings].sort((a, b) => b.percent - a.percent);
  warnings.forEach(({ percent, inCharge, technician, people }, i) => {
    if (!Number.isInteger(percent) || percent < 0 || percent > MOST_LEFT)
      at('warnings', 'Warn with 0 to 90 percent of the promise left; 0 is when it is missed.');
    if (percent === warnings[i - 1]?.percent)
      at('warnings', `Two warnings come at ${percent} % left; keep one of them and add its people.`);
    if (!inCharge && !technician && people.length === 0)
      at('warnings', `Nobody is told at ${percent} % left; choose somebody, or take the warning out.`);
  });
  if (availability && (availability.target <= 0 || availability.target > WHOLE))
    at('availability', 'An availability is above 0 and at most 100 %.');
  if (upkeep && (upkeep.target <= 0 || upkeep.target > WHOLE))
    at('upkeep', 'A share of visits done in their windows is above 0 and at most 100 %.');
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
  return wrong.length > 0 ? refused(...wrong) : decided({ ...pledge, warnings, tiers });
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
