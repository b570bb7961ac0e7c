// Labour of an order in money: minutes summed with their counter-entries, billed minutes by step and minimum, cost and list price.
import type { CraftId } from '../ids.ts';
import { shareOut } from '../share-out.ts';
import type { LocalDate } from '../time/index.ts';
import type { EntryKind } from './entry.ts';
import type { HoursKind } from './hours-kind.ts';
import { amountOf, billedMinutes, rateOn, surchargeOf, type RateCard } from './rate-card.ts';

/** Minutes of one person for one line of an order, of one day and hours kind; below zero: a counter-entry. */
export type Worked = {
  readonly lineId: number;
  readonly personId: number;
  /** Null: the person has none, and costs nothing. */
  readonly craftId: CraftId | null;
  readonly kind: EntryKind;
  readonly hours: HoursKind;
  readonly day: LocalDate;
  readonly minutes: number;
};

/** One priced row of labour; rates in minor units for an hour, before their factors. */
export type LabourCharge = {
  readonly lineId: number;
  readonly personId: number;
  readonly kind: EntryKind;
  readonly hours: HoursKind;
  readonly craftId: CraftId | null;
  readonly costRate: number;
  readonly salesRate: number;
  /** What was done, and what of it is billed. */
  readonly minutes: number;
  readonly billed: number;
  readonly cost: number;
  readonly list: number;
};

/** The factor on the sales rate for an hours kind on a line, in percent. */
export type SalesFactor = (lineId: number, kind: EntryKind, hours: HoursKind) => number;

type Priced = Worked & {
  readonly costRate: number;
  readonly salesRate: number;
  readonly factor: number;
  readonly listPer: number;
  billed: number;
};

function grouped<T>(items: readonly T[], keyOf: (item: T) => string | number): T[][] {
  const groups = new Map<string | number, T[]>();
  for (const item of items) {
    const key = keyOf(item);
    const own = groups.get(key);
    if (own) own.push(item);
    else groups.set(key, [item]);
  }
  return [...groups.values()];
}

const sumOf = <T>(items: readonly T[], value: (item: T) => number): number =>
  items.reduce((total, item) => total + value(item), 0);

const keyOf = (...parts: readonly (string | number | null)[]): string => parts.join('\u0000');

/** Each day and hours kind of a line once, counter-entries taken off; what comes to nothing is left out. */
function netOf(worked: readonly Worked[]): Worked[] {
  const nets = grouped(worked, (w) => keyOf(w.lineId, w.personId, w.craftId, w.kind, w.hours, w.day));
  return nets.flatMap((own) => {
    const minutes = sumOf(own, (w) => w.minutes);
    return minutes === 0 ? [] : [{ ...(own[0] as Worked), minutes }];
  });
}

function priced(worked: Worked, card: RateCard, factorOf: SalesFactor): Priced {
  const rate = rateOn(card.rates, worked.craftId, worked.day);
  const salesRate = rate?.sales ?? 0;
  const factor = factorOf(worked.lineId, worked.kind, worked.hours);
  return {
    ...worked,
    costRate: rate?.cost ?? 0,
    salesRate,
    factor,
    listPer: salesRate * factor,
    billed: worked.minutes,
  };
}

/** The piece of a line that an hour costs least of; of equal ones that of the later day. */
const cheapest = (pieces: readonly Priced[]): Priced | undefined =>
  [...pieces].sort((a, b) => a.listPer - b.listPer || (a.day > b.day ? -1 : a.day < b.day ? 1 : 0))[0];

/** Rounds the minutes of one person and kind up; what that adds goes to the lines by their minutes, to each one's cheapest piece. */
function round(pieces: readonly Priced[], kind: EntryKind, card: RateCard): void {
  const minutes = sumOf(pieces, (p) => p.minutes);
  const billed = billedMinutes(minutes, card.billing[kind]);
  if (billed === 0) {
    for (const piece of pieces) piece.billed = 0;
    return;
  }
  const lines = grouped(pieces, (p) => p.lineId);
  const added = shareOut(
    billed - minutes,
    lines.map((own) =>
      Math.max(
        0,
        sumOf(own, (p) => p.minutes),
      ),
    ),
  );
  lines.forEach((own, i) => {
    const piece = cheapest(own);
    if (piece) piece.billed += added[i] ?? 0;
  });
}

/** Days on which somebody has no craft, or one without a rate on the card: their time would cost nothing. */
export function withoutRate(
  worked: readonly Worked[],
  card: RateCard,
): { readonly personId: number; readonly craftId: CraftId | null; readonly day: LocalDate }[] {
  const missing = new Map<string, { personId: number; craftId: CraftId | null; day: LocalDate }>();
  for (const { personId, craftId, day } of worked)
    if (rateOn(card.rates, craftId, day) === null)
      missing.set(keyOf(personId, craftId, day), { personId, craftId, day });
  return [...missing.values()];
}

/**
 * The labour of one order: one charge for each line, person, kind, hours kind and hourly rate, its money rounded once. Cost is of
 * the minutes done at the cost rate of their day; the list price of the billed minutes, which are rounded up to the step and the
 * minimum after summing by person and kind over the lines of the order. A craft without a rate on a day costs nothing; see
 * `withoutRate`. Source: domain, Time and rates; settled questions, Time.
 */
export function labourCharges(
  worked: readonly Worked[],
  card: RateCard,
  factorOf: SalesFactor = (lineId, kind, hours) => surchargeOf(card, hours).sales,
): LabourCharge[] {
  const pieces = netOf(worked).map((w) => priced(w, card, factorOf));
  for (const own of grouped(pieces, (p) => keyOf(p.personId, p.kind))) round(own, (own[0] as Priced).kind, card);
  const charges = grouped(pieces, (p) =>
    keyOf(p.lineId, p.personId, p.kind, p.hours, p.craftId, p.costRate, p.salesRate),
  );
  return charges.map((own): LabourCharge => {
    const { lineId, personId, kind, hours, craftId, costRate, salesRate, factor } = own[0] as Priced;
    const [minutes, billed] = [sumOf(own, (p) => p.minutes), sumOf(own, (p) => p.billed)];
    return {
      ...{ lineId, personId, kind, hours, craftId, costRate, salesRate, minutes, billed },
      cost: amountOf(minutes, costRate, surchargeOf(card, hours).cost),
      list: amountOf(billed, salesRate, factor),
    };
  });
}

/**
 * What minutes cost, at the cost rate of their day: rounded once for each person, kind, hours kind and rate. Time of a craft without
 * a rate costs nothing; see `withoutRate`. Source: domain, Time and rates.
 */
export function costOf(worked: readonly Worked[], card: RateCard): number {
  const rated = worked.map((w) => ({ ...w, rate: rateOn(card.rates, w.craftId, w.day)?.cost ?? 0 }));
  return sumOf(
    grouped(rated, (w) => keyOf(w.personId, w.kind, w.hours, w.rate)),
    (own) => {
      const [{ rate, hours }] = own as [(typeof own)[number]];
      return amountOf(
        sumOf(own, (w) => w.minutes),
        rate,
        surchargeOf(card, hours).cost,
      );
    },
  );
}
