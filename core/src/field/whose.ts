// Whose an order is while a phone was out of reach: whoever arrived first keeps it; what the other found and did there is kept too.
import type { PersonId } from '../ids.ts';
import type { Instant } from '../time/index.ts';
import { refusal, type Refusal } from '../refusal.ts';
import type { OrderAct, OrderActKind, OrderEvent } from '../orders/index.ts';

/** An event, and who recorded it. */
type Told = OrderEvent & { readonly by: PersonId | null };

/** What somebody found, did and wrote down there: it stands whatever became of the order. */
const FACTS: readonly OrderActKind[] = ['task', 'form', 'found', 'note', 'signed'];
export const isFact = ({ kind }: Pick<OrderAct, 'kind'>): boolean => FACTS.includes(kind);

/** Whether somebody was ever to go: a phone that was out of reach knows no more. */
export const wasToGo = (events: readonly OrderEvent[], who: PersonId): boolean =>
  events.some(({ act }) => (act.kind === 'planned' || act.kind === 'told') && act.technicianId === who);

/**
 * How an act stands that comes from somebody whose order it is no more. `keeps it`: nobody else has arrived before, so it is theirs
 * again by arriving. `fact`: kept, and nothing changes hands. Refused: stages of an order at which somebody else arrived first, and
 * orders that never were theirs. Source: domain-work, Settled questions, Field.
 */
export function standsFor(
  events: readonly Told[],
  who: PersonId,
  { act, at }: { readonly act: Pick<OrderAct, 'kind'>; readonly at: Instant },
): 'keeps it' | 'fact' | Refusal {
  if (!wasToGo(events, who))
    return refusal('not-allowed', 'This order was never yours; ask a dispatcher to plan it for you.');
  if (isFact(act)) return 'fact';
  const other = events.find((e) => e.act.kind === 'arrived' && e.by !== who && e.at <= at);
  if (other)
    return refusal(
      'conflict',
      'It was given to somebody else meanwhile, who arrived before you. What you found, used and wrote down is kept.',
    );
  return 'keeps it';
}
