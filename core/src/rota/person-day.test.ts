import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type PersonId, type SkillId } from '../ids.ts';
import { asLocalDate, instant, merged, MINUTE, type Instant, type InstantSpan } from '../time/index.ts';
import {
  capacityOf,
  firstThatGoes,
  freeMinutes,
  reasonsAgainst,
  STEP_MINUTES,
  type PersonDay,
  type Roads,
  type Spot,
  type Work,
} from './index.ts';

const BEGIN = Date.UTC(2026, 10, 24);
const at = (minute: number): Instant => instant(BEGIN + minute * MINUTE);
const span = (from: number, to: number): InstantSpan => ({ from: at(from), to: at(to) });
const spot = (key: string): Spot => ({ key, at: null });
/** Every place is as far from another as the table says; what it does not name is unknown. */
const roads = (table: Record<string, number>): Roads => ({
  rules: { detour: 1, bands: [], fixedMinutes: 0 },
  known: (from, to) => table[`${from} ${to}`] ?? table[`${to} ${from}`],
});
const ROADS = roads({ 'depot a': 20, 'depot b': 30, 'a b': 15, 'depot c': 25, 'a c': 40, 'b c': 10 });
const GAS = asId<SkillId>(1);
const day = (over: Partial<PersonDay> = {}): PersonDay => ({
  ...{ personId: asId<PersonId>(7), date: asLocalDate('2026-11-24'), start: spot('depot') },
  ...{ open: [span(480, 960)], absences: [], taken: [], skills: [{ skillId: GAS, until: null }] },
  ...over,
});
const work = (over: Partial<Work> = {}): Work => ({
  ...{ spot: spot('a'), minutes: 60, skills: [], blocked: new Set(), window: null, site: null, lacks: null },
  ...over,
});
const whats = (of: PersonDay, w: Work, s: InstantSpan) => reasonsAgainst(of, w, s, ROADS).map((r) => r.what);
const taken = (from: number, to: number, where = 'b') => ({ id: from, span: span(from, to), spot: spot(where) });

// Source of the rules: the domain's Rota and its settled questions.
describe('capacity and free time', () => {
  it('of eight hours with three and one taken leave four', () => {
    const here = [
      { id: 1, span: span(480, 660), spot: spot('depot') },
      { id: 2, span: span(720, 780), spot: spot('depot') },
    ];
    expect(freeMinutes(day({ taken: here }))).toBe(240);
  });

  it('leave out absences, and travel to each appointment and home from the last; outside open time nothing is taken', () => {
    expect(capacityOf(day({ absences: [{ ...span(600, 720), why: 'sick' }] }))).toEqual([
      span(480, 600),
      span(720, 960),
    ]);
    // 480 less 30 there, 60 of work, 15 on, 60 of work, 20 home.
    expect(freeMinutes(day({ taken: [taken(600, 660), taken(700, 760, 'a')] }), ROADS)).toBe(480 - 185);
    expect(freeMinutes(day({ taken: [taken(1000, 1100)] }), ROADS)).toBe(480);
    expect(freeMinutes(day({ taken: [taken(600, 660), taken(630, 690)] }), roads({}))).toBe(480 - 90);
  });
});

describe('what speaks against an appointment', () => {
  it.each<[string, Partial<PersonDay>, Partial<Work>, InstantSpan, string[]]>([
    ['nothing', {}, {}, span(500, 560), []],
    ['a way that begins before opening', {}, {}, span(499, 559), ['open time']],
    ['being back past closing', {}, {}, span(881, 941), ['open time']],
    ['being back at closing', {}, {}, span(880, 940), []],
    [
      'a skill that is not theirs',
      {},
      { skills: [{ skillId: asId<SkillId>(2), name: 'Pressure' }] },
      span(600, 660),
      ['skill'],
    ],
    ['being blocked', {}, { blocked: new Set([asId<PersonId>(7)]) }, span(600, 660), ['blocked']],
    [
      'an absence, which is no open time either',
      { absences: [{ ...span(600, 700), why: 'training' }] },
      {},
      span(650, 710),
      ['absence', 'open time'],
    ],
    ['touching an appointment without the way', { taken: [taken(540, 600)] }, {}, span(600, 660), ['travel']],
    ['the way from the one before', { taken: [taken(540, 600)] }, {}, span(614, 674), ['travel', 'open time']],
    ['the way just long enough', { taken: [taken(540, 600)] }, {}, span(615, 675), []],
    ['the way on to the next', { taken: [taken(700, 760)] }, {}, span(600, 686), ['travel', 'open time']],
    ['being elsewhere', { taken: [taken(540, 600)] }, {}, span(599, 659), ['overlap']],
    ['closed site hours', {}, { site: [span(600, 650)] }, span(600, 660), ['site hours']],
    ['the last minute of a window', {}, { window: span(500, 600) }, span(600, 660), []],
    ['a minute past the window', {}, { window: span(500, 600) }, span(601, 661), ['window']],
    ['a part that is nowhere', {}, { lacks: 'TN-4' }, span(600, 660), ['part']],
    ['an unknown way', {}, { spot: spot('nowhere') }, span(600, 660), ['travel']],
    ['a break within the work', { open: [span(480, 720), span(780, 960)] }, {}, span(700, 800), ['open time']],
    ['a break within the way', { open: [span(480, 720), span(780, 960)] }, {}, span(790, 850), []],
    ['a day that is closed', { open: [] }, {}, span(600, 660), ['open time']],
  ])('is said of %s', (_, d, w, s, wanted) => {
    expect(whats(day(d), work(w), s).filter((r) => r !== 'open time' || wanted.includes('open time'))).toEqual(wanted);
  });

  it('is all of it at once; a skill holds through its last date', () => {
    const skills = [{ skillId: GAS, name: 'Refrigerants' }];
    const until = (date: string) => day({ skills: [{ skillId: GAS, until: asLocalDate(date) }] });
    expect(whats(until('2026-11-24'), work({ skills }), span(600, 660))).toEqual([]);
    expect(reasonsAgainst(until('2026-11-23'), work({ skills }), span(600, 660), ROADS)).toEqual([
      { what: 'skill', binds: true, text: 'Refrigerants lapsed after Mon 23 Nov 2026' },
    ]);
    const all = whats(
      day({ skills: [], absences: [{ ...span(480, 960), why: 'sick' }] }),
      work({ skills, blocked: new Set([asId<PersonId>(7)]), site: [], lacks: 'TN-4', window: span(0, 1) }),
      span(600, 660),
    );
    expect(all).toEqual(['skill', 'blocked', 'absence', 'site hours', 'part', 'window', 'open time']);
  });
});

