// What of alerts people are told: not what is shelved or suppressed by another; when alerts chatter, and when they flood.
import type { PersonId } from '../ids.ts';
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

/** Who is told of an alert that nobody acknowledged, so many minutes after it is told; within some hours of the day, or always. */
export type TellStep = {
  readonly personId: PersonId;
  readonly afterMinutes: number;
  /** Minutes of the day in the person's zone, from and to; a span may pass midnight. Null: at any time. */
  readonly hours: { readonly from: number; readonly to: number } | null;
};

/** Whether a minute of the day lies in [from, to); a span that ends before it begins passes midnight, of equal ends it is the whole day. */
export function isInHours(hours: TellStep['hours'], minute: number): boolean {
  if (hours === null || hours.from === hours.to) return true;
  return hours.from < hours.to ? hours.from <= minute && minute < hours.to : minute >= hours.from || minute < hours.to;
}

/** How starts crowd: from the instant that so many lie in (t − span, t] until fewer than `ends` do. */
export type Crowding = { readonly begins: number; readonly ends: number; readonly spanMs: number };

/** Whether what crowds is going on at an instant, by the starts up to and at it; null: it is not, else since when. */
export function crowdedSince(starts: readonly Instant[], at: Instant, crowding: Crowding): Instant | null {
  const known = starts.filter((s) => s <= at);
  return crowdedIn(known, crowding).find(({ from, to }) => from <= at && at < to)?.from ?? null;
}

/** Chattering: the third start of one alert within a minute; it ends when a whole minute held none. */
export const CHATTERING: Crowding = { begins: 3, ends: 1, spanMs: MINUTE };
/** A flood: more than 10 starts at a place within ten minutes; it ends below 5. Source: EEMUA 191, IEC 62682. */
export const FLOOD: Crowding = { begins: 11, ends: 5, spanMs: 10 * MINUTE };

/** The times in which starts crowd, as far as they are known: without another, the last ends as those before it fall out. */
export function crowdedIn(starts: readonly Instant[], { begins, ends, spanMs }: Crowding): InstantSpan[] {
  // How many come in and fall out at an instant: both count at it.
  const changes = new Map<number, number>();
  for (const at of starts) {
    changes.set(at, (changes.get(at) ?? 0) + 1);
    changes.set(at + spanMs, (changes.get(at + spanMs) ?? 0) - 1);
  }
  const found: InstantSpan[] = [];
  let [n, open]: [number, Instant | null] = [0, null];
  for (const [at, change] of [...changes].sort(([a], [b]) => a - b)) {
    n += change;
    if (open === null && n >= begins) open = instant(at);
    else if (open !== null && n < ends) {
      found.push({ from: open, to: instant(at) });
      open = null;
    }
  }
  return found;
}
