// Work that takes several people, before the rest is planned around it: who of the people goes together, and when all of them can.
import type { PersonId } from '../ids.ts';
import { instant, MINUTE, type InstantSpan } from '../time/index.ts';
import { againstCrew, type Goer } from './appointment.ts';
import { compareInOrder } from './in-order.ts';
import { beginningsOf, betweenOf, minutesPastClosing, PLAIN_ROADS, type PersonDay, type Roads } from './person-day.ts';
import {
  compareUrgency,
  countsOf,
  noCost,
  PLAN_RULES,
  type Cost,
  type Job,
  type Planned,
  type ToPlan,
} from './plan-cost.ts';
import { travelBetween, type Spot } from './travel.ts';

/** Beside crews that stand, the nearest people are put together; more would take too long to look at. */
const NEAREST = 10;
/** More than so many are put together only by somebody: then they are a crew. */
const MOST_PUT_TOGETHER = 3;
/** Past closing a crew works so long at most. */
const MOST_OVERTIME = 240 * MINUTE;

/** Days of those who go, by their places; the first leads. */
type Group = readonly number[];

const isForOne = ({ people = 1 }: Job): boolean => people === 1;

/** All choices of so many out of some, in their order. */
function choices<T>(from: readonly T[], size: number): T[][] {
  if (size === 0) return [[]];
  return from.flatMap((first, i) => choices(from.slice(i + 1), size - 1).map((rest) => [first, ...rest]));
}

/** The crews of a date that are large enough, and of larger ones each choice of their people. */
function crewsOn({ crews = [] }: ToPlan, days: readonly PersonDay[], on: readonly number[], size: number): Group[] {
  const placeOf = new Map(on.map((d) => [(days[d] as PersonDay).personId as number, d]));
  const date = days[on[0] as number]?.date ?? '';
  return crews
    .filter((c) => c.fromDay <= date && (c.toDay === null || date <= c.toDay))
    .flatMap((c) => choices(c.people.flatMap((p: PersonId) => placeOf.get(p) ?? []).slice(0, NEAREST), size));
}

function nearestTogether(days: readonly PersonDay[], on: readonly number[], job: Job, roads: Roads, size: number) {
  if (size > MOST_PUT_TOGETHER) return [];
  const wayOf = (d: number): number =>
    travelBetween((days[d] as PersonDay).start, job.spot, roads.rules, roads.known)?.minutes ?? Infinity;
  const near = on.map((d) => ({ d, way: wayOf(d) })).sort((a, b) => (a.way === b.way ? a.d - b.d : a.way - b.way));
  return choices(
    near.slice(0, NEAREST).map(({ d }) => d),
    size,
  );
}

/** What a crew's going adds to the days of its people, by each count. */
function addedBy(job: Job, people: readonly PersonDay[], span: InstantSpan, roads: Roads): Cost {
  const minutes = (from: Spot, to: Spot): number => travelBetween(from, to, roads.rules, roads.known)?.minutes ?? 0;
  const ways = people.map((day) => {
    const { before, after, there, on } = betweenOf(day, job.spot, span, roads);
    const [way, home] = [there?.minutes ?? 0, on?.minutes ?? 0];
    return {
      travel: way + home - minutes(before?.spot ?? day.start, after?.spot ?? day.start),
      overtime: after ? 0 : minutesPastClosing(day.open, instant(span.to + home * MINUTE)),
    };
  });
  const sum = (of: 'travel' | 'overtime'): number => ways.reduce((all, way) => all + way[of], 0);
  const ids = people.map((p) => p.personId);
  return { ...noCost(), ...countsOf(job, ids, span), travel: sum('travel'), overtime: sum('overtime') };
}

const withOvertime = (day: PersonDay): PersonDay => ({
  ...day,
  open: day.open.map((s, i) => (i === day.open.length - 1 ? { from: s.from, to: instant(s.to + MOST_OVERTIME) } : s)),
});

type Found = {
  readonly group: Group;
  readonly span: InstantSpan;
  readonly key: readonly number[];
  readonly cost: Cost;
};

