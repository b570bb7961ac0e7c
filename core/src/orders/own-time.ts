// Events in the order in which they happened.
import type { OrderEvent } from './act.ts';

/** By their own time; those of one moment keep the order in which they were recorded. */
export function inOwnTime<E extends OrderEvent>(events: readonly E[]): E[] {
  return events
    .map((event, i) => ({ event, i }))
    .sort((a, b) => a.event.at - b.event.at || a.i - b.i)
    .map(({ event }) => event);
}
