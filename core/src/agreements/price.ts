// The price of an agreement: billing periods, broken periods by day, indexation, and the amounts of each month to come.
import type { Term } from '../entitlement/index.ts';
import { timesRatio } from '../money.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { addDays, addMonths, daysBetween, sayDay, type LocalDate } from '../time/index.ts';

export const BILLING_PERIODS = ['month', 'quarter', 'half-year', 'year', 'visit'] as const;
export type BillingPer = (typeof BILLING_PERIODS)[number];
export const BILLING_TIMINGS = ['in advance', 'in arrears'] as const;
export type BillingTiming = (typeof BILLING_TIMINGS)[number];

/** An index value that holds from a date; values are whole hundredths (104.25 is 10425). */
export type IndexValue = { readonly from: LocalDate; readonly hundredths: number };

/** P₁ = P₀·(a + b·I₁/I₀) with a + b = 1; `fixedPercent` is a in percent, `base` is I₀ in hundredths. */
export type Indexation = {
  readonly fixedPercent: number;
  readonly base: number;
  readonly values: readonly IndexValue[];
};

export type BillingPlan = {
  readonly per: BillingPer;
  readonly timing: BillingTiming;
  readonly indexation: Indexation | null;
};

/** What one coverage line, or the whole agreement, costs for a full billing period while it holds. Minor units. */
export type PricedStretch = {
  /** The same for all stretches of one line, before and after amendments. */
  readonly key: string;
  readonly label: string;
  readonly term: Term;
  readonly minor: number;
};

export type BilledPart = {
  readonly key: string;
  readonly label: string;
  readonly minor: number;
  /** Days of the period it held, and how many days the full period has; for visits their number and 1. */
  readonly held: number;
  readonly of: number;
};
export type BilledPeriod = {
  readonly from: LocalDate;
  readonly to: LocalDate;
  readonly dueOn: LocalDate;
  readonly parts: readonly BilledPart[];
  readonly minor: number;
};

/** Months of a billing period. */
export const BILLING_MONTHS: Readonly<Record<Exclude<BillingPer, 'visit'>, number>> = {
  month: 1,
  quarter: 3,
  'half-year': 6,
  year: 12,
};
const PERIODS_AT_MOST = 600;

/** Refuses an index that cannot be calculated with, and says what would be right. */
export function checkIndexation({ fixedPercent, base, values }: Indexation): Decided<Indexation> {
  if (!Number.isInteger(fixedPercent) || fixedPercent < 0 || fixedPercent > 100)
    return refused(
      refusal(
        'invalid',
        'The fixed part is a whole percentage from 0 to 100; the rest follows the index.',
        'indexation.fixedPercent',
      ),
    );
  if (base <= 0)
    return refused(refusal('invalid', 'The index at the start is above zero, such as 100.00.', 'indexation.base'));
  const wrong = values.findIndex((v) => v.hundredths <= 0);
  if (wrong >= 0)
    return refused(
      refusal('invalid', 'An index value is above zero, such as 104.25.', `indexation.values.${wrong}.hundredths`),
    );
  return decided({ fixedPercent, base, values: [...values].sort((a, b) => (a.from < b.from ? -1 : 1)) });
}

/**
 * A new index value, as it is published: it holds from its date and never changes what was before. Refused: an agreement without
 * a price formula, a date on or before the newest value’s, a value of nothing.
 */
export function addIndexValue(indexation: Indexation | null, value: IndexValue): Decided<Indexation> {
  if (!indexation)
    return refused(
      refusal('unsupported', 'The price of this agreement follows no index; amend it to a new price instead.'),
    );
  const newest = indexation.values.at(-1);
  if (newest && value.from <= newest.from)
    return refused(
      refusal(
        'out-of-order',
        `A value holds from ${sayDay(newest.from)} already; give a later day. What was billed by it stays.`,
        'from',
      ),
    );
  if (value.hundredths <= 0)
    return refused(refusal('invalid', 'An index value is above zero, such as 104.25.', 'hundredths'));
  return decided({ ...indexation, values: [...indexation.values, value] });
}

/** A price formula's factor on a date as a fraction: a + b·I₁/I₀, I₁ being the newest value from on or before the date. */
function indexFactor(indexation: Indexation | null, on: LocalDate): { readonly over: bigint; readonly under: bigint } {
  const value = indexation?.values.filter((v) => v.from <= on).at(-1);
  if (!indexation || !value) return { over: 1n, under: 1n };
  const [a, base] = [BigInt(indexation.fixedPercent), BigInt(indexation.base)];
  return { over: a * base + (100n - a) * BigInt(value.hundredths), under: 100n * base };
}

