// Clocks: the running promises of a work order line, derived from the order's events and nothing else.
// Deriving again from the same events always gives the same clocks.
import type { WorkingTime } from '../calendars/index.ts';
import { instant, MINUTE, type Instant } from '../time/index.ts';
import {
  TARGETS,
  type GivenPromise,
  type GivenPromises,
  type PauseReason,
  type Target,
  type TimeOfPromise,
} from './service-level.ts';

/** The moments of an order that start, stop, pause or void its clocks, each with its own time. */
export type ClockEvent =
  | {
      readonly kind: 'told' | 'arrived' | 'worked around' | 'restored' | 'resumed' | 'called off';
      readonly at: Instant;
    }
  | { readonly kind: 'paused'; readonly at: Instant; readonly reason: PauseReason };

type ClockBase = {
  readonly target: Target;
  readonly given: GivenPromise;
  readonly startedAt: Instant;
  /** Time used of the promise in its own measure, milliseconds, up to the stop or now. */
  readonly used: number;
};

export type Lateness = { readonly ms: number; readonly runsFrom: Instant | null };

export type Clock =
  | (ClockBase & { readonly state: 'running'; readonly dueAt: Instant; readonly left: number })
  | (ClockBase & {
      readonly state: 'paused';
      readonly since: Instant;
      readonly reason: PauseReason;
      readonly left: number;
    })
  | (ClockBase & { readonly state: 'met'; readonly dueAt: Instant; readonly stoppedAt: Instant; readonly left: number })
  | (ClockBase & {
      readonly state: 'missed';
      readonly dueAt: Instant;
      readonly stoppedAt: Instant | null;
      /** Lateness up to the stop or now, in the promise's own measure, without the pauses its service level allows. */
      readonly over: number;
      /** How an open one grows: what is on it at an instant, and from when it runs on; null while it stands still. */
      readonly lateness: Lateness;
      readonly pausedBy: PauseReason | null;
    })
  | (ClockBase & { readonly state: 'void'; readonly endedAt: Instant; readonly why: string });

type Stop =
  | { readonly kind: 'stop'; readonly at: Instant }
  | { readonly kind: 'void'; readonly at: Instant; readonly why: string }
  | null;

const STOPS: Readonly<Record<Target, readonly ClockEvent['kind'][]>> = {
  response: ['told', 'arrived', 'restored'],
  arrival: ['arrived'],
  workaround: ['worked around', 'restored'],
  restoration: ['restored'],
};

/**
 * What ends a clock. Response: the customer is told who comes; being on site or back in use tells them too. Arrival: a
 * technician is on site; an asset back in use before anybody came needs no visit and voids it. Workaround: it works for now, or is back
 * in use. Restoration: back in use.
 */
export function stopOf(target: Target, events: readonly ClockEvent[]): Stop {
  for (const { kind, at } of events) {
    if (kind === 'called off') return { kind: 'void', at, why: 'order called off' };
    if (STOPS[target].includes(kind)) return { kind: 'stop', at };
    if (target === 'arrival' && kind === 'restored')
      return { kind: 'void', at, why: 'back in use before a visit was needed' };
  }
  return null;
}

/** Due of a promise whose calendar never opens again. */
const NEVER = instant(8.64e15);
export const isNever = (due: Instant): boolean => due === NEVER;

type Stretch = {
  readonly from: Instant;
  readonly to: Instant | null;
  readonly pause: { at: Instant; reason: PauseReason } | null;
};

/** The stretches in which the clock runs, between the pauses that its service level allows. */
export function runningStretches(
  start: Instant,
  events: readonly ClockEvent[],
  allowed: readonly PauseReason[],
): Stretch[] {
  const stretches: Stretch[] = [];
  let from: Instant | null = start;
  for (const event of events) {
    if (event.kind === 'paused' && from !== null && allowed.includes(event.reason)) {
      const at = instant(Math.max(event.at, from));
      stretches.push({ from, to: at, pause: { at, reason: event.reason } });
      from = null;
    } else if (event.kind === 'resumed' && from === null) {
      from = instant(Math.max(event.at, start));
    }
  }
  if (from !== null) stretches.push({ from, to: null, pause: null });
  return stretches;
}

/** Lateness from the due instant on, over the stretches in which the clock runs, up to its end. */
function latenessOf(dueAt: Instant, stretches: readonly Stretch[], end: Instant, time: WorkingTime): Lateness {
  let ms = 0;
  for (const { from, to } of stretches) {
    if (from > end) break;
    const begin = instant(Math.max(from, dueAt));
    if (to === null || to > end) return { ms, runsFrom: begin };
    ms += time.between(begin, to);
  }
  return { ms, runsFrom: null };
}

