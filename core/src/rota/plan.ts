// Planning by the house: who goes where and when, for a day or a week, so that what matters more is never given for what matters less.
import type { PersonId } from '../ids.ts';
import { below, seeded, shuffled } from '../random.ts';
import { instant, merged, MINUTE, type InstantSpan } from '../time/index.ts';
import { compareInOrder } from './in-order.ts';
import {
  atStep,
  capacityOf,
  minutesPastClosing,
  PLAIN_ROADS,
  reasonsAgainst,
  type PersonDay,
  type Roads,
} from './person-day.ts';
import {
  COUNTS,
  PLAN_RULES,
  type Cost,
  type Job,
  type Plan,
  type Planned,
  type PlanRules,
  type ToPlan,
} from './plan-cost.ts';
import { travelBetween } from './travel.ts';

const [, MISSED, OUTSIDE, OVERTIME, TRAVEL, CHANGES, OTHERS] = [0, 1, 2, 3, 4, 5, 6] as const;
type Vector = readonly [number, number, number, number, number, number, number];
const NOTHING: Vector = [0, 0, 0, 0, 0, 0, 0];
const plus = (a: Vector, b: Vector): Vector => a.map((x, i) => x + (b[i] as number)) as unknown as Vector;
const less = (a: Vector, b: Vector): Vector => a.map((x, i) => x - (b[i] as number)) as unknown as Vector;
const costOf = ([left, missed, outside, overtime, travel, changes, others]: Vector): Cost => ({
  ...{ left, missed, outside, overtime, travel, changes, others },
});
/** The places of the counts in the order in which they count. */
const orderOf = (rules: PlanRules = 'promises first'): readonly number[] =>
  PLAN_RULES[rules].map((count) => COUNTS.indexOf(count));
const inThatOrder = (vector: Vector, order: readonly number[]): number[] => order.map((i) => vector[i] as number);

/** A stop of a route: a job by its number, or an appointment that stays, as −1 − its place in the day. */
type Route = readonly number[];

/** What is known of a day once, before it is asked for a thousand times. */
type Sheet = {
  readonly day: PersonDay;
  readonly spans: readonly InstantSpan[];
  readonly absent: readonly InstantSpan[];
  readonly opens: number;
  /** Minutes from each spot to each by their numbers; NaN: unknown. */
  readonly start: number;
  readonly stays: readonly number[];
};

class Planner {
  private readonly sheets: readonly Sheet[];
  private readonly spots = new Map<string, number>();
  private readonly minutes: Float64Array;
  private readonly jobSpot: readonly number[];
  /** Days on which nothing of the person speaks against a job. */
  readonly allowed: readonly (readonly number[])[];
  readonly order: readonly number[];

  constructor(
    readonly given: ToPlan,
    private readonly roads: Roads,
  ) {
    const { days, jobs } = given;
    this.order = orderOf(given.rules);
    const at = [...days.flatMap((d) => [d.start, ...d.taken.map((t) => t.spot)]), ...jobs.map((j) => j.spot)];
    for (const spot of at) if (!this.spots.has(spot.key)) this.spots.set(spot.key, this.spots.size);
    const known = [...new Map(at.map((s) => [s.key, s])).values()];
    this.minutes = new Float64Array(known.length ** 2);
    for (const [i, a] of known.entries())
      for (const [k, b] of known.entries())
        this.minutes[i * known.length + k] = travelBetween(a, b, roads.rules, roads.known)?.minutes ?? NaN;
    const numberOf = (key: string): number => this.spots.get(key) as number;
    this.jobSpot = jobs.map((j) => numberOf(j.spot.key));
    this.sheets = days.map((day) => ({
      day,
      spans: capacityOf(day),
      absent: merged(day.absences),
      opens: day.open[0]?.from ?? 0,
      start: numberOf(day.start.key),
      stays: day.taken.map((t) => numberOf(t.spot.key)),
    }));
    this.allowed = jobs.map((job) =>
      this.sheets.flatMap(({ day, spans }, d) => (spans.length > 0 && mayAtAll(day, job) ? [d] : [])),
    );
  }

