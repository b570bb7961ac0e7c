// Charges as somebody in the office let them stand: goodwill taken off, and who pays what is left.
import type { CustomerId } from '../ids.ts';
import { timesRatio } from '../money.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { shareOut } from '../share-out.ts';
import { totalOf, type Charge, type ChargeElement, type Totals } from './comes-to.ts';

/** Which charges of an order are meant; null: of every line, of every element. */
export type Meant = { readonly lineId: number | null; readonly element: ChargeElement | null };

/** In whole percent of what each charge leaves to pay, or an amount in minor units off their sum. */
export type Off = { readonly percent: number } | { readonly minor: number };

/** Another payer's part, in whole percent of what is to pay; what is left is the customer's. */
export type PayerShare = { readonly customerId: CustomerId; readonly percent: number };

export type Correction = Meant & { readonly reason: string } & (
    | { readonly kind: 'goodwill'; readonly off: Off }
    | { readonly kind: 'payers'; readonly payers: readonly PayerShare[] }
  );

export type Paying = { readonly customerId: CustomerId; readonly minor: number };

/** list = borne + discount + goodwill + pay; `pay` is what `payers` pay together. */
export type SettledCharge = Charge & {
  readonly goodwill: number;
  /** Those who pay something of it; the customer of the order alone, unless somebody said otherwise. */
  readonly payers: readonly Paying[];
  /** Why it is not as the decision makes it. */
  readonly reasons: readonly string[];
};

const isMeant = (charge: Charge, { lineId, element }: Meant): boolean =>
  (lineId === null || charge.lineId === lineId) && (element === null || charge.element === element);

const isShare = (percent: number): boolean => Number.isInteger(percent) && percent >= 1 && percent <= 100;

function checkPayers(payers: readonly PayerShare[]): Decided<null> {
  if (payers.length === 0) return refused(refusal('missing', 'Name who pays instead.', 'payers'));
  if (payers.some((p) => !isShare(p.percent)))
    return refused(refusal('invalid', 'A payer’s part is a whole percentage from 1 to 100.', 'payers'));
  if (new Set(payers.map((p) => p.customerId)).size < payers.length)
    return refused(refusal('invalid', 'Somebody is named twice; give them one part.', 'payers'));
  if (payers.reduce((sum, p) => sum + p.percent, 0) > 100)
    return refused(refusal('invalid', 'The parts are more than 100 % together.', 'payers'));
  return decided(null);
}

type Now = { readonly charge: Charge; goodwill: number; reasons: string[]; payers: readonly PayerShare[] };

const leftOf = ({ charge, goodwill }: Now): number => charge.pay - goodwill;

/** Takes goodwill off; an amount goes over the charges by what each leaves to pay. */
function takeOff(meant: readonly Now[], off: Off): Decided<null> {
  const left = meant.map((now) => Math.max(0, leftOf(now)));
  const most = left.reduce((sum, each) => sum + each, 0);
  if ('percent' in off) {
    if (!isShare(off.percent))
      return refused(refusal('invalid', 'Goodwill is a whole percentage from 1 to 100, or an amount.', 'off.percent'));
    for (const [i, now] of meant.entries()) now.goodwill += timesRatio(left[i] as number, BigInt(off.percent), 100n);
    return decided(null);
  }
  if (!Number.isSafeInteger(off.minor) || off.minor < 1)
    return refused(refusal('invalid', 'Write an amount above 0, with cents at most.', 'off.minor'));
  if (off.minor > most)
    return refused(refusal('invalid', 'That is more than is left to pay of it; take off less.', 'off.minor'));
  const parts = shareOut(off.minor, left);
  for (const [i, now] of meant.entries()) now.goodwill += parts[i] as number;
  return decided(null);
}

/** Largest remainder in minor units, ties to the earlier, the customer last. */
function payersOf(pay: number, shares: readonly PayerShare[], customerId: CustomerId): Paying[] {
  const rest = 100 - shares.reduce((sum, p) => sum + p.percent, 0);
  const all = [...shares, { customerId, percent: rest }];
  const parts = shareOut(
    pay,
    all.map((p) => p.percent),
  );
  const sums = new Map<CustomerId, number>();
  for (const [i, p] of all.entries())
    if (parts[i] !== 0) sums.set(p.customerId, (sums.get(p.customerId) ?? 0) + (parts[i] as number));
  return [...sums].map(([payer, minor]) => ({ customerId: payer, minor }));
}

/**
 * The charges after the corrections in the order in which they were made: goodwill is off what the decision leaves to pay, never
 * more than that; of two words on who pays a charge the later holds. Minor units; the parts of each charge add up to its list price.
 * Refused: a correction without a reason, one that concerns no charge, goodwill of nothing or of more than is left, payers named
 * twice or with more than 100 %. Source: domain-work, Settle; settled questions, Settle (several payers).
 */
export function correctedCharges(
  charges: readonly Charge[],
  corrections: readonly Correction[],
  customerId: CustomerId,
): Decided<SettledCharge[]> {
  const all = charges.map((charge): Now => ({ charge, goodwill: 0, reasons: [], payers: [] }));
  for (const correction of corrections) {
    if (correction.reason.trim() === '') return refused(refusal('missing', 'Say why.', 'reason'));
    const meant = all.filter(({ charge }) => isMeant(charge, correction));
    if (meant.length === 0) return refused(refusal('conflict', 'No charge is meant by that.', 'lineId'));
    const done = correction.kind === 'goodwill' ? takeOff(meant, correction.off) : checkPayers(correction.payers);
    if (!done.ok) return done;
    for (const now of meant) {
      if (correction.kind === 'payers') now.payers = correction.payers;
      now.reasons.push(correction.reason.trim());
    }
  }
  return decided(
    all.map((now): SettledCharge => ({
      ...now.charge,
      ...{ goodwill: now.goodwill, pay: leftOf(now), reasons: now.reasons },
      payers: payersOf(leftOf(now), now.payers, customerId),
    })),
  );
}

export type SettledTotals = Totals & { readonly goodwill: number };

export const settledTotalOf = (charges: readonly SettledCharge[]): SettledTotals => ({
  ...totalOf(charges),
  goodwill: charges.reduce((sum, c) => sum + c.goodwill, 0),
});
