// Standing: whether promises were kept and upkeep was done inside its window, over a period.
import type { Instant, LocalDate } from '../time/index.ts';

export type CountedClock = {
  readonly state: 'running' | 'paused' | 'met' | 'missed' | 'void';
  readonly dueAt: Instant | null;
  /** The place’s own day on which it falls due. */
  readonly dueOn: LocalDate | null;
};

export type CountedVisit = {
  readonly windowFrom: LocalDate;
  readonly windowTo: LocalDate;
  readonly completedOn: LocalDate | null;
  readonly state: 'raised' | 'declined' | 'absorbed' | 'called off';
};

/** Dates include the first and exclude the last. */
export type Period = { readonly from: LocalDate; readonly to: LocalDate };

/** What a promise or a visit counts as. */
export const COUNTED_AS = ['met', 'missed', 'in window', 'out of window', 'declined'] as const;
export type CountedAs = (typeof COUNTED_AS)[number];

export type Attainment = { readonly met: number; readonly missed: number };
export type UpkeepCompliance = { readonly inWindow: number; readonly owed: number; readonly declined: number };

/**
 * How a clock counts in a period: in the one that holds its due instant by the day at its place, wherever it is read, once it is met or
 * missed; otherwise not at all. Source: domain, Standing and Dates.
 */
export function countsAs(
  { state, dueAt, dueOn }: CountedClock,
  { from, to }: Period,
  now: Instant,
): 'met' | 'missed' | null {
  if (dueAt === null || dueOn === null || dueOn < from || dueOn >= to) return null;
  if (state === 'met' || state === 'missed') return state;
  return state === 'running' && dueAt < now ? 'missed' : null;
}

/** Clocks met and missed (domain: Standing). */
export function attainmentOf(clocks: readonly CountedClock[], period: Period, now: Instant): Attainment {
  const counted = clocks.map((c) => countsAs(c, period, now));
  return { met: counted.filter((c) => c === 'met').length, missed: counted.filter((c) => c === 'missed').length };
}

/** met / (met + missed) as a fraction; null when no promise fell due, which is not 100 %. */
export function attainmentShare({ met, missed }: Attainment): number | null {
  return met + missed === 0 ? null : met / (met + missed);
}

/** Was a visit done inside its window: completed on a day from windowFrom to windowTo, both included. */
export function inWindow(visit: CountedVisit): boolean {
  return visit.completedOn !== null && visit.completedOn >= visit.windowFrom && visit.completedOn <= visit.windowTo;
}

/**
 * Visits completed in window of those whose window ended in the period, a window ending on its last day.
 * Windows that have not ended by `today` are not counted yet. Declined: listed, not counted; absorbed: not counted.
 * Source: domain, Standing; EN 15341, share of preventive work done on time.
 */
export function upkeepCompliance(visits: readonly CountedVisit[], period: Period, today: LocalDate): UpkeepCompliance {
  const ended = visits.filter((v) => v.windowTo >= period.from && v.windowTo < period.to && v.windowTo < today);
  const owed = ended.filter((v) => v.state === 'raised');
  return {
    owed: owed.length,
    inWindow: owed.filter(inWindow).length,
    declined: ended.filter((v) => v.state === 'declined').length,
  };
}

export function complianceShare({ owed, inWindow: kept }: UpkeepCompliance): number | null {
  return owed === 0 ? null : kept / owed;
}

export type Counts = Attainment & UpkeepCompliance;
export const NOTHING_COUNTED: Counts = { met: 0, missed: 0, owed: 0, inWindow: 0, declined: 0 };

export const addCounts = (a: Counts, b: Counts): Counts => ({
  ...{ met: a.met + b.met, missed: a.missed + b.missed },
  ...{ owed: a.owed + b.owed, inWindow: a.inWindow + b.inWindow, declined: a.declined + b.declined },
});

/** Promises missed and visits out of their windows: what needs explaining. */
export const amissIn = ({ missed, owed, inWindow }: Counts): number => missed + owed - inWindow;

/** Whether anything was counted. */
export const isCounted = ({ met, missed, owed, declined }: Counts): boolean => met + missed + owed + declined > 0;

/** Counts with their shares. */
export const withShares = <T extends Counts>(counts: T) => ({
  ...counts,
  ...{ attainment: attainmentShare(counts), compliance: complianceShare(counts) },
});