  private way(from: number, to: number): number {
    return this.minutes[from * this.spots.size + to] as number;
  }

  emptyRoute(d: number): Route {
    return (this.sheets[d] as Sheet).stays.map((_, i) => -1 - i);
  }

  /** What the last walk came to. */
  private readonly cost = new Float64Array(COUNTS.length);

  /**
   * Walks the stops in this order, each as early as it can be; with `put` standing before the stop at `before`. False: they cannot be
   * driven so. What it comes to is held until the next walk; `starts` takes when each begins.
   */
  walk(d: number, route: Route, put: number | null = null, before = 0, starts: number[] | null = null): boolean {
    const sheet = this.sheets[d] as Sheet;
    const { jobs, now } = this.given;
    const { cost } = this;
    cost.fill(0);
    let at = Math.max(sheet.opens, now);
    let spot = sheet.start;
    let travel = 0;
    const count = route.length + (put === null ? 0 : 1);
    for (let i = 0; i < count; i += 1) {
      const stop = put === null || i < before ? (route[i] as number) : i === before ? put : (route[i - 1] as number);
      const stay = stop < 0 ? sheet.day.taken[-1 - stop] : undefined;
      const next = stay ? (sheet.stays[-1 - stop] as number) : (this.jobSpot[stop] as number);
      const way = this.way(spot, next);
      if (Number.isNaN(way)) return false;
      travel += way;
      if (stay) {
        if (i > 0 && at + way * MINUTE > stay.span.from) return false;
        starts?.push(stay.span.from);
        at = Math.max(at, stay.span.to);
      } else {
        const job = jobs[stop] as Job;
        const begins = beginsAt(sheet, job, at, way);
        if (begins < 0) return false;
        starts?.push(begins);
        at = begins + job.minutes * MINUTE;
        this.countJob(job, sheet.day.personId, begins, at);
      }
      spot = next;
    }
    if (count === 0) return true;
    const home = this.way(spot, sheet.start);
    if (Number.isNaN(home)) return false;
    cost[OVERTIME] = minutesPastClosing(sheet.day.open, instant(at + home * MINUTE));
    cost[TRAVEL] = travel + home;
    return true;
  }

  private countJob({ promises, window, told, wanted }: Job, who: PersonId, begins: number, ends: number): void {
    const { cost } = this;
    if (wanted && wanted.size > 0 && !wanted.has(who)) cost[OTHERS] = (cost[OTHERS] as number) + 1;
    for (const p of promises)
      if ((p.stopsAt === 'arrival' ? begins : ends) > p.dueAt) cost[MISSED] = (cost[MISSED] as number) + p.weight;
    if (window && begins > window.to)
      cost[OUTSIDE] = (cost[OUTSIDE] as number) + Math.ceil((begins - window.to) / MINUTE);
    if (told && (begins < told.from || begins > told.to)) cost[CHANGES] = (cost[CHANGES] as number) + 1;
  }

  /** Of a route, as the last walk said it; of one that cannot be driven there is none. */
  costOf(d: number, route: Route): Vector {
    return this.walk(d, route) ? this.walked() : NOTHING;
  }
  walked(): Vector {
    return [...this.cost] as unknown as Vector;
  }
  /** Whether the last walk adds less to what a day costs than the least so far. */
  addsLess(held: Vector, least: Vector): boolean {
    for (const i of this.order) {
      const apart = (this.cost[i] as number) - (held[i] as number) - (least[i] as number);
      if (apart !== 0) return apart < 0;
    }
    return false;
  }
}

/** Whether a person may do it on that day at whatever time: what binds of the person, not of the hour. */
function mayAtAll(day: PersonDay, job: Job): boolean {
  const never = reasonsAgainst(day, job, { from: instant(0), to: instant(0) });
  return !never.some((r) => r.what === 'skill' || r.what === 'blocked' || r.what === 'part');
}

