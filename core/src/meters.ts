// Meters: counters with dated readings, typed, from the field or from signals; a meter may be replaced.
import { decided, refusal, refused, type Decided } from './refusal.ts';
import { HOUR, type Instant } from './time/index.ts';

export type MeterReading = { readonly at: Instant; readonly value: number };
/** What a reading below the last one means; it is asked, never guessed. */
export type LowerMeans = 'meter replaced' | 'meter reset' | 'last reading was wrong';
export const LOWER_MEANINGS: readonly LowerMeans[] = ['meter replaced', 'meter reset', 'last reading was wrong'];

export type ReadingPlan =
  | { readonly kind: 'append' }
  /** A counter that begins anew: the total goes on from here. */
  | { readonly kind: 'begin anew'; readonly because: 'meter replaced' | 'meter reset' }
  /** The last reading is struck out, kept with its mark, and this one stands. */
  | { readonly kind: 'strike last' };

/**
 * Takes a reading after those held, oldest first, none struck out. Refused: not a number or below zero, in the future,
 * before the last reading's time, lower than the last one without a word on what that means.
 */
export function planReading(
  held: readonly MeterReading[],
  reading: MeterReading,
  now: Instant,
  lowerMeans: LowerMeans | null,
): Decided<ReadingPlan> {
  if (!Number.isFinite(reading.value) || reading.value < 0)
    return refused(refusal('invalid', 'A meter reading is a number from 0 up.', 'value'));
  if (reading.at > now)
    return refused(refusal('in-the-future', 'The reading lies in the future; give the time it was read.', 'at'));
  const last = held[held.length - 1];
  if (last && reading.at < last.at)
    return refused(
      refusal('out-of-order', 'There is a later reading already; give the time it was read, after the last one.', 'at'),
    );
  if (!last || reading.value >= last.value) return decided({ kind: 'append' });
  if (lowerMeans === null)
    return refused(
      refusal(
        'out-of-order',
        `${reading.value} is lower than the last reading, ${last.value}. Was the meter replaced or reset, or was one of the two mistyped?`,
        'lowerMeans',
      ),
    );
  if (lowerMeans !== 'last reading was wrong') return decided({ kind: 'begin anew', because: lowerMeans });
  const before = held[held.length - 2];
  if (before && reading.value < before.value)
    return refused(
      refusal(
        'out-of-order',
        `${reading.value} is also lower than the reading before it, ${before.value}; check the number, or say that the meter was replaced.`,
        'value',
      ),
    );
  return decided({ kind: 'strike last' });
}

/** Units run since the first reading, over replacements: the sum of what each run of the counter added. `anew` marks readings that begin one. */
export function totalRun(readings: readonly (MeterReading & { readonly anew: boolean })[]): number {
  let total = 0;
  for (let i = 1; i < readings.length; i += 1) {
    const [last, next] = [readings[i - 1], readings[i]];
    if (last && next) total += next.anew ? next.value : next.value - last.value;
  }
  return total;
}

export const READING_SOURCES = ['typed', 'field', 'signal', 'import'] as const;

/** A meter read by a device no more often than this. */
const COUNTED_EVERY = HOUR;
export type Counted = MeterReading & { readonly anew: boolean };

/**
 * How a device's count goes on, in the order of its times, all newer than `last`, the meter's last reading: at most one reading an hour,
 * and none of what was counted is lost where the counter began anew: it is read as far as it had come, and the new count is added.
 * `before`: what the device counted last before; null: it is new there, and its first count is a base. `lower`: that base is less than
 * the meter says, and what that means is for people to say. NaN, negative and infinite counts are passed over. `wrapsAt`: the count at which
 * the counter begins at 0 by itself; null: it does not. A fall by more than half of it is that, and not a reset.
 * Source: settled questions, Signals (falling counters).
 */
export function countOn(
  last: MeterReading | null,
  before: MeterReading | null,
  counts: readonly MeterReading[],
  wrapsAt: number | null = null,
): { readonly readings: readonly Counted[]; readonly lower: MeterReading | null } {
  const readings: Counted[] = [];
  let [held, previous] = [last, before];
  for (const read of counts) {
    if (!Number.isFinite(read.value) || read.value < 0) continue;
    if (previous && read.value < previous.value) {
      const isWrap = wrapsAt !== null && previous.value <= wrapsAt && previous.value - read.value > wrapsAt / 2;
      // As far as it had come since it was read last.
      if (isWrap) readings.push({ at: previous.at, value: wrapsAt, anew: false });
      else if (!held || (previous.at > held.at && previous.value > held.value))
        readings.push({ ...previous, anew: false });
      readings.push({ ...read, anew: true });
      held = read;
    }
    previous = read;
  }
  const newest = previous && previous !== before ? previous : null;
  if (!newest) return { readings, lower: null };
  if (held && newest.value < held.value) return { readings, lower: newest };
  if (newest !== held && (!held || newest.at - held.at >= COUNTED_EVERY)) readings.push({ ...newest, anew: false });
  return { readings, lower: null };
}
