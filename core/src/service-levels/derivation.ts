// How a clock came to be what it is, line by line: what was counted, what was not, and why.
import type { WorkingTime } from '../calendars/index.ts';
import { instant, type Instant } from '../time/index.ts';
import { asKnown, deriveClock, isNever, runningStretches, stopOf, type Clock, type ClockEvent } from './clocks.ts';
import type { GivenPromise, PauseReason, Target } from './service-level.ts';

/** Times include their start and exclude their end. */
export type DerivationLine =
  | { readonly kind: 'started'; readonly at: Instant }
  /** Counted of the promise, with all that was by then; milliseconds. */
  | {
      readonly kind: 'counted';
      readonly from: Instant;
      readonly to: Instant;
      readonly ms: number;
      readonly used: number;
    }
  /** Counted beyond it, with all that it is late by then. */
  | { readonly kind: 'late'; readonly from: Instant; readonly to: Instant; readonly ms: number; readonly over: number }
  /** Outside the opening hours of the promise's calendar. */
  | { readonly kind: 'closed'; readonly from: Instant; readonly to: Instant }
  /** It stood still; null: it still does. */
  | { readonly kind: 'paused'; readonly from: Instant; readonly to: Instant | null; readonly reason: PauseReason }
  /** A pause that the service level does not allow: the clock ran on. */
  | { readonly kind: 'ran on'; readonly at: Instant; readonly reason: PauseReason }
  | { readonly kind: 'due'; readonly at: Instant }
  | { readonly kind: 'stopped' | 'voided'; readonly at: Instant };

const timeOf = (line: DerivationLine): Instant => ('at' in line ? line.at : line.from);

/**
 * A clock with the lines that add up to it: the lines counted are the time used, the late ones what it is over. Ended by a stop or by
 * calling off, or open up to `now`. Source: domain, Clocks and Working time; issue of Standing (a clock's derivation).
 */
export function derivationOf(
  target: Target,
  given: GivenPromise,
  start: Instant,
  events: readonly ClockEvent[],
  time: WorkingTime,
  now: Instant,
): { readonly clock: Clock; readonly lines: readonly DerivationLine[] } {
  const { inOrder, known } = asKnown(events, now);
  const clock = deriveClock(target, given, start, inOrder, time, known);
  const stop = stopOf(target, inOrder);
  const end = stop?.at ?? known;
  const dueAt = clock.state === 'missed' ? clock.dueAt : null;
  const lines: DerivationLine[] = [{ kind: 'started', at: start }];
  let [used, over] = [0, 0];
  const count = (from: Instant, to: Instant): void => {
    const ms = to - from;
    if (ms <= 0) return;
    if (dueAt !== null && from >= dueAt) lines.push({ kind: 'late', from, to, ms, over: (over += ms) });
    else lines.push({ kind: 'counted', from, to, ms, used: (used += ms) });
  };
  for (const stretch of runningStretches(start, inOrder, given.pauses)) {
    if (stretch.from > end) break;
    const until = instant(Math.min(stretch.to ?? end, end));
    let at = stretch.from;
    for (const open of time.openSegments(stretch.from, until)) {
      if (open.from > at) lines.push({ kind: 'closed', from: at, to: open.from });
      const split = dueAt !== null && open.from < dueAt && dueAt < open.to ? dueAt : open.to;
      count(open.from, split);
      count(split, open.to);
      at = open.to;
    }
    if (until > at) lines.push({ kind: 'closed', from: at, to: until });
    if (stretch.pause && stretch.pause.at < end) {
      const resumed = inOrder.find((e) => e.kind === 'resumed' && e.at >= (stretch.pause?.at ?? 0));
      const to = resumed && resumed.at < end ? resumed.at : stop === null ? null : end;
      lines.push({ kind: 'paused', from: stretch.pause.at, to, reason: stretch.pause.reason });
    }
  }
  for (const event of inOrder)
    if (event.kind === 'paused' && !given.pauses.includes(event.reason) && event.at >= start && event.at < end)
      lines.push({ kind: 'ran on', at: event.at, reason: event.reason });
  const due = 'dueAt' in clock && !isNever(clock.dueAt) ? clock.dueAt : null;
  if (due !== null && due <= end) lines.push({ kind: 'due', at: due });
  lines.sort((a, b) => timeOf(a) - timeOf(b));
  // What ends it comes last, and what is due only then lies ahead.
  if (stop) lines.push({ kind: clock.state === 'void' ? 'voided' : 'stopped', at: stop.at });
  if (due !== null && due > end) lines.push({ kind: 'due', at: due });
  return { clock, lines };
}
