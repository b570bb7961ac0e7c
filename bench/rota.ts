// The rota's rules at load: who should go among many people, a day and a week planned, and how far the plan is from going nearest first.
import { asId, type OrderId, type PersonId, type SkillId } from '#core/ids.ts';
import { distanceKm } from '#core/places/index.ts';
import { below, seeded } from '#core/random.ts';
import { candidatesFor, planFor, weightOf, type Job, type PersonDay, type Plan, type Spot } from '#core/rota/index.ts';
import { addDays, asLocalDate, asZone, HOUR, instant, startOfDay, type InstantSpan } from '#core/time/index.ts';
import { percentile, spread } from './calls.ts';
import { sized } from './size.ts';
import { rounded, secondsOf } from './stopwatch.ts';

const ZONE = asZone('Europe/Lisbon');
const FIRST = asLocalDate('2026-11-23');
const SKILLS = 4;

type World = { readonly days: PersonDay[]; readonly jobs: Job[] };

/** People around two depots with places around them; work of all priorities, some of it with windows and promises. */
function worldOf(random: () => number, people: number, dates: number, work: number): World {
  const around = (latitude: number, longitude: number, degrees: number) => ({
    latitude: latitude + (random() - 0.5) * degrees,
    longitude: longitude + (random() - 0.5) * degrees,
  });
  const depots = [around(41.1, -8.6, 0), around(42.2, -8.7, 0)];
  const depotOf = () => depots[below(random, depots.length)] as (typeof depots)[number];
  const dayOf = (n: number): InstantSpan => {
    const begins = startOfDay(ZONE, addDays(FIRST, n));
    return { from: instant(begins + 8 * HOUR), to: instant(begins + 17 * HOUR) };
  };
  const persons = Array.from({ length: people }, (_, i) => {
    const depot = depotOf();
    const start: Spot = { key: `home ${i}`, at: around(depot.latitude, depot.longitude, 0.2) };
    const skills = Array.from({ length: SKILLS }, (_s, s) => s).filter((s) => s === i % SKILLS || random() < 0.5);
    return { start, skills: skills.map((s) => ({ skillId: asId<SkillId>(s + 1), until: null })) };
  });
  return {
    days: Array.from({ length: dates }, (_, n) => n).flatMap((n) =>
      persons.map(({ start, skills }, i): PersonDay => ({
        ...{ personId: asId<PersonId>(i + 1), date: addDays(FIRST, n), start, skills },
        ...{ open: [dayOf(n)], absences: [], taken: [] },
      })),
    ),
    jobs: Array.from({ length: work }, (_, i): Job => {
      const depot = depotOf();
      const priority = 1 + below(random, 4);
      const [day, hour] = [dayOf(below(random, dates)), below(random, 8)];
      const isVisit = priority === 4;
      return {
        ...{ orderId: asId<OrderId>(i + 1), weight: weightOf(priority), told: null, blocked: new Set(), lacks: null },
        spot: { key: `place ${i}`, at: around(depot.latitude, depot.longitude, 0.8) },
        minutes: 30 + below(random, 6) * 15,
        skills: [{ skillId: asId<SkillId>(1 + below(random, SKILLS)), name: 'a skill' }],
        site: null,
        window: isVisit ? { from: dayOf(0).from, to: dayOf(dates - 1).to } : null,
        promises: isVisit
          ? []
          : [{ stopsAt: 'arrival', dueAt: instant(day.from + (2 + hour) * HOUR), weight: weightOf(priority) }],
      };
    }),
  };
}

