import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type PersonId, type SkillId } from '../ids.ts';
import { asLocalDate, instant, MINUTE, type InstantSpan } from '../time/index.ts';
import {
  candidatesFor,
  reasonsAgainst,
  sayFor,
  type PersonDay,
  type Promised,
  type Roads,
  type Spot,
  type Work,
} from './index.ts';

const BEGIN = Date.UTC(2026, 10, 24);
const at = (minute: number) => instant(BEGIN + minute * MINUTE);
const span = (from: number, to: number): InstantSpan => ({ from: at(from), to: at(to) });
const spot = (key: string): Spot => ({ key, at: null });
/** Places are named by where they lie on a road, a minute a step. */
const ROADS: Roads = {
  rules: { detour: 1, bands: [], fixedMinutes: 0 },
  known: (from, to) => Math.abs(Number(from) - Number(to)),
};
const person = (id: number, where: number, over: Partial<PersonDay> = {}): PersonDay => ({
  ...{ personId: asId<PersonId>(id), date: asLocalDate('2026-11-24'), start: spot(String(where)) },
  ...{ open: [span(480, 960)], absences: [], taken: [], skills: [], ...over },
});
const work = (over: Partial<Work> = {}): Work => ({
  ...{ spot: spot('100'), minutes: 60, skills: [], blocked: new Set(), window: null, site: null, lacks: null },
  ...over,
});
const promised = (over: Partial<Promised> = {}): Promised => ({
  dueAt: null,
  preferred: new Set(),
  lastThere: null,
  ...over,
});
const ids = (days: readonly PersonDay[], w = work(), p = promised(), from = at(480)) =>
  candidatesFor(days, w, p, from, ROADS).can.map((c) => c.personId as number);

// Source of the order: the domain's Rota, Should go.
describe('who should go', () => {
  it('is first who keeps the promise with most margin, then who drives least more, then the others in their order', () => {
    const near = person(1, 90);
    const far = person(2, 0);
    const busy = person(3, 100, { taken: [{ id: 1, span: span(480, 700), spot: spot('100') }] });
    expect(ids([far, busy, near], work(), promised({ dueAt: at(900) }))).toEqual([1, 2, 3]);
    // Without a promise only the way counts: who is there already drives nothing more.
    expect(ids([far, busy, near])).toEqual([3, 1, 2]);
    // A missed promise comes last, however near.
    expect(ids([busy, far], work(), promised({ dueAt: at(650) }))).toEqual([2, 3]);
  });

  it.each<[string, Partial<PersonDay>, Partial<Promised>]>([
    ['preferred by the customer', {}, { preferred: new Set([asId<PersonId>(2)]) }],
    ['was there last', {}, { lastThere: { personId: asId<PersonId>(2), at: at(0) } }],
  ])('of two alike is who is %s', (says, over, p) => {
    const two = [person(1, 50), person(2, 50, over)];
    expect(ids(two, work(), promised(p))).toEqual([2, 1]);
    const [first] = candidatesFor(two, work(), promised(p), at(480), ROADS).can;
    expect(first && sayFor(first)).toContain(says);
  });

  it('is rather who has a certificate for long and more time left; the longer of two counts', () => {
    const skills = [{ skillId: asId<SkillId>(5), name: 'Refrigerants' }];
    const holds = (id: number, ...until: string[]) =>
      person(id, 50, { skills: until.map((u) => ({ skillId: asId<SkillId>(5), until: asLocalDate(u) })) });
    expect(
      ids([holds(1, '2026-12-01'), holds(2, '2027-12-01'), holds(3, '2026-11-30', '2028-01-01')], work({ skills })),
    ).toEqual([2, 3, 1]);
    const loaded = person(1, 50, { taken: [{ id: 1, span: span(800, 950), spot: spot('50') }] });
    expect(ids([loaded, person(2, 50)])).toEqual([2, 1]);
  });

  it('who cannot is named with every reason', () => {
    const away = person(1, 50, { absences: [{ ...span(480, 960), why: 'on leave' }] });
    const { can, cannot } = candidatesFor([away], work({ lacks: 'TN-4' }), promised(), at(480), ROADS);
    expect(can).toEqual([]);
    expect(cannot[0]?.reasons.map((r) => r.text)).toEqual([
      'on leave',
      'TN-4 is not to be had',
      'the day is not open for them',
    ]);
  });

  it('leaves nobody out, proposes only what nothing speaks against, and in the same order however they are given', () => {
    const days = fc.array(
      fc.record({
        where: fc.integer({ min: 0, max: 200 }),
        busy: fc.array(fc.tuple(fc.integer({ min: 48, max: 80 }), fc.integer({ min: 1, max: 12 })), { maxLength: 2 }),
        sick: fc.boolean(),
      }),
      { minLength: 1, maxLength: 8 },
    );
    fc.assert(
      fc.property(days, fc.option(fc.integer({ min: 480, max: 1000 }), { nil: null }), (drawn, due) => {
        const all = drawn.map(({ where, busy, sick }, i) => {
          const taken = busy
            .map(([from, n], k) => ({ id: k, span: span(from * 10, from * 10 + n * 10), spot: spot(String(where)) }))
            .sort((a, b) => a.span.from - b.span.from);
          return person(i + 1, where, { taken, ...(sick && { absences: [{ ...span(0, 700), why: 'sick' }] }) });
        });
        const p = promised({ dueAt: due === null ? null : at(due) });
        const said = candidatesFor(all, work(), p, at(500), ROADS);
        expect([...said.can, ...said.cannot].map((c) => c.personId as number).sort((a, b) => a - b)).toEqual(
          all.map((_, i) => i + 1),
        );
        for (const c of said.can) {
          const own = all.find((d) => d.personId === c.personId) as PersonDay;
          expect(reasonsAgainst(own, work(), c.span, ROADS)).toEqual([]);
          expect(c.span.from).toBeGreaterThanOrEqual(at(500));
        }
        for (const c of said.cannot) expect(c.reasons.length).toBeGreaterThan(0);
        expect(candidatesFor([...all].reverse(), work(), p, at(500), ROADS).can).toEqual(said.can);
      }),
      { numRuns: 300 },
    );
  });
});
