// How a part's quantity went, against a day that is counted forwards; months; where a unit is; what a return comes to.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, asLocalDate, daysBetween } from '../time/index.ts';
import { byMonth, onHandByDay, turnoverOf } from './course.ts';
import { answerReturn, RETURN_STAGES } from './going-back.ts';
import { partWarrantyUntil, whereUnitIs, type UnitStep } from './unit.ts';

const TODAY = asLocalDate('2026-11-24');

describe('what was on hand by day', () => {
  it('is worked back from what is there now', () => {
    const from = addDays(TODAY, -3);
    const moved = [
      { day: addDays(TODAY, -2), thousandths: 5000 },
      { day: addDays(TODAY, -2), thousandths: -1000 },
      { day: TODAY, thousandths: -500 },
      { day: addDays(TODAY, -9), thousandths: 9000 },
    ];
    expect(onHandByDay(7500, moved, from, TODAY).map((d) => d.thousandths)).toEqual([4000, 8000, 8000, 7500]);
  });

  it('is what the moves come to counted forwards, for any moves', () => {
    const moves = fc.array(
      fc.record({ ago: fc.integer({ min: 0, max: 30 }), n: fc.integer({ min: -3000, max: 9000 }) }),
      { maxLength: 40 },
    );
    fc.assert(
      fc.property(moves, fc.integer({ min: 0, max: 30 }), (all, shown) => {
        const moved = all.map(({ ago, n }) => ({ day: addDays(TODAY, -ago), thousandths: n }));
        const sumUntil = (day: string): number => moved.reduce((sum, m) => sum + (m.day <= day ? m.thousandths : 0), 0);
        const from = addDays(TODAY, -shown);
        const days = onHandByDay(sumUntil(TODAY), moved, from, TODAY);
        expect(days).toHaveLength(daysBetween(from, TODAY) + 1);
        for (const d of days) expect(d.thousandths).toBe(sumUntil(d.day));
      }),
    );
  });
});

describe('months', () => {
  it('go over the year, with those of nothing between', () => {
    const all = [
      { day: asLocalDate('2026-12-31'), thousandths: 2000 },
      { day: asLocalDate('2027-02-01'), thousandths: 500 },
      { day: asLocalDate('2027-02-28'), thousandths: 250 },
      { day: asLocalDate('2026-11-30'), thousandths: 9 },
    ];
    expect(byMonth(all, '2026-12', 3)).toEqual([
      { month: '2026-12', thousandths: 2000 },
      { month: '2027-01', thousandths: 0 },
      { month: '2027-02', thousandths: 750 },
    ]);
  });

  it('say how often a store was turned over: worth taken over the mean of both ends of the year', () => {
    expect(turnoverOf(300_000, 80_000, 120_000)).toBe(300);
    expect(turnoverOf(0, 80_000, 120_000)).toBe(0);
    expect(turnoverOf(1, 200, 0)).toBe(1);
    expect(turnoverOf(5000, 0, 0)).toBeNull();
  });
});

describe('a unit', () => {
  const step = (kind: UnitStep['kind'], thousandths = 1000): UnitStep => ({ kind, thousandths });
  it.each([
    ['in store', [step('receipt')]],
    ['in store', [step('receipt'), step('transfer', -1000), step('transfer')]],
    ['built in', [step('receipt'), step('issue', -1000), step('variance', 0)]],
    ['built in', [step('built in')]],
    ['in store', [step('built in'), step('return')]],
    ['sent back', [step('built in'), step('return'), step('to supplier', -1000)]],
    ['thrown away', [step('receipt'), step('scrap', -1000)]],
    ['missing', [step('receipt'), step('count', -1000)]],
    ['in store', [step('receipt'), step('count', -1000), step('count')]],
    [null, []],
  ])('is %s', (where, steps) => {
    expect(whereUnitIs(steps)).toBe(where);
  });

  it('is warranted from the day it was built in, its last day included; without a promise not at all', () => {
    expect(partWarrantyUntil(24, asLocalDate('2026-11-24'))).toBe('2028-11-23');
    expect(partWarrantyUntil(1, asLocalDate('2027-01-31'))).toBe('2027-02-27');
    expect(partWarrantyUntil(0, TODAY)).toBeNull();
  });
});

describe('what goes back to a supplier', () => {
  it('leaves the difference to what is given for it; replaced it leaves none', () => {
    expect(answerReturn('sent', 12_000, { stage: 'credited', credit: 9000 })).toEqual({
      ok: true,
      value: { stage: 'credited', credit: 9000, variance: 3000 },
    });
    expect(answerReturn('sent', 0, { stage: 'credited', credit: 4500 })).toMatchObject({ value: { variance: -4500 } });
    expect(answerReturn('sent', 12_000, { stage: 'replaced', credit: null })).toMatchObject({ value: { variance: 0 } });
    expect(answerReturn('sent', 12_000, { stage: 'refused', credit: null })).toMatchObject({
      value: { variance: 12_000 },
    });
  });

  it.each([
    ['without its amount', 'sent', { stage: 'credited', credit: null }, 'credit'],
    ['below nothing', 'sent', { stage: 'credited', credit: -1 }, 'credit'],
    ['that is replaced with an amount', 'sent', { stage: 'replaced', credit: 5 }, 'credit'],
  ] as const)('is refused %s', (_, was, answer, field) => {
    expect(answerReturn(was, 100, answer)).toMatchObject({ ok: false, refusals: [{ field }] });
  });

  it('is answered once', () => {
    for (const was of RETURN_STAGES.filter((s) => s !== 'sent'))
      expect(answerReturn(was, 100, { stage: 'refused', credit: null })).toMatchObject({
        refusals: [{ code: 'wrong-stage' }],
      });
  });
});