/**
 * The price after indexation at a date: P₀·(a + b·I₁/I₀), exact, rounded half-up once. Source: the usual price formula of
 * maintenance contracts (practice around EN 13269; from memory).
 */
export function indexedPrice(minor: number, indexation: Indexation | null, on: LocalDate): number {
  const { over, under } = indexFactor(indexation, on);
  return timesRatio(minor, over, under);
}

/** Full billing periods that touch the stretch [from, to], counted from the start of the term; the last one may reach beyond the term. */
export function billingPeriods(
  term: Term,
  months: number,
  from: LocalDate,
  to: LocalDate,
): { from: LocalDate; to: LocalDate }[] {
  const last = term.to !== null && term.to < to ? term.to : to;
  const periods: { from: LocalDate; to: LocalDate }[] = [];
  for (let n = 0; n < PERIODS_AT_MOST; n += 1) {
    const period = { from: addMonths(term.from, n * months), to: addDays(addMonths(term.from, (n + 1) * months), -1) };
    if (period.from > last) break;
    if (period.to >= from) periods.push(period);
  }
  return periods;
}

/** Days that two stretches share, those of rests between left out; both ends belong to each. Rests do not overlap each other. */
const daysHeld = (a: { from: LocalDate; to: LocalDate }, b: Term, rests: readonly Term[]): number =>
  daysShared(a, b) - rests.reduce((sum, rest) => sum + daysShared(a, within(b, rest)), 0);

/** Days that two stretches share; both ends belong to each. */
function daysShared(a: { from: LocalDate; to: LocalDate }, b: Term): number {
  const from = a.from > b.from ? a.from : b.from;
  const to = b.to === null || a.to < b.to ? a.to : b.to;
  return from > to ? 0 : daysBetween(from, to) + 1;
}

const within = (a: Term, b: Term): Term => ({
  from: a.from > b.from ? a.from : b.from,
  to: a.to === null ? b.to : b.to === null || a.to < b.to ? a.to : b.to,
});

/**
 * What is billed for the periods that touch [from, to]. A stretch that holds for part of a period pays its price × days held ÷
 * days of the full period (actual days), rounded half-up at line level. The index of the period's first day applies.
 * `visits` are the due dates that a price per visit is charged for. Days of `rests` (suspensions that bill nothing) are not held.
 */
export function billedPeriods(
  plan: BillingPlan,
  term: Term,
  stretches: readonly PricedStretch[],
  from: LocalDate,
  to: LocalDate,
  visits: readonly LocalDate[] = [],
  rests: readonly Term[] = [],
): BilledPeriod[] {
  const perVisit = plan.per === 'visit';
  const months = plan.per === 'visit' ? 1 : BILLING_MONTHS[plan.per];
  return billingPeriods(term, months, from, to).flatMap((period) => {
    const clipped = within({ from: period.from, to: period.to }, term);
    const end = clipped.to as LocalDate;
    const days = daysBetween(period.from, period.to) + 1;
    const parts = stretches.flatMap((stretch): BilledPart[] => {
      const holds = within(stretch.term, term);
      const held = perVisit
        ? visits.filter(
            (v) => v >= period.from && v <= period.to && v >= holds.from && (holds.to === null || v <= holds.to),
          ).length
        : daysHeld(period, holds, rests);
      if (held === 0) return [];
      const of = perVisit ? 1 : days;
      const { over, under } = indexFactor(plan.indexation, period.from);
      // One exact product, rounded once at the line.
      const minor = timesRatio(stretch.minor, over * BigInt(held), under * BigInt(of));
      return [{ key: stretch.key, label: stretch.label, minor, held, of }];
    });
    if (parts.length === 0) return [];
    const dueOn = plan.timing === 'in advance' && !perVisit ? clipped.from : end;
    return [{ from: clipped.from, to: end, dueOn, parts, minor: parts.reduce((sum, p) => sum + p.minor, 0) }];
  });
}

/** What the days from `from` to `to`, both included, come to: each billed period by the share of its days that lie inside, rounded half-up. */
export function feeOver(periods: readonly BilledPeriod[], from: LocalDate, to: LocalDate): number {
  return periods.reduce((sum, period) => {
    const days = daysBetween(period.from, period.to) + 1;
    return sum + timesRatio(period.minor, BigInt(daysShared(period, { from, to })), BigInt(days));
  }, 0);
}

/** The amounts by the month in which they fall due. */
export function byMonth(periods: readonly BilledPeriod[]): { month: string; minor: number }[] {
  const months = new Map<string, number>();
  for (const p of periods) {
    const month = p.dueOn.slice(0, 7);
    months.set(month, (months.get(month) ?? 0) + p.minor);
  }
  return [...months].sort(([a], [b]) => (a < b ? -1 : 1)).map(([month, minor]) => ({ month, minor }));
}
