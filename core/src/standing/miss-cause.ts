// Why a promise was missed, as far as the events of its order say.
import type { WorkingTime } from '../calendars/index.ts';
import { PAUSE_REASONS, type Clock, type ClockEvent, type PauseReason } from '../service-levels/index.ts';
import { instant, type Instant } from '../time/index.ts';

export const MISS_CAUSES = [...PAUSE_REASONS, 'nobody was told in time', 'came late', 'work took longer'] as const;
export type MissCause = (typeof MISS_CAUSES)[number];

type Missed = Extract<Clock, { state: 'missed' }>;

/** Milliseconds of the promise's measure that passed in waits for a reason up to an end, whether they were allowed or not. */
function waited(
  events: readonly ClockEvent[],
  reason: PauseReason,
  start: Instant,
  end: Instant,
  time: WorkingTime,
): number {
  let ms = 0;
  let since: Instant | null = null;
  const add = (until: Instant): void => {
    if (since === null) return;
    const [from, to] = [instant(Math.max(since, start)), instant(Math.min(until, end))];
    if (from < to) ms += time.between(from, to);
    since = null;
  };
  for (const event of events)
    if (event.kind === 'paused') {
      add(event.at);
      if (event.reason === reason) since = event.at;
    } else if (event.kind === 'resumed') add(event.at);
  add(end);
  return ms;
}

/**
 * The cause of a missed promise that has ended; events in the order of their times. A wait that its service level does not allow and that
 * is at least as long as the lateness is the cause: without it the promise was kept. Else the first act that came after the promise had
 * run out: nobody was told, came, or finished in time. Null while it is still open. Source: issue of Standing (causes of misses).
 */
export function causeOfMiss(clock: Missed, events: readonly ClockEvent[], time: WorkingTime): MissCause | null {
  const { stoppedAt, dueAt, startedAt, target, over, given } = clock;
  if (stoppedAt === null) return null;
  const waits = PAUSE_REASONS.filter((reason) => !given.pauses.includes(reason))
    .map((reason) => ({ reason, ms: waited(events, reason, startedAt, stoppedAt, time) }))
    .filter(({ ms }) => ms >= over && ms > 0)
    .toSorted((a, b) => b.ms - a.ms);
  if (waits[0]) return waits[0].reason;
  const inTime = (kinds: readonly ClockEvent['kind'][]): boolean =>
    events.some((e) => kinds.includes(e.kind) && e.at <= dueAt);
  if (!inTime(['told', 'arrived', 'restored'])) return 'nobody was told in time';
  if (target === 'arrival' || !inTime(['arrived', 'restored'])) return 'came late';
  return 'work took longer';
}
