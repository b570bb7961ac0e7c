import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, asLocalDate } from '../time/index.ts';
import { coveredAlready, termsOverlap } from './index.ts';

const term = (from: string, to: string | null) => ({
  from: asLocalDate(from),
  to: to === null ? null : asLocalDate(to),
});

describe('overlapping lines', () => {
  it.each([
    ['the last day of one is the first of the other', '2026-01-01', '2026-06-30', '2026-06-30', null, true],
    ['one follows the other', '2026-01-01', '2026-06-30', '2026-07-01', null, false],
    ['one lies inside the other', '2026-01-01', null, '2026-03-01', '2026-03-02', true],
    ['both are open', '2026-01-01', null, '2030-01-01', null, true],
  ] as const)('%s', (_, f1, t1, f2, t2, overlap) => {
    expect(termsOverlap(term(f1, t1), term(f2, t2))).toBe(overlap);
    expect(termsOverlap(term(f2, t2), term(f1, t1))).toBe(overlap);
  });

  it('terms overlap exactly when they share a day', () => {
    const start = asLocalDate('2026-01-01');
    const any = fc.record({ from: fc.nat(40), days: fc.nat(20) }).map(({ from, days }) => ({
      from: addDays(start, from),
      to: addDays(start, from + days),
    }));
    const days = (t: { from: string; to: string }) =>
      Array.from({ length: 80 }, (_, i) => addDays(start, i)).filter((d) => d >= t.from && d <= t.to);
    fc.assert(
      fc.property(any, any, (a, b) => {
        expect(termsOverlap(a, b)).toBe(days(a).some((d) => days(b).includes(d)));
      }),
    );
  });

  it('only lines that name the same thing are told, not a machine beside its place', () => {
    const held = [
      { names: 'asset 1', term: term('2026-01-01', '2026-06-30') },
      { names: 'place 5', term: term('2026-01-01', null) },
    ];
    const added = [
      { names: 'asset 1', term: term('2026-03-01', null) },
      { names: 'asset 2', term: term('2026-03-01', null) },
      { names: 'place 5', term: term('2025-01-01', '2025-12-31') },
    ];
    expect(coveredAlready(held, added)).toEqual([added[0]]);
  });
});
