// A rota that stands already, planned anew: it gets no dearer, nothing moves for nothing, and what is stuck stays.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type SkillId } from '../ids.ts';
import { compareCosts, costAsItStands, planFor, type Job, type Plan } from './index.ts';
import { at, drawnJob, job, jobOf, mustGo, person, point, ROADS, span } from './paper.testing.ts';

const planned = (days: Parameters<typeof planFor>[0]['days'], jobs: readonly Job[], tries = 120): Plan =>
  planFor({ days, jobs, now: at(0), roads: ROADS, seed: 1, tries });

/** The jobs of a plan, as they stand once it is accepted. */
const standing = (jobs: readonly Job[], { planned: lies }: Plan): Job[] =>
  jobs.map((j, i) => {
    const p = lies.find((l) => l.job === i);
    return { ...j, stands: p ? { day: p.day, from: p.span.from } : null };
  });

describe('a rota that stands, planned anew', () => {
  it('moves nothing where nothing is gained: neither to somebody else nor by a minute', () => {
    const days = [person(1, [0, 0]), person(2, [80, 0])];
    const jobs = [
      job(1, [10, 0], { stands: { day: 0, from: at(600) } }),
      job(2, [20, 0], { stands: { day: 0, from: at(800) } }),
      job(3, [80, 10], { stands: { day: 1, from: at(540) } }),
    ];
    const found = planned(days, jobs);
    expect(found.planned.map((p) => [p.job, p.day, p.span.from])).toEqual([
      [0, 0, at(600)],
      [1, 0, at(800)],
      [2, 1, at(540)],
    ]);
    expect(found.cost.moved).toBe(0);
  });

  it('moves what misses a promise, and says how many went to somebody else', () => {
    const due = { stopsAt: 'arrival', dueAt: at(560), weight: 4 } as const;
    const days = [person(1, [0, 0]), person(2, [0, 10])];
    const jobs = [
      job(1, [0, 5], { stands: { day: 0, from: at(500) }, promises: [{ ...due, dueAt: at(505) }] }),
      job(2, [0, 12], { stands: { day: 0, from: at(600) }, promises: [due] }),
    ];
    const found = planned(days, jobs);
    expect(found.cost).toMatchObject({ missed: 0, moved: 1 });
    expect(found.planned.find((p) => p.job === 0)).toMatchObject({ day: 0, span: { from: at(500) } });
  });

  it('begins nothing sooner than the customer was told', () => {
    const told = { from: at(700), to: at(760) };
    const found = planned([person(1, [0, 0])], [job(1, [0, 5], { told, minutes: 15 }), job(2, [0, 8])]);
    expect(found.planned.find((p) => p.job === 0)?.span.from).toBeGreaterThanOrEqual(told.from);
    expect(found.cost.changes).toBe(0);
  });

  it('leaves where it is what could be nowhere else, whatever speaks against it there, and plans around it', () => {
    const skills = [{ skillId: asId<SkillId>(9), name: 'Pressure' }];
    const stuck = job(1, [0, 5], { skills, stands: { day: 0, from: at(600) }, minutes: 60 });
    const found = planned([person(1, [0, 0])], [stuck, job(2, [0, 5]), job(3, [0, 6])]);
    expect(found.left).toEqual([]);
    expect(found.planned.find((p) => p.job === 0)?.span).toEqual(span(600, 660));
    for (const p of found.planned.filter((o) => o.job > 0))
      expect(p.span.to <= at(600) || p.span.from >= at(660)).toBe(true);
    // A second one at the same time, by intent of somebody, neither gets lost nor keeps the others from being planned.
    const both = planned([person(1, [0, 0])], [stuck, { ...stuck, minutes: 30 }, job(3, [0, 6])]);
    expect(both.planned.filter((p) => p.job < 2).map((p) => p.span.from)).toEqual([at(600), at(600)]);
  });

  it(
    'gets no dearer by whatever is put in, says truly what it comes to, and goes by what binds',
    { timeout: 120_000 },
    () => {
      fc.assert(
        fc.property(
          fc.array(drawnJob, { minLength: 1, maxLength: 9 }),
          fc.array(point, { minLength: 1, maxLength: 3 }),
          fc.nat(9),
          (drawn, homes, loose) => {
            const days = homes.map((home, i) => person(i + 1, home));
            const all = drawn.map(jobOf);
            const before = planned(days, all.slice(0, Math.max(0, all.length - loose)), 0);
            const jobs = standing(all, before);
            const lies = before.planned;
            const found = planned(days, jobs);
            expect(costAsItStands({ days, jobs, roads: ROADS }, found.planned)).toEqual(found.cost);
            expect(compareCosts(found.cost, costAsItStands({ days, jobs, roads: ROADS }, lies))).toBeLessThanOrEqual(0);
            mustGo(found, days, jobs);
            // What was found, taken as it stands, has nothing left that would be worth a move: or the move is worth it.
            const again = standing(all, found);
            const second = planned(days, again);
            const isCheaper = compareCosts({ ...second.cost, moved: 0 }, { ...found.cost, moved: 0 }) < 0;
            if (!isCheaper) {
              const order = (p: Plan) => [...p.planned].sort((a, b) => a.job - b.job);
              expect(order(second)).toEqual(order(found));
            }
          },
        ),
        { numRuns: 150, seed: 7 },
      );
    },
  );
});
