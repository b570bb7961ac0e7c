import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { asId, type JobPlanId } from '../ids.ts';
import { addDays, asLocalDate, daysBetween, type LocalDate } from '../time/index.ts';
import {
  absorbVisits,
  checkInclusions,
  inclusionsOf,
  joinVisits,
  staysJoined,
  type JoiningVisit,
  type NestingVisit,
} from './index.ts';

const d = asLocalDate;
const [MONTHLY, QUARTERLY, YEARLY, OTHER] = [1, 2, 3, 4].map((n) => asId<JobPlanId>(n)) as [
  JobPlanId,
  JobPlanId,
  JobPlanId,
  JobPlanId,
];
const inclusions = inclusionsOf([
  { larger: YEARLY, smaller: QUARTERLY },
  { larger: QUARTERLY, smaller: MONTHLY },
]);
type Told = Partial<Omit<NestingVisit<string>, 'key'>>;
const visit = (key: string, jobPlanId: JobPlanId, planned: string, over: Told = {}): NestingVisit<string> => ({
  key,
  scheduleId: jobPlanId,
  jobPlanId,
  planned: d(planned),
  absorbDays: 10,
  state: 'to come',
  ...over,
});
const absorbed = (...visits: NestingVisit<string>[]) => Object.fromEntries(absorbVisits(visits, inclusions));

describe('nested upkeep', () => {
  it('absorbs within the smaller one’s span, both ends in, both ways, through plans in between', () => {
    expect(absorbed(visit('y', YEARLY, '2026-06-10'), visit('m', MONTHLY, '2026-06-20'))).toEqual({ m: 'y' });
    expect(absorbed(visit('y', YEARLY, '2026-06-10'), visit('m', MONTHLY, '2026-05-31'))).toEqual({ m: 'y' });
    expect(absorbed(visit('y', YEARLY, '2026-06-10'), visit('m', MONTHLY, '2026-06-21'))).toEqual({});
    expect(absorbed(visit('y', YEARLY, '2026-06-10'), visit('o', OTHER, '2026-06-10'))).toEqual({});
    expect(absorbed(visit('y', YEARLY, '2026-06-10'), visit('m', MONTHLY, '2026-06-10', { absorbDays: null }))).toEqual(
      {},
    );
  });
  it('only one that is raised itself absorbs', () => {
    const [q, m] = [visit('q', QUARTERLY, '2026-06-01'), visit('m', MONTHLY, '2026-05-25')];
    expect(absorbed(visit('y', YEARLY, '2026-06-10'), q, m)).toEqual({ q: 'y' });
    expect(absorbed(visit('y', YEARLY, '2026-06-10', { state: 'left out' }), q, m)).toEqual({ m: 'q' });
  });
  it('a raised visit absorbs and is never absorbed', () => {
    const raised = { state: 'raised' } as const;
    expect(absorbed(visit('y', YEARLY, '2026-06-10'), visit('q', QUARTERLY, '2026-06-10', raised))).toEqual({});
    expect(absorbed(visit('y', YEARLY, '2026-06-10', raised), visit('q', QUARTERLY, '2026-06-10'))).toEqual({ q: 'y' });
  });
  it('by the nearest, of two as near by the earlier', () => {
    const m = visit('m', MONTHLY, '2026-06-10');
    expect(
      absorbed(visit('a', QUARTERLY, '2026-06-05', { absorbDays: null }), visit('b', YEARLY, '2026-06-15'), m),
    ).toMatchObject({
      m: 'a',
    });
    expect(
      absorbed(visit('a', QUARTERLY, '2026-06-04', { absorbDays: null }), visit('b', YEARLY, '2026-06-14'), m),
    ).toMatchObject({
      m: 'b',
    });
  });
  it('of every set of visits, none is absorbed by one that is not raised, and none in reach of a raised one is left', () => {
    const plan = fc.constantFrom(MONTHLY, QUARTERLY, YEARLY);
    const one = fc.record({
      plan,
      away: fc.integer({ min: 0, max: 60 }),
      span: fc.integer({ min: 0, max: 20 }),
      state: fc.constantFrom('to come' as const, 'raised' as const, 'left out' as const),
    });
    fc.assert(
      fc.property(fc.array(one, { maxLength: 14 }), (told) => {
        const visits = told.map((t, i) =>
          visit(String(i), t.plan, addDays(d('2026-06-01'), t.away), { absorbDays: t.span, state: t.state }),
        );
        const got = absorbVisits(visits, inclusions);
        for (const small of visits) {
          const reaching = visits.filter(
            (large) =>
              inclusions.includes(large.jobPlanId, small.jobPlanId) &&
              large.state !== 'left out' &&
              !got.has(large.key) &&
              Math.abs(daysBetween(small.planned, large.planned)) <= (small.absorbDays ?? -1),
          );
          const by = got.get(small.key);
          if (small.state !== 'to come') expect(by).toBeUndefined();
          else if (reaching.length === 0) expect(by).toBeUndefined();
          else {
            const away = (v: NestingVisit<string>): number => Math.abs(daysBetween(small.planned, v.planned));
            const least = Math.min(...reaching.map(away));
            expect(reaching.filter((v) => away(v) === least).map((v) => v.key)).toContain(by);
          }
        }
      }),
    );
  });
  it('refuses circles, naming the way round', () => {
    const name = (id: JobPlanId): string => ['', 'Monthly', 'Quarterly', 'Yearly'][id] as string;
    const pairs = [
      [YEARLY, QUARTERLY],
      [QUARTERLY, MONTHLY],
      [MONTHLY, YEARLY],
    ] as const;
    expect(
      checkInclusions(
        pairs.map(([larger, smaller]) => ({ larger, smaller })),
        name,
      ),
    ).toMatchObject([
      { code: 'conflict', message: expect.stringContaining('Yearly → Quarterly → Monthly → Yearly') as string },
    ]);
    expect(checkInclusions([{ larger: YEARLY, smaller: MONTHLY }], name)).toEqual([]);
  });
});

