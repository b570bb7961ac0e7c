// An order on the phone as it stands with what was done there, by the same rules as on the server.
import {
  actsOffered,
  missingOf,
  recordEvent,
  stateOfOrder,
  type Missing,
  type OrderAct,
  type OrderActKind,
  type OrderEvent,
  type OrderFacts,
  type OrderState,
} from '../orders/index.ts';
import type { Refusal } from '../refusal.ts';
import type { Instant } from '../time/index.ts';

type Held = { readonly facts: OrderFacts; readonly events: readonly OrderEvent[] };
type DoneHere = { readonly id: string; readonly at: Instant; readonly act: OrderAct };

export type OrderNow = {
  readonly state: OrderState;
  readonly events: readonly OrderEvent[];
  readonly missing: readonly Missing[];
  readonly offered: readonly OrderActKind[];
  /** Of what was done here, what the rules refuse as the phone knows the order. */
  readonly doubted: ReadonlyMap<string, readonly Refusal[]>;
};

const asEvent = ({ at, act }: Omit<DoneHere, 'id'>, now: Instant): OrderEvent => ({
  ...{ at, act, onSite: true },
  recordedAt: at > now ? at : now,
});

/**
 * The order with the acts of this phone that the server has not shown yet, each as far as the rules allow it; what they refuse is
 * named and changes nothing. The events held must be possible by themselves.
 */
export function orderNow({ facts, events }: Held, done: readonly DoneHere[], now: Instant): OrderNow {
  let all: readonly OrderEvent[] = events;
  const before = stateOfOrder(facts, events);
  if (!before.ok) throw new Error('the order held on the phone could not have happened');
  let state = before.value;
  const doubted = new Map<string, readonly Refusal[]>();
  for (const one of done) {
    const event = asEvent(one, now);
    const after = recordEvent(facts, all, event);
    if (after.ok) {
      all = [...all, event];
      state = after.value;
    } else doubted.set(one.id, after.refusals);
  }
  return { state, events: all, missing: missingOf(facts, all), offered: actsOffered(facts, state), doubted };
}

/** What the rules would refuse of an act, before it is done. */
export function refusedNow(
  { facts }: Pick<Held, 'facts'>,
  { events }: Pick<OrderNow, 'events'>,
  act: OrderAct,
  at: Instant,
  now: Instant,
): readonly Refusal[] {
  const after = recordEvent(facts, events, asEvent({ at, act }, now));
  return after.ok ? [] : after.refusals;
}

/** What somebody on site most likely does next: the one wide button. Null: nothing is left to do there. */
export function nextOnSite({ kind }: Pick<OrderFacts, 'kind'>, { state }: OrderNow): OrderActKind | null {
  if (state.stage === 'done' || state.stage === 'settled' || state.stage === 'called off') return null;
  if (state.pausedSince !== null) return 'resumed';
  if (state.stage !== 'on site') return 'arrived';
  return kind === 'repair' && state.restoredAt === null ? 'restored' : 'done';
}
