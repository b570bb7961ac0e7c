// A person's time against their day: entries that overlap, open time that no entry fills, and work outside open time.
import type { WorkingTime } from '../calendars/index.ts';
import { instant, merged, minutesIn, without, type InstantSpan } from '../time/index.ts';

type Spanned = { readonly id: number; readonly span: InstantSpan };

/** Entries that share time with one, half-open: touching is no overlap. */
export const overlapping = (span: InstantSpan, others: readonly Spanned[]): Spanned[] =>
  others.filter((o) => o.span.from < span.to && span.from < o.span.to);

/** Pairs of entries of one person that share time, by the ids given, the earlier first. */
export function overlapsOf(entries: readonly Spanned[]): (readonly [number, number])[] {
  const inTime = [...entries].sort((a, b) => a.span.from - b.span.from || a.id - b.id);
  const found: (readonly [number, number])[] = [];
  for (const [i, entry] of inTime.entries())
    for (let k = i + 1; k < inTime.length && (inTime[k] as Spanned).span.from < entry.span.to; k += 1)
      found.push([entry.id, (inTime[k] as Spanned).id]);
  return found;
}

export type DayBalance = {
  /** Open minutes of the person's calendar on the day. */
  readonly open: number;
  /** Minutes entered with times, overlaps counted once. */
  readonly entered: number;
  /** Open time without an entry. */
  readonly gaps: readonly InstantSpan[];
  readonly gapMinutes: number;
  /** Entered outside open time: overtime; it fills no gap. */
  readonly overtime: number;
};

/**
 * A day of a person's entries with times against their calendar: 8 h open, 3 h and 1 h entered leave 4 h.
 * Source: settled questions, Time (free time counts overlaps once; work outside open time is overtime and takes nothing from it).
 */
export function dayBalance(
  day: InstantSpan,
  entries: readonly InstantSpan[],
  calendar: Pick<WorkingTime, 'openSegments'>,
): DayBalance {
  const clipped = entries.map((e) => ({
    from: instant(Math.max(e.from, day.from)),
    to: instant(Math.min(e.to, day.to)),
  }));
  const worked = merged(clipped);
  const open = merged(calendar.openSegments(day.from, day.to));
  const gaps = without(open, worked);
  return {
    open: minutesIn(open),
    entered: minutesIn(worked),
    gaps,
    gapMinutes: minutesIn(gaps),
    overtime: minutesIn(without(worked, open)),
  };
}