/** From when a length fits into one of the stretches, from an instant on; into the last at worst past its end. */
function fitted(spans: readonly InstantSpan[], from: number, length: number): number {
  for (let k = 0; k < spans.length; k += 1) {
    const span = spans[k] as InstantSpan;
    const begins = Math.max(from, span.from);
    if (begins + length <= span.to || k === spans.length - 1) return begins;
  }
  return from;
}

/** Each constraint moves a beginning on, and none moves it back: after so many rounds it moves no more, or never ends. */
const MOST_ROUNDS = 20;

/** When a job begins that is left for at an instant, in open time and over no break; below zero: never. */
function beginsAt({ spans, absent }: Sheet, job: Job, leaves: number, way: number): number {
  const workMs = job.minutes * MINUTE;
  const { site } = job;
  let at = Math.max(fitted(spans, leaves, way * MINUTE) + way * MINUTE, job.window?.from ?? 0);
  for (let round = 0; round < MOST_ROUNDS; round += 1) {
    const before = at;
    at = atStep(fitted(spans, at, workMs));
    if (site !== null) {
      let k = 0;
      while (k < site.length && Math.max((site[k] as InstantSpan).from, at) + workMs > (site[k] as InstantSpan).to)
        k += 1;
      if (k === site.length) return -1;
      at = Math.max(at, (site[k] as InstantSpan).from);
    }
    for (const a of absent) if (a.from < at + workMs && at < a.to) at = a.to;
    if (at === before) return at;
  }
  return -1;
}

type State = { readonly routes: Route[]; readonly costs: Vector[]; left: number[] };
type Place = { readonly day: number; readonly before: number; readonly more: Vector; readonly cost: Vector };

/** One place in so many is passed over, so that the best at first sight is not always taken. */
const PASSED_OVER = 12;

/** Where a job costs least; with random numbers not every place is looked at. */
function bestPlace(planner: Planner, state: State, job: number, random: (() => number) | null): Place | null {
  let best: Place | null = null;
  for (const day of planner.allowed[job] as readonly number[]) {
    const route = state.routes[day] as Route;
    const held = state.costs[day] as Vector;
    for (let before = 0; before <= route.length; before += 1) {
      if (random && below(random, PASSED_OVER) === 0) continue;
      if (!planner.walk(day, route, job, before)) continue;
      if (best !== null && !planner.addsLess(held, best.more)) continue;
      const cost = planner.walked();
      best = { day, before, cost, more: less(cost, held) };
    }
  }
  return best;
}

function putIn(planner: Planner, state: State, jobs: readonly number[], random: (() => number) | null): void {
  for (const job of jobs) {
    const place = bestPlace(planner, state, job, random);
    if (place === null) {
      state.left.push(job);
      continue;
    }
    const route = state.routes[place.day] as Route;
    state.routes[place.day] = [...route.slice(0, place.before), job, ...route.slice(place.before)];
    state.costs[place.day] = place.cost;
  }
}

const totalOf = (state: State, jobs: readonly Job[]): Vector => {
  const left: Vector = [state.left.reduce((sum, j) => sum + (jobs[j] as Job).weight, 0), 0, 0, 0, 0, 0, 0];
  return state.costs.reduce(plus, left);
};

/** The most urgent first: what is promised first, then what weighs most, then what fewest may do. */
function byUrgency({ jobs }: ToPlan, { allowed }: Planner): number[] {
  const dueOf = ({ promises, window }: Job): number =>
    Math.min(...promises.map((p) => p.dueAt as number), window?.to ?? Infinity);
  return jobs
    .map((job, i) => ({ i, due: dueOf(job), weight: job.weight, few: (allowed[i] as readonly number[]).length }))
    .sort((a, b) => (a.due === b.due ? 0 : a.due - b.due) || b.weight - a.weight || a.few - b.few || a.i - b.i)
    .map(({ i }) => i);
}

