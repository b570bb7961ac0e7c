// What somebody decided about an order although something spoke against it.
import type { OrderEvent, OrderFacts } from './act.ts';

export const EXCEPTIONS = [
  'over terms',
  'decided again',
  'task left',
  'machine left',
  'not signed for',
  'done with something missing',
] as const;
export type ExceptionKind = (typeof EXCEPTIONS)[number];

type Found = { readonly kind: ExceptionKind; readonly of: string };

/** What an act decides against, if anything, and of what; the same of the same thing again takes the one before back. */
function exceptionOf({ act }: OrderEvent, mandatory: ReadonlySet<number>): Found | null {
  switch (act.kind) {
    case 'note':
      return act.exception ? { kind: act.exception, of: '' } : null;
    case 'changed':
      return act.priority || act.lines.some((l) => l.cause) ? { kind: 'decided again', of: '' } : null;
    case 'task':
      return act.outcome === 'left' && mandatory.has(act.taskId) ? { kind: 'task left', of: `${act.taskId}` } : null;
    case 'line':
      return act.outcome === 'left' ? { kind: 'machine left', of: `${act.lineId}` } : null;
    case 'signed':
      return act.by.trim() === '' ? { kind: 'not signed for', of: '' } : null;
    case 'done':
      return act.anyway?.trim() ? { kind: 'done with something missing', of: '' } : null;
    case 'raised':
    case 'planned':
    case 'unplanned':
    case 'sent':
    case 'told':
    case 'arrived':
    case 'paused':
    case 'resumed':
    case 'line added':
    case 'found':
    case 'followed up':
    case 'form':
    case 'restored':
    case 'called off':
    case 'settled':
    case 'unsettled':
    case 'corrected':
    case 'handed over':
    case 'worked around':
    case 'alert joined':
    case 'alert ended':
      return null;
  }
}

/** What a later act says of the same thing: a task, a machine, the sign-off. */
function saidOf({ act }: OrderEvent): string | null {
  if (act.kind === 'task') return `task left ${act.taskId}`;
  if (act.kind === 'line') return `machine left ${act.lineId}`;
  return act.kind === 'signed' ? 'not signed for ' : null;
}

/**
 * The events by which somebody went on although something spoke against it: a customer over their terms, a decision taken again by
 * another priority or cause, a mandatory task or a machine left undone, nobody who signs, an end with something missing. What was put
 * right later by what was recorded last (ticked, done after all, signed) is none any more. Events as they were recorded.
 */
export function exceptionsOf<E extends OrderEvent>(
  { tasks }: Pick<OrderFacts, 'tasks'>,
  events: readonly E[],
): { readonly event: E; readonly kind: ExceptionKind }[] {
  const mandatory = new Set(tasks.flatMap((t) => (t.mandatory ? [t.id] : [])));
  const lastOf = new Map<string, E>();
  for (const event of events) {
    const said = saidOf(event);
    if (said !== null) lastOf.set(said, event);
  }
  return events.flatMap((event) => {
    const found = exceptionOf(event, mandatory);
    if (!found) return [];
    const last = lastOf.get(`${found.kind} ${found.of}`);
    return last === undefined || last === event ? [{ event, kind: found.kind }] : [];
  });
}
