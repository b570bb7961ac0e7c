import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type PersonId, type SkillId } from '../ids.ts';
import type { InstantSpan } from '../time/index.ts';
import {
  costAsItStands,
  COUNTS,
  planFor,
  PLAN_RULES,
  type Cost,
  type Job,
  type PersonDay,
  type Plan,
  type PlanRules,
  type Roads,
} from './index.ts';
import {
  at,
  drawnJob,
  job,
  jobOf,
  minuteOf,
  mustGo,
  person,
  point,
  pointOf,
  ROADS,
  span,
  spot,
  wayOf,
  type Point,
} from './paper.testing.ts';

const plan = (days: readonly PersonDay[], jobs: readonly Job[], over: { seed?: number; tries?: number } = {}): Plan =>
  planFor({ days, jobs, now: at(0), roads: ROADS, seed: 1, tries: 300, ...over });

/** The least cost there is, by trying every order of every set of jobs on both people, each begun as early as it may: written anew. */
function leastCost(days: readonly PersonDay[], jobs: readonly Job[]): number[] {
  let best: number[] | null = null;
  const isLess = (a: readonly number[], b: readonly number[]): boolean => {
    for (const [i, x] of a.entries()) if (x !== b[i]) return x < (b[i] as number);
    return false;
  };
  const walk = (
    d: number,
    clock: number,
    where: Point,
    left: readonly number[],
    cost: readonly number[],
    out: number,
  ): void => {
    // Whoever goes home does not go out again; then the other one's day is walked.
    const day = days[d] as PersonDay;
    const home = pointOf(day.start.key);
    const isOut = clock > 480 || where !== home;
    const back = isOut ? clock + wayOf(where, home) : clock;
    const ended = [...cost];
    if (isOut) {
      ended[3] = (ended[3] as number) + Math.max(0, back - 960);
      ended[4] = (ended[4] as number) + wayOf(where, home);
    }
    if (d + 1 < days.length) walk(d + 1, 480, pointOf((days[d + 1] as PersonDay).start.key), left, ended, out);
    else {
      const all = [left.reduce((sum, j) => sum + (jobs[j] as Job).weight, 0), ...ended.slice(1)];
      if (best === null || isLess(all, best)) best = all;
    }
    for (const j of left) {
      const { spot: to, minutes, window, promises } = jobs[j] as Job;
      const way = wayOf(where, pointOf(to.key));
      // Driving and working fit before the break, or come after it; past closing is overtime.
      const fits = (from: number, length: number): number => (from + length <= 720 ? from : Math.max(from, 750));
      let begins = Math.max(fits(clock, way) + way, window ? minuteOf(window.from) : 0);
      // Whatever begins does so at a step of five minutes.
      begins = fits(Math.ceil(begins / 5) * 5, minutes);
      const more = [...cost];
      for (const p of promises)
        if (begins + (p.stopsAt === 'end' ? minutes : 0) > minuteOf(p.dueAt)) more[1] = (more[1] as number) + p.weight;
      if (window) more[2] = (more[2] as number) + Math.max(0, begins - minuteOf(window.to));
      more[4] = (more[4] as number) + way;
      walk(
        d,
        begins + minutes,
        pointOf(to.key),
        left.filter((x) => x !== j),
        more,
        out,
      );
    }
  };
  walk(
    0,
    480,
    pointOf((days[0] as PersonDay).start.key),
    jobs.map((_, i) => i),
    [0, 0, 0, 0, 0, 0],
    0,
  );
  return best ?? [];
}

const siteOf = (opens: number | null): readonly InstantSpan[] | null =>
  opens === null ? null : [span(opens, opens + 180)];
// Reference: exact search over all orders of small days, as the checks say; within 2 % of its travel, and no worse in what counts more.
describe('a plan of a small day', () => {
  it('is as good as the best there is', { timeout: 120_000 }, () => {
    let travel = 0;
    let least = 0;
    fc.assert(
      fc.property(fc.array(drawnJob, { minLength: 2, maxLength: 6 }), point, point, (drawn, a, b) => {
        const days = [person(1, a), person(2, b)];
        const jobs = drawn.map(jobOf);
        const found = plan(days, jobs);
        mustGo(found, days, jobs);
        const best = leastCost(days, jobs);
        const cost = COUNTS.map((c) => found.cost[c]);
        expect(cost.slice(0, 4)).toEqual(best.slice(0, 4));
        travel += found.cost.travel;
        least += best[4] as number;
        expect(found.cost.travel).toBeLessThanOrEqual((best[4] as number) * 1.02 + 1e-9);
      }),
      { numRuns: 200, seed: 4 },
    );
    expect(travel / least).toBeLessThan(1.002);
  });
});

