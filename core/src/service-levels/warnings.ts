// Warnings: when a clock that is not over has so little left that somebody is told.
import type { WorkingTime } from '../calendars/index.ts';
import { instant, type Instant } from '../time/index.ts';
import { deriveClock, isNever, type Clock, type ClockEvent } from './clocks.ts';
import type { WarningStep } from './pledge.ts';

/** Whether nothing has ended a clock yet, whether it was missed meanwhile or not. */
export const isOpenClock = (clock: Clock): boolean =>
  clock.state === 'running' || clock.state === 'paused' || (clock.state === 'missed' && clock.stoppedAt === null);

export type Warning = { readonly step: WarningStep; readonly at: Instant };

/**
 * The steps of a clock that is not over, each with the instant at which so much of its promise is, or was, left: a promise shorter by
 * that share would have been due then. The earliest first. A paused clock has those that came before its pause; one that has ended, or
 * whose calendar never opens again, has none. `events` in the order of their times, all that is known. Source: issue of Standing (warning steps).
 */
export function warningsOf(clock: Clock, events: readonly ClockEvent[], time: WorkingTime): Warning[] {
  const { given } = clock;
  if (!isOpenClock(clock)) return [];
  return (given.warnings ?? []).flatMap((step) => {
    const at = leftAt(clock, step.percent, events, time);
    return at === null ? [] : [{ step, at }];
  });
}

/**
 * The instant at which a clock that runs has, or had, this percentage of its promise left; null where it stands still before that, has
 * ended, or its calendar never opens again. `events` as for `warningsOf`.
 */
export function leftAt(
  { target, given, startedAt, state }: Clock,
  percent: number,
  events: readonly ClockEvent[],
  time: WorkingTime,
): Instant | null {
  if (state === 'met' || state === 'void') return null;
  const shorter = {
    ...given,
    promise: { ...given.promise, minutes: (given.promise.minutes * (100 - percent)) / 100 },
  };
  const known = instant(Math.max(startedAt, events.at(-1)?.at ?? startedAt));
  const reached = deriveClock(target, shorter, startedAt, events, time, known);
  return 'dueAt' in reached && !isNever(reached.dueAt) ? instant(Math.round(reached.dueAt)) : null;
}
