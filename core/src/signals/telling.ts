// What of alerts people are told: not what is shelved or suppressed by another; when alerts chatter, and when they flood.
import { instant, MINUTE, type Instant, type InstantSpan } from '../time/index.ts';

/** From when an alert is active until it ended; null: it still is. */
export type ActiveSpan = { readonly from: Instant; readonly to: Instant | null };
/** While it is shelved or suppressed. */
export type Held = { readonly from: Instant; readonly to: Instant | null };

const isAfter = (a: Instant | null, b: Instant): boolean => a === null || a > b;

/**
 * When an alert is told, unacknowledged, ordered and clocked: as soon as it is active and nothing holds it; null: it was gone by then, or
 * is held for good. What holds it at that very instant wins; one already told stays told. Source: settled questions, Signals.
 */
export function toldFrom(alert: ActiveSpan, holds: readonly Held[]): Instant | null {
  let at = alert.from;
  for (const hold of holds.toSorted((a, b) => a.from - b.from)) {
    if (hold.from > at) break;
    if (!isAfter(hold.to, at)) continue;
    if (hold.to === null) return null;
    at = hold.to;
  }
  return isAfter(alert.to, at) ? at : null;
}

/** How starts crowd: from the instant that so many lie in (t − span, t] until fewer than `ends` do. */
export type Crowding = { readonly begins: number; readonly ends: number; readonly spanMs: number };

/** Chattering: the third start of one alert within a minute; it ends when a whole minute held none. */
export const CHATTERING: Crowding = { begins: 3, ends: 1, spanMs: MINUTE };
/** A flood: more than 10 starts at a place within ten minutes; it ends below 5. Source: EEMUA 191, IEC 62682. */
export const FLOOD: Crowding = { begins: 11, ends: 5, spanMs: 10 * MINUTE };

/** The times in which starts (in their order) crowd, as far as is known by them: the last may go on until its `to`. */
export function crowdedIn(starts: readonly Instant[], { begins, ends, spanMs }: Crowding): InstantSpan[] {
  const found: InstantSpan[] = [];
  let open: Instant | null = null;
  let oldest = 0;
  starts.forEach((at, i) => {
    // Those that fall out of the span before this one comes; at this very instant it counts already.
    for (; (starts[oldest] as Instant) <= at - spanMs; oldest += 1) {
      const left = i - oldest - 1;
      const out = instant((starts[oldest] as Instant) + spanMs);
      if (open !== null && left < ends && !(out === at && left + 1 >= ends)) {
        found.push({ from: open, to: out });
        open = null;
      }
    }
    if (open === null && i - oldest + 1 >= begins) open = at;
  });
  if (open === null) return found;
  // Without another it ends when that many are left.
  const last = starts[starts.length - ends] ?? starts[oldest];
  return [...found, { from: open, to: instant((last as Instant) + spanMs) }];
}
