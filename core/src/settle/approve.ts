// Approving what an order comes to: what is billed of it from then on, and when a second person has to look.
import type { OrderId } from '../ids.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';
import type { Charge, Split } from './comes-to.ts';
import type { Paying } from './corrected.ts';
import type { Billable, ChargedComing } from './document.ts';
import { HINDERING, type Oddity } from './odd.ts';

/** What a charge was worked out from, as it is kept with it. */
export type Derivation = Pick<Charge, 'what' | 'labour' | 'of' | 'by'> & {
  readonly reasons: readonly string[];
  /** Where its order is billed by appointment. */
  readonly coming?: ChargedComing;
};

/** Who stands on a document as seller or buyer. Country: ISO 3166-1, two letters. */
export type Party = {
  readonly name: string;
  readonly address: string;
  readonly country: string;
  readonly taxNumber: string;
};

const HINDERED: Readonly<Record<string, string>> = {
  'without a rate': 'somebody’s time has no rate: give their craft one on the rate card',
  'no customer order number': 'the customer wants their order number on what they pay: write it at the order',
  'no tax': 'something has no tax: name the standard one in Setup',
};

/**
 * Whether a finished order may be approved, and by whom else. Refused, each by its name: what would make its documents wrong. More
 * goodwill than a person gives alone (minor units; null: no limit) waits for a second one.
 */
export function approveOrder(
  odd: readonly Oddity[],
  goodwill: number,
  secondAbove: number | null,
): Decided<'approved' | 'second'> {
  const hindering = odd.filter((o) => HINDERING.includes(o));
  if (hindering.length > 0)
    return refused(...hindering.map((o) => refusal('not-ready', `It cannot be approved yet: ${HINDERED[o]}.`, 'odd')));
  return decided(secondAbove !== null && goodwill > secondAbove ? 'second' : 'approved');
}

/** Refused: whoever approved first. Source: two pairs of eyes. */
export const approveSecond = <Id>(first: Id, second: Id): Decided<true> =>
  first === second
    ? refused(refusal('not-allowed', 'Goodwill this large is looked at by a second person; you were the first.'))
    : decided(true);

/** A charge as it was approved, in the words of whoever pays; `times` it was billed to them before. */
export type ApprovedCharge = Pick<
  Billable,
  | 'currency'
  | 'agreementId'
  | 'assetId'
  | 'coming'
  | 'text'
  | 'quantity'
  | 'unit'
  | 'list'
  | 'offBecause'
  | 'reference'
  | 'rate'
> & { readonly id: number; readonly orderId: OrderId; readonly doneOn: LocalDate };

export const OFF_REASONS = ['borne', 'discount', 'goodwill', 'paid by somebody else'] as const;
export type OffReason = (typeof OFF_REASONS)[number];

/** Why a payer does not pay all of a list price, what takes most off first; `minor` is what they pay. */
export function whyOff(
  { list, borne, discount, goodwill }: Omit<Split, 'pay'> & { readonly goodwill: number },
  minor: number,
): OffReason[] {
  const off: Readonly<Record<OffReason, number>> = {
    ...{ borne, discount, goodwill },
    'paid by somebody else': list - borne - discount - goodwill - minor,
  };
  return OFF_REASONS.filter((why) => off[why] !== 0).toSorted((a, b) => Math.abs(off[b]) - Math.abs(off[a]));
}

/** What a payer pays of a charge, as a line of their documents: listed in full, with what is off and why. */
export const billableOf = (charge: ApprovedCharge, payer: Paying & { readonly times: number }): Billable => ({
  key: `charge ${charge.id} ${payer.customerId} ${payer.times}`,
  ...{ customerId: payer.customerId, currency: charge.currency, orderId: charge.orderId },
  ...{ agreementId: charge.agreementId, chargeId: charge.id, fee: null, reference: charge.reference },
  ...{ assetId: charge.assetId, coming: charge.coming, day: charge.coming?.on ?? charge.doneOn, text: charge.text },
  ...{ quantity: charge.quantity, unit: charge.unit },
  ...{ list: charge.list, off: charge.list - payer.minor, offBecause: charge.offBecause, rate: charge.rate },
});
