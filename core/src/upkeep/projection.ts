// When a meter will reach its next service: the average daily use over the last readings, carried on.
import { daysBetween, addDays, type LocalDate } from '../time/index.ts';
import type { MeterLeg } from './cadence.ts';

/** The total run by the end of a day, over replacements and resets of the counter. Oldest first. */
export type MeterTotal = { readonly on: LocalDate; readonly total: number };

export type Projection =
  | {
      readonly kind: 'projected';
      readonly date: LocalDate;
      /** Units a day. */
      readonly dailyUse: number;
      readonly target: number;
      /** Between which days it will be reached four times in five, as the use went up and down; null: too few readings to say. */
      readonly band: { readonly from: LocalDate; readonly to: LocalDate | null } | null;
    }
  | { readonly kind: 'reached'; readonly date: LocalDate; readonly target: number }
  | { readonly kind: 'unknown'; readonly reason: string };

const unknown = (reason: string): Projection => ({ kind: 'unknown', reason });

/** Half of a normal distribution’s middle four fifths, in standard deviations. */
const FOUR_FIFTHS = 1.2816;
/** Fewer stretches than this say nothing of how the use goes up and down. */
const FEWEST_STRETCHES = 3;

/** The last reading of each day. */
function byDay(readings: readonly MeterTotal[]): MeterTotal[] {
  const days: MeterTotal[] = [];
  for (const reading of readings) {
    if (days[days.length - 1]?.on === reading.on) days.pop();
    days.push(reading);
  }
  return days;
}

/** Mean daily use and its standard error, each stretch between two readings counted by its days. */
function spreadOf(readings: readonly MeterTotal[], dailyUse: number): number | null {
  const stretches = readings.slice(1).map((r, i) => {
    const before = readings[i] as MeterTotal;
    const days = daysBetween(before.on, r.on);
    return { days, use: (r.total - before.total) / days };
  });
  if (stretches.length < FEWEST_STRETCHES) return null;
  const days = stretches.reduce((n, s) => n + s.days, 0);
  const variance = stretches.reduce((n, s) => n + s.days * (s.use - dailyUse) ** 2, 0) / days;
  return Math.sqrt(variance / (stretches.length - 1));
}

/** The first whole day on which what is missing has been run. */
const reachedAfter = (missing: number, dailyUse: number): number => Math.ceil(missing / dailyUse - 1e-9);

/** A projection further away than this is none. */
const FURTHEST_DAYS = 36_525;

/**
 * When a meter reaches its next service. Average daily use = (last − first) ÷ days over the readings in [latest reading’s day −
 * span, that day]. The service reading is that day’s, else the latest before, else the first there is.
 * Without a date, and said why: no reading, readings on fewer than two days of the span, a meter that stands still.
 * Source: domain, Recurrence (meter schedules); settled questions, Upkeep. `readings`: totals, oldest first; `served`: local day of the last service.
 */
export function projectMeter(leg: MeterLeg, readings: readonly MeterTotal[], served: LocalDate): Projection {
  const days = byDay(readings);
  const latest = days[days.length - 1];
  const first = days[0];
  if (!latest || !first) return unknown(`The meter “${leg.meter}” has no reading yet; take one.`);
  const base = days.reduce((found, r) => (r.on <= served ? r : found), first);
  const target = base.total + leg.every;
  const reached = days.find((r) => r.on >= base.on && r.total >= target);
  if (reached) return { kind: 'reached', date: reached.on, target };
  const span = days.filter((r) => r.on >= addDays(latest.on, -leg.spanDays));
  const oldest = span[0] as MeterTotal;
  if (span.length < 2)
    return unknown(
      `The meter “${leg.meter}” was read on fewer than two days in the ${leg.spanDays} days to its latest reading; take another.`,
    );
  const dailyUse = (latest.total - oldest.total) / daysBetween(oldest.on, latest.on);
  if (dailyUse <= 0) return unknown(`The meter “${leg.meter}” stands still; no date can be told.`);
  const missing = target - latest.total;
  const away = reachedAfter(missing, dailyUse);
  if (away > FURTHEST_DAYS)
    return unknown(`The meter “${leg.meter}” hardly runs; its service lies more than a century away.`);
  const spread = spreadOf(span, dailyUse);
  return {
    kind: 'projected',
    date: addDays(latest.on, away),
    dailyUse,
    target,
    band: bandOf(latest.on, missing, dailyUse, spread),
  };
}

function bandOf(from: LocalDate, missing: number, dailyUse: number, spread: number | null) {
  if (spread === null) return null;
  const [fast, slow] = [dailyUse + FOUR_FIFTHS * spread, dailyUse - FOUR_FIFTHS * spread];
  const late = slow > 0 ? reachedAfter(missing, slow) : Infinity;
  return { from: addDays(from, reachedAfter(missing, fast)), to: late > FURTHEST_DAYS ? null : addDays(from, late) };
}
