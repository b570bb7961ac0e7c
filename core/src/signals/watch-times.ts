// When a rule watches by its calendar: outside of that it finds nothing.
import type { Instant, InstantSpan } from '../time/index.ts';
import type { Mask } from './delay.ts';

/** The times in [from, to) that lie in none of some spans, which are in order and apart: a calendar's open ones. */
export function unwatchedIn(open: readonly InstantSpan[], from: Instant, to: Instant): Mask[] {
  const masks: Mask[] = [];
  let at = from;
  for (const span of open) {
    if (span.from > at) masks.push({ from: at, to: span.from, kind: 'unwatched' });
    if (span.to > at) at = span.to;
  }
  if (at < to) masks.push({ from: at, to, kind: 'unwatched' });
  return masks;
}
