// How a finished order went, for the figures of dispatch: how soon somebody was told and sent, whether it was planned in time, and whether
// one go was enough.
import { localDateAt, MINUTE, type Instant, type LocalDate, type Zone } from '../time/index.ts';
import type { OrderEvent } from './act.ts';
import { heldOf, leftOf } from './held.ts';

export type Course = {
  /** The place’s day on which it was done. */
  readonly doneOn: LocalDate;
  /** Minutes from when it was raised until the customer knew who comes, or somebody was there; null: it was said by neither. */
  readonly toldMinutes: number | null;
  /** Minutes from when it was raised until whoever goes was sent it; null: nobody was. */
  readonly sentMinutes: number | null;
  /** Whether the day it was planned for was not past its due day; null: it was due on no day. What nobody planned was not in time. */
  readonly inTime: boolean | null;
  /** Done at the first go: it waited for nothing once somebody was there, no machine was left, and nothing went on with another order. */
  readonly atFirstGo: boolean;
};

/** What decides about the plan that held: planned later than somebody was known to be there, it was none any more. */
function plannedFor(events: readonly OrderEvent[]): LocalDate | null {
  let planned: LocalDate | null = null;
  for (const { act } of events) {
    if (act.kind === 'arrived' || act.kind === 'done') break;
    if (act.kind === 'planned') planned = act.date;
    if (act.kind === 'unplanned') planned = null;
  }
  return planned;
}

/**
 * The course of an order that is done, by its events as they were recorded; null: it is not done. `dueOn` is the place’s day by which
 * somebody had to be there: of its arrival promise, else of its first other promise, else the last day of its visit’s window.
 * Source: EN 15341 (work planned in time, repairs done at first go), with the settled question that an arrival stops the response too.
 */
export function courseOf(
  { startedAt, zone }: { readonly startedAt: Instant; readonly zone: Zone },
  events: readonly OrderEvent[],
  dueOn: LocalDate | null,
): Course | null {
  const done = events.findLast(({ act }) => act.kind === 'done');
  if (!done) return null;
  const firstOf = (...kinds: OrderEvent['act']['kind'][]): Instant | null =>
    events.reduce<Instant | null>(
      (first, { at, act }) => (kinds.includes(act.kind) && (first === null || at < first) ? at : first),
      null,
    );
  const minutesTo = (at: Instant | null): number | null =>
    at === null ? null : Math.max(0, Math.round((at - startedAt) / MINUTE));
  const arrived = firstOf('arrived');
  const planned = plannedFor(events);
  const { lines, handedOn } = heldOf(events);
  return {
    doneOn: localDateAt(zone, done.at),
    toldMinutes: minutesTo(firstOf('told', 'arrived')),
    sentMinutes: minutesTo(firstOf('sent')),
    inTime: dueOn === null ? null : planned !== null && planned <= dueOn,
    atFirstGo:
      handedOn.size === 0 &&
      leftOf(lines).size === 0 &&
      !events.some(({ at, act }) => act.kind === 'paused' && arrived !== null && at >= arrived),
  };
}
