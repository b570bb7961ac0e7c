// Levelling the load: visits moved inside their windows so that weeks get even and trips get short.
import { distanceKm, type Position } from '../places/index.ts';
import { seeded } from '../random.ts';
import { TRAVEL_RULES } from '../rota/index.ts';
import type { DayNumber } from '../time/index.ts';

export type LoadVisit = {
  /** Planned so far. */
  readonly day: DayNumber;
  /** Where it may lie, in order: open days inside its window. None: it stays where it is. */
  readonly days: readonly DayNumber[];
  /** Of work, all hands together. */
  readonly minutes: number;
  /** Depot and skill, by number from 0. */
  readonly group: number;
  /** By number from 0; trips begin and end there. */
  readonly depot: number;
  /** By number from 0; null: it has no position, and counts in no trip. */
  readonly site: number | null;
  /** Two visits of one schedule never lie on one day. */
  readonly series: number;
};

export type LevelProblem = {
  readonly visits: readonly LoadVisit[];
  readonly sites: readonly Position[];
  readonly depots: readonly (Position | null)[];
  readonly groups: number;
  /** What lies fixed in a week already, such as orders that are raised: it counts in how full the week is. */
  readonly fixed: readonly { readonly day: DayNumber; readonly group: number; readonly minutes: number }[];
};

export type LoadMeasure = {
  /** Of all groups together, in the fullest week, in minutes, without what lies fixed; and its Monday. */
  readonly peakMinutes: number;
  readonly peakWeek: DayNumber;
  /** Standard deviation of the weeks from the first to the last that has a visit, in minutes. */
  readonly spreadMinutes: number;
  /** Of all trips: each depot’s round over the sites of a day, nearest next, great circle times detour. */
  readonly km: number;
};

export type Levelled = {
  /** The day of each visit, in the order they were given. */
  readonly days: readonly DayNumber[];
  readonly before: LoadMeasure;
  readonly after: LoadMeasure;
  /** No plan inside the windows has a fullest week below this, in minutes. */
  readonly boundMinutes: number;
};

/** The 1st of January 1970 was a Thursday. */
export const mondayOf = (day: DayNumber): DayNumber => day - ((((day + 3) % 7) + 7) % 7);

/** What a kilometre and a day of moving weigh against an hour too many beside a full week. */
const PER_KM = 0.3;
const PER_DAY_MOVED = 0.15;
const MOST_PASSES = 40;
/** Below this nothing is gained. */
const GAIN = 1e-6;

/** Distances between sites and from depots, each worked out once. */
function distances({ sites, depots }: LevelProblem) {
  const { detour } = TRAVEL_RULES;
  const rows: (Float64Array | undefined)[] = [];
  const rowOf = (a: number): Float64Array =>
    (rows[a] ??= Float64Array.from(sites, (site) => detour * distanceKm(sites[a] as Position, site)));
  const between = (a: number, b: number): number => rowOf(a)[b] as number;
  const home = depots.map((depot) => sites.map((site) => (depot === null ? 0 : detour * distanceKm(depot, site))));
  return { between, fromDepot: (depot: number, site: number): number => home[depot]?.[site] ?? 0 };
}

type Distances = ReturnType<typeof distances>;

/** A round from the depot over sites, the nearest next, and back. */
function roundKm(depot: number, sites: readonly number[], { between, fromDepot }: Distances): number {
  if (sites.length === 0) return 0;
  const left = [...sites];
  let km = 0;
  let at: number | null = null;
  while (left.length > 0) {
    let [best, nearest] = [0, Infinity];
    for (let i = 0; i < left.length; i += 1) {
      const site = left[i] as number;
      const far = at === null ? fromDepot(depot, site) : between(at, site);
      if (far < nearest) [best, nearest] = [i, far];
    }
    km += nearest;
    at = left[best] as number;
    left[best] = left[left.length - 1] as number;
    left.pop();
  }
  return km + fromDepot(depot, at as number);
}

/** The sites that a depot goes to on a day, each with how many visits it has there. */
type Trip = { readonly sites: Map<number, number>; km: number };

/** Loads by week and trips by day, kept up as visits move. */
class Book {
  readonly days: DayNumber[];
  private readonly weeks = new Map<number, Float64Array>();
  private readonly trips = new Map<number, Trip>();
  private readonly taken = new Set<number>();

