// Spans of time taken together and from each other; half-open, so that touching is no overlap.
import { instant, MINUTE, type Instant, type InstantSpan } from './instant.ts';

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

/** Minutes of spans that do not overlap. */
export const minutesIn = (spans: readonly InstantSpan[]): number =>
  spans.reduce((sum, { from, to }) => sum + (to - from), 0) / MINUTE;

/** Whether a span lies whole in one of some merged spans. */
export const liesIn = (span: InstantSpan, spans: readonly InstantSpan[]): boolean =>
  spans.some(({ from, to }) => from <= span.from && span.to <= to);

/** Whether two spans share time. */
export const meets = (a: InstantSpan, b: InstantSpan): boolean => a.from < b.to && b.from < a.to;
