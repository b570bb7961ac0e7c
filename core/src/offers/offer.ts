// Offers: priced proposals of work. What each line comes to, what the whole does, and what may become of it.
import type { AssetId, PartId, TaxId } from '../ids.ts';
import { timesRatio } from '../money.ts';
import { refusal, type Refusal } from '../refusal.ts';
import { totalsOf, type DocumentTotals, type TaxRate } from '../settle/index.ts';
import { priceOf } from '../stores/index.ts';
import { sayDate, type LocalDate } from '../time/index.ts';

export const OFFER_LINE_KINDS = ['work', 'travel', 'part', 'other'] as const;
export type OfferLineKind = (typeof OFFER_LINE_KINDS)[number];

/** Of one machine, or of the whole where none is named. Work is counted in minutes of all people together, the rest in thousandths. */
export type OfferLine = {
  readonly kind: OfferLineKind;
  readonly assetId: AssetId | null;
  readonly text: string;
  /** Work: minutes. Else: thousandths of a unit. */
  readonly quantity: number;
  readonly unit: string;
  /** Minor units: of an hour of work, else of one unit. */
  readonly price: number;
  /** What it costs us, the same way. */
  readonly cost: number;
  /** Percent off what it comes to. */
  readonly discount: number;
  /** Of the parts list; null where it is none of it, and is to be purchased. */
  readonly partId: PartId | null;
  /** Where a part is to be purchased. */
  readonly supplier: string;
  /** Null: the standard tax. */
  readonly taxId: TaxId | null;
};

const MINUTES_OF_HOUR = 60n;
const MOST_MINUTES = 100_000;
const MOST_THOUSANDTHS = 1_000_000_000;
const MOST_MINOR = 1_000_000_000;
export const MOST_OFFER_LINES = 200;

/** What a line comes to in minor units, without tax: its price rounded half-up once, then its discount rounded half-up. */
export function amountOfLine({ kind, quantity, price, discount }: OfferLine): {
  readonly list: number;
  readonly off: number;
  readonly pay: number;
} {
  const list = kind === 'work' ? timesRatio(price, BigInt(quantity), MINUTES_OF_HOUR) : priceOf(quantity, price);
  const off = timesRatio(list, BigInt(discount), 100n);
  return { list, off, pay: list - off };
}

/** What a line costs us, in minor units. */
export const costOfLine = ({ kind, quantity, cost }: OfferLine): number =>
  kind === 'work' ? timesRatio(cost, BigInt(quantity), MINUTES_OF_HOUR) : priceOf(quantity, cost);

export type OfferTotals = DocumentTotals & { readonly list: number; readonly off: number; readonly cost: number };

/** Totals of an offer, taxed as EN 16931 has it; `rateOf` gives each line's tax. */
export function totalsOfOffer(lines: readonly OfferLine[], rateOf: (line: OfferLine) => TaxRate): OfferTotals {
  const amounts = lines.map((line) => ({ line, ...amountOfLine(line) }));
  const sum = (of: (a: (typeof amounts)[number]) => number): number => amounts.reduce((all, a) => all + of(a), 0);
  return {
    ...totalsOf(amounts.map(({ line, pay }) => ({ amount: pay, rate: rateOf(line) }))),
    list: sum((a) => a.list),
    off: sum((a) => a.off),
    cost: sum((a) => costOfLine(a.line)),
  };
}

const whole = (n: number, low: number, high: number): boolean => Number.isInteger(n) && n >= low && n <= high;

/** What is wrong with the lines of an offer, at `lines.N.field`: nothing said, quantities of nothing or too large, amounts below zero. */
export function checkOfferLines(lines: readonly OfferLine[]): Refusal[] {
  if (lines.length > MOST_OFFER_LINES)
    return [refusal('too-large', `An offer has at most ${MOST_OFFER_LINES} lines; make two of it.`, 'lines')];
  return lines.flatMap((line, i) => {
    const at = (field: string): string => `lines.${i}.${field}`;
    const found: Refusal[] = [];
    if (line.text.trim() === '') found.push(refusal('missing', 'Say what it is.', at('text')));
    if (!whole(line.quantity, 1, line.kind === 'work' ? MOST_MINUTES : MOST_THOUSANDTHS))
      found.push(
        refusal(
          'invalid',
          line.kind === 'work' ? 'Whole minutes above 0.' : 'A quantity above 0, with at most three decimals.',
          at('quantity'),
        ),
      );
    for (const field of ['price', 'cost'] as const)
      if (!whole(line[field], 0, MOST_MINOR)) found.push(refusal('invalid', 'An amount of 0 or more.', at(field)));
    if (!whole(line.discount, 0, 100)) found.push(refusal('invalid', 'From 0 to 100 %.', at('discount')));
    if (line.partId !== null && line.kind !== 'part')
      found.push(refusal('unsupported', 'Only a part is of the parts list.', at('partId')));
    return found;
  });
}

/** Where an offer stands. One that was sent and is past its day has lapsed; that is not kept, it follows from the day. */
export const OFFER_STATES = ['draft', 'sent', 'accepted', 'declined', 'withdrawn'] as const;
export type OfferState = (typeof OFFER_STATES)[number];
export const OFFER_STANDINGS = [...OFFER_STATES, 'lapsed'] as const;
export type OfferStanding = (typeof OFFER_STANDINGS)[number];

/** The offer holds through its last day. */
export const standingOf = (state: OfferState, validUntil: LocalDate, today: LocalDate): OfferStanding =>
  state === 'sent' && validUntil < today ? 'lapsed' : state;

export const OFFER_ACTS = ['change', 'send', 'accept', 'decline', 'withdraw'] as const;
export type OfferAct = (typeof OFFER_ACTS)[number];

const ALLOWED: Readonly<Record<OfferAct, readonly OfferStanding[]>> = {
  change: ['draft'],
  send: ['draft', 'lapsed', 'sent'],
  accept: ['sent'],
  decline: ['sent', 'lapsed'],
  withdraw: ['draft', 'sent', 'lapsed'],
};

const WHY_NOT: Readonly<Record<OfferStanding, string>> = {
  draft: 'It is a draft: send it first.',
  sent: 'It was sent: withdraw it and begin another from it.',
  accepted: 'It was accepted already.',
  declined: 'It was declined already; begin another from it.',
  withdrawn: 'It was withdrawn; begin another from it.',
  lapsed: '',
};

/**
 * Whether an act is allowed as the offer stands on a day; null, or why not. Sending again needs a last day that has not passed.
 * Source: domain-work, Offers; the bad input it names: accepted twice, or after its date.
 */
export function checkOfferAct(
  act: OfferAct,
  { state, validUntil }: { readonly state: OfferState; readonly validUntil: LocalDate },
  today: LocalDate,
): Refusal | null {
  const standing = standingOf(state, validUntil, today);
  if (!ALLOWED[act].includes(standing))
    return refusal(
      'wrong-stage',
      standing === 'lapsed'
        ? `It was valid until ${sayDate(validUntil)}: send it again with another day.`
        : WHY_NOT[standing],
    );
  if (act === 'send' && validUntil < today)
    return refusal('invalid', 'A day that has not passed: until then the customer may accept it.', 'validUntil');
  return null;
}
