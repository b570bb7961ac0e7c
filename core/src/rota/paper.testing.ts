// For tests of plans: people and work on a sheet of paper, where a step is a minute; and what must hold of any plan.
import fc from 'fast-check';
import { expect } from 'vitest';
import { asId, type OrderId, type PersonId } from '../ids.ts';
import { asLocalDate, instant, MINUTE, type Instant, type InstantSpan } from '../time/index.ts';
import {
  againstCrew,
  daysOfPlanned,
  weightOf,
  type Goer,
  type Job,
  type PersonDay,
  type Plan,
  type Planned,
  type Roads,
  type Spot,
} from './index.ts';

export const BEGIN = Date.UTC(2026, 10, 24);
export const at = (minute: number): Instant => instant(BEGIN + minute * MINUTE);
export const minuteOf = (i: Instant): number => (i - BEGIN) / MINUTE;
export const span = (from: number, to: number): InstantSpan => ({ from: at(from), to: at(to) });
export type Point = readonly [number, number];
export const spot = ([x, y]: Point): Spot => ({ key: `${x} ${y}`, at: null });
export const wayOf = ([x, y]: Point, [u, v]: Point): number => Math.round(Math.hypot(x - u, y - v));
export const pointOf = (key: string): Point => key.split(' ').map(Number) as unknown as Point;
/** Places on a sheet of paper, a minute a step. */
export const ROADS: Roads = {
  rules: { detour: 1, bands: [], fixedMinutes: 0 },
  known: (from, to) => wayOf(pointOf(from), pointOf(to)),
};
export const person = (id: number, where: Point, over: Partial<PersonDay> = {}): PersonDay => ({
  ...{ personId: asId<PersonId>(id), date: asLocalDate('2026-11-24'), start: spot(where) },
  ...{ open: [span(480, 720), span(750, 960)], absences: [], taken: [], skills: [], ...over },
});
export const job = (id: number, where: Point, over: Partial<Job> = {}): Job => ({
  ...{ orderId: asId<OrderId>(id), weight: 1, promises: [], told: null, spot: spot(where), minutes: 45, skills: [] },
  ...{ blocked: new Set(), window: null, site: null, lacks: null, ...over },
});
/** What binds must not speak against any of it, each looked at with all the others in the days of those who go: as a drag is. */
export function mustGo({ planned }: Plan, days: readonly PersonDay[], jobs: readonly Job[], roads = ROADS): void {
  const isIn = (p: Planned, d: number): boolean => daysOfPlanned(p).includes(d);
  for (const p of planned) {
    const goers = daysOfPlanned(p).map((d): Goer => {
      const others = planned
        .filter((o) => isIn(o, d) && o.job !== p.job)
        .map((o) => ({ id: 1000 + o.job, span: o.span, spot: (jobs[o.job] as Job).spot }));
      const day = days[d] as PersonDay;
      return {
        name: `${d}`,
        day: { ...day, taken: [...day.taken, ...others].sort((a, b) => a.span.from - b.span.from) },
      };
    });
    const against = againstCrew(goers, jobs[p.job] as Job, p.span, roads);
    expect(against.filter((r) => r.binds)).toEqual([]);
  }
}

export const point = fc.tuple(fc.integer({ min: 0, max: 90 }), fc.integer({ min: 0, max: 90 }));
export const drawnJob = fc.record({
  where: point,
  minutes: fc.integer({ min: 2, max: 14 }).map((n) => n * 5),
  window: fc.option(fc.tuple(fc.integer({ min: 480, max: 900 }), fc.integer({ min: 0, max: 120 })), { nil: null }),
  due: fc.option(fc.tuple(fc.integer({ min: 520, max: 1000 }), fc.integer({ min: 1, max: 4 }), fc.boolean()), {
    nil: null,
  }),
});
export const jobOf = (
  d: {
    where: Point;
    minutes: number;
    window: readonly [number, number] | null;
    due: readonly [number, number, boolean] | null;
  },
  i: number,
): Job =>
  job(i, d.where, {
    minutes: d.minutes,
    window: d.window && span(d.window[0], d.window[0] + d.window[1]),
    weight: d.due ? weightOf(d.due[1]) : 1,
    promises: d.due ? [{ stopsAt: d.due[2] ? 'arrival' : 'end', dueAt: at(d.due[0]), weight: weightOf(d.due[1]) }] : [],
  });
