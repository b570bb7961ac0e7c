// Reordering: what a store will have, day by day, and how much to order before it falls below its minimum.
import { addDays, type LocalDate } from '../time/index.ts';

export type Dated = { readonly day: LocalDate; readonly thousandths: number };

export type ToProject = {
  readonly today: LocalDate;
  /** Days until an order of today is here, and until somebody looks again. */
  readonly leadDays: number;
  readonly reviewDays: number;
  readonly onHand: number;
  readonly reserved: number;
  /** What is on order, by the day it is promised for. */
  readonly ordered: readonly Dated[];
  /** What planned orders and accepted visits will take, beside what is held. */
  readonly needs: readonly Dated[];
  readonly minimum: number;
  readonly maximum: number;
  /** Thousandths of one pack of the supplier. */
  readonly pack: number;
};

export type Projection = {
  /** What is free at the end of each day, today first. */
  readonly days: readonly Dated[];
  /** The first day on which it is below the minimum; null: on none. */
  readonly belowOn: LocalDate | null;
  /** To order now: whole packs, 0 for nothing. */
  readonly propose: number;
};

/** What is due before or on each day from today on; what is overdue counts today. */
function byDay(all: readonly Dated[], today: LocalDate): Map<LocalDate, number> {
  const sums = new Map<LocalDate, number>();
  for (const { day, thousandths } of all) {
    const on = day < today ? today : day;
    sums.set(on, (sums.get(on) ?? 0) + thousandths);
  }
  return sums;
}

/**
 * What will be free of a part at a store from today to today + lead + review days, both counted, and what to order: where it falls below
 * the minimum on any of these days, the maximum less what is left at their end, in whole packs not above the maximum, but in as many as
 * reach the minimum. Thousandths of a unit. Throws on a pack of nothing and on a maximum below the minimum.
 * Source: domain-work, Stores, Reorder, and Settled questions.
 */
export function projectStock(given: ToProject): Projection {
  const { today, leadDays, reviewDays, minimum, maximum, pack } = given;
  if (pack <= 0 || maximum < minimum)
    throw new Error('A pack holds something, and the maximum is no less than the minimum.');
  const [comes, goes] = [byDay(given.ordered, today), byDay(given.needs, today)];
  let free = given.onHand - given.reserved;
  const days = Array.from({ length: leadDays + reviewDays + 1 }, (_, i): Dated => {
    const day = addDays(today, i);
    free += (comes.get(day) ?? 0) - (goes.get(day) ?? 0);
    return { day, thousandths: free };
  });
  const belowOn = days.find((d) => d.thousandths < minimum)?.day ?? null;
  if (belowOn === null) return { days, belowOn, propose: 0 };
  const upTo = Math.floor((maximum - free) / pack) * pack;
  const atLeast = Math.ceil((minimum - free) / pack) * pack;
  return { days, belowOn, propose: Math.max(0, upTo, atLeast) };
}