  constructor(
    private readonly problem: LevelProblem,
    private readonly far: Distances,
  ) {
    this.days = problem.visits.map((v) => v.day);
    problem.visits.forEach((v, i) => this.put(i, v.day, 1));
    for (const { day, group, minutes } of problem.fixed) this.load(day, group, minutes);
  }

  /** Hours of a week by group; the last number is that of all. */
  private week(day: DayNumber): Float64Array {
    const monday = mondayOf(day);
    let week = this.weeks.get(monday);
    if (!week) this.weeks.set(monday, (week = new Float64Array(this.problem.groups + 1)));
    return week;
  }

  private load(day: DayNumber, group: number, minutes: number): void {
    const week = this.week(day);
    for (const k of [group, this.problem.groups]) week[k] = (week[k] as number) + minutes / 60;
  }

  private tripKey = (depot: number, day: DayNumber): number => depot * 1_000_000 + day;

  private put(i: number, day: DayNumber, sign: 1 | -1): void {
    const { group, minutes, site, depot, series } = this.problem.visits[i] as LoadVisit;
    this.load(day, group, sign * minutes);
    const place = series * 1_000_000 + day;
    if (sign === 1) this.taken.add(place);
    else this.taken.delete(place);
    if (site === null) return;
    const key = this.tripKey(depot, day);
    let trip = this.trips.get(key);
    if (!trip) this.trips.set(key, (trip = { sites: new Map(), km: 0 }));
    const held = (trip.sites.get(site) ?? 0) + sign;
    if (held === 0) trip.sites.delete(site);
    else trip.sites.set(site, held);
    if (held === 0 || (sign === 1 && held === 1)) trip.km = roundKm(depot, [...trip.sites.keys()], this.far);
  }

  move(i: number, to: DayNumber): void {
    this.put(i, this.days[i] as DayNumber, -1);
    this.days[i] = to;
    this.put(i, to, 1);
  }

  isFree = ({ series }: LoadVisit, day: DayNumber): boolean => !this.taken.has(series * 1_000_000 + day);

  /** What the squares of two weeks’ hours come to after a move, less what they are: below 0 they get more even. */
  private loadGain({ group, minutes }: LoadVisit, from: DayNumber, to: DayNumber): number {
    if (mondayOf(from) === mondayOf(to)) return 0;
    const [a, b, h] = [this.week(from), this.week(to), minutes / 60];
    const change = (k: number): number => 2 * h * ((b[k] as number) - (a[k] as number) + h);
    return change(group) + change(this.problem.groups);
  }

  private kmWith(depot: number, day: DayNumber, site: number, sign: 1 | -1): number {
    const trip = this.trips.get(this.tripKey(depot, day));
    const held = trip?.sites.get(site) ?? 0;
    if (sign === 1 ? held > 0 : held > 1) return 0;
    const sites = [...(trip?.sites.keys() ?? [])];
    const then = sign === 1 ? [...sites, site] : sites.filter((s) => s !== site);
    return roundKm(depot, then, this.far) - (trip?.km ?? 0);
  }

  /** What moving a visit would cost, below 0 it gains; `left`: kilometres saved where it leaves. At or above `most` it is not worked out. */
  costOf(i: number, to: DayNumber, left: number, most: number): number {
    const visit = this.problem.visits[i] as LoadVisit;
    const from = this.days[i] as DayNumber;
    const moved = Math.abs(to - visit.day) - Math.abs(from - visit.day);
    const cost = this.loadGain(visit, from, to) + PER_DAY_MOVED * moved;
    // A round seldom gets shorter by one more site: what could gain only so is not looked at.
    if (visit.site === null || cost + PER_KM * left >= most) return cost + PER_KM * left;
    return cost + PER_KM * (left + this.kmWith(visit.depot, to, visit.site, 1));
  }

  /** Kilometres saved where a visit leaves its day, as a number below 0. */
  leaving(i: number): number {
    const { site, depot } = this.problem.visits[i] as LoadVisit;
    return site === null ? 0 : this.kmWith(depot, this.days[i] as DayNumber, site, -1);
  }
}

