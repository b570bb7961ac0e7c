// The events that the clocks of an order's line listen to.
import type { ClockEvent, GivenPromises } from '../service-levels/index.ts';
import { instant, type Instant } from '../time/index.ts';
import type { OrderEvent, OrderLineFacts } from './act.ts';
import { doneAtOf, doneHereAt, heldOf, wasThere } from './held.ts';
import { inOwnTime } from './own-time.ts';

/**
 * What starts, stops, pauses or voids the clocks of a line. Of a line added later everything before counts from its adding on (who is
 * on site is there already), but a machine is not back in use before it was named; one taken off is owed nothing any more. Done, it is
 * back in use at the latest, unless it was left or goes on with another order. Source: domain-work, Settled questions, Field.
 */
export function clockEventsOf(events: readonly OrderEvent[], line: OrderLineFacts): ClockEvent[] {
  const from = line.since ?? null;
  const begun = (at: Instant): Instant => (from === null ? at : instant(Math.max(at, from)));
  const held = heldOf(events);
  const off = held.lines.get(line.id);
  const doneAt = doneHereAt(held, doneAtOf(events), line.id);
  const own = inOwnTime(events).flatMap(({ at, act, recordedAt }): ClockEvent[] => {
    switch (act.kind) {
      case 'told':
      case 'arrived':
      case 'resumed':
      case 'called off':
        return [{ kind: act.kind, at: begun(at) }];
      case 'paused':
        return [{ kind: 'paused', at: begun(at), reason: act.reason }];
      case 'restored':
        return (act.lineId ?? line.id) === line.id && wasThere(line, recordedAt) ? [{ kind: 'restored', at }] : [];
      case 'worked around':
        return (act.lineId ?? line.id) === line.id && wasThere(line, recordedAt) ? [{ kind: 'worked around', at }] : [];
      case 'raised':
      case 'planned':
      case 'unplanned':
      case 'sent':
      case 'task':
      case 'form':
      case 'line':
      case 'done':
      case 'line added':
      case 'found':
      case 'changed':
      case 'settled':
      case 'unsettled':
      case 'signed':
      case 'followed up':
      case 'alert joined':
      case 'alert ended':
      case 'corrected':
      case 'handed over':
      case 'note':
        return [];
    }
  });
  if (off?.outcome === 'off') return [...own, { kind: 'called off', at: begun(off.at) }];
  return doneAt === null ? own : [...own, { kind: 'restored' as const, at: doneAt }].toSorted((a, b) => a.at - b.at);
}

/** Whether somebody said of a line that it works for now. */
export const isWorkedAround = (events: readonly OrderEvent[], id: number): boolean =>
  events.some(({ act }) => act.kind === 'worked around' && (act.lineId ?? id) === id);

/** The promises that still run with a line: that of back in use goes on with the order that follows it, and that of a workaround nobody told. */
export function promisesKeptBy(
  events: readonly OrderEvent[],
  { id }: Pick<OrderLineFacts, 'id'>,
  promises: GivenPromises,
): GivenPromises {
  const goesOn = events.some(({ act }) => act.kind === 'followed up' && act.takesPromise && act.lineIds.includes(id));
  if (!goesOn) return promises;
  const { restoration: _, ...here } = promises;
  if (isWorkedAround(events, id)) return here;
  const { response, arrival } = here;
  return { ...(response && { response }), ...(arrival && { arrival }) };
}
