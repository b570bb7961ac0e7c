// A rule watching one series: readings and time go in, alerts that start and end come out. Pure: the same readings in any batches give the
// same alerts, and what is remembered between two of them can be kept and taken up by anybody.
import type { Instant } from '../time/index.ts';
import {
  afterReading,
  afterTime,
  changesAt,
  isRead,
  measureOf,
  UNSEEN,
  worseOf,
  type Condition,
  type Sample,
  type Seen,
} from './condition.ts';
import {
  delayEnds,
  maskAt,
  NORMAL,
  onDelayEnd,
  onJudgement,
  onMask,
  type Delays,
  type Mask,
  type Phase,
  type Step,
  type Turn,
} from './delay.ts';

export type SeriesRule = {
  readonly condition: Condition;
  readonly delays: Delays;
  /** How long a value counts, in milliseconds, where no other follows: after that nothing is known. */
  readonly holdMs: number;
};

export type WatchState = {
  readonly seen: Seen;
  readonly phase: Phase;
  /** The worst measure since it is abnormal; null where nothing is measured, or all is normal. */
  readonly worst: number | null;
  /** Everything up to this instant, it included, has been looked at. */
  readonly upTo: Instant;
};

/** A turn with the worst that was measured of it so far: over [since, end). */
export type Happened = Turn & { readonly worst: number | null };

export const watchedFrom = (at: Instant): WatchState => ({ seen: UNSEEN(at), phase: NORMAL, worst: null, upTo: at });

/** The first instant after another at which a mask begins or ends. */
function nextMask(masks: readonly Mask[], after: Instant): Instant | null {
  let next: Instant | null = null;
  for (const { from, to } of masks)
    for (const at of [from, to]) if (at > after && (next === null || at < next)) next = at;
  return next;
}

const earliest = (...all: readonly (Instant | null)[]): Instant | null =>
  all.reduce((least, at) => (at !== null && (least === null || at < least) ? at : least), null);

/**
 * Goes on from a state to `until`: readings of the series newer than `state.upTo`, in the order of their times (one for an instant; what
 * the condition cannot judge is passed over), and everything that happens by itself up to and at `until`. At one instant a reading counts
 * first, then a mask that begins, the end of a delay, that a value counts no more, and a mask that ends.
 * Source: settled questions, Signals; IEC 62682 (deadband, on-delay, off-delay).
 */
export function advance(
  rule: SeriesRule,
  state: WatchState,
  samples: readonly Sample[],
  until: Instant,
  masks: readonly Mask[] = [],
): { readonly state: WatchState; readonly happened: readonly Happened[] } {
  const { condition, delays, holdMs } = rule;
  const happened: Happened[] = [];
  let { seen, phase, worst, upTo } = state;
  let maskedUpTo = upTo;
  let next = 0;
  const measured = (): void => {
    if (phase.kind === 'normal') return;
    worst = worseOf(condition, worst, measureOf(condition, seen));
  };
  const take = (step: Step): void => {
    const { turn } = step;
    if (turn?.kind === 'started') worst ??= measureOf(condition, seen);
    if (turn) happened.push({ ...turn, worst });
    if (phase.kind === 'normal' && step.phase.kind !== 'normal') worst = measureOf(condition, seen);
    phase = step.phase;
    if (phase.kind === 'normal') worst = null;
  };
  for (;;) {
    while (next < samples.length && !isRead(condition, (samples[next] as Sample).value)) next += 1;
    const sample = samples[next];
    const [delay, change] = [delayEnds(phase, delays), changesAt(condition, seen, holdMs)];
    const mask = nextMask(masks, maskedUpTo);
    const at = earliest(sample?.at ?? null, mask, delay, change);
    if (at === null || at > until) break;
    if (sample && sample.at === at) {
      seen = afterReading(condition, seen, sample);
      take(onJudgement(phase, seen.judged, at, delays, maskAt(masks, at)));
      measured();
      next += 1;
    } else if (mask === at && (maskAt(masks, at) !== null || (delay !== at && change !== at))) {
      take(onMask(phase, seen.judged, at, delays, maskAt(masks, at)));
      maskedUpTo = at;
    } else if (delay === at) take(onDelayEnd(phase, delays));
    else {
      seen = afterTime(condition, seen, at);
      take(onJudgement(phase, seen.judged, at, delays, maskAt(masks, at)));
      measured();
    }
  }
  upTo = until > upTo ? until : upTo;
  return { state: { seen, phase, worst, upTo }, happened };
}

/**
 * When something happens by itself to what is watched: a delay ends, silence begins, a count falls; where it is abnormal, or was told
 * to be, a mask begins or ends. Null: only a reading changes it. That a value counts no more is worked out whenever something else happens.
 */
export function dueAt(
  { condition, delays, holdMs }: SeriesRule,
  { seen, phase, upTo }: WatchState,
  masks: readonly Mask[] = [],
): Instant | null {
  const byItself =
    condition.kind === 'silence' || condition.kind === 'count' ? changesAt(condition, seen, holdMs) : null;
  const mask = phase.kind !== 'normal' || seen.judged === 'abnormal' ? nextMask(masks, upTo) : null;
  return earliest(delayEnds(phase, delays), byItself, mask);
}
