// From abnormal to active and back: delays on and off, and times in which nothing is watched. The same for one series and for rules
// combined of others.
import { instant, type Instant } from '../time/index.ts';
import type { Judgement } from './condition.ts';

/** How long it must be abnormal before an alert is active, and normal before it ends; milliseconds. */
export type Delays = { readonly onMs: number; readonly offMs: number };

/** Nothing starts in a mask. Outside its watch calendar a running alert ends; out of service (or settling after it) it may return. */
export type Mask = { readonly from: Instant; readonly to: Instant; readonly kind: 'unwatched' | 'out of service' };

export type Phase =
  | { readonly kind: 'normal' }
  | { readonly kind: 'pending'; readonly since: Instant }
  | { readonly kind: 'active'; readonly since: Instant; readonly from: Instant }
  | { readonly kind: 'returning'; readonly since: Instant; readonly from: Instant; readonly normalSince: Instant };

export const NORMAL: Phase = { kind: 'normal' };

/** What happened to an alert: `since` it was abnormal, `from` when it is active; it ended at `at`, normal since before that. */
export type Turn =
  | { readonly kind: 'started'; readonly since: Instant; readonly from: Instant }
  | {
      readonly kind: 'ended';
      readonly from: Instant;
      readonly at: Instant;
      /** Null: nothing is watched any more. */
      readonly normalSince: Instant | null;
    };

export type Step = { readonly phase: Phase; readonly turn: Turn | null };
const still = (phase: Phase): Step => ({ phase, turn: null });

const begin = (since: Instant, delays: Delays): Step =>
  delays.onMs > 0 ? still({ kind: 'pending', since }) : start(since, since);
const start = (since: Instant, from: Instant): Step => ({
  phase: { kind: 'active', since, from },
  turn: { kind: 'started', since, from },
});
const end = (from: Instant, at: Instant, normalSince: Instant | null): Step => ({
  phase: NORMAL,
  turn: { kind: 'ended', from, at, normalSince },
});

/** What masks an instant; not being watched counts for more than being out of service. */
export function maskAt(masks: readonly Mask[], at: Instant): Mask['kind'] | null {
  const now = masks.filter((m) => m.from <= at && at < m.to);
  return now.some((m) => m.kind === 'unwatched') ? 'unwatched' : (now[0]?.kind ?? null);
}

/** The judgement has changed at an instant, to what it is from there on. */
export function onJudgement(
  phase: Phase,
  judged: Judgement,
  at: Instant,
  delays: Delays,
  mask: Mask['kind'] | null,
): Step {
  switch (phase.kind) {
    case 'normal':
      return judged === 'abnormal' && mask === null ? begin(at, delays) : still(phase);
    case 'pending':
      // Time of which nothing is known completes no delay: it begins anew.
      return still(judged === 'abnormal' ? phase : NORMAL);
    case 'active': {
      const { since, from } = phase;
      if (judged !== 'normal') return still(phase);
      return delays.offMs > 0 ? still({ kind: 'returning', since, from, normalSince: at }) : end(from, at, at);
    }
    case 'returning': {
      const { since, from } = phase;
      return still(judged === 'normal' ? phase : { kind: 'active', since, from });
    }
  }
}

/** When a delay ends by itself; null: none runs. */
export function delayEnds(phase: Phase, delays: Delays): Instant | null {
  if (phase.kind === 'pending') return instant(phase.since + delays.onMs);
  return phase.kind === 'returning' ? instant(phase.normalSince + delays.offMs) : null;
}

/** A delay has ended. */
export function onDelayEnd(phase: Phase, delays: Delays): Step {
  if (phase.kind === 'pending') return start(phase.since, instant(phase.since + delays.onMs));
  if (phase.kind === 'returning') return end(phase.from, instant(phase.normalSince + delays.offMs), phase.normalSince);
  return still(phase);
}

/** A mask begins or ends at an instant; `mask` is what holds from there on. Afterwards delays begin anew. */
export function onMask(phase: Phase, judged: Judgement, at: Instant, delays: Delays, mask: Mask['kind'] | null): Step {
  if (mask === null) return phase.kind === 'normal' && judged === 'abnormal' ? begin(at, delays) : still(phase);
  if (phase.kind === 'pending') return still(NORMAL);
  if (mask === 'unwatched' && (phase.kind === 'active' || phase.kind === 'returning')) return end(phase.from, at, null);
  return still(phase);
}
