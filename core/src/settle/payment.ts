// Paying on site: with a card, at most what is due, or by the invoice that comes later.
import { sayAmountOf, type Money } from '../money.ts';
import { decided, refusal, refused, type Decided } from '../refusal.ts';

export const PAY_WAYS = ['card', 'invoice'] as const;
export type PayWay = (typeof PAY_WAYS)[number];
/** `asked`: the terminal has not answered yet. `agreed`: it will be invoiced. */
export const PAY_STATES = ['asked', 'paid', 'declined', 'agreed'] as const;
export type PayState = (typeof PAY_STATES)[number];

type Payment = { readonly way: PayWay; readonly state: PayState; readonly amount: number | null };

/** What cards have paid, in minor units. */
export const paidOf = (payments: readonly Payment[]): number =>
  payments.reduce((sum, p) => sum + (p.state === 'paid' ? (p.amount ?? 0) : 0), 0);

/**
 * What a card may be asked for, in minor units with tax; `due` of the order's currency. Refused: while nothing is due, less than one minor unit, and more than is left
 * of what is due; while the terminal still owes an answer nothing else is asked for.
 */
export function mayAsk(due: Money, payments: readonly Payment[], amount: number): Decided<number> {
  if (payments.some((p) => p.state === 'asked'))
    return refused(refusal('conflict', 'A card is being asked for already; wait for the terminal.', 'amount'));
  const left = due.minor - paidOf(payments);
  if (left <= 0) return refused(refusal('conflict', 'Nothing is left to be paid.', 'amount'));
  if (!Number.isInteger(amount) || amount < 1)
    return refused(refusal('invalid', 'Write an amount above 0, with cents at most.', 'amount'));
  if (amount > left)
    return refused(refusal('invalid', `At most ${sayAmountOf(left, due.currency)} is left to be paid.`, 'amount'));
  return decided(amount);
}
