// Taking a call: what speaks against raising an order, and what it may cost where nobody bears it.
import { refusal, type Refusal } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';
import { sayDate } from '../time/index.ts';

/** What happens to calls of a customer who is over their credit terms: raised after a reason, by a manager only, or as any other. */
export const OVER_TERMS = ['ask', 'stop', 'go on'] as const;
export type OverTerms = (typeof OVER_TERMS)[number];

/** What people outside are told of an order, by its stage. */
export const ORDER_TELLINGS = ['taken', 'planned', 'sent', 'done', 'called off'] as const;
export type OrderTelling = (typeof ORDER_TELLINGS)[number];

/**
 * What speaks against an order for a customer by their credit terms; null: nothing. Whoever may decide says why it is raised
 * nevertheless, which is kept with it. Source: domain-work, Orders.
 */
export function checkTerms(
  policy: OverTerms,
  overSince: LocalDate | null,
  { mayOverride, reason }: { readonly mayOverride: boolean; readonly reason: string },
): Refusal | null {
  if (overSince === null || policy === 'go on') return null;
  const over = `The customer is over their credit terms since ${sayDate(overSince)}`;
  if (policy === 'stop' && !mayOverride)
    return refusal(
      'not-allowed',
      `${over}: only a manager raises an order for them, with a reason.`,
      'overTermsReason',
    );
  return reason.trim() === ''
    ? refusal('missing', `${over}: say why the order is raised nevertheless.`, 'overTermsReason')
    : null;
}
