// Margin: how urgent one clock is. Colour on screen means this and nothing else.

export type Margin = 'missed' | 'short' | 'enough' | 'paused' | 'none';

/** The margin of an open or ended clock. `left` is in milliseconds of the promise's own time; at `warnPercent` of it, or less, it runs short. */
export function marginOf(clock: {
  readonly state: 'running' | 'paused' | 'met' | 'missed' | 'void';
  readonly left: number | null;
  readonly promisedMinutes: number;
  readonly warnPercent: number;
}): Margin {
  switch (clock.state) {
    case 'missed':
      return 'missed';
    case 'paused':
      return 'paused';
    case 'running':
      return (clock.left ?? 0) <= clock.promisedMinutes * 600 * clock.warnPercent ? 'short' : 'enough';
    case 'met':
      return 'enough';
    case 'void':
      return 'none';
  }
}

/** Which open clock stands first: the one due first; clocks that stand still come behind, the one with least left in front. */
export function compareByDue(
  a: { readonly dueAt: number | null; readonly left: number | null },
  b: { readonly dueAt: number | null; readonly left: number | null },
): number {
  const standing = Number.MAX_SAFE_INTEGER;
  return (a.dueAt ?? standing) - (b.dueAt ?? standing) || (a.left ?? 0) - (b.left ?? 0);
}
