// What a plan is asked for and what it comes to: jobs, the counts in which their order counts, and the same reckoned for any rota.
import type { OrderId, PersonId } from '../ids.ts';
import { instant, MINUTE, type Instant, type InstantSpan, type LocalDate } from '../time/index.ts';
import { compareInOrder } from './in-order.ts';
import { minutesPastClosing, PLAIN_ROADS, type PersonDay, type Roads, type Work } from './person-day.ts';
import { travelBetween, type Spot } from './travel.ts';

/** A clock that the appointment stops: by its beginning, or by its end. */
export type ServedPromise = { readonly stopsAt: 'arrival' | 'end'; readonly dueAt: Instant; readonly weight: number };

export type Job = Work & {
  readonly orderId: OrderId;
  /** How many go; one, unless it says more. Its minutes are those that so many take. */
  readonly people?: number;
  /** What it counts if it is left out. */
  readonly weight: number;
  readonly promises: readonly ServedPromise[];
  /** When the customer was told to expect us; null: they were told nothing. */
  readonly told: InstantSpan | null;
  /** Whom the customer prefers, or who was there last; nobody: it does not matter who goes. */
  readonly wanted?: ReadonlySet<PersonId>;
  /** Where it lies now, by the place of its day in what is given; nothing: it is loose. It begins no sooner than the customer was told. */
  readonly stands?: { readonly day: number; readonly from: Instant } | null;
};

/** In the order in which they usually count: an earlier one is never worse for the sake of a later. Minutes, weights, and numbers of. */
export const COUNTS = ['left', 'missed', 'outside', 'overtime', 'travel', 'changes', 'others', 'moved'] as const;
export type Count = (typeof COUNTS)[number];
export type Cost = Readonly<Record<Count, number>>;

export const noCost = (): Record<Count, number> =>
  Object.fromEntries(COUNTS.map((c) => [c, 0])) as Record<Count, number>;

/** What counts more, by the name that a depot chooses it by. Work that is left out always counts first, missed promises next. */
export const PLAN_RULES = {
  'promises first': COUNTS,
  'no overtime': ['left', 'missed', 'overtime', 'outside', 'travel', 'changes', 'others', 'moved'],
  'short ways': ['left', 'missed', 'travel', 'outside', 'overtime', 'changes', 'others', 'moved'],
  'same technician': ['left', 'missed', 'outside', 'overtime', 'others', 'changes', 'travel', 'moved'],
} as const satisfies Readonly<Record<string, readonly Count[]>>;
export type PlanRules = keyof typeof PLAN_RULES;
export const PLAN_RULE_NAMES = Object.keys(PLAN_RULES) as PlanRules[];

export type Planned = {
  readonly job: number;
  readonly day: number;
  readonly span: InstantSpan;
  /** The days of those who go along. */
  readonly with?: readonly number[];
};
/** The days of all who go, the leading one's first. */
export const daysOfPlanned = ({ day, with: others = [] }: Planned): [number, ...number[]] => [day, ...others];
/** People who go together on each date from one on, the first leads; `toDay` is the last, null without end. */
export type StandingCrew = {
  readonly people: readonly PersonId[];
  readonly fromDay: LocalDate;
  readonly toDay: LocalDate | null;
};
export type Plan = {
  /** Jobs and days by their places in what was given. */
  readonly planned: readonly Planned[];
  readonly left: readonly number[];
  readonly cost: Cost;
};

export type ToPlan = {
  /** A person on a date each; appointments in them stay where they are. */
  readonly days: readonly PersonDay[];
  readonly jobs: readonly Job[];
  /** Who goes together where several are needed; others are put together where no crew can. */
  readonly crews?: readonly StandingCrew[];
  /** Nothing begins before. */
  readonly now: Instant;
  readonly roads?: Roads;
  /** The same seed, the same plan. */
  readonly seed: number;
  /** How often a part of the plan is taken out and put in anew. */
  readonly tries?: number;
  /** What counts more; as usual without. */
  readonly rules?: PlanRules;
};

/** Weight of a missed promise or of work left out: 2^(lowest priority − priority). Source: domain-work, Settled questions, Rota. */
export const weightOf = (priority: number, lowest = 4): number => 2 ** (lowest - priority);

/** What a job counts by itself where some people do it at a span: not their ways, not when they are back. */
export function countsOf({ promises, window, told, wanted }: Job, people: readonly PersonId[], span: InstantSpan) {
  const isMissed = (p: ServedPromise): boolean => (p.stopsAt === 'arrival' ? span.from : span.to) > p.dueAt;
  return {
    missed: promises.reduce((sum, p) => sum + (isMissed(p) ? p.weight : 0), 0),
    outside: window && span.from > window.to ? Math.ceil((span.from - window.to) / MINUTE) : 0,
    changes: told && (span.from < told.from || span.from > told.to) ? 1 : 0,
    others: wanted && wanted.size > 0 && !people.some((p) => wanted.has(p)) ? 1 : 0,
  };
}

/** Below zero: the first is more urgent: by its promises and window, then by what it weighs. */
export function compareUrgency(a: Job, b: Job): number {
  const dueOf = ({ promises, window }: Job): number =>
    Math.min(...promises.map((p) => p.dueAt as number), window?.to ?? Infinity);
  const [x, y] = [dueOf(a), dueOf(b)];
  return (x === y ? 0 : x - y) || b.weight - a.weight;
}

/**
 * What a rota comes to as it stands, by the same counts: `planned` says where each job lies, jobs it does not name are left out. Ways that
 * are not known count nothing.
 */
export function costAsItStands(
  { days, jobs, roads = PLAIN_ROADS }: Pick<ToPlan, 'days' | 'jobs' | 'roads'>,
  planned: readonly Planned[],
): Cost {
  const cost = noCost();
  const named = new Set(planned.map((p) => p.job));
  jobs.forEach((job, j) => (cost.left += named.has(j) ? 0 : job.weight));
  const way = (a: Spot, b: Spot): number => travelBetween(a, b, roads.rules, roads.known)?.minutes ?? 0;
  days.forEach((day, d) => {
    const own = planned.filter((p) => daysOfPlanned(p).includes(d));
    const stops = [...day.taken, ...own.map((p) => ({ span: p.span, spot: (jobs[p.job] as Job).spot }))].sort(
      (a, b) => a.span.from - b.span.from,
    );
    const last = stops.at(-1);
    if (!last) return;
    stops.forEach((stop, i) => (cost.travel += way(stops[i - 1]?.spot ?? day.start, stop.spot)));
    const home = way(last.spot, day.start);
    cost.travel += home;
    cost.overtime += minutesPastClosing(day.open, instant(last.span.to + home * MINUTE));
  });
  for (const p of planned) {
    const job = jobs[p.job] as Job;
    const people = daysOfPlanned(p).map((d) => (days[d] as PersonDay).personId);
    const counts = countsOf(job, people, p.span);
    for (const count of ['missed', 'outside', 'changes', 'others'] as const) cost[count] += counts[count];
    if (job.stands && job.stands.day !== p.day) cost.moved += 1;
  }
  return cost;
}

/** Below zero: the first comes to less, by what counts more. */
export const compareCosts = (a: Cost, b: Cost, rules: PlanRules = 'promises first'): number =>
  compareInOrder(
    PLAN_RULES[rules].map((count) => a[count]),
    PLAN_RULES[rules].map((count) => b[count]),
  );
