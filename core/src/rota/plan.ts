// Planning by the house: who goes where and when, for a day or a week, so that what matters more is never given for what matters less.
import { below, seeded, shuffled } from '../random.ts';
import { instant, MINUTE, type Instant } from '../time/index.ts';
import { compareInOrder } from './in-order.ts';
import { PLAIN_ROADS, type PersonDay } from './person-day.ts';
import { crewsPlaced } from './plan-crews.ts';
import { compareUrgency, costAsItStands, type Job, type Plan, type Planned, type ToPlan } from './plan-cost.ts';
import { costOf, inThatOrder, less, NOTHING, Planner, plus, type Route, type Vector } from './plan-walk.ts';

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
  const left: Vector = [state.left.reduce((sum, j) => sum + (jobs[j] as Job).weight, 0), 0, 0, 0, 0, 0, 0, 0];
  return state.costs.reduce(plus, left);
};

/** The most urgent first: what is promised first, then what weighs most, then what fewest may do. */
function byUrgency({ jobs }: ToPlan, { allowed }: Planner): number[] {
  return jobs
    .map((job, i) => ({ i, job, few: (allowed[i] as readonly number[]).length }))
    .sort((a, b) => compareUrgency(a.job, b.job) || a.few - b.few || a.i - b.i)
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

/** What stands stays in its order where that can be driven; what cannot, and what is loose, is put in one after the other. */
function begun(planner: Planner, given: ToPlan): State {
  const { days, jobs } = given;
  const state: State = { routes: [], costs: [], left: [] };
  const put = new Set(jobs.keys());
  for (const [d, day] of days.entries()) {
    const own = jobs.flatMap((job, stop) => {
      const { stands } = job;
      return stands?.day === d && (planner.allowed[stop] as readonly number[]).includes(d)
        ? [{ stop, from: stands.from }]
        : [];
    });
    const stays = planner.emptyRoute(d).map((stop, i) => ({ stop, from: day.taken[i]?.span.from as Instant }));
    const route = [...stays, ...own].sort((a, b) => a.from - b.from).map(({ stop }) => stop);
    const isDriven = own.length > 0 && planner.walk(d, route);
    state.routes.push(isDriven ? route : planner.emptyRoute(d));
    state.costs.push(planner.costOf(d, state.routes[d] as Route));
    if (isDriven) for (const { stop } of own) put.delete(stop);
  }
  putIn(
    planner,
    state,
    byUrgency(given, planner).filter((job) => put.has(job)),
    null,
  );
  return state;
}

/** What stands where nothing that binds lets it be, and can go nowhere else, is not left out: it stays as somebody planned it. */
function held(given: ToPlan, left: readonly number[]): ToPlan | null {
  const { days, jobs } = given;
  const stuck = left.filter((j) => jobs[j]?.stands);
  if (stuck.length === 0) return null;
  return {
    ...given,
    days: days.map((day, d) => {
      const own = stuck.flatMap((j): PersonDay['taken'][number][] => {
        const { stands, minutes, spot } = jobs[j] as Job;
        if (stands?.day !== d) return [];
        return [{ id: -1 - j, span: { from: stands.from, to: instant(stands.from + minutes * MINUTE) }, spot }];
      });
      return own.length === 0
        ? day
        : { ...day, taken: [...day.taken, ...own].sort((a, b) => a.span.from - b.span.from) };
    }),
    jobs: jobs.filter((_, j) => !stuck.includes(j)),
  };
}

/** Where everything of a plan lies. A day with the same work as it had keeps its order, and what stands its time, where that costs nothing. */
function laidOut(planner: Planner, first: State, best: State): { planned: Planned[]; cost: Vector } {
  const { jobs } = planner.given;
  const isNoDearer = (d: number, route: Route, most: Vector): boolean =>
    planner.walk(d, route) &&
    compareInOrder(inThatOrder(planner.walked(), planner.order), inThatOrder(most, planner.order)) <= 0;
  const costs: Vector[] = [];
  const planned = best.routes.flatMap((found, d) => {
    const [was, most] = [first.routes[d] as Route, best.costs[d] as Vector];
    const isSame = was.length === found.length && was.every((stop) => found.includes(stop));
    const route = isSame && isNoDearer(d, was, most) ? was : found;
    for (const stop of route) {
      const stands = jobs[stop]?.stands;
      const before = planner.notBefore[stop] as number;
      if (stands?.day !== d || stands.from <= before) continue;
      planner.notBefore[stop] = stands.from;
      if (!isNoDearer(d, route, most)) planner.notBefore[stop] = before;
    }
    const starts: number[] = [];
    costs.push(planner.walk(d, route, null, 0, starts) ? planner.walked() : NOTHING);
    return route.flatMap((job, i): Planned[] => {
      if (job < 0) return [];
      const from = instant(starts[i] as number);
      return [{ job, day: d, span: { from, to: instant(from + (jobs[job] as Job).minutes * MINUTE) } }];
    });
  });
  return { planned, cost: totalOf({ ...best, costs }, jobs) };
}

/** Plans what one does alone, around all that stays. */
function* aloneInSteps(given: ToPlan): Generator<number, Plan> {
  const { jobs, seed, tries = TRIES } = given;
  const planner = new Planner(given, given.roads ?? PLAIN_ROADS);
  const first = begun(planner, given);
  const without = held(given, first.left);
  if (without) return wholeOf(given, without, yield* aloneInSteps(without), stuckIn(given, without));
  let best = first;
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
  const laid = laidOut(planner, first, best);
  return { planned: laid.planned, left: [...best.left].sort((a, b) => a - b), cost: costOf(laid.cost) };
}

/** What stays where it stands, because a part of the problem leaves it out. */
const stuckIn = ({ jobs }: ToPlan, without: ToPlan): Planned[] => {
  const moving = new Set(without.jobs);
  return jobs.flatMap((job, j): Planned[] => {
    if (moving.has(job) || !job.stands) return [];
    const { day, from } = job.stands;
    return [{ job: j, day, span: { from, to: instant(from + job.minutes * MINUTE) } }];
  });
};

/** The plan of a part of the problem with what lies beside it, by the numbers of the whole. */
function wholeOf(given: ToPlan, part: ToPlan, plan: Plan, beside: readonly Planned[]): Plan {
  const { jobs } = given;
  const numbers = new Map(jobs.map((job, j) => [job, j]));
  const planned = [
    ...plan.planned.map((p) => ({ ...p, job: numbers.get(part.jobs[p.job] as Job) as number })),
    ...beside,
  ];
  const named = new Set(planned.map((p) => p.job));
  return { planned, left: [...jobs.keys()].filter((j) => !named.has(j)), cost: costAsItStands(given, planned) };
}

/**
 * The same as `planFor`, in steps: yields the share that is done, so that whoever works it out can say so and do something else between.
 */
export function* planInSteps(given: ToPlan): Generator<number, Plan> {
  const crews = crewsPlaced(given);
  if (!crews) return yield* aloneInSteps(given);
  return wholeOf(given, crews.rest, yield* aloneInSteps(crews.rest), crews.placed);
}

/**
 * A plan of some jobs over some people's days: every job at most once, each where nothing that binds speaks against it, so that by the
 * order in which they count the cost is small. What stands begins where it stands, what is loose goes in one after the other where it
 * costs least; work for several people before all that one does alone; then parts of the plan are taken out and put in anew, and what is no worse is kept. The same problem and seed give the same
 * plan. What no day can take is left; what stands and could be nowhere else stays where it is, whatever speaks against it.
 * Source: domain-work, Rota, Plan a day or a week.
 */
export function planFor(given: ToPlan): Plan {
  const steps = planInSteps(given);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