const joining = (
  key: string,
  due: string,
  early: number,
  late: number,
  chosen: string | null = null,
  scheduleId = Number.parseInt(key, 36),
): JoiningVisit<string> => ({
  key,
  scheduleId,
  due: d(due),
  windowFrom: addDays(d(due), -early),
  windowTo: addDays(d(due), late),
  raise: addDays(d(due), -20),
  chosen: chosen === null ? null : d(chosen),
});
const allDays = (): boolean => true;

describe('visits at one place', () => {
  it('join within the span of the first, on the first day inside every window from the earliest due date', () => {
    const visits = [
      joining('c', '2026-06-12', 2, 5),
      joining('a', '2026-06-08', 3, 4),
      joining('b', '2026-06-10', 1, 9),
    ];
    expect(joinVisits(visits, 7, allDays)).toEqual([{ keys: ['a', 'b', 'c'], day: '2026-06-10', raise: '2026-05-19' }]);
  });
  it('begin an order of their own where they share no open day, and later ones still join the first', () => {
    const visits = [
      joining('a', '2026-06-08', 0, 1),
      joining('b', '2026-06-11', 1, 5),
      joining('c', '2026-06-12', 9, 9),
    ];
    expect(joinVisits(visits, 7, allDays).map((o) => [o.keys, o.day])).toEqual([
      [['a', 'c'], '2026-06-08'],
      [['b'], '2026-06-11'],
    ]);
    const closed = joinVisits(visits, 7, (day) => day > '2026-06-09');
    expect(closed.map((o) => o.keys)).toEqual([['a'], ['b', 'c']]);
  });
  it('of one schedule never share an order, however wide their windows are', () => {
    const weekly = ['2026-06-08', '2026-06-15'].map((due, i) => joining(`w${i}`, due, 9, 9, null, 1));
    expect(joinVisits([...weekly, joining('m', '2026-06-09', 9, 9)], 14, allDays).map((o) => o.keys)).toEqual([
      ['w0', 'm'],
      ['w1'],
    ]);
  });
  it('keep the day that a person chose', () => {
    const visits = [joining('a', '2026-06-08', 3, 7), joining('b', '2026-06-09', 3, 7, '2026-06-13')];
    expect(joinVisits(visits, 7, allDays)).toMatchObject([{ keys: ['a', 'b'], day: '2026-06-13' }]);
    expect(joinVisits([joining('x', '2026-06-08', 3, 7, '2026-06-13')], 0, () => false)).toMatchObject([
      { day: '2026-06-13' },
    ]);
  });
  it('each stand in exactly one order, whose day lies in every window and on an open day', () => {
    const one = fc.record({
      due: fc.integer({ min: 0, max: 60 }),
      early: fc.integer({ min: 0, max: 10 }),
      late: fc.integer({ min: 0, max: 10 }),
    });
    fc.assert(
      fc.property(
        fc.array(one, { maxLength: 20 }),
        fc.integer({ min: 0, max: 20 }),
        fc.integer({ min: 1, max: 6 }),
        (told, span, every) => {
          const visits = told.map((t, i) => joining(String(i), addDays(d('2026-06-01'), t.due), t.early, t.late));
          const isOpen = (day: LocalDate): boolean => daysBetween(d('2026-01-01'), day) % 7 !== every;
          const orders = joinVisits(visits, span, isOpen);
          expect(orders.flatMap((o) => [...o.keys]).sort()).toEqual(visits.map((v) => v.key).sort());
          for (const { keys, day, raise } of orders) {
            const own = keys.map((k) => visits.find((v) => v.key === k) as JoiningVisit<string>);
            const first = own[0] as JoiningVisit<string>;
            expect(raise).toBe(own.map((v) => v.raise).sort()[0]);
            if (own.length === 1) continue;
            expect(isOpen(day) && day >= first.due).toBe(true);
            for (const v of own)
              expect(v.windowFrom <= day && day <= v.windowTo && v.due <= addDays(first.due, span)).toBe(true);
            // What holds for the order holds for any part of it, and for no other day than one inside every window.
            for (let part = own; part.length > 0; part = part.slice(1))
              expect(staysJoined(part, day, span, isOpen)).toBe(true);
            const outside = addDays(own.map((v) => v.windowTo).sort()[0] as LocalDate, 1);
            expect(staysJoined(own, outside, span, isOpen)).toBe(false);
            expect(staysJoined(own, day, span, (other) => other !== day)).toBe(false);
          }
        },
      ),
    );
  });
});
