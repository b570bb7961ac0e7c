// Rate cards: what an hour of each craft costs and is sold for from a date on, surcharges by hours kind, and how time is billed.
import { timesRatio, type Currency } from '../money.ts';
import type { CraftId } from '../ids.ts';
import { refusal, type Refusal } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';
import { ENTRY_KINDS, type EntryKind } from './entry.ts';
import { HOURS_KINDS, type HoursKind, type NightSpan } from './hours-kind.ts';

/** Of a craft from a date on, until the next: minor units of the card's currency for an hour. */
export type CraftRate = {
  readonly craftId: CraftId;
  readonly from: LocalDate;
  readonly cost: number;
  readonly sales: number;
};

/** Factors in percent: 150 is one and a half times the rate. Cost is raised only by its own. */
export type Surcharge = { readonly sales: number; readonly cost: number };

/** Billed minutes are rounded up to whole steps, and are at least the minimum where anything was done. */
export type BillingStep = { readonly step: number; readonly minimum: number };

export const TRAVEL_WAYS = ['time', 'flat', 'km'] as const;
export type TravelPrice =
  | { readonly by: 'time' }
  /** Minor units for each time somebody comes. */
  | { readonly by: 'flat'; readonly price: number }
  /** Minor units for a kilometre that was driven. */
  | { readonly by: 'km'; readonly price: number };

export type RateCard = {
  readonly name: string;
  readonly currency: Currency;
  readonly rates: readonly CraftRate[];
  /** An hours kind without one counts ×1. */
  readonly surcharges: Readonly<Partial<Record<HoursKind, Surcharge>>>;
  readonly billing: Readonly<Record<EntryKind, BillingStep>>;
  readonly night: NightSpan;
  /** For each time somebody comes, in minor units. */
  readonly callOut: number;
  readonly travel: TravelPrice;
};

const NO_SURCHARGE: Surcharge = { sales: 100, cost: 100 };
const MOST_MINOR = 1e9;
const isMinor = (n: number): boolean => Number.isInteger(n) && n >= 0 && n <= MOST_MINOR;
const wholeFrom = (n: number, low: number, high: number): boolean => Number.isInteger(n) && n >= low && n <= high;

function checkRates(rates: readonly CraftRate[]): Refusal[] {
  const known = new Set<string>();
  return rates.flatMap(({ craftId, from, cost, sales }, i) => {
    const at = `rates.${i}`;
    const found: Refusal[] = [];
    if (!isMinor(cost)) found.push(refusal('invalid', 'What an hour costs: an amount of 0 or more.', `${at}.cost`));
    if (!isMinor(sales))
      found.push(refusal('invalid', 'What an hour is sold for: an amount of 0 or more.', `${at}.sales`));
    const key = `${craftId}/${from}`;
    if (known.has(key)) found.push(refusal('conflict', 'That craft has a rate from that day already.', `${at}.from`));
    known.add(key);
    return found;
  });
}

/** Refused: nothing to cost an hour with, amounts below zero, two rates of a craft from one day, steps or factors out of range. */
export function checkRateCard(card: RateCard): Refusal[] {
  const found = checkRates(card.rates);
  if (card.name.trim() === '') found.push(refusal('missing', 'Give the rate card a name.', 'name'));
  if (card.rates.length === 0) found.push(refusal('missing', 'Give at least one craft its rates.', 'rates'));
  for (const kind of ENTRY_KINDS) {
    const { step, minimum } = card.billing[kind];
    if (!wholeFrom(step, 1, 480))
      found.push(refusal('invalid', 'A billing step is 1 to 480 whole minutes.', `billing.${kind}.step`));
    if (!wholeFrom(minimum, 0, 1440))
      found.push(refusal('invalid', 'A minimum is 0 to 1,440 whole minutes.', `billing.${kind}.minimum`));
  }
  for (const kind of HOURS_KINDS) {
    const surcharge = card.surcharges[kind];
    for (const of of ['sales', 'cost'] as const)
      if (surcharge && !wholeFrom(surcharge[of], 0, 1000))
        found.push(refusal('invalid', 'A factor is 0 to 1,000 %; 100 changes nothing.', `surcharges.${kind}.${of}`));
  }
  if (card.night && card.night.from === card.night.to)
    found.push(refusal('invalid', 'The night ends when it begins; leave it out where there is none.', 'night.to'));
  if (!isMinor(card.callOut)) found.push(refusal('invalid', 'An amount of 0 or more.', 'callOut'));
  if (card.travel.by !== 'time' && !isMinor(card.travel.price))
    found.push(refusal('invalid', 'An amount of 0 or more.', 'travel.price'));
  return found;
}

/** The rate of a craft that holds on a day; null: none does, or the person has no craft. */
export function rateOn(rates: readonly CraftRate[], craftId: CraftId | null, day: LocalDate): CraftRate | null {
  let held: CraftRate | null = null;
  for (const rate of rates)
    if (rate.craftId === craftId && rate.from <= day && (held === null || rate.from > held.from)) held = rate;
  return held;
}

export const surchargeOf = (card: RateCard, hours: HoursKind): Surcharge => card.surcharges[hours] ?? NO_SURCHARGE;

/** An hour's rate with its factor in percent, times so many minutes: rounded half-up once, in minor units. */
export const amountOf = (minutes: number, rate: number, percent: number): number =>
  timesRatio(minutes, BigInt(rate) * BigInt(percent), 6000n);

/**
 * Minutes that are billed for a sum: 0 where nothing is left of it, else rounded up to whole steps and at least the minimum.
 * Source: settled questions, Time.
 */
export const billedMinutes = (sum: number, { step, minimum }: BillingStep): number =>
  sum <= 0 ? 0 : Math.max(minimum, Math.ceil(sum / step) * step);
