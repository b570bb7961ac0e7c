// A day of the rota as the planner walks it: stops in an order, each as early as it can be, and what that comes to by each count.
import type { PersonId } from '../ids.ts';
import { instant, merged, MINUTE, type InstantSpan } from '../time/index.ts';
import { atStep, capacityOf, minutesPastClosing, reasonsAgainst, type PersonDay, type Roads } from './person-day.ts';
import { COUNTS, PLAN_RULES, type Cost, type Count, type Job, type PlanRules, type ToPlan } from './plan-cost.ts';
import { travelBetween } from './travel.ts';

const [, MISSED, OUTSIDE, OVERTIME, TRAVEL, CHANGES, OTHERS, MOVED] = [0, 1, 2, 3, 4, 5, 6, 7] as const;
export type Vector = readonly [number, number, number, number, number, number, number, number];
export const NOTHING: Vector = [0, 0, 0, 0, 0, 0, 0, 0];
export const plus = (a: Vector, b: Vector): Vector => a.map((x, i) => x + (b[i] as number)) as unknown as Vector;
export const less = (a: Vector, b: Vector): Vector => a.map((x, i) => x - (b[i] as number)) as unknown as Vector;
/** The places of the counts in the order in which they count. */
const orderOf = (rules: PlanRules = 'promises first'): readonly number[] =>
  PLAN_RULES[rules].map((count) => COUNTS.indexOf(count));
export const costOf = (vector: Vector): Cost =>
  Object.fromEntries(COUNTS.map((count, i) => [count, vector[i]])) as Record<Count, number>;
export const inThatOrder = (vector: Vector, order: readonly number[]): number[] =>
  order.map((i) => vector[i] as number);

/** A stop of a route: a job by its number, or an appointment that stays, as −1 − its place in the day. */
export type Route = readonly number[];

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

export class Planner {
  private readonly sheets: readonly Sheet[];
  private readonly spots = new Map<string, number>();
  private readonly minutes: Float64Array;
  private readonly jobSpot: readonly number[];
  /** Days on which nothing of the person speaks against a job. */
  readonly allowed: readonly (readonly number[])[];
  readonly order: readonly number[];
  /** No job begins before: its window opens, or the customer was told. */
  readonly notBefore: Float64Array;

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
    this.notBefore = Float64Array.from(jobs, (j) => Math.max(0, j.window?.from ?? 0, j.told?.from ?? 0));
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
        const begins = beginsAt(sheet, job, at, way, this.notBefore[stop] as number);
        if (begins < 0) return false;
        starts?.push(begins);
        at = begins + job.minutes * MINUTE;
        this.countJob(job, sheet.day.personId, d, begins, at);
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

  private countJob(job: Job, who: PersonId, d: number, begins: number, ends: number): void {
    const { promises, window, told, wanted, stands } = job;
    const { cost } = this;
    if (stands && stands.day !== d) cost[MOVED] = (cost[MOVED] as number) + 1;
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
function beginsAt({ spans, absent }: Sheet, job: Job, leaves: number, way: number, notBefore: number): number {
  const workMs = job.minutes * MINUTE;
  const { site } = job;
  let at = Math.max(fitted(spans, leaves, way * MINUTE) + way * MINUTE, notBefore);
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
