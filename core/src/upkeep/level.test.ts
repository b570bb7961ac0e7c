// Levelling: inside the windows, the same for the same seed, never fuller than before, against every plan of small worlds.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { distanceKm, type Position } from '../places/index.ts';
import { TRAVEL_RULES } from '../rota/index.ts';
import { boundOfPeak, level, levelled, measureLoad, mondayOf, type LevelProblem, type LoadVisit } from './level.ts';

/** A Monday. */
const START = 20_423;

const world = (most: number, weeks: number): fc.Arbitrary<LevelProblem> =>
  fc
    .record({
      sites: fc.array(
        fc.record({
          latitude: fc.double({ min: 38, max: 42, noNaN: true }),
          longitude: fc.double({ min: -9, max: -5, noNaN: true }),
        }),
        { minLength: 1, maxLength: 6 },
      ),
      visits: fc.array(
        fc.record({
          at: fc.integer({ min: 0, max: weeks * 7 - 1 }),
          early: fc.integer({ min: 0, max: 12 }),
          late: fc.integer({ min: 0, max: 12 }),
          minutes: fc.integer({ min: 15, max: 600 }),
          group: fc.integer({ min: 0, max: 2 }),
          site: fc.option(fc.nat(50), { nil: null }),
          series: fc.nat(5),
        }),
        { minLength: 1, maxLength: most },
      ),
    })
    .map(({ sites, visits }) => {
      const taken = new Set<string>();
      const placed = visits.flatMap((v): LoadVisit[] => {
        const day = START + v.at;
        if (taken.has(`${v.series}/${day}`)) return [];
        taken.add(`${v.series}/${day}`);
        const days = Array.from({ length: v.early + v.late + 1 }, (_, i) => day - v.early + i).filter(
          (d) => (d + 3) % 7 < 5 || d === day,
        );
        const { minutes, group, series } = v;
        return [
          { day, days, minutes, group, depot: group % 2, series, site: v.site === null ? null : v.site % sites.length },
        ];
      });
      return { visits: placed, sites, depots: [{ latitude: 40, longitude: -7 }, null], groups: 3, fixed: [] };
    });

describe('levelling', () => {
  it('keeps every visit inside its window, no two of a schedule on a day, and what it weighs never gets worse', () => {
    fc.assert(
      fc.property(world(40, 6), fc.integer(), (problem, seed) => {
        const { days, before, after } = levelled(problem, seed);
        const places = problem.visits.map((v, i) => `${v.series}/${days[i]}`);
        expect(new Set(places).size).toBe(places.length);
        problem.visits.forEach((v, i) => expect([v.day, ...v.days]).toContain(days[i]));
        const squares = (of: readonly number[]): number => {
          const weeks = new Map<string, number>();
          problem.visits.forEach(({ minutes, group }, i) => {
            for (const key of [`${mondayOf(of[i] as number)}/${group}`, `${mondayOf(of[i] as number)}/all`])
              weeks.set(key, (weeks.get(key) ?? 0) + minutes / 60);
          });
          return [...weeks.values()].reduce((sum, h) => sum + h * h, 0);
        };
        const started = problem.visits.map((v) => v.day);
        expect(squares(days) + 0.3 * after.km).toBeLessThanOrEqual(squares(started) + 0.3 * before.km + 1e-6);
      }),
      { numRuns: 150 },
    );
  });

  it('gives the same answer for the same seed, and says how far it is', () => {
    fc.assert(
      fc.property(world(30, 5), fc.integer(), (problem, seed) => {
        const steps = [...level(problem, seed)];
        expect(levelled(problem, seed)).toEqual(levelled(problem, seed));
        expect(steps.every((s) => s.done <= s.of && s.moved <= s.done)).toBe(true);
      }),
      { numRuns: 40 },
    );
  });

  it('measures fullest week, spread and kilometres as a count over all days does', () => {
    fc.assert(
      fc.property(world(30, 5), (problem) => {
        const days = problem.visits.map((v) => v.day);
        const first = mondayOf(Math.min(...days));
        const weeks = Array.from({ length: (mondayOf(Math.max(...days)) - first) / 7 + 1 }, (_, w) =>
          problem.visits.reduce(
            (sum, v, i) => sum + (mondayOf(days[i] as number) === first + w * 7 ? v.minutes : 0),
            0,
          ),
        );
        const mean = weeks.reduce((a, b) => a + b, 0) / weeks.length;
        const measured = measureLoad(problem, days);
        expect(measured.peakMinutes).toBe(Math.max(...weeks));
        expect(weeks[(measured.peakWeek - first) / 7]).toBe(measured.peakMinutes);
        const spread = Math.sqrt(weeks.reduce((a, b) => a + (b - mean) ** 2, 0) / weeks.length);
        expect(measured.spreadMinutes).toBeCloseTo(spread, 6);
      }),
    );
  });

  it('a day at one site is the way there and back, however many visits; two sites on one day are one round', () => {
    const [home, a, b]: [Position, Position, Position] = [
      { latitude: 41, longitude: -7 },
      { latitude: 41.2, longitude: -7 },
      { latitude: 41.3, longitude: -7 },
    ];
    const visit = (series: number, site: number, day: number): LoadVisit => ({
      ...{ day, days: [], minutes: 60, group: 0, depot: 0, series, site },
    });
    const km = (...visits: LoadVisit[]): number =>
      measureLoad(
        { visits, sites: [a, b], depots: [home], groups: 1, fixed: [] },
        visits.map((v) => v.day),
      ).km;
    const there = TRAVEL_RULES.detour * distanceKm(home, a);
    expect(km(visit(1, 0, START), visit(2, 0, START))).toBeCloseTo(2 * there, 9);
    expect(km(visit(1, 0, START), visit(2, 0, START + 1))).toBeCloseTo(4 * there, 9);
    const round = TRAVEL_RULES.detour * (distanceKm(home, a) + distanceKm(a, b) + distanceKm(b, home));
    expect(km(visit(1, 0, START), visit(2, 1, START))).toBeCloseTo(round, 9);
  });

  it('puts visits of one site on one trip where nothing else speaks against it', () => {
    const visit = (series: number, day: number): LoadVisit => ({
      ...{ day, days: [0, 1, 2, 3, 4].map((n) => START + n), minutes: 60, group: 0, depot: 0, series, site: 0 },
    });
    const sites = [{ latitude: 41.5, longitude: -7 }];
    const problem = {
      visits: [0, 2, 4].map((n) => visit(n, START + n)),
      sites,
      depots: [{ latitude: 41, longitude: -7 }],
      groups: 1,
      fixed: [],
    };
    const { days, before, after } = levelled(problem, 1);
    expect(new Set(days).size).toBe(1);
    expect(after.km).toBeCloseTo(before.km / 3, 6);
  });
});

