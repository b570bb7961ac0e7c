// What work may cost before it is done: by what like work took, at the rates of a day.
import type { CraftId } from '../ids.ts';
import { spreadOf } from '../orders/index.ts';
import type { LocalDate } from '../time/index.ts';
import { amountOf, billedMinutes, rateOn, type CraftRate, type RateCard } from './rate-card.ts';

export type LikeWork = { readonly minutes: number; readonly partsCost: number };

export type Indication = {
  readonly count: number;
  /** Medians; parts in minor units, at what they cost us. */
  readonly minutes: number;
  readonly partsCost: number;
  /** Minor units of the card's currency; null: no craft has a rate on the day. */
  readonly price: number | null;
};

/** The rate of the craft in the middle of what they are sold for on a day; of two in the middle the higher; null where none has one. */
export function usualRate({ rates }: RateCard, day: LocalDate): CraftRate | null {
  const crafts = [...new Set(rates.map((r) => r.craftId))];
  const known = crafts.flatMap((id: CraftId) => rateOn(rates, id, day) ?? []).sort((a, b) => a.sales - b.sales);
  return known[Math.floor(known.length / 2)] ?? null;
}

/**
 * A price to say on the telephone: the median minutes of like work, billed by the card's step and minimum at the middle rate of its
 * crafts in normal hours, coming once, and the median cost of its parts. Null where there is no like work. Nothing is promised by it.
 */
export function indicate(like: readonly LikeWork[], card: RateCard | null, day: LocalDate): Indication | null {
  const minutes = spreadOf(like.map((l) => l.minutes))?.median;
  const parts = spreadOf(like.map((l) => l.partsCost))?.median;
  if (minutes === undefined || parts === undefined) return null;
  const [whole, partsCost] = [Math.round(minutes), Math.round(parts)];
  const rate = card && (usualRate(card, day)?.sales ?? null);
  const coming = card ? card.callOut + (card.travel.by === 'flat' ? card.travel.price : 0) : 0;
  return {
    count: like.length,
    minutes: whole,
    partsCost,
    price:
      card && rate !== null ? amountOf(billedMinutes(whole, card.billing.work), rate, 100) + coming + partsCost : null,
  };
}