/** Jobs taken out at once. */
const MOST_OUT = 8;

/** Takes some jobs out: those near one drawn at random, or any; always what is left out as well. */
function takeOut(planner: Planner, state: State, random: () => number): { state: State; out: number[] } {
  const placed = state.routes.flatMap((route, day) => route.flatMap((stop) => (stop >= 0 ? [{ stop, day }] : [])));
  const out = new Set<number>();
  const most = Math.min(placed.length, 2 + below(random, Math.min(MOST_OUT, placed.length)));
  const first = placed[below(random, placed.length)];
  if (first && below(random, 2) === 0) {
    // Of the same day and of one other: their order and who of them goes are found anew together.
    const days = new Set([first.day, placed[below(random, placed.length)]?.day]);
    for (const { stop, day } of placed) if (days.has(day) && out.size < most) out.add(stop);
  }
  while (out.size < most) out.add((placed[below(random, placed.length)] as { stop: number }).stop);
  const routes = state.routes.map((route, day) => {
    if (!route.some((stop) => out.has(stop))) return route;
    const rest = route.filter((stop) => !out.has(stop));
    if (planner.walk(day, rest)) return rest;
    // The direct way may be longer than the one by a stop between: then the rest is put in anew as well.
    for (const stop of rest) if (stop >= 0) out.add(stop);
    return planner.emptyRoute(day);
  });
  const costs = routes.map((route, d) =>
    route === state.routes[d] ? (state.costs[d] as Vector) : planner.costOf(d, route),
  );
  return { state: { routes, costs, left: [] }, out: shuffled(random, [...out, ...state.left]) };
}

const TRIES = 3000;
/** After so many tries it is said how far it is. */
const SAID_EVERY = 100;

/**
 * The same as `planFor`, in steps: yields the share that is done, so that whoever works it out can say so and do something else between.
 */
export function* planInSteps(given: ToPlan): Generator<number, Plan> {
  const { days, jobs, seed, tries = TRIES } = given;
  const planner = new Planner(given, given.roads ?? PLAIN_ROADS);
  const routes = days.map((_, d) => planner.emptyRoute(d));
  let best: State = { routes, costs: routes.map((r, d) => planner.costOf(d, r)), left: [] };
  putIn(planner, best, byUrgency(given, planner), null);
  let cost = totalOf(best, jobs);
  const random = seeded(seed);
  for (let i = 0; i < tries && jobs.length > 0; i += 1) {
    if (i % SAID_EVERY === 0) yield i / tries;
    const { state, out } = takeOut(planner, best, random);
    putIn(planner, state, out, random);
    const tried = totalOf(state, jobs);
    if (compareInOrder(inThatOrder(tried, planner.order), inThatOrder(cost, planner.order)) <= 0)
      [best, cost] = [state, tried];
  }
  const planned = best.routes.flatMap((route, day) => {
    const starts: number[] = [];
    planner.walk(day, route, null, 0, starts);
    return route.flatMap((job, i): Planned[] => {
      if (job < 0) return [];
      const from = instant(starts[i] as number);
      return [{ job, day, span: { from, to: instant(from + (jobs[job] as Job).minutes * MINUTE) } }];
    });
  });
  return { planned, left: [...best.left].sort((a, b) => a - b), cost: costOf(cost) };
}

/**
 * A plan of some jobs over some people's days: every job at most once, each where nothing that binds speaks against it, so that by the
 * order in which they count the cost is small. Jobs go in one after the other where they cost least; then parts of the plan are taken out
 * and put in anew, and what is no worse is kept. The same problem and seed give the same plan. What no day can take is left.
 * Source: domain-work, Rota, Plan a day or a week.
 */
export function planFor(given: ToPlan): Plan {
  const steps = planInSteps(given);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