/** How full and how far a plan is; `days`: of each visit. */
export function measureLoad(problem: LevelProblem, days: readonly DayNumber[]): LoadMeasure {
  const far = distances(problem);
  const weeks = new Map<DayNumber, number>();
  const trips = new Map<string, { readonly depot: number; readonly sites: Set<number> }>();
  problem.visits.forEach(({ minutes, site, depot }, i) => {
    const day = days[i] as DayNumber;
    weeks.set(mondayOf(day), (weeks.get(mondayOf(day)) ?? 0) + minutes);
    if (site === null) return;
    const key = `${depot}/${day}`;
    const trip = trips.get(key) ?? { depot, sites: new Set<number>() };
    trip.sites.add(site);
    trips.set(key, trip);
  });
  const mondays = [...weeks.keys()];
  const [first, last] = [Math.min(...mondays), Math.max(...mondays)];
  const count = mondays.length === 0 ? 0 : (last - first) / 7 + 1;
  const mean = [...weeks.values()].reduce((a, b) => a + b, 0) / Math.max(1, count);
  let squares = 0;
  for (let week = first; week <= last; week += 7) squares += ((weeks.get(week) ?? 0) - mean) ** 2;
  const [peakWeek, peakMinutes] = [...weeks].reduce((a, b) => (b[1] > a[1] ? b : a), [0, 0]);
  const km = [...trips.values()].reduce((sum, trip) => sum + roundKm(trip.depot, [...trip.sites], far), 0);
  return { peakMinutes, peakWeek, spreadMinutes: Math.sqrt(squares / Math.max(1, count)), km };
}

/**
 * No plan has a fullest week below this: what must lie inside a stretch of weeks, spread evenly over them; and the longest visit.
 * Source: the usual interval bound of scheduling with release and due dates, with visits that could be cut.
 */
export function boundOfPeak({ visits }: LevelProblem): number {
  const spans = visits.map(({ days, day, minutes }) => ({
    from: mondayOf(Math.min(day, days[0] ?? day)),
    to: mondayOf(Math.max(day, days[days.length - 1] ?? day)),
    minutes,
  }));
  const ends = [...new Set(spans.map((s) => s.to))].sort((a, b) => a - b);
  const byStart = [...spans].sort((a, b) => b.from - a.from);
  let bound = spans.reduce((most, s) => Math.max(most, s.minutes), 0);
  for (const end of ends) {
    let inside = 0;
    // Starts from the latest: what begins there or later and ends by `end` lies in the stretch.
    for (let i = 0; i < byStart.length; i += 1) {
      const { from, to, minutes } = byStart[i] as (typeof byStart)[number];
      if (to > end || from > end) continue;
      inside += minutes;
      if (byStart[i + 1]?.from !== from) bound = Math.max(bound, inside / ((end - from) / 7 + 1));
    }
  }
  return Math.ceil(bound - 1e-9);
}

export type LevelProgress = {
  readonly pass: number;
  readonly done: number;
  readonly of: number;
  readonly moved: number;
};

/**
 * Moves visits inside their days so that weeks get even, one after the other in an order drawn by the seed, until nothing is
 * gained; the same seed gives the same answer. Yields how far it is; returns the plan. A visit stays where moving it gains nothing.
 */
export function* level(problem: LevelProblem, seed: number): Generator<LevelProgress, Levelled> {
  const random = seeded(seed);
  const book = new Book(problem, distances(problem));
  const movable = problem.visits.flatMap((v, i) => (v.days.length > 1 || (v.days[0] ?? v.day) !== v.day ? [i] : []));
  for (let pass = 1; pass <= MOST_PASSES; pass += 1) {
    let moved = 0;
    for (let k = movable.length - 1; k > 0; k -= 1) {
      const other = Math.floor(random() * (k + 1));
      [movable[k], movable[other]] = [movable[other] as number, movable[k] as number];
    }
    for (const [done, i] of movable.entries()) {
      if (done % 250 === 0) yield { pass, done, of: movable.length, moved };
      const visit = problem.visits[i] as LoadVisit;
      const from = book.days[i] as DayNumber;
      const left = book.leaving(i);
      let [best, gain] = [from, -GAIN];
      for (const day of visit.days) {
        if (day === from || !book.isFree(visit, day)) continue;
        const cost = book.costOf(i, day, left, gain);
        if (cost < gain) [best, gain] = [day, cost];
      }
      if (best === from) continue;
      book.move(i, best);
      moved += 1;
    }
    if (moved === 0) break;
  }
  const started = problem.visits.map((v) => v.day);
  return {
    days: book.days,
    before: measureLoad(problem, started),
    after: measureLoad(problem, book.days),
    boundMinutes: boundOfPeak(problem),
  };
}

/** The whole of `level` at once. */
export function levelled(problem: LevelProblem, seed: number): Levelled {
  const steps = level(problem, seed);
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}
