import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type PersonId, type SkillId } from '../ids.ts';
import { asLocalDate, asZone, instant, MINUTE, type InstantSpan } from '../time/index.ts';
import {
  checkAbsence,
  checkSpan,
  decideAppointment,
  latestStart,
  minutesWith,
  reasonsAgainst,
  type Goer,
  type PersonDay,
  type Roads,
  type Spot,
  type Work,
} from './index.ts';

const BEGIN = Date.UTC(2026, 10, 24);
const at = (minute: number) => instant(BEGIN + minute * MINUTE);
const span = (from: number, to: number): InstantSpan => ({ from: at(from), to: at(to) });
const spot = (key: string): Spot => ({ key, at: null });
/** Places lie on a road, a minute a step. */
const ROADS: Roads = {
  rules: { detour: 1, bands: [], fixedMinutes: 0 },
  known: (from, to) => Math.abs(Number(from) - Number(to)),
};
const goer = (id: number, over: Partial<PersonDay> = {}): Goer => ({
  name: ['', 'Lia', 'Rui'][id] ?? '',
  day: {
    ...{ personId: asId<PersonId>(id), date: asLocalDate('2026-11-24'), start: spot('100') },
    ...{ open: [span(480, 960)], absences: [], taken: [], skills: [], ...over },
  },
});
const GAS = asId<SkillId>(5);
const work = (over: Partial<Work> = {}): Work => ({
  ...{ spot: spot('100'), minutes: 60, skills: [], blocked: new Set(), window: null, site: null, lacks: null },
  ...over,
});
const NO = { anyway: false, overlapReason: '' };
const said = (people: readonly Goer[], w: Work, s: InstantSpan, yes = NO): string[] => {
  const answer = decideAppointment(people, w, s, yes, ROADS);
  return answer.ok
    ? ['yes', ...answer.value.map((r) => r.what)]
    : answer.refusals.map((r) => `${r.field}: ${r.message}`);
};

// Source of the rules: domain-work, Rota, and its settled questions.
describe('an appointment', () => {
  it('lasts, begins and ends at steps, and is no longer than any day', () => {
    const fields = (from: number, to: number) => checkSpan(span(from, to)).map((r) => r.field);
    expect([fields(600, 660), fields(601, 661), fields(600, 600), fields(600, 663), fields(0, 961)]).toEqual([
      [],
      ['from'],
      ['minutes'],
      ['minutes'],
      ['minutes'],
    ]);
    expect(fields(0, 960)).toEqual([]);
  });

  it('of a crew has the skills of all its people, and names what is of the work once', () => {
    const skilled = goer(2, { skills: [{ skillId: GAS, until: null }] });
    const needs = work({ skills: [{ skillId: GAS, name: 'Gas' }], site: [span(700, 800)] });
    expect(said([goer(1), skilled], needs, span(720, 780))).toEqual(['yes']);
    expect(said([goer(1)], needs, span(720, 780))).toEqual(['people: Lia: Gas is not theirs.']);
    expect(said([goer(1), skilled], needs, span(600, 660))).toEqual(['people: Lia: the place is not open then.']);
    // Each of them must be there: an absence of the second counts.
    const sick = goer(2, { absences: [{ ...span(480, 960), why: 'sick' }] });
    expect(said([goer(1), sick], work(), span(600, 660), { ...NO, anyway: true })).toEqual(['people: Rui: sick.']);
  });

  it('breaks a window or open time after a yes only, and says what it breaks', () => {
    const late = work({ window: span(500, 600) });
    expect(said([goer(1)], late, span(930, 990))).toEqual([
      'anyway: Lia: it does not begin inside its window. Say yes to it, or choose another time.',
      'anyway: Lia: it does not lie inside their open time. Say yes to it, or choose another time.',
    ]);
    expect(said([goer(1)], late, span(930, 990), { ...NO, anyway: true })).toEqual(['yes', 'window', 'open time']);
  });

  it('of somebody who is elsewhere then needs a reason; the way between the two is not asked for then', () => {
    const busy = goer(1, { taken: [{ id: 9, span: span(600, 700), spot: spot('160') }] });
    expect(said([busy], work(), span(650, 710), { ...NO, anyway: true })).toEqual([
      'overlapReason: Lia: they are elsewhere then. Say why, if they are to be in both.',
    ]);
    expect(said([busy], work(), span(650, 710), { anyway: true, overlapReason: 'shows both' })[0]).toBe('yes');
    // Without an overlap the way stays what it is.
    const before = said([busy], work(), span(705, 765), { anyway: true, overlapReason: 'no matter' });
    expect(before).toEqual(['people: Lia: 60 min to get there, 5 min since the one before.']);
  });

  it('of one person is refused exactly where something speaks against it that was not said yes to', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 80, max: 200 }),
        fc.integer({ min: 1, max: 30 }),
        fc.option(fc.tuple(fc.integer({ min: 90, max: 180 }), fc.integer({ min: 1, max: 20 })), { nil: null }),
        fc.boolean(),
        fc.boolean(),
        (begins, steps, busy, anyway, isReasoned) => {
          const person = goer(1, {
            taken: busy ? [{ id: 1, span: span(busy[0] * 5, (busy[0] + busy[1]) * 5), spot: spot('110') }] : [],
          });
          const s = span(begins * 5, (begins + steps) * 5);
          const against = reasonsAgainst(person.day, work(), s, ROADS).map((r) => r.what);
          const overlaps = against.includes('overlap');
          const stands = against.every(
            (what) =>
              (what === 'open time' && anyway) || (isReasoned && overlaps && (what === 'overlap' || what === 'travel')),
          );
          const yes = { anyway, overlapReason: isReasoned ? 'meant' : '' };
          expect(decideAppointment([person], work(), s, yes, ROADS).ok).toBe(stands);
        },
      ),
      { numRuns: 500 },
    );
  });
});

describe('time at the place', () => {
  // Source: checks, facts of the trade: hours on site = contracted hours per visit ÷ crew size.
  it('is shared by a crew, in whole steps', () => {
    expect(minutesWith(360, 1, 2)).toBe(180);
    expect(minutesWith(90, 2, 1)).toBe(180);
    expect(minutesWith(100, 1, 3)).toBe(35);
    expect(minutesWith(60, 1, 1)).toBe(60);
  });
});

describe('the latest start', () => {
  it('is the first end less the way, and less the work where the end must be reached', () => {
    const arrival = { dueAt: at(700), stopsAt: 'arrival' } as const;
    const end = { dueAt: at(740), stopsAt: 'end' } as const;
    expect(latestStart([arrival], null, 60, 20)).toBe(at(680));
    expect(latestStart([arrival, end], null, 60, 20)).toBe(at(660));
    expect(latestStart([], span(500, 650), 60, 20)).toBe(at(630));
    expect(latestStart([], null, 60, 20)).toBeNull();
  });
});

describe('an absence', () => {
  const zone = asZone('Europe/Lisbon');
  const fields = (s: InstantSpan) => checkAbsence(s, [{ ...span(600, 700), kind: 'leave' }], zone).map((r) => r.field);
  it('ends after it begins, is of a year at most, and meets no other; touching is no overlap', () => {
    expect(fields(span(500, 500))).toEqual(['to']);
    expect(fields(span(800, 800 + 367 * 1440))).toEqual(['to']);
    expect(fields(span(699, 800))).toEqual(['from']);
    expect([fields(span(700, 800)), fields(span(500, 600))]).toEqual([[], []]);
  });
});
