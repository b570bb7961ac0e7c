// Corrections: an act that was told with a wrong time, or never happened. Nothing is rewritten; what corrects it is told after it.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import type { Instant } from '../time/index.ts';
import type { OrderAct, OrderActKind, OrderEvent, OrderFacts, OrderState } from './act.ts';
import { stateOfOrder } from './order.ts';

/** Acts whose time may be corrected: those that clocks and windows go by. */
export const CORRECTABLE = [
  'told',
  'arrived',
  'paused',
  'resumed',
  'restored',
  'done',
] as const satisfies readonly OrderActKind[];
export const isCorrectable = (kind: OrderActKind): boolean => (CORRECTABLE as readonly OrderActKind[]).includes(kind);

export type Recorded = OrderEvent & { readonly id: number };

/** Events as they are known after all corrections among them: of several the last holds, one that never happened is none. */
export function asCorrected<E extends Recorded>(recorded: readonly E[]): E[] {
  const corrected = new Map<number, Instant | null>();
  for (const { act } of recorded) if (act.kind === 'corrected') corrected.set(act.eventId, act.to);
  if (corrected.size === 0) return [...recorded];
  return recorded.flatMap((event) => {
    const to = corrected.get(event.id);
    return to === undefined ? [event] : to === null ? [] : [{ ...event, at: to }];
  });
}

export type Correction = { readonly eventId: number; readonly to: Instant | null; readonly text: string };
type CorrectedAct = Extract<OrderAct, { kind: 'corrected' }>;

/**
 * Decides on a correction: the act that says it, and the order's state after it. Refused, each at its field: an act that is not there or
 * was taken back before, one of another kind, no reason, a time that is the same, to come or before the order began, taking back that it
 * is done, and what could not have happened then. Source: issue of Standing (late and corrected facts).
 */
export function correctEvent(
  facts: OrderFacts,
  recorded: readonly Recorded[],
  { eventId, to, text }: Correction,
  now: Instant,
): Decided<{ readonly act: CorrectedAct; readonly state: OrderState }> {
  const event = asCorrected(recorded).find((e) => e.id === eventId);
  if (!event) return refused(refusal('not-found', 'That act is not on this order, or was taken back.', 'eventId'));
  const { kind } = event.act;
  if (!isCorrectable(kind))
    return refused(refusal('unsupported', `Of “${kind}” no time is corrected; tell what is so instead.`, 'eventId'));
  if (text.trim() === '') return refused(refusal('missing', 'Say why it is corrected.', 'text'));
  if (to === null && kind === 'done')
    return refused(refusal('unsupported', 'That it is done is not taken back; correct its time.', 'to'));
  if (to === event.at) return refused(refusal('conflict', 'That is the time it has; give another.', 'to'));
  if (to !== null && to > now) return refused(refusal('in-the-future', 'That time has not come yet.', 'to'));
  if (to !== null && to < facts.startedAt)
    return refused(
      refusal('out-of-order', 'That is before the order began; give a time after the call or alert.', 'to'),
    );
  const act: CorrectedAct = { kind: 'corrected', eventId, of: kind, was: event.at, to, text: text.trim() };
  const after = asCorrected([...recorded, { id: Number.MAX_SAFE_INTEGER, at: now, recordedAt: now, act }]);
  const state = stateOfOrder(facts, after);
  if (state.ok) return decided({ act, state: state.value });
  return refused(
    refusal(
      'out-of-order',
      `It could not have been so: ${state.refusals[0]?.message ?? 'acts contradict each other'}`,
      'to',
    ),
  );
}
