// A person's time against their day: entries that overlap, open time that no entry fills, and work outside open time.
import type { WorkingTime } from '../calendars/index.ts';
import { instant, MINUTE, type Instant, type InstantSpan } from '../time/index.ts';

/** Spans merged where they touch or overlap, in order of time. */
export function merged(spans: readonly InstantSpan[]): InstantSpan[] {
  const result: { from: Instant; to: Instant }[] = [];
  for (const span of [...spans].sort((a, b) => a.from - b.from || a.to - b.to)) {
    if (span.to <= span.from) continue;
    const last = result.at(-1);
    if (last && span.from <= last.to) last.to = instant(Math.max(last.to, span.to));
    else result.push({ ...span });
  }
  return result;
}

/** What of merged spans lies outside other merged spans. */
export function without(spans: readonly InstantSpan[], others: readonly InstantSpan[]): InstantSpan[] {
  const left: InstantSpan[] = [];
  for (const span of spans) {
    let { from } = span;
    for (const other of others) {
      if (other.to <= from) continue;
      if (other.from >= span.to) break;
      if (other.from > from) left.push({ from, to: other.from });
      from = instant(Math.max(from, other.to));
    }
    if (from < span.to) left.push({ from, to: span.to });
  }
  return left;
}

const minutesOf = (spans: readonly InstantSpan[]): number =>
  spans.reduce((sum, { from, to }) => sum + (to - from), 0) / MINUTE;

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
    open: minutesOf(open),
    entered: minutesOf(worked),
    gaps,
    gapMinutes: minutesOf(gaps),
    overtime: minutesOf(without(worked, open)),
  };
}
