// Approving what an order comes to: what is billed of it from then on, and when a second person has to look.
import type { AgreementId, AssetId, CustomerId, OrderId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';
import type { Charge } from './comes-to.ts';
import type { SettledCharge } from './corrected.ts';
import type { Billable } from './document.ts';
import { HINDERING, type Oddity } from './odd.ts';
import type { TaxRate } from './tax.ts';

/** What a charge was worked out from, as it is kept with it. */
export type Derivation = Pick<Charge, 'what' | 'labour' | 'of' | 'by'> & { readonly reasons: readonly string[] };

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

/** A charge as it was approved. */
export type ApprovedCharge = Pick<SettledCharge, 'list' | 'borne' | 'discount' | 'goodwill' | 'payers'> & {
  readonly id: number;
  readonly orderId: OrderId;
  readonly agreementId: AgreementId | null;
  readonly assetId: AssetId | null;
  readonly doneOn: LocalDate;
  readonly currency: Currency;
  readonly text: string;
  readonly quantity: number;
  readonly unit: string;
  readonly bearer: string | null;
  readonly reference: string;
  readonly rate: TaxRate;
};

/** What is off a list price for one payer, in words, largest first. */
function offBecauseOf({ list, borne, discount, goodwill, bearer }: ApprovedCharge, minor: number): string {
  const others = list - borne - discount - goodwill - minor;
  const said: (readonly [number, string])[] = [
    [borne, `borne by ${bearer ?? 'us'}`],
    [discount, 'discount'],
    [goodwill, 'goodwill'],
    [others, 'paid by somebody else'],
  ];
  return said
    .filter(([off]) => off !== 0)
    .sort(([a], [b]) => Math.abs(b) - Math.abs(a))
    .map(([, words]) => words)
    .join(', ');
}

/** What a payer pays of a charge, as a line of their documents: listed in full, with what is off and why; `times` it was before. */
export const billableOf = (charge: ApprovedCharge, customerId: CustomerId, minor: number, times = 0): Billable => ({
  key: `charge ${charge.id} ${customerId} ${times}`,
  ...{ customerId, currency: charge.currency, orderId: charge.orderId, agreementId: charge.agreementId },
  ...{ chargeId: charge.id, fee: null, reference: charge.reference },
  ...{ assetId: charge.assetId, day: charge.doneOn, text: charge.text, quantity: charge.quantity, unit: charge.unit },
  ...{ list: charge.list, off: charge.list - minor, offBecause: offBecauseOf(charge, minor), rate: charge.rate },
});
