// Conditions of alert rules: what the readings of one series say at every instant – abnormal, normal, or not known.
import { HOUR, instant, type Instant } from '../time/index.ts';

/** A number or a word; yes and no are 1 and 0. */
export type Value = number | string;
/** One reading of a series. */
export type Sample = { readonly at: Instant; readonly value: Value };

/**
 * When a series is abnormal. `limit`, `low`, `high` and `deadband` in the unit of the channel; `perHour` in that unit for an hour; spans
 * in seconds; `count`: more than `most` changes into the state within the span; `parts`: while all or any of the rules of those names are
 * active at the machine.
 */
export type Condition =
  | { readonly kind: 'limit'; readonly side: 'above' | 'below'; readonly limit: number; readonly deadband: number }
  | { readonly kind: 'band'; readonly low: number; readonly high: number; readonly deadband: number }
  | {
      readonly kind: 'rate';
      readonly side: 'rising' | 'falling';
      readonly perHour: number;
      readonly deadband: number;
      readonly spanSeconds: number;
    }
  | { readonly kind: 'silence'; readonly spanSeconds: number }
  | { readonly kind: 'state'; readonly equals: string }
  | { readonly kind: 'count'; readonly equals: string; readonly most: number; readonly spanSeconds: number }
  | { readonly kind: 'parts'; readonly by: 'all' | 'any'; readonly of: readonly string[] };
export const CONDITIONS = [
  'limit',
  'band',
  'rate',
  'silence',
  'state',
  'count',
  'parts',
] as const satisfies readonly Condition['kind'][];

export type Judgement = 'normal' | 'abnormal' | 'unknown';

/** What is remembered of a series between two readings. */
export type Seen = {
  readonly judged: Judgement;
  /** As it was judged when it was known last: what comes back after a silence has to come out of the deadband all the same. */
  readonly known: Exclude<Judgement, 'unknown'>;
  /** The newest reading. */
  readonly last: Sample | null;
  /** Readings of the span of a rate, the oldest first. */
  readonly recent: readonly Sample[];
  /** When it changed into the state that is counted, the oldest first. */
  readonly changes: readonly Instant[];
  /** From when silence counts where nothing was read yet. */
  readonly watchedFrom: Instant;
};

/** A series of which nothing is known, watched from an instant on. */
export const UNSEEN = (watchedFrom: Instant): Seen => ({
  ...{ judged: 'unknown', known: 'normal', last: null, recent: [], changes: [], watchedFrom },
});

const spanOf = ({ spanSeconds }: { readonly spanSeconds: number }): number => spanSeconds * 1000;
/** Words as they are written, numbers as people write them. */
const isIn = (value: Value, equals: string): boolean => String(value) === equals;

type Limits = { readonly above: number | null; readonly below: number | null; readonly deadband: number };

/** Strictly beyond a limit is abnormal; it returns at the limit less the deadband, that value included. */
function beyond(value: number, { above, below, deadband }: Limits, was: Seen['known']): Seen['known'] {
  const [high, low] = [above ?? Infinity, below ?? -Infinity];
  if (value > high || value < low) return 'abnormal';
  if (was !== 'abnormal') return 'normal';
  // A band narrower than two deadbands: in its middle it is normal all the same.
  const isBack =
    value <= Math.max(high - deadband, middle(high, low)) && value >= Math.min(low + deadband, middle(high, low));
  return isBack ? 'normal' : 'abnormal';
}
const middle = (high: number, low: number): number =>
  Number.isFinite(high) && Number.isFinite(low) ? (high + low) / 2 : Number.isFinite(high) ? -Infinity : Infinity;

const limitsOf = (condition: Extract<Condition, { kind: 'limit' | 'band' }>): Limits =>
  condition.kind === 'band'
    ? { above: condition.high, below: condition.low, deadband: condition.deadband }
    : {
        above: condition.side === 'above' ? condition.limit : null,
        below: condition.side === 'below' ? condition.limit : null,
        deadband: condition.deadband,
      };

/** How fast it goes, for an hour: the newest against the oldest reading; null where they lie less than half a span apart. */
function rateOf(recent: readonly Sample[], spanMs: number): number | null {
  const [oldest, newest] = [recent[0], recent.at(-1)];
  if (!oldest || !newest || newest.at - oldest.at < spanMs / 2) return null;
  return (((newest.value as number) - (oldest.value as number)) * HOUR) / (newest.at - oldest.at);
}

/** Changes that still count at an instant: those in (at − span, at]. */
const counted = (changes: readonly Instant[], at: Instant, spanMs: number): readonly Instant[] =>
  changes.filter((c) => c > at - spanMs);

const partsNeeded = ({ by, of }: Extract<Condition, { kind: 'parts' }>): number =>
  by === 'any' ? 1 : Math.max(1, of.length);
const judgedAs = (known: Seen['known']) => ({ judged: known, known });
const judgeCount = (changes: readonly Instant[], most: number): Seen['known'] =>
  changes.length > most ? 'abnormal' : 'normal';

