// How what is derived from an order came to be otherwise, act by act, as each was recorded.
import { asCorrected, type Recorded } from '../orders/index.ts';
import type { Instant } from '../time/index.ts';

export type Step<E, C> = {
  readonly event: E;
  /** As it was derived without the act, and with it, both at the instant at which it was recorded. */
  readonly before: readonly C[];
  readonly after: readonly C[];
};

/**
 * Derives again after each act, by what was recorded by then and at the instant of recording: what an act that came late, or a
 * correction, made of what was known before. Source: issue of Standing (late and corrected facts).
 */
export function historyOf<E extends Recorded, C>(
  recorded: readonly E[],
  derive: (known: readonly E[], now: Instant) => readonly C[],
): Step<E, C>[] {
  return recorded.map((event, i) => ({
    event,
    before: derive(asCorrected(recorded.slice(0, i)), event.recordedAt),
    after: derive(asCorrected(recorded.slice(0, i + 1)), event.recordedAt),
  }));
}
