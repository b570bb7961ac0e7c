// Allowances: counted rights per period, what of them is drawn, and what is left at a date.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { addDays, addMonths, sayDay, type LocalDate } from '../time/index.ts';
import type { AllowanceId, AssetId } from '../ids.ts';
import type { Term } from './term.ts';

/** Names one allowance: of an agreement, or the free visits of an asset's warranty. */
export type AllowanceKey =
  { readonly kind: 'agreement'; readonly id: AllowanceId } | { readonly kind: 'warranty'; readonly assetId: AssetId };

export const ALLOWANCE_UNITS = ['visits', 'hours', 'call-outs'] as const;
export type AllowanceUnit = (typeof ALLOWANCE_UNITS)[number];
export const ALLOWANCE_PERIODS = ['agreement year', 'quarter', 'term'] as const;
export type AllowancePeriod = (typeof ALLOWANCE_PERIODS)[number];

/** A counted right. Hours are counted in minutes, visits and call-outs one by one. */
export type Allowance = {
  readonly key: AllowanceKey;
  readonly unit: AllowanceUnit;
  readonly amount: number;
  readonly period: AllowancePeriod;
  /** What a period leaves goes into the next one, and no further. */
  readonly carriesOver: boolean;
};

/** What was drawn for an order, on the day of its call or visit. */
export type Draw = { readonly on: LocalDate; readonly amount: number };

export type AllowanceLeft = {
  readonly key: AllowanceKey;
  readonly unit: AllowanceUnit;
  /** Of the period, with what was carried into it. */
  readonly granted: number;
  readonly drawn: number;
  /** The day it was used up on; null while something is left. */
  readonly usedUpOn: LocalDate | null;
  readonly periodName: string;
  readonly from: LocalDate;
  /** The period's last day; null for an open end. */
  readonly to: LocalDate | null;
};

const MONTHS: Readonly<Record<AllowancePeriod, number>> = { 'agreement year': 12, quarter: 3, term: 0 };
const PERIODS_LOOKED_AT = 400;

/** The period of an allowance that holds a date, counted from the start of the term; both days belong to it. */
export function allowancePeriodAt(
  period: AllowancePeriod,
  term: Term,
  on: LocalDate,
): { from: LocalDate; to: LocalDate | null } {
  const months = MONTHS[period];
  if (months === 0 || on < term.from) return { from: term.from, to: term.to };
  let n = 0;
  while (n < PERIODS_LOOKED_AT && addMonths(term.from, (n + 1) * months) <= on) n += 1;
  const to = addDays(addMonths(term.from, (n + 1) * months), -1);
  return { from: addMonths(term.from, n * months), to: term.to !== null && term.to < to ? term.to : to };
}

/** Asking about a day counts what was drawn up to it; booking counts every draw of the period, so that it never goes below zero. */
export type DrawsCounted = 'up to the day' | 'whole period';

/**
 * What is left of an allowance at a date. With carry-over the unused part of a period's own amount goes into the next period;
 * what was itself carried in is drawn first and lapses with its period (policy of the house).
 * Source: domain, Entitlement decision 2 (asking and booking).
 */
export function leftOf(
  allowance: Allowance,
  term: Term,
  draws: readonly Draw[],
  on: LocalDate,
  counted: DrawsCounted = 'whole period',
): AllowanceLeft {
  const now = allowancePeriodAt(allowance.period, term, on);
  const within = (from: LocalDate, to: LocalDate | null): Draw[] =>
    draws.filter((d) => d.on >= from && (to === null || d.on <= to));
  const sum = (list: readonly Draw[]): number => list.reduce((n, d) => n + d.amount, 0);
  let carried = 0;
  if (allowance.carriesOver && allowance.period !== 'term') {
    for (let at = allowancePeriodAt(allowance.period, term, term.from); at.to !== null && at.from < now.from;) {
      const ownDrawn = Math.max(0, sum(within(at.from, at.to)) - carried);
      carried = Math.max(0, allowance.amount - ownDrawn);
      at = allowancePeriodAt(allowance.period, term, addDays(at.to, 1));
    }
  }
  const granted = allowance.amount + carried;
  const taken = within(now.from, counted === 'up to the day' && (now.to === null || on < now.to) ? on : now.to).sort(
    (a, b) => (a.on < b.on ? -1 : 1),
  );
  let drawn = 0;
  let usedUpOn: LocalDate | null = granted === 0 ? now.from : null;
  for (const draw of taken) {
    drawn += draw.amount;
    if (drawn >= granted && usedUpOn === null) usedUpOn = draw.on;
  }
  return { key: allowance.key, unit: allowance.unit, granted, drawn, usedUpOn, periodName: allowance.period, ...now };
}

/** What is left after further draws that are not written yet; those outside its period do not count. */
export function afterDraws(left: AllowanceLeft, draws: readonly Draw[]): AllowanceLeft {
  const own = draws.filter((d) => d.on >= left.from && (left.to === null || d.on <= left.to));
  const drawn = own.reduce((n, d) => n + d.amount, left.drawn);
  return own.length === 0
    ? left
    : { ...left, drawn, usedUpOn: left.usedUpOn ?? (drawn >= left.granted ? (own.at(-1)?.on ?? null) : null) };
}

/** How much can be drawn: never more than is left. Visits and call-outs are refused whole; of hours what is left is given. */
export function drawFrom(left: AllowanceLeft, wanted: number): Decided<number> {
  const rest = Math.max(0, left.granted - left.drawn);
  if (left.unit === 'hours') return decided(Math.min(rest, wanted));
  return rest >= wanted
    ? decided(wanted)
    : refused(refusal('conflict', `${sayAllowance(left)}; nothing is left to draw.`, 'allowance'));
}

const plural = (n: number, unit: AllowanceUnit): string => `${n} ${n === 1 ? unit.slice(0, -1) : unit}`;

/** "5 call-outs", "12 h of labour". */
export function sayAmount(unit: AllowanceUnit, amount: number): string {
  if (unit !== 'hours') return plural(amount, unit);
  const [h, min] = [Math.floor(amount / 60), amount % 60];
  return `${h > 0 || min === 0 ? `${h} h` : ''}${h > 0 && min > 0 ? ' ' : ''}${min > 0 ? `${min} min` : ''} of labour`;
}

const PERIOD_NAMES: Readonly<Record<string, string>> = {
  'agreement year': 'for the agreement year',
  quarter: 'for the quarter',
  term: 'for the term',
};

/** "its 5 call-outs for the agreement year are used up since 3 Oct 2026", or how much is left. */
export function sayAllowance(left: AllowanceLeft): string {
  const rest = Math.max(0, left.granted - left.drawn);
  const whole = `${sayAmount(left.unit, left.granted)} ${PERIOD_NAMES[left.periodName] ?? ''}`.trim();
  return left.usedUpOn !== null
    ? `its ${whole} are used up since ${sayDay(left.usedUpOn)}`
    : `${sayAmount(left.unit, rest)} left of ${whole}`;
}
