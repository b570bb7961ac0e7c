// What time and coming come to: cost, list price, what a cover bears of it, discount, and what the customer pays, line by line.
import type { Borne, CostElement, Verdict } from '../entitlement/index.ts';
import { timesRatio } from '../money.ts';
import { shareEvenly } from '../share-out.ts';
import { labourCharges, type LabourCharge, type SalesFactor, type Worked } from './amounts.ts';
import type { EntryKind } from './entry.ts';
import { surchargeOf, type RateCard } from './rate-card.ts';

/** A line of the order as it was decided; without a verdict nobody bears anything. */
export type ChargedLine = {
  readonly id: number;
  readonly verdict: Pick<Verdict, 'elements' | 'surcharge'> | null;
  /** Whether somebody worked on it: not left undone. */
  readonly attended: boolean;
};

/** Minor units; list = borne + discount + pay. */
export type Split = { readonly list: number; readonly borne: number; readonly discount: number; readonly pay: number };

export type Charge = Split & {
  readonly lineId: number;
  readonly element: CostElement;
  /** Null: for coming, not for somebody's time. */
  readonly labour: LabourCharge | null;
  readonly what: EntryKind | 'call-out' | 'flat travel';
  readonly cost: number;
  /** Who bears the share, where somebody does. */
  readonly by: string | null;
};

const NOBODY: Borne = { share: 0, by: null, discount: 0 };

/** Waiting counts as labour; call-out and flat travel as travel. */
const ELEMENT: Readonly<Record<Charge['what'], CostElement>> = {
  work: 'labour',
  waiting: 'labour',
  travel: 'travel',
  'call-out': 'travel',
  'flat travel': 'travel',
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

/**
 * Everything that the time and the coming of an order come to. A cover's surcharge replaces the card's on labour outside normal
 * hours; where travel is a flat sum its time has a cost and no list price; call-out and flat travel are divided equally over the
 * lines attended. `comings`: how often somebody came. Source: domain-work, Time and rates, Settle; their settled questions.
 */
export function comesTo(
  worked: readonly Worked[],
  card: RateCard,
  lines: readonly ChargedLine[],
  comings: number,
): Charge[] {
  const lineOf = new Map(lines.map((line) => [line.id, line]));
  const factorOf: SalesFactor = (own, kind, hours) => {
    const replaced = kind === 'travel' || hours === 'normal' ? null : lineOf.get(own)?.verdict?.surcharge;
    return replaced ? 100 + replaced.percent : surchargeOf(card, hours).sales;
  };
  const charge = (
    lineId: number,
    what: Charge['what'],
    cost: number,
    list: number,
    labour: LabourCharge | null,
  ): Charge => {
    const element = ELEMENT[what];
    const borne = lineOf.get(lineId)?.verdict?.elements[element] ?? NOBODY;
    return { lineId, element, what, labour, cost, by: borne.share > 0 ? borne.by : null, ...splitCharge(list, borne) };
  };
  const isFlat = card.travel.by === 'flat';
  const labour = labourCharges(worked, card, factorOf).map((c) =>
    charge(c.lineId, c.kind, c.cost, isFlat && c.kind === 'travel' ? 0 : c.list, c),
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
  ];
}

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
