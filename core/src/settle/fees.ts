// What an agreement owes for its periods up to a day: the fee of each line and period, less all that was billed of it so far.
import { billedPeriods, type BillingPlan, type PricedStretch } from '../agreements/index.ts';
import type { Term } from '../entitlement/index.ts';
import type { AgreementId } from '../ids.ts';
import type { Attainment } from '../standing/index.ts';
import { addDays, type LocalDate } from '../time/index.ts';
import type { Billable } from './document.ts';
import { creditsOfPeriod, type PromiseFacts } from './promise-credit.ts';

/** What was billed of one line and period, with what was taken back so that it is billed again. */
export type BilledFee = {
  readonly key: string;
  readonly from: LocalDate;
  readonly to: LocalDate;
  readonly label: string;
  readonly minor: number;
  /** How often something was billed of it. */
  readonly times: number;
};

export type FeeFacts = {
  readonly plan: BillingPlan;
  readonly term: Term;
  readonly stretches: readonly PricedStretch[];
  /** Due days of visits, where the price is one for each visit. */
  readonly visits: readonly LocalDate[];
  /** Stretches in which a suspended agreement bills nothing. */
  readonly rests: readonly Term[];
  /** Fees that fell due before this day were billed elsewhere. */
  readonly since: LocalDate;
  readonly billed: readonly BilledFee[];
  /** What is given back of periods in which promises were not kept. */
  readonly promises: PromiseFacts;
};

export type Fee = {
  readonly key: string;
  readonly label: string;
  readonly from: LocalDate;
  readonly to: LocalDate;
  readonly dueOn: LocalDate;
  /** Days of the period it held and days of the full one; visits and 1. */
  readonly held: number;
  readonly of: number;
  /** What the period comes to now, what was billed of it, and what is to be billed: minor units, below zero to be given back. */
  readonly whole: number;
  readonly before: number;
  readonly minor: number;
  /** How often it was billed before: with agreement, line and period the key by which it is billed once. */
  readonly times: number;
  /** Promises that were kept and missed, where it gives something back for them. */
  readonly promises: Attainment | null;
};

const keyOf = (key: string, from: LocalDate): string => `${key} ${from}`;

type Due = Omit<Fee, 'before' | 'minor' | 'times'>;

/** Every fee and credit of the periods that there are, whenever it falls due. Stretches of one line within a period are one fee. */
function allFees(
  { plan, term, stretches, visits, rests, billed, promises }: FeeFacts,
  upTo: LocalDate,
): Map<string, Due> {
  const to = billed.reduce((latest, b) => (b.from > latest ? b.from : latest), upTo);
  const all = new Map<string, Due>();
  for (const period of billedPeriods(plan, term, stretches, term.from, to, visits, rests)) {
    const { from, to: last } = period;
    for (const part of period.parts) {
      const id = keyOf(part.key, period.from);
      const known = all.get(id);
      all.set(id, {
        ...{ key: part.key, label: part.label, of: part.of },
        ...{ from, to: last, dueOn: period.dueOn, promises: null },
        held: part.held + (known?.held ?? 0),
        whole: part.minor + (known?.whole ?? 0),
      });
    }
    for (const { levelId, name, met, missed, minor } of creditsOfPeriod(promises, {
      from,
      to: last,
      fee: period.minor,
    })) {
      const key = `credit ${levelId}`;
      all.set(keyOf(key, from), {
        ...{ key, label: name, from, to: last, dueOn: addDays(last, 1), held: 1, of: 1 },
        ...{ promises: { met, missed }, whole: -minor },
      });
    }
  }
  return all;
}

/**
 * The fees to be billed up to a day, that day included. Of each line and period the new rounded amount less all billed so far: the
 * first time that is the fee, after an amendment a difference, and of what holds no longer all of it back; what was billed and falls
 * due on another day than is asked about stays. Sums are exact: however
 * often it is billed in between, together it is what the agreement says last. Source: domain-work, Settle; settled questions, Settle
 * (a difference).
 */
export function feesDue(facts: FeeFacts, upTo: LocalDate): Fee[] {
  const all = allFees(facts, upTo);
  const billed = new Map(facts.billed.map((b) => [keyOf(b.key, b.from), b]));
  const now = [...all].flatMap(([id, fee]): Fee[] => {
    if (fee.dueOn < facts.since || fee.dueOn > upTo) return [];
    const { minor: before, times } = billed.get(id) ?? { minor: 0, times: 0 };
    return [{ ...fee, before, minor: fee.whole - before, times }];
  });
  const gone = facts.billed.flatMap((b): Fee[] =>
    all.has(keyOf(b.key, b.from))
      ? []
      : [
          {
            ...{ key: b.key, label: b.label, from: b.from, to: b.to, dueOn: upTo, held: 0, of: 1, promises: null },
            ...{ whole: 0, before: b.minor, minor: -b.minor, times: b.times },
          },
        ],
  );
  return [...now, ...gone]
    .filter((fee) => fee.minor !== 0)
    .sort((a, b) => (a.from === b.from ? (a.key < b.key ? -1 : 1) : a.from < b.from ? -1 : 1));
}

/** A fee as it is billed: its text is the caller’s, for it is in the customer’s language. */
export const billableFee = (
  fee: Fee,
  of: Pick<Billable, 'customerId' | 'currency' | 'rate' | 'text'> & { readonly agreementId: AgreementId },
): Billable => ({
  key: `fee ${of.agreementId} ${fee.key} ${fee.from} ${fee.times}`,
  ...of,
  ...{
    orderId: null,
    assetId: null,
    chargeId: null,
    coming: null,
    reference: '',
    day: fee.dueOn,
    quantity: 1000,
    unit: 'C62',
  },
  fee: { key: fee.key, from: fee.from, to: fee.to },
  ...{ list: fee.minor, off: 0, offBecause: '' },
});

/** A suspension: from the day it began to the day before the agreement went on; null: it still is. */
export type Suspension = { readonly from: LocalDate; readonly resumedOn: LocalDate | null };

/** Days of suspensions in which nothing is billed. Source: settled questions, Settle (a suspended agreement). */
export const restsOf = (suspensions: readonly Suspension[]): Term[] =>
  suspensions.flatMap(({ from, resumedOn }): Term[] => {
    const to = resumedOn === null ? null : addDays(resumedOn, -1);
    return to !== null && to < from ? [] : [{ from, to }];
  });
