// Allowances: the period they count in, what is carried over, and that nothing is drawn below zero.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type AllowanceId } from '../ids.ts';
import { addDays, asLocalDate } from '../time/index.ts';
import { allowancePeriodAt, drawFrom, leftOf, sayAllowance, type Allowance } from './index.ts';

const d = asLocalDate;
const term = { from: d('2025-03-15'), to: null };
const callOuts = (over: Partial<Allowance> = {}): Allowance => ({
  key: { kind: 'agreement', id: asId<AllowanceId>(1) },
  unit: 'call-outs',
  amount: 5,
  period: 'agreement year',
  carriesOver: false,
  ...over,
});

describe('the period of an allowance', () => {
  it.each([
    ['agreement year', '2025-03-15', '2025-03-15', '2026-03-14'],
    ['agreement year', '2026-03-14', '2025-03-15', '2026-03-14'],
    ['agreement year', '2026-03-15', '2026-03-15', '2027-03-14'],
    ['quarter', '2025-09-14', '2025-06-15', '2025-09-14'],
    ['quarter', '2025-09-15', '2025-09-15', '2025-12-14'],
  ] as const)('%s on %s runs from %s to %s', (period, on, from, to) => {
    expect(allowancePeriodAt(period, term, d(on))).toEqual({ from, to });
  });
  it('ends with the term', () => {
    expect(allowancePeriodAt('quarter', { ...term, to: d('2025-07-31') }, d('2025-07-01'))).toEqual({
      from: '2025-06-15',
      to: '2025-07-31',
    });
  });
  it('from the 31st keeps to the ends of shorter months without drifting', () => {
    const starts = [0, 3, 6, 9].map(
      (n) => allowancePeriodAt('quarter', { from: d('2025-08-31'), to: null }, addDays(d('2025-09-15'), n * 31)).from,
    );
    expect(starts).toEqual(['2025-08-31', '2025-11-30', '2026-02-28', '2026-05-31']);
  });
});

describe('what is left', () => {
  it('counts draws of the period only, and names the day it was used up', () => {
    const draws = ['2026-03-14', '2026-04-01', '2026-05-01', '2026-06-01', '2026-07-01', '2026-10-03'].map((on) => ({
      on: d(on),
      amount: 1,
    }));
    const left = leftOf(callOuts(), term, draws, d('2026-11-24'));
    expect(left).toMatchObject({ granted: 5, drawn: 5, usedUpOn: '2026-10-03' });
    expect(sayAllowance(left)).toBe('its 5 call-outs for the agreement year are used up since 3 Oct 2026');
    expect(sayAllowance(leftOf(callOuts(), term, draws, d('2027-03-15')))).toBe(
      '5 call-outs left of 5 call-outs for the agreement year',
    );
  });

  it('carries the unused part of a period into the next one, and no further', () => {
    const hours = callOuts({ unit: 'hours', amount: 720, carriesOver: true });
    expect(leftOf(hours, term, [{ on: d('2025-06-01'), amount: 600 }], d('2026-04-01')).granted).toBe(840);
    // Nothing drawn in two years: only the second year’s own amount is carried.
    expect(leftOf(hours, term, [], d('2027-04-01')).granted).toBe(1440);
    // What was carried in is drawn first, so the own amount of the second year stays whole.
    const draws = [{ on: d('2026-04-01'), amount: 720 }];
    expect(leftOf(hours, term, draws, d('2027-04-01')).granted).toBe(1440);
  });

  it('an allowance of nothing is used up from the start', () => {
    expect(leftOf(callOuts({ amount: 0 }), term, [], d('2026-04-01')).usedUpOn).toBe('2026-03-15');
  });
});

describe('drawing', () => {
  it('refuses a call-out when none is left, and gives of hours what is left', () => {
    const none = leftOf(callOuts({ amount: 1 }), term, [{ on: d('2026-04-01'), amount: 1 }], d('2026-05-01'));
    expect(drawFrom(none, 1)).toMatchObject({ ok: false, refusals: [{ field: 'allowance' }] });
    const hours = leftOf(
      callOuts({ unit: 'hours', amount: 90 }),
      term,
      [{ on: d('2026-04-01'), amount: 60 }],
      d('2026-05-01'),
    );
    expect(drawFrom(hours, 120)).toEqual({ ok: true, value: 30 });
    expect(sayAllowance(hours)).toBe('30 min of labour left of 1 h 30 min of labour for the agreement year');
  });

  it('never takes more than was granted, whatever is asked and in whatever order', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(200), { maxLength: 20 }), fc.nat(500), fc.boolean(), (asked, amount, carriesOver) => {
        const hours = callOuts({ unit: 'hours', amount, carriesOver, period: 'quarter' });
        const draws: { on: ReturnType<typeof d>; amount: number }[] = [];
        asked.forEach((wanted, i) => {
          const on = addDays(term.from, i * 20);
          const drawn = drawFrom(leftOf(hours, term, draws, on), wanted);
          if (drawn.ok) draws.push({ on, amount: drawn.value });
          const { granted, drawn: taken } = leftOf(hours, term, draws, on);
          expect(taken).toBeLessThanOrEqual(granted);
          expect(granted).toBeLessThanOrEqual(2 * amount);
        });
      }),
    );
  });
});