/** A day walked minute by minute, as somebody with a sheet of paper would: may the work be done at this minute? */
function goesByHand(
  { open, taken: busy }: PersonDay,
  w: Work,
  from: number,
  way: (a: string, b: string) => number,
): boolean {
  const isIn = (spans: readonly InstantSpan[], m: number) => spans.some((s) => s.from <= at(m) && at(m) < s.to);
  const minuteOf = (i: Instant) => (i - BEGIN) / MINUTE;
  const own = Array.from({ length: w.minutes }, (_, i) => from + i);
  if (
    own.some(
      (m) =>
        !isIn(open, m) ||
        isIn(
          busy.map((t) => t.span),
          m,
        ),
    )
  )
    return false;
  if (w.site && own.some((m) => !isIn(w.site ?? [], m))) return false;
  const before = busy.filter((t) => minuteOf(t.span.to) <= from).at(-1);
  const after = busy.find((t) => minuteOf(t.span.from) >= from + w.minutes);
  const drives = (a: number, b: number, minutes: number): boolean => {
    let run = 0;
    if (minutes === 0) return true;
    for (let m = a; m < b; m += 1) {
      run = isIn(open, m) ? run + 1 : 0;
      if (run === minutes) return true;
    }
    return false;
  };
  const begins = before ? minuteOf(before.span.to) : minuteOf(open[0]?.from as Instant);
  const ends = after ? minuteOf(after.span.from) : minuteOf(open.at(-1)?.to as Instant);
  return (
    drives(begins, from, way(before?.spot.key ?? 'depot', w.spot.key)) &&
    drives(from + w.minutes, ends, way(w.spot.key, after?.spot.key ?? 'depot'))
  );
}

describe('the earliest that goes', () => {
  const places = ['depot', 'a', 'b', 'c'] as const;
  const minute = fc.integer({ min: 0, max: 47 }).map((n) => n * 5);
  const spans = fc
    .array(fc.tuple(minute, fc.integer({ min: 1, max: 16 })), { minLength: 1, maxLength: 3 })
    .map((all) => merged(all.map(([from, n]) => span(from, from + n * 5))));
  const appointments = fc
    .array(fc.tuple(fc.integer({ min: 2, max: 6 }), fc.integer({ min: 1, max: 5 }), fc.constantFrom(...places)), {
      maxLength: 3,
    })
    .map((all) => {
      let next = 0;
      return all.map(([gap, n, where], i) => {
        const from = next + gap * 10;
        next = from + n * 5;
        return { id: i, span: span(from, next), spot: spot(where) };
      });
    });

  it('is not reached faster than one drives from now on; who is on the way to another goes on from there', () => {
    const now = day({ leavesFrom: at(600) });
    // 20 min from the depot; before nine minutes have passed nobody is there.
    expect(firstThatGoes(now, work(), at(600), ROADS)).toEqual(span(620, 680));
    expect(reasonsAgainst(now, work(), span(610, 670), ROADS)).toEqual([
      { what: 'travel', binds: true, text: '20 min to get there, 10 min from now' },
      { what: 'open time', binds: false, text: 'the way there is not inside their open time' },
    ]);
    // What has begun may be written down after a yes.
    expect(reasonsAgainst(now, work(), span(590, 650), ROADS)).toEqual([
      { what: 'travel', binds: false, text: 'it begins before now' },
    ]);
    const busy = day({ leavesFrom: at(600), taken: [taken(560, 640)] });
    expect(firstThatGoes(busy, work(), at(600), ROADS)).toEqual(span(655, 715));
  });

  it('is the one that a walk through the minutes finds, and nothing speaks against exactly those', () => {
    let found = 0;
    fc.assert(
      fc.property(
        ...([spans, appointments, fc.option(spans, { nil: null }), fc.constantFrom(...places)] as const),
        fc.integer({ min: 1, max: 8 }).map((n) => n * 5),
        fc.integer({ min: 0, max: 30 }),
        (open, busy, site, where, minutes, from) => {
          const of = day({ open, taken: busy });
          const w = work({ spot: spot(where), minutes, site });
          const way = (a: string, b: string) => (a === b ? 0 : (ROADS.known(a, b) as number));
          const byHand = Array.from({ length: 340 }, (_, m) => m).filter((m) => goesByHand(of, w, m, way));
          const byRule = Array.from({ length: 340 }, (_, m) => m).filter(
            (m) => reasonsAgainst(of, w, span(m, m + minutes), ROADS).length === 0,
          );
          expect(byRule).toEqual(byHand);
          const first = byHand.find((m) => m >= from && m % STEP_MINUTES === 0);
          const said = firstThatGoes(of, w, at(from), ROADS);
          expect(said).toEqual(first === undefined ? null : span(first, first + minutes));
          if (said) found += 1;
        },
      ),
      { numRuns: 400 },
    );
    expect(found).toBeGreaterThan(60);
  });
});
