// Until when somebody must leave: where loose work hangs on the time line, so that now moving towards it is the urgency.
import { instant, MINUTE, type Instant, type InstantSpan } from '../time/index.ts';
import type { ServedPromise } from './plan-cost.ts';

/**
 * The latest instant at which whoever is `travel` minutes away must leave to keep every promise and to begin inside the window; null:
 * nothing was promised. What only the end keeps needs the work's minutes as well. Source: interface, Rota: due − work − travel.
 */
export function latestStart(
  promises: readonly Pick<ServedPromise, 'dueAt' | 'stopsAt'>[],
  window: InstantSpan | null,
  minutes: number,
  travel: number,
): Instant | null {
  const ends = [
    ...promises.map(({ dueAt, stopsAt }) => dueAt - (stopsAt === 'end' ? minutes * MINUTE : 0)),
    ...(window ? [window.to] : []),
  ];
  return ends.length === 0 ? null : instant(Math.min(...ends) - travel * MINUTE);
}
