// Lines of an offer as they are proposed: by a job plan at the rates of a day, or by what past work came to.
import type { AssetId, PartId, TaxId } from '../ids.ts';
import { usualRate, type RateCard } from '../labour/index.ts';
import type { PlannedPart } from '../orders/index.ts';
import { THOUSANDTHS } from '../stores/index.ts';
import type { LocalDate } from '../time/index.ts';
import type { OfferLine } from './offer.ts';

export type PlanOffered = {
  readonly name: string;
  readonly minutes: number;
  readonly crew: number;
  readonly parts: readonly PlannedPart[];
};
export type PartPrice = { readonly listPrice: number; readonly cost: number; readonly taxId: TaxId | null };

const PLAIN = { unit: 'piece', discount: 0, partId: null, supplier: '', taxId: null } as const;

/** Minor units for an hour of the middle craft; 0 where no craft has a rate on the day, to be filled in. */
const hourOf = (card: RateCard | null, day: LocalDate): { readonly price: number; readonly cost: number } => {
  const rate = card && usualRate(card, day);
  return { price: rate?.sales ?? 0, cost: rate?.cost ?? 0 };
};

/** Coming once, as the card has it; nothing where it has neither a call-out nor a flat sum. */
export function comingOffered(card: RateCard | null): OfferLine[] {
  const price = card ? card.callOut + (card.travel.by === 'flat' ? card.travel.price : 0) : 0;
  return price === 0
    ? []
    : [
        {
          ...PLAIN,
          kind: 'travel',
          assetId: null,
          text: 'Travel',
          quantity: THOUSANDTHS,
          unit: 'visit',
          price,
          cost: 0,
        },
      ];
}

/** Work of a machine: minutes of all people together at the middle craft's rate of the day. */
export const workOffered = (
  assetId: AssetId | null,
  text: string,
  minutes: number,
  card: RateCard | null,
  day: LocalDate,
): OfferLine => ({ ...PLAIN, kind: 'work', assetId, text, quantity: minutes, unit: 'h', ...hourOf(card, day) });

/** A job plan on a machine: its duration times its people, and its parts at the list's prices. */
export function planOffered(
  assetId: AssetId | null,
  { name, minutes, crew, parts }: PlanOffered,
  {
    card,
    day,
    prices,
  }: {
    readonly card: RateCard | null;
    readonly day: LocalDate;
    readonly prices: ReadonlyMap<number, PartPrice>;
  },
): OfferLine[] {
  const work = minutes * crew;
  return [
    ...(work > 0 ? [workOffered(assetId, name, work, card, day)] : []),
    ...parts.map(({ partId, number, name: called, unit, thousandths }): OfferLine => ({
      ...PLAIN,
      ...{ kind: 'part', assetId, text: `${number} ${called}`, quantity: thousandths, unit },
      price: prices.get(partId)?.listPrice ?? 0,
      cost: prices.get(partId)?.cost ?? 0,
      partId: partId as PartId,
      taxId: prices.get(partId)?.taxId ?? null,
    })),
  ];
}
