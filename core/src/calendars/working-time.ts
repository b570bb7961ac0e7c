// Working time: real elapsed time inside a calendar's opening spans, by prefix sums over merged open segments.
// Adding and measuring are binary searches, so their cost does not grow with the span's length.
import { DAY, instant, instantOfWall, type Instant, type InstantSpan } from '../time/index.ts';
import { dayLookup, type Calendar } from './calendar.ts';

/** How far ahead a calendar may stay shut before it is said to never open again. */
const HORIZON_DAYS = 3653;
const FIRST_REACH_DAYS = 400;

export type WorkingTime = {
  /**
   * The earliest instant u ≥ t with `milliseconds` of working time in [t, u); 0 gives t.
   * Null when the calendar does not open for so long within ten years.
   */
  add(t: Instant, milliseconds: number): Instant | null;
  /** Working time in [a, b) in milliseconds. Throws when b is before a: callers order their instants. */
  between(a: Instant, b: Instant): number;
  isOpen(t: Instant): boolean;
  /** Open segments that touch [from, to), clipped to it, in order. */
  openSegments(from: Instant, to: Instant): readonly InstantSpan[];
};

export class NegativeSpan extends RangeError {}

type Segments = {
  readonly fromDay: number;
  readonly toDay: number;
  /** Segment i is [starts[i], ends[i]); before[i] is the open time of all segments before it. */
  readonly starts: Float64Array;
  readonly ends: Float64Array;
  readonly before: Float64Array;
  readonly total: number;
};

function compile(calendar: Calendar, fromDay: number, toDay: number): Segments {
  const lookup = dayLookup(calendar);
  const raw: [number, number][] = [];
  for (let day = fromDay; day < toDay; day += 1) {
    for (const span of lookup.spansOn(day)) {
      const from = instantOfWall(calendar.zone, day, span.from);
      const to = instantOfWall(calendar.zone, span.to <= span.from ? day + 1 : day, span.to);
      if (to > from) raw.push([from, to]);
    }
  }
  raw.sort((a, b) => a[0] - b[0]);
  const merged: [number, number][] = [];
  for (const [from, to] of raw) {
    const last = merged[merged.length - 1];
    if (last && from <= last[1]) last[1] = Math.max(last[1], to);
    else merged.push([from, to]);
  }
  const [starts, ends, before] = [0, 1, 2].map(() => new Float64Array(merged.length)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  let total = 0;
  merged.forEach(([from, to], i) => {
    starts[i] = from;
    ends[i] = to;
    before[i] = total;
    total += to - from;
  });
  return { fromDay, toDay, starts, ends, before, total };
}

/** Index of the last element ≤ value, or -1. */
function lastAtMost(list: Float64Array, value: number): number {
  let [low, high] = [0, list.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((list[middle] as number) <= value) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

function openUpTo(s: Segments, t: number): number {
  const i = lastAtMost(s.starts, t);
  if (i < 0) return 0;
  return (s.before[i] as number) + Math.min(t, s.ends[i] as number) - (s.starts[i] as number);
}

const dayOf = (t: number): number => Math.floor(t / DAY);

/** Elapsed time as a calendar: always open, whatever the zone. */
export const ELAPSED_TIME: WorkingTime = {
  add: (t, milliseconds) => instant(t + milliseconds),
  between: (a, b) => {
    if (b < a) throw new NegativeSpan('the end is before the start');
    return b - a;
  },
  isOpen: () => true,
  openSegments: (from, to) => (from < to ? [{ from, to }] : []),
};

/**
 * Working time of a calendar (domain: Working time). Each span's ends become instants first (repeated local times their
 * earlier instant, skipped ones moved forward), so a night with a clock change is 23 or 25 hours of 24×7.
 * Segments are compiled lazily around the instants asked for and kept.
 */
export function workingTimeOf(calendar: Calendar): WorkingTime {
  let held: Segments | null = null;

  function reach(fromDay: number, toDay: number): Segments {
    if (held && held.fromDay <= fromDay && toDay <= held.toDay) return held;
    // Two days of margin on either side: a span may pass midnight, and a zone may be a day ahead or behind UTC.
    const low = Math.min(held?.fromDay ?? Infinity, fromDay - 30);
    const high = Math.max(held?.toDay ?? -Infinity, toDay + 2);
    held = compile(calendar, low, high);
    return held;
  }

  return {
    add(t, milliseconds) {
      if (milliseconds < 0) throw new NegativeSpan('a target is never negative');
      if (milliseconds === 0) return t;
      const start = dayOf(t) - 2;
      for (let ahead = FIRST_REACH_DAYS; ; ahead = Math.min(ahead * 3, HORIZON_DAYS)) {
        const s = reach(start, start + ahead + 4);
        const wanted = openUpTo(s, t) + milliseconds;
        if (wanted <= s.total) {
          // The earliest u with that much open time: inside the last segment whose `before` is still below the wanted sum.
          let i = lastAtMost(s.before, wanted);
          while (i > 0 && (s.before[i] as number) >= wanted) i -= 1;
          const u = (s.starts[i] as number) + wanted - (s.before[i] as number);
          return u - t > HORIZON_DAYS * DAY ? null : instant(u);
        }
        if (ahead >= HORIZON_DAYS) return null;
      }
    },
    between(a, b) {
      if (b < a) throw new NegativeSpan('the end is before the start');
      const s = reach(dayOf(a) - 2, dayOf(b) + 2);
      return openUpTo(s, b) - openUpTo(s, a);
    },
    isOpen(t) {
      const s = reach(dayOf(t) - 2, dayOf(t) + 2);
      const i = lastAtMost(s.starts, t);
      return i >= 0 && t < (s.ends[i] as number);
    },
    openSegments(from, to) {
      const s = reach(dayOf(from) - 2, dayOf(to) + 2);
      const found: InstantSpan[] = [];
      for (
        let i = Math.max(0, lastAtMost(s.starts, from));
        i < s.starts.length && (s.starts[i] as number) < to;
        i += 1
      ) {
        const [a, b] = [Math.max(from, s.starts[i] as number), Math.min(to, s.ends[i] as number)];
        if (a < b) found.push({ from: instant(a), to: instant(b) });
      }
      return found;
    },
  };
}