/** Everybody goes to the nearest that is left and that they may do, until their day is full: what is done without planning. */
function nearestFirst({ days, jobs }: World) {
  const left = new Set(jobs.keys());
  let [travel, missed] = [0, 0];
  for (const day of days) {
    let [clock, at] = [day.open[0]?.from as number, day.start];
    for (;;) {
      const next = [...left]
        .filter((j) => jobs[j]?.skills.every((s) => day.skills.some((h) => h.skillId === s.skillId)))
        .map((j) => ({ j, km: distanceKm(at.at as never, (jobs[j] as Job).spot.at as never) }))
        .sort((a, b) => a.km - b.km)[0];
      if (!next) break;
      const job = jobs[next.j] as Job;
      const alone = planFor({
        ...{
          days: [{ ...day, start: at, open: [{ from: instant(clock), to: day.open[0]?.to as never }] }],
          seed: 1,
          tries: 0,
        },
        ...{ jobs: [{ ...job, promises: [], window: null }], now: instant(clock) },
      });
      const placed = alone.planned[0];
      if (!placed || alone.cost.overtime > 0) break;
      missed += job.promises.filter((p) => placed.span.from > p.dueAt).reduce((sum, p) => sum + p.weight, 0);
      // There and home again: half of it is the way there.
      travel += alone.cost.travel / 2;
      [clock, at] = [placed.span.to, job.spot];
      left.delete(next.j);
    }
  }
  return { left: [...left].reduce((sum, j) => sum + (jobs[j] as Job).weight, 0), missed, travel: Math.round(travel) };
}

async function planned(world: World): Promise<{ seconds: number; plan: Plan; atOnce: Plan }> {
  const given = { ...world, now: instant(startOfDay(ZONE, FIRST)), seed: 7 };
  const atOnce = planFor({ ...given, tries: 0 });
  let plan: Plan = atOnce;
  const seconds = await secondsOf(() => {
    plan = planFor(given);
    return Promise.resolve();
  });
  return { seconds, plan, atOnce };
}

export async function measure(): Promise<unknown> {
  const random = seeded(20_261_124);
  const many = worldOf(random, sized(200, 5), 1, sized(400, 5));
  // Half of them have a day already.
  const busy = planFor({ ...many, now: instant(startOfDay(ZONE, FIRST)), seed: 1, tries: 0 });
  const days = many.days.map((day, d) => ({
    ...day,
    taken: busy.planned
      .filter((p) => p.day === d)
      .map((p) => ({ id: p.job, span: p.span, spot: (many.jobs[p.job] as Job).spot }))
      .sort((a, b) => a.span.from - b.span.from),
  }));
  const asked: number[] = [];
  const plain: number[] = [];
  for (const job of many.jobs.slice(0, sized(200, 3))) {
    const begun = performance.now();
    candidatesFor(days, job, { dueAt: null, preferred: new Set(), lastThere: null }, instant(startOfDay(ZONE, FIRST)));
    asked.push(performance.now() - begun);
    const bare = performance.now();
    days.map((d) => distanceKm(d.start.at as never, job.spot.at as never)).sort((a, b) => a - b);
    plain.push(performance.now() - bare);
  }
  const day = worldOf(random, sized(25, 3), 1, sized(150, 6));
  const week = worldOf(random, sized(25, 3), 5, sized(700, 12));
  const [ofDay, ofWeek] = [await planned(day), await planned(week)];
  const of = ({ seconds, plan, atOnce }: Awaited<ReturnType<typeof planned>>, world: World) => ({
    ...{ people: new Set(world.days.map((d) => d.personId)).size, jobs: world.jobs.length, seconds: rounded(seconds) },
    ...{ plan: plan.cost, putInOnce: atOnce.cost },
  });
  return {
    bench: 'rota',
    candidates: { people: days.length, asked: asked.length, ...spread(asked), wanted: 'p95 ≤ 80 ms' },
    reference: { what: 'the same people sorted by distance', ...spread(plain) },
    candidatesToReference: rounded(percentile(asked, 0.95) / percentile(plain, 0.95)),
    day: { ...of(ofDay, day), nearestFirst: nearestFirst(day), wanted: '≤ 5 s' },
    week: { ...of(ofWeek, week), wanted: '≤ 30 s' },
  };
}
