// What an order comes to: cost, list price, what a cover bears of it, discount, and what the customer pays, charge by charge.
import { COST_ELEMENTS, isExcludedPart, type Borne, type CostElement, type Verdict } from '../entitlement/index.ts';
import {
  labourCharges,
  surchargeOf,
  type EntryKind,
  type LabourCharge,
  type RateCard,
  type SalesFactor,
  type Worked,
} from '../labour/index.ts';
import { timesRatio } from '../money.ts';
import { shareEvenly } from '../share-out.ts';
import { priceOf } from '../stores/index.ts';

/** A line of the order as it was decided; without a verdict nobody bears anything. */
export type ChargedLine = {
  readonly id: number;
  readonly verdict: Pick<Verdict, 'elements' | 'surcharge' | 'partsLeftOut'> | null;
  /** Whether somebody worked on it: not left undone. */
  readonly attended: boolean;
};

/** Minor units; list = borne + discount + pay. */
export type Split = { readonly list: number; readonly borne: number; readonly discount: number; readonly pay: number };

/** Elements a cover may bear, and what none does. */
export const CHARGE_ELEMENTS = [...COST_ELEMENTS, 'other'] as const;
export type ChargeElement = (typeof CHARGE_ELEMENTS)[number];

export type Charge = Split & {
  readonly lineId: number;
  readonly element: ChargeElement;
  /** Null: not for somebody's time. */
  readonly labour: LabourCharge | null;
  readonly what: EntryKind | 'call-out' | 'flat travel' | 'kilometres' | 'part' | 'consumable' | 'visit' | 'other';
  /** Of the used part or other cost behind it. */
  readonly of: number | null;
  readonly cost: number;
  /** Who bears the share, where somebody does. */
  readonly by: string | null;
  /** Billed by appointment: which of the times somebody came it belongs to, from 0. */
  readonly coming?: number;
};

const NOBODY: Borne = { share: 0, by: null, discount: 0 };

/** A part as it was used, at the prices of then; in minor units for one unit. */
export type UsedPart = {
  readonly id: number;
  readonly lineId: number;
  readonly number: string;
  readonly name: string;
  readonly thousandths: number;
  readonly unitPrice: number;
  readonly unitCost: number;
  readonly consumable: boolean;
};

/** Tolls, hire, postage: the customer's unless somebody decided that we bear it. */
export type OtherCost = {
  readonly id: number;
  readonly lineId: number;
  readonly cost: number;
  readonly price: number;
  readonly oursBecause: string | null;
};

/** Waiting counts as labour; call-out and flat travel as travel. */
const ELEMENT: Readonly<Record<Exclude<Charge['what'], 'other' | 'visit'>, CostElement>> = {
  work: 'labour',
  waiting: 'labour',
  travel: 'travel',
  'call-out': 'travel',
  'flat travel': 'travel',
  kilometres: 'travel',
  part: 'parts',
  consumable: 'consumables',
};

/**
 * A list price divided: the borne share and the discount on the rest are rounded half-up in that order, the customer pays what is
 * left. Source: domain-work, Settle; settled questions, Settle.
 */
export function splitCharge(list: number, { share, discount }: Pick<Borne, 'share' | 'discount'>): Split {
  const borne = timesRatio(list, BigInt(share), 100n);
  const off = timesRatio(list - borne, BigInt(discount), 100n);
  return { list, borne, discount: off, pay: list - borne - off };
}

export type Done = {
  readonly worked: readonly Worked[];
  readonly parts: readonly UsedPart[];
  readonly others: readonly OtherCost[];
  /** How often somebody came. */
  readonly comings: number;
  /** Lines whose visit is billed by itself, at the price it was raised with. */
  readonly visits: readonly { readonly lineId: number; readonly price: number }[];
  /** Kilometres of each line, counter-entries taken off. */
  readonly driven: readonly { readonly lineId: number; readonly kilometres: number }[];
};

/** What the decision of its line makes of one charge. Written out: spreads of many small objects cost more than the sums. */
function splitBy(
  borne: Borne,
  {
    lineId,
    element,
    what,
    labour,
    of,
    cost,
    list,
  }: Omit<Charge, keyof Split | 'by' | 'coming'> & { readonly list: number },
): Charge {
  const split = splitCharge(list, borne);
  return {
    lineId,
    element,
    what,
    labour,
    of,
    cost,
    by: borne.share > 0 ? borne.by : null,
    list: split.list,
    borne: split.borne,
    discount: split.discount,
    pay: split.pay,
  };
}

const bearerOf = ({ verdict }: Pick<ChargedLine, 'verdict'>, element: CostElement): Borne =>
  verdict?.elements[element] ?? NOBODY;

/**
 * Time and coming. A cover's surcharge replaces the card's on labour outside normal hours; where travel is a flat sum or sold by the
 * kilometre its time has a cost and no list price; call-out and flat travel are divided equally over the lines attended.
 */