/** One clock; events in the order of their times, `now` not before the last of them. */
export function deriveClock(
  target: Target,
  given: GivenPromise,
  start: Instant,
  events: readonly ClockEvent[],
  time: WorkingTime,
  now: Instant,
): Clock {
  const length = given.promise.minutes * MINUTE;
  const stop = stopOf(target, events);
  const end = stop?.at ?? now;
  const stretches = runningStretches(start, events, given.pauses);
  let used = 0;
  // Loops and literals are plain here: a year of promises is a million of these.
  for (let i = 0; i < stretches.length; i += 1) {
    const stretch = stretches[i] as Stretch;
    const due = time.add(stretch.from, length - used);
    const until = instant(Math.max(stretch.from, Math.min(stretch.to ?? end, end)));
    const dueAt = due ?? NEVER;
    if (dueAt < until) {
      const { ms, runsFrom } = latenessOf(dueAt, stretches.slice(i), end, time);
      const over = ms + (runsFrom === null ? 0 : time.between(runsFrom, instant(Math.max(runsFrom, end))));
      // Calling off, or back in use before a visit, ends an open one: nobody waits for it any more.
      const stoppedAt = stop?.at ?? null;
      const lateness = stoppedAt === null ? { ms, runsFrom } : { ms: over, runsFrom: null };
      const pausedBy =
        lateness.runsFrom === null && stoppedAt === null ? (stretches.at(-1)?.pause?.reason ?? null) : null;
      return {
        target,
        given,
        startedAt: start,
        state: 'missed',
        used: length,
        dueAt,
        stoppedAt,
        over,
        lateness,
        pausedBy,
      };
    }
    used += time.between(stretch.from, until);
    const endsHere = stretch.to === null || end <= stretch.to;
    if (endsHere && stop?.kind === 'stop')
      return { target, given, startedAt: start, state: 'met', used, dueAt, stoppedAt: stop.at, left: length - used };
    if (endsHere && stop === null && (stretch.to === null || end < stretch.to)) {
      return { target, given, startedAt: start, state: 'running', used, dueAt, left: length - used };
    }
    if (endsHere && stop) break;
  }
  const base = { target, given, startedAt: start };
  const left = length - used;
  if (stop?.kind === 'void') return { ...base, state: 'void', used, endedAt: stop.at, why: stop.why };
  if (stop?.kind === 'stop')
    return { ...base, state: 'met', used, dueAt: time.add(stop.at, left) ?? NEVER, stoppedAt: stop.at, left };
  const pause = stretches.findLast((s) => s.pause)?.pause;
  if (!pause) throw new Error('a clock without a running stretch must be paused');
  return { ...base, state: 'paused', used, since: pause.at, reason: pause.reason, left };
}

/** Events in the order of their times, and up to when something is known of them: one may lie ahead of `now`. */
export function asKnown(
  events: readonly ClockEvent[],
  now: Instant,
): { inOrder: readonly ClockEvent[]; known: Instant } {
  const isInOrder = events.every((e, i) => i === 0 || (events[i - 1] as ClockEvent).at <= e.at);
  const inOrder = isInOrder ? events : [...events].sort((a, b) => a.at - b.at);
  return { inOrder, known: instant(Math.max(now, inOrder.at(-1)?.at ?? now)) };
}

/**
 * The clocks of one work order line at `now`. Events may come in any order; they are taken by their own time, one that lies
 * ahead of `now` (a phone's clock) as soon as it is known: what it stops stays the same at any later `now`. A clock
 * stopped exactly at its due instant is met; a pause counts from event to event and only for the reasons its service level
 * allows; a clock past its due instant is missed even while it is still open. A clock stopped during a pause is due at
 * the stop plus what was left, in its own measure; lateness leaves out allowed pauses. A promise missed before the order was called off stays missed (calling off voids running clocks only).
 * Source: domain, Clocks and Working time.
 */
export function deriveClocks(
  start: Instant,
  events: readonly ClockEvent[],
  promises: GivenPromises,
  timeOf: TimeOfPromise,
  now: Instant,
): Clock[] {
  const { inOrder, known } = asKnown(events, now);
  return TARGETS.flatMap((target) => {
    const given = promises[target];
    return given ? [deriveClock(target, given, start, inOrder, timeOf(given.promise), known)] : [];
  });
}
