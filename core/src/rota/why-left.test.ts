// Why a plan left something out: the first thing that keeps it from every day, said in words.
import { describe, expect, it } from 'vitest';
import { asId, type PersonId, type SkillId } from '../ids.ts';
import { asLocalDate } from '../time/index.ts';
import { planFor, whyLeft, type Job, type PersonDay } from './index.ts';
import { at, job, person, ROADS, span } from './paper.testing.ts';

const skill = { skillId: asId<SkillId>(7), name: 'Pressure vessels' };
const nobody = new Set([asId<PersonId>(1), asId<PersonId>(2)]);
const full = { taken: [{ id: 1, span: span(480, 960), spot: { key: '0 0', at: null } }] };
const days = [person(1, [0, 0]), person(2, [10, 0])];

describe('work that a plan leaves out', () => {
  const cases: [string, Partial<Job>, PersonDay[], RegExp][] = [
    ['a part', { lacks: 'Door seal' }, days, /^Door seal is not to be had$/],
    ['the hours of its place', { site: [span(0, 300)] }, days, /^the place is not open on these days$/],
    ['a skill that is nobody’s', { skills: [skill] }, days, /^nobody’s Pressure vessels holds on these days$/],
    ['whom the customer does not want', { blocked: nobody }, days, /^the customer does not want/],
    ['no room', { site: [span(480, 960)] }, days.map((d) => ({ ...d, ...full })), /^nobody who may do it has room/],
    [
      'no room for two',
      { people: 2, site: [span(480, 960)] },
      [days[0] as PersonDay, { ...(days[1] as PersonDay), ...full }],
      /^no 2 people/,
    ],
    ['leave', {}, days.map((d) => ({ ...d, absences: [{ ...span(0, 1440), why: 'leave' }] })), /^nobody is there/],
    ['nobody’s day', {}, days.map((d) => ({ ...d, open: [] })), /^nobody is there on these days$/],
  ];
  for (const [what, over, whose, says] of cases)
    it(`is left for ${what}, and says so`, () => {
      const work = job(1, [5, 5], over);
      expect(planFor({ days: whose, jobs: [work], now: at(0), roads: ROADS, seed: 1 }).left).toEqual([0]);
      expect(whyLeft(work, whose, ROADS)).toMatch(says);
    });

  it('is left for a way that nobody knows, and for a skill that lapsed before', () => {
    const roads = { ...ROADS, known: () => undefined };
    expect(whyLeft(job(1, [5, 5]), days, roads)).toMatch(/^the travel is unknown/);
    const lapsed = days.map((d) => ({ ...d, skills: [{ skillId: skill.skillId, until: asLocalDate('2026-11-23') }] }));
    expect(whyLeft(job(1, [5, 5], { skills: [skill] }), lapsed, ROADS)).toMatch(/^nobody’s Pressure/);
    const holds = lapsed.map((d) => ({ ...d, skills: [{ skillId: skill.skillId, until: d.date }] }));
    expect(whyLeft(job(1, [5, 5], { skills: [skill] }), holds, ROADS)).toMatch(/^nobody who may/);
  });
});