function chargesOfTime({ worked, comings, driven }: Done, card: RateCard, lines: readonly ChargedLine[]): Charge[] {
  const lineOf = new Map(lines.map((line) => [line.id, line]));
  const factorOf: SalesFactor = (own, kind, hours) => {
    const replaced = kind === 'travel' || hours === 'normal' ? null : lineOf.get(own)?.verdict?.surcharge;
    return replaced ? 100 + replaced.percent : surchargeOf(card, hours).sales;
  };
  const charge = (
    lineId: number,
    what: EntryKind | 'call-out' | 'flat travel' | 'kilometres',
    cost: number,
    list: number,
    labour: LabourCharge | null,
  ): Charge => {
    const element = ELEMENT[what];
    const borne = bearerOf(lineOf.get(lineId) ?? { verdict: null }, element);
    return splitBy(borne, { lineId, element, what, labour, of: null, cost, list });
  };
  const isUntimed = card.travel.by !== 'time';
  const labour = labourCharges(worked, card, factorOf).map((c) =>
    charge(c.lineId, c.kind, c.cost, isUntimed && c.kind === 'travel' ? 0 : c.list, c),
  );
  const attended = lines.filter((line) => line.attended);
  const coming = (what: 'call-out' | 'flat travel', each: number): Charge[] => {
    const parts = shareEvenly(each * comings, attended.length);
    return attended.flatMap(({ id }, i) =>
      (parts[i] ?? 0) === 0 ? [] : [charge(id, what, 0, parts[i] as number, null)],
    );
  };
  return [
    ...labour,
    ...coming('call-out', card.callOut),
    ...(card.travel.by === 'flat' ? coming('flat travel', card.travel.price) : []),
    ...(card.travel.by === 'km' ? chargesOfWay(driven, card.travel.price, charge) : []),
  ];
}

/** What was driven, line by line; lines on which it comes to nothing are left out. */
const chargesOfWay = (
  driven: Done['driven'],
  price: number,
  charge: (lineId: number, what: 'kilometres', cost: number, list: number, labour: null) => Charge,
): Charge[] =>
  driven.flatMap(({ lineId, kilometres }) =>
    kilometres === 0 ? [] : [charge(lineId, 'kilometres', 0, kilometres * price, null)],
  );

/** A part that the cover leaves out, by its number or name, is the customer's. */
function chargesOfParts(parts: readonly UsedPart[], lines: readonly ChargedLine[]): Charge[] {
  return parts.map((part) => {
    const line = lines.find((l) => l.id === part.lineId) ?? { verdict: null };
    const what = part.consumable ? 'consumable' : 'part';
    const element = ELEMENT[what];
    const leftOut = part.consumable ? [] : (line.verdict?.partsLeftOut ?? []);
    const isOut = isExcludedPart(leftOut, part.number) || isExcludedPart(leftOut, part.name);
    const { id: of, lineId, thousandths, unitCost, unitPrice } = part;
    const money = { cost: priceOf(thousandths, unitCost), list: priceOf(thousandths, unitPrice) };
    return splitBy(isOut ? NOBODY : bearerOf(line, element), { lineId, element, what, labour: null, of, ...money });
  });
}

const chargesOfOthers = (others: readonly OtherCost[]): Charge[] =>
  others.map(({ id, lineId, cost, price, oursBecause }) => {
    const ours: Borne = oursBecause === null ? NOBODY : { share: 100, by: `us: ${oursBecause}`, discount: 0 };
    return splitBy(ours, { lineId, element: 'other', what: 'other', labour: null, of: id, cost, list: price });
  });

/** A visit with a price of its own is the customer’s, once it was made. */
const chargesOfVisits = (visits: Done['visits'], lines: readonly ChargedLine[]): Charge[] =>
  visits.flatMap(({ lineId, price }) =>
    lines.some((l) => l.id === lineId && l.attended)
      ? [splitBy(NOBODY, { lineId, element: 'other', what: 'visit', labour: null, of: null, cost: 0, list: price })]
      : [],
  );

/**
 * Everything an order comes to, before or after its end. Money is rounded half-up for each charge: quantity times price, then what is
 * borne, then the discount; the customer pays the rest. Without a card, time and coming have no price yet.
 * Source: domain-work, Time and rates, Settle; their settled questions.
 */
export const comesTo = (done: Done, card: RateCard | null, lines: readonly ChargedLine[]): Charge[] => [
  ...(card ? chargesOfTime(done, card, lines) : []),
  ...chargesOfParts(done.parts, lines),
  ...chargesOfOthers(done.others),
  ...chargesOfVisits(done.visits, lines),
];

export type Totals = Split & { readonly cost: number };

/** The sums of some charges. */
export const totalOf = (charges: readonly (Split & { readonly cost: number })[]): Totals =>
  charges.reduce(
    (sum, c) => ({
      cost: sum.cost + c.cost,
      list: sum.list + c.list,
      borne: sum.borne + c.borne,
      discount: sum.discount + c.discount,
      pay: sum.pay + c.pay,
    }),
    { cost: 0, list: 0, borne: 0, discount: 0, pay: 0 },
  );