/** What a reading is, to a condition of numbers: words and NaN say nothing to it. */
export const isRead = (condition: Condition, value: Value): boolean =>
  condition.kind === 'limit' || condition.kind === 'band' || condition.kind === 'rate' || condition.kind === 'parts'
    ? typeof value === 'number' && Number.isFinite(value)
    : true;

/**
 * Takes a reading, newer than those before. Readings a condition cannot judge are the caller's to leave out (`isRead`).
 * Source: settled questions, Signals; IEC 62682 (deadband).
 */
export function afterReading(condition: Condition, seen: Seen, sample: Sample): Seen {
  switch (condition.kind) {
    case 'limit':
    case 'band':
      return read(seen, sample, beyond(sample.value as number, limitsOf(condition), seen.known));
    case 'rate': {
      const recent = within(seen.recent, sample, spanOf(condition));
      const rate = rateOf(recent, spanOf(condition));
      if (rate === null) return { ...seen, last: sample, recent, judged: 'unknown' };
      const [above, below] = condition.side === 'rising' ? [condition.perHour, null] : [null, -condition.perHour];
      return read(seen, sample, beyond(rate, { above, below, deadband: condition.deadband }, seen.known), recent);
    }
    case 'silence':
      return read(seen, sample, 'normal');
    case 'state':
      return read(seen, sample, isIn(sample.value, condition.equals) ? 'abnormal' : 'normal');
    case 'count': {
      // The first reading ever is no change.
      const hasChanged =
        seen.last !== null && isIn(sample.value, condition.equals) && !isIn(seen.last.value, condition.equals);
      const all = counted(hasChanged ? [...seen.changes, sample.at] : seen.changes, sample.at, spanOf(condition));
      return { ...seen, last: sample, changes: all, ...judgedAs(judgeCount(all, condition.most)) };
    }
    case 'parts':
      return read(seen, sample, (sample.value as number) >= partsNeeded(condition) ? 'abnormal' : 'normal');
  }
}

/** Every reading of every rule comes by here: written out, for copying by name takes several times as long. */
const read = (
  { recent: before, changes, watchedFrom }: Seen,
  last: Sample,
  known: Seen['known'],
  recent = before,
): Seen => ({ judged: known, known, last, recent, changes, watchedFrom });

/** Readings of the span that ends with one, it included. */
function within(recent: readonly Sample[], sample: Sample, spanMs: number): readonly Sample[] {
  const from = recent.findIndex((s) => s.at >= sample.at - spanMs);
  const kept = from < 0 ? [] : recent.slice(from);
  kept.push(sample);
  return kept;
}

/**
 * When the judgement changes by itself, with no reading: a value counts for `holdMs` at most, silence begins, an old change counts no
 * more. Null: never.
 */
export function changesAt(condition: Condition, seen: Seen, holdMs: number): Instant | null {
  const { last, judged } = seen;
  if (condition.kind === 'silence')
    return judged === 'abnormal' ? null : instant((last?.at ?? seen.watchedFrom) + spanOf(condition));
  if (condition.kind === 'count') {
    const [oldest] = seen.changes;
    return oldest === undefined ? null : instant(oldest + spanOf(condition));
  }
  // Of parts it is always known how many are active.
  if (condition.kind === 'parts') return null;
  return last === null || judged === 'unknown' ? null : instant(last.at + holdMs);
}

/** The series at such an instant. */
export function afterTime(condition: Condition, seen: Seen, at: Instant): Seen {
  if (condition.kind === 'silence') return { ...seen, ...judgedAs('abnormal') };
  if (condition.kind === 'count') {
    const changes = counted(seen.changes, at, spanOf(condition));
    return { ...seen, changes, ...judgedAs(judgeCount(changes, condition.most)) };
  }
  return { ...seen, judged: 'unknown' };
}

/** What is measured of a series for the worst of an alert: its value, how fast it goes for an hour, how many changes; else null. */
export function measureOf(condition: Condition, seen: Seen): number | null {
  if (condition.kind === 'rate') return rateOf(seen.recent, spanOf(condition));
  if (condition.kind === 'count') return seen.changes.length;
  return condition.kind === 'limit' || condition.kind === 'band'
    ? ((seen.last?.value as number | undefined) ?? null)
    : null;
}

/** The worse of two measures: the one farther beyond. */
export function worseOf(condition: Condition, a: number | null, b: number | null): number | null {
  if (a === null || b === null) return a ?? b;
  if (condition.kind === 'band') {
    const excess = (value: number): number => Math.max(value - condition.high, condition.low - value);
    return excess(b) > excess(a) ? b : a;
  }
  const isLow =
    (condition.kind === 'limit' && condition.side === 'below') ||
    (condition.kind === 'rate' && condition.side === 'falling');
  return isLow ? Math.min(a, b) : Math.max(a, b);
}
