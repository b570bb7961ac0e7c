// Nested upkeep: a larger visit does the work of a smaller one that falls close to it.
import type { JobPlanId } from '../ids.ts';
import { refusal, type Refusal } from '../refusal.ts';
import { daysBetween, type LocalDate } from '../time/index.ts';

/** Which job plans include which, directly. */
export type PlanInclusion = { readonly larger: JobPlanId; readonly smaller: JobPlanId };

export type Inclusions = {
  /** Directly or through others. */
  readonly includes: (larger: JobPlanId, smaller: JobPlanId) => boolean;
  /** How many plans lie above this one at most: the largest have none. */
  readonly depthOf: (plan: JobPlanId) => number;
};

export function inclusionsOf(pairs: readonly PlanInclusion[]): Inclusions {
  const below = new Map<JobPlanId, JobPlanId[]>();
  for (const { larger, smaller } of pairs) below.set(larger, [...(below.get(larger) ?? []), smaller]);
  const all = new Map<JobPlanId, Set<JobPlanId>>();
  const depth = new Map<JobPlanId, number>();
  const gather = (plan: JobPlanId): Set<JobPlanId> => {
    const known = all.get(plan);
    if (known) return known;
    const found = new Set<JobPlanId>();
    all.set(plan, found);
    for (const next of below.get(plan) ?? []) {
      found.add(next);
      for (const further of gather(next)) found.add(further);
    }
    return found;
  };
  const deepen = (plan: JobPlanId, at: number): void => {
    if ((depth.get(plan) ?? -1) >= at) return;
    depth.set(plan, at);
    for (const next of below.get(plan) ?? []) deepen(next, at + 1);
  };
  for (const { larger } of pairs) gather(larger);
  for (const { larger } of pairs) if (!pairs.some((p) => p.smaller === larger)) deepen(larger, 0);
  return {
    includes: (larger, smaller) => all.get(larger)?.has(smaller) ?? false,
    depthOf: (plan) => depth.get(plan) ?? 0,
  };
}

/** Refused: a plan that would include itself, directly or through others; the circle is named. */
export function checkInclusions(pairs: readonly PlanInclusion[], nameOfPlan: (id: JobPlanId) => string): Refusal[] {
  const below = new Map<JobPlanId, JobPlanId[]>();
  for (const { larger, smaller } of pairs) below.set(larger, [...(below.get(larger) ?? []), smaller]);
  const done = new Set<JobPlanId>();
  const circleFrom = (plan: JobPlanId, way: readonly JobPlanId[]): JobPlanId[] | null => {
    const at = way.indexOf(plan);
    if (at >= 0) return [...way.slice(at), plan];
    if (done.has(plan)) return null;
    for (const next of below.get(plan) ?? []) {
      const circle = circleFrom(next, [...way, plan]);
      if (circle) return circle;
    }
    done.add(plan);
    return null;
  };
  for (const { larger } of pairs) {
    const circle = circleFrom(larger, []);
    if (circle)
      return [
        refusal(
          'conflict',
          `Job plans would include one another in a circle: ${circle.map(nameOfPlan).join(' → ')}. Leave one step out.`,
          'includes',
        ),
      ];
  }
  return [];
}

/** A visit of one asset under one agreement, as nesting looks at it. */
export type NestingVisit<Key> = {
  readonly key: Key;
  readonly scheduleId: number;
  readonly jobPlanId: JobPlanId;
  readonly planned: LocalDate;
  /** Of its schedule: calendar days to a larger visit within which it is absorbed; null: never. */
  readonly absorbDays: number | null;
  /** Raised ones absorb and are never absorbed; those left out (skipped, declined, called off) do neither. */
  readonly state: 'to come' | 'raised' | 'left out';
};

/**
 * Which visits are absorbed, each by the larger one nearest to it (the earlier of two as near), among the visits of one asset
 * under one agreement. Only a visit that is raised itself absorbs; the span is the smaller schedule’s, both ends in, both ways.
 * Source: domain, Nested upkeep; settled questions, Nesting.
 */
export function absorbVisits<Key>(visits: readonly NestingVisit<Key>[], inclusions: Inclusions): Map<Key, Key> {
  const absorbed = new Map<Key, Key>();
  const standing = visits.filter((v) => v.state !== 'left out');
  // The largest first: whether a middle one is raised itself is known when the smallest are looked at.
  const byDepth = [...standing].sort((a, b) => inclusions.depthOf(a.jobPlanId) - inclusions.depthOf(b.jobPlanId));
  for (const small of byDepth) {
    if (small.state === 'raised' || small.absorbDays === null) continue;
    let nearest: { key: Key; away: number; planned: LocalDate } | null = null;
    for (const large of standing) {
      if (large.scheduleId === small.scheduleId || absorbed.has(large.key)) continue;
      if (!inclusions.includes(large.jobPlanId, small.jobPlanId)) continue;
      const away = Math.abs(daysBetween(small.planned, large.planned));
      if (away > small.absorbDays) continue;
      if (!nearest || away < nearest.away || (away === nearest.away && large.planned < nearest.planned))
        nearest = { key: large.key, away, planned: large.planned };
    }
    if (nearest) absorbed.set(small.key, nearest.key);
  }
  return absorbed;
}