/** Where and when one of the groups does it at least cost; what binds, unknown ways and breaks are kept, a window may be broken. */
function bestOf(given: ToPlan, days: readonly PersonDay[], job: Job, groups: readonly Group[]): Found | null {
  const { roads = PLAIN_ROADS, now, rules = 'promises first' } = given;
  const notBefore = Math.max(now, job.window?.from ?? 0, job.told?.from ?? 0);
  let best: Found | null = null;
  for (const group of groups) {
    const people = group.map((d) => days[d] as PersonDay);
    const goers = people.map((day): Goer => ({ name: '', day: withOvertime(day) }));
    const begins = new Set(people.flatMap((day) => beginningsOf(day, job, instant(notBefore), roads)));
    for (const from of [...begins].sort((a, b) => a - b)) {
      const span = { from, to: instant(from + job.minutes * MINUTE) };
      const against = againstCrew(goers, job, span, roads);
      if (against.some((r) => r.binds || r.what !== 'window')) continue;
      const cost = addedBy(job, people, span, roads);
      const key = [...PLAN_RULES[rules].map((count) => cost[count]), from];
      if (best === null || compareInOrder(key, best.key) < 0) best = { group, span, key, cost };
    }
  }
  return best;
}

/** What is worth more than that a crew goes together: ways and the like are not. */
const brokenBy = ({ cost }: Found): number[] => [cost.missed, cost.outside, cost.overtime];

function byDate(days: readonly PersonDay[]): number[][] {
  const found = new Map<string, number[]>();
  days.forEach(({ date }, d) => found.set(date, [...(found.get(date) ?? []), d]));
  return [...found.entries()].sort(([a], [b]) => (a < b ? -1 : 1)).map(([, on]) => on);
}

/** Who goes together, crews before people who are none; those who are put together only where they break less. */
function whoTogether(given: ToPlan, days: readonly PersonDay[], job: Job): Found | null {
  const { roads = PLAIN_ROADS } = given;
  const size = job.people ?? 1;
  const dates = byDate(days);
  const crew = bestOf(
    given,
    days,
    job,
    dates.flatMap((on) => crewsOn(given, days, on, size)),
  );
  if (crew && brokenBy(crew).every((n) => n === 0)) return crew;
  const others = bestOf(
    given,
    days,
    job,
    dates.flatMap((on) => nearestTogether(days, on, job, roads, size)),
  );
  if (!crew || !others) return crew ?? others;
  return compareInOrder(brokenBy(others), brokenBy(crew)) < 0 ? others : crew;
}

const taking = (day: PersonDay, job: Job, j: number, span: InstantSpan): PersonDay => ({
  ...day,
  taken: [...day.taken, { id: -1 - j, span, spot: job.spot }].sort((a, b) => a.span.from - b.span.from),
});

/** Days as they are with all that stands in them. */
const asTheyStand = ({ days, jobs }: ToPlan): PersonDay[] =>
  days.map((day, d) =>
    jobs.reduce((held, job, j) => {
      const { stands, minutes } = job;
      if (stands?.day !== d || !isForOne(job)) return held;
      return taking(held, job, j, { from: stands.from, to: instant(stands.from + minutes * MINUTE) });
    }, day),
  );

/**
 * Puts the work for several people into the days of a plan, the most urgent first, and gives what is left to plan for one alone, around
 * it; null where there is none. It goes where the rota that stands has room for all of them; else it goes before what may move. Each of
 * them is held to the rules of any appointment, skills to those of the crew. What no group can do is in no day.
 * Source: domain-work, Rota, Can go and Plan a day or a week.
 */
export function crewsPlaced(given: ToPlan): { readonly rest: ToPlan; readonly placed: readonly Planned[] } | null {
  const { jobs } = given;
  const forCrews = jobs
    .map((job, j) => ({ job, j }))
    .filter(({ job }) => !isForOne(job))
    .sort((a, b) => compareUrgency(a.job, b.job) || a.j - b.j);
  if (forCrews.length === 0) return null;
  let bare = [...given.days];
  let full = asTheyStand(given);
  const placed: Planned[] = [];
  for (const { job, j } of forCrews) {
    const found = whoTogether(given, full, job) ?? whoTogether(given, bare, job);
    if (!found) continue;
    const { group, span } = found;
    const [day, ...others] = group as [number, ...number[]];
    placed.push({ job: j, day, with: others, span });
    const put = (days: readonly PersonDay[]): PersonDay[] =>
      days.map((own, d) => (group.includes(d) ? taking(own, job, j, span) : own));
    [bare, full] = [put(bare), put(full)];
  }
  return { rest: { ...given, days: bare, jobs: jobs.filter(isForOne) }, placed };
}