describe('a plan', () => {
  const costs = ({ cost }: Plan): Cost => cost;

  it('never gives what counts more for what counts less', () => {
    // Near work could be done first with little travel; the promise far away comes before it.
    const far = job(2, [80, 0], { promises: [{ stopsAt: 'arrival', dueAt: at(565), weight: 8 }] });
    const near = job(1, [0, 10]);
    const { planned, cost } = plan([person(1, [0, 0])], [near, far]);
    expect(
      planned.map((p) => [p.job, minuteOf(p.span.from)]).sort((a, b) => (a[1] as number) - (b[1] as number)),
    ).toEqual([
      [1, 560],
      // 110 minutes of way and work later it would run over the break.
      [0, 750],
    ]);
    expect(cost).toMatchObject({ left: 0, missed: 0, overtime: 0 });
  });

  it('goes by what counts more: the way, or who was there last', () => {
    const rui = asId<PersonId>(2);
    const days = [person(1, [0, 0]), person(2, [60, 0])];
    const jobs = [job(1, [10, 0], { wanted: new Set([rui]) })];
    const by = (rules: PlanRules) => planFor({ days, jobs, now: at(0), roads: ROADS, seed: 1, tries: 40, rules });
    expect(by('promises first').cost).toMatchObject({ travel: 20, others: 1 });
    expect(by('same technician').cost).toMatchObject({ travel: 100, others: 0 });
    // Everything counts in every set of rules, and nothing twice.
    for (const order of Object.values(PLAN_RULES)) expect([...order].sort()).toEqual([...COUNTS].sort());
  });

  it('leaves what nobody may do, and what there is no way to, and says what it weighs', () => {
    const skills = [{ skillId: asId<SkillId>(9), name: 'Pressure' }];
    const lost: Job = { ...job(3, [0, 5]), spot: { key: 'nowhere', at: null } };
    const roads: Roads = {
      ...ROADS,
      known: (a, b) => (a === 'nowhere' || b === 'nowhere' ? undefined : ROADS.known(a, b)),
    };
    const found = planFor({
      ...{ days: [person(1, [0, 0])], now: at(0), roads, seed: 1, tries: 50 },
      jobs: [job(1, [0, 5], { skills, weight: 4 }), job(2, [0, 5]), lost, job(4, [0, 5], { lacks: 'TN-4' })],
    });
    expect([found.left, found.cost.left]).toEqual([[0, 2, 3], 6]);
  });

  it('drives by what lies between where the direct way is the longer one, and never loses its way by that', () => {
    // Around the bay it takes five hours; over the ferry at half the way forty minutes.
    const [home, ferry, cape] = ['0 0', '20 0', '40 0'];
    const roads: Roads = {
      ...ROADS,
      known: (a, b) => (a !== ferry && b !== ferry && a !== b && [a, b].includes(cape) ? 300 : ROADS.known(a, b)),
    };
    const days = [person(1, [0, 0])];
    const jobs = [job(1, [20, 0]), job(2, [40, 0], { site: [span(480, 700)] }), job(3, [0, 5])];
    for (let seed = 1; seed <= 20; seed += 1) {
      const found = planFor({ days, jobs, now: at(0), roads, seed, tries: 60 });
      expect(found.left).toEqual([]);
      expect(found.planned.every((p) => Number.isInteger(p.span.from))).toBe(true);
      mustGo(found, days, jobs, roads);
    }
    expect(roads.known(home, cape)).toBe(300);
  });

  it('moves nothing that stays, and begins nothing before now', () => {
    const taken = [{ id: 1, span: span(600, 660), spot: spot([40, 0]) }];
    const days = [person(1, [0, 0], { taken })];
    const jobs = [job(1, [10, 0]), job(2, [60, 0]), job(3, [20, 0])];
    const found = planFor({ days, jobs, now: at(530), roads: ROADS, seed: 3, tries: 300 });
    expect(found.left).toEqual([]);
    mustGo(found, days, jobs);
    for (const p of found.planned) expect(p.span.from).toBeGreaterThanOrEqual(at(530));
  });

  it(
    'is the same for the same seed, goes by what binds, and gets no dearer by more tries',
    { timeout: 120_000 },
    () => {
      const people = fc.array(
        fc.record({
          where: point,
          sick: fc.option(fc.tuple(fc.integer({ min: 480, max: 900 }), fc.integer({ min: 10, max: 300 })), {
            nil: null,
          }),
          busy: fc.option(fc.tuple(fc.integer({ min: 48, max: 90 }), fc.integer({ min: 1, max: 10 }), point), {
            nil: null,
          }),
          can: fc.boolean(),
        }),
        { minLength: 1, maxLength: 4 },
      );
      const extras = fc.array(
        fc.record({ skilled: fc.boolean(), site: fc.option(fc.integer({ min: 480, max: 800 }), { nil: null }) }),
        { minLength: 12, maxLength: 12 },
      );
      fc.assert(
        fc.property(people, fc.array(drawnJob, { maxLength: 12 }), extras, fc.nat(1000), (drawn, work, more, seed) => {
          const skill = { skillId: asId<SkillId>(1), name: 'Gas' };
          const days = drawn.map(({ where, sick, busy, can }, i) =>
            person(i + 1, where, {
              absences: sick ? [{ ...span(sick[0], sick[0] + sick[1]), why: 'sick' }] : [],
              taken: busy ? [{ id: i, span: span(busy[0] * 10, busy[0] * 10 + busy[1] * 5), spot: spot(busy[2]) }] : [],
              skills: can ? [{ skillId: skill.skillId, until: null }] : [],
            }),
          );
          const jobs = work.map((w, i) => ({
            ...jobOf(w, i),
            ...(more[i]?.skilled && { skills: [skill] }),
            site: siteOf(more[i]?.site ?? null),
          }));
          const [quick, again, long] = [{ tries: 40 }, { tries: 40 }, { tries: 120 }].map((t) =>
            plan(days, jobs, { seed, ...t }),
          ) as [Plan, Plan, Plan];
          expect(again).toEqual(quick);
          for (const found of [quick, long]) {
            // Reckoned anew from where everything lies, it comes to what the plan says of itself.
            expect(costAsItStands({ days, jobs, roads: ROADS }, found.planned)).toEqual(found.cost);
            mustGo(found, days, jobs);
            expect([...found.planned.map((p) => p.job), ...found.left].sort((a, b) => a - b)).toEqual(
              jobs.map((_, i) => i),
            );
          }
          const [a, b] = [quick, long].map((p) => COUNTS.map((c) => costs(p)[c])) as [number[], number[]];
          const first = COUNTS.findIndex((_, i) => a[i] !== b[i]);
          if (first >= 0) expect(b[first]).toBeLessThan(a[first] as number);
        }),
        { numRuns: 120 },
      );
    },
  );
});