describe('what lies fixed', () => {
  it('fills its week: visits free to lie in two weeks go to the other one', () => {
    const days = [0, 1, 2, 3, 4, 7, 8, 9, 10, 11].map((n) => START + n);
    const visits = [0, 1, 2].map((series): LoadVisit => ({
      ...{ day: START + series, days, minutes: 60, group: 0, depot: 0, site: null, series },
    }));
    const problem = { visits, sites: [], depots: [null], groups: 1, fixed: [{ day: START, group: 0, minutes: 600 }] };
    expect(levelled(problem, 1).days.every((d) => d >= START + 7)).toBe(true);
    expect(levelled({ ...problem, fixed: [] }, 1).days.filter((d) => d >= START + 7)).toHaveLength(1);
  });
});

describe('the lower bound', () => {
  const everyPlan = (problem: LevelProblem, i = 0, days: number[] = []): number =>
    i === problem.visits.length
      ? measureLoad(problem, days).peakMinutes
      : Math.min(
          ...[...new Set([problem.visits[i]?.day as number, ...(problem.visits[i]?.days ?? [])])].map((d) =>
            everyPlan(problem, i + 1, [...days, d]),
          ),
        );

  it('lies at or below the best of all plans, which lies at or below what levelling finds', () => {
    fc.assert(
      fc.property(world(4, 3), (problem) => {
        const best = everyPlan(problem);
        expect(boundOfPeak(problem)).toBeLessThanOrEqual(best);
        expect(levelled(problem, 3).after.peakMinutes).toBeGreaterThanOrEqual(best);
      }),
      { numRuns: 60 },
    );
  });

  it('is reached where an even plan exists: sixteen visits of one hour in the first of four weeks, free to lie in any', () => {
    const days = Array.from({ length: 28 }, (_, i) => START + i).filter((d) => (d + 3) % 7 < 5);
    const visits = Array.from({ length: 16 }, (_, i): LoadVisit => ({
      ...{ day: START + (i % 5), days, minutes: 60, group: 0, depot: 0, site: null, series: i },
    }));
    const { before, after, boundMinutes } = levelled({ visits, sites: [], depots: [null], groups: 1, fixed: [] }, 7);
    expect([before.peakMinutes, after.peakMinutes, boundMinutes]).toEqual([960, 240, 240]);
    expect(after.spreadMinutes).toBe(0);
  });
});
