import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, asLocalDate } from '../time/index.ts';
import { isInTrouble, proposalsFor, PROPOSALS, type ReviewedMachine, type ReviewFacts } from './index.ts';

const TODAY = asLocalDate('2026-11-24');
const machine = (over: Partial<ReviewedMachine> = {}): ReviewedMachine => ({
  ...{ id: 1, tag: 'Q0001', model: 'PLF-410', commissioned: asLocalDate('2020-05-01'), failures: 0, repeats: 0 },
  ...{ downMinutes: 0, cost: 0, earned: 100_000 },
  ...over,
});
const facts = (over: Partial<ReviewFacts> = {}): ReviewFacts => ({
  ...{ today: TODAY, termTo: asLocalDate('2028-12-31'), noticeBy: null, renewsItself: false },
  ...{ attainment: 0.99, compliance: 1, attainmentAgreed: 0.95, complianceAgreed: 0.95, misses: [] },
  ...{ earned: 1_000_000, cost: 400_000, machines: [machine()] },
  ...over,
});
const said = (over: Partial<ReviewFacts>): (readonly [string, number | null, string])[] =>
  proposalsFor(facts(over)).map((p) => [p.kind, p.machineId, p.because] as const);

describe('a review proposes', () => {
  it('nothing where all is well', () => expect(said({})).toEqual([]));

  it('to renew from 180 days before the end on', () => {
    expect(said({ termTo: addDays(TODAY, 181) })).toEqual([]);
    expect(said({ termTo: addDays(TODAY, 180) })[0]?.[0]).toBe('renew');
    expect(
      said({ termTo: asLocalDate('2026-12-31'), noticeBy: asLocalDate('2026-11-30'), renewsItself: true }),
    ).toEqual([
      [
        'renew',
        null,
        'it goes on by itself after Thu 31 Dec 2026, notice by Mon 30 Nov 2026; it took 40 % of its fees',
      ],
    ]);
    expect(said({ termTo: null })).toEqual([]);
  });

  it('to price it anew where less than a tenth is left, whenever it ends', () => {
    expect(said({ cost: 900_000 })).toEqual([]);
    expect(said({ cost: 900_001 })).toEqual([['reprice', null, 'it took 90 % of its fees']]);
    expect(said({ cost: 1_200_000 })).toEqual([['reprice', null, 'it cost 120 % of its fees']]);
  });

  it('to work on the commonest cause where fewer promises were kept than agreed', () => {
    const misses = [
      { cause: 'came late' as const, missed: 2 },
      { cause: 'no access' as const, missed: 3 },
      { cause: 'no access' as const, missed: 2 },
      { cause: null, missed: 1 },
    ];
    expect(said({ attainment: 0.949, misses })).toEqual([
      ['prevent misses', null, '94.9 % of the promises were kept, 95 % are agreed; 5 of 8 missed: no access'],
    ]);
    expect(said({ attainment: 0.5, attainmentAgreed: null, misses })).toEqual([]);
  });

  it('to keep windows against what is agreed, or else what is usual', () => {
    expect(said({ compliance: 0.9, complianceAgreed: 0.9 })).toEqual([]);
    expect(said({ compliance: 0.9, complianceAgreed: null })).toEqual([
      ['keep windows', null, '90 % of the visits were done in their windows, 95 % are usual'],
    ]);
    expect(said({ compliance: null })).toEqual([]);
  });

  it.each<[string, Partial<ReviewedMachine>, string | null]>([
    ['one failure of an old machine', { failures: 1, commissioned: asLocalDate('2010-01-01') }, null],
    ['two of one ten years old to the day', { failures: 2, commissioned: asLocalDate('2016-11-24') }, 'retire'],
    ['two of a younger one', { failures: 2, commissioned: asLocalDate('2016-11-25') }, null],
    ['two of one that took three times its share', { failures: 2, cost: 300_000 }, 'retire'],
    ['two of one that took less', { failures: 2, cost: 299_999 }, null],
    ['two where nobody says what it cost', { failures: 2, cost: null, earned: null }, null],
    ['three', { failures: 3 }, 'more upkeep'],
    ['two, one of them soon again', { failures: 2, repeats: 1 }, 'more upkeep'],
    ['two of one of unknown age', { failures: 2, commissioned: null }, null],
  ])('of %s', (_, over, kind) =>
    expect(proposalsFor(facts({ machines: [machine(over)] })).map((p) => p.kind)).toEqual(kind === null ? [] : [kind]),
  );

  it('with the figures it rests on', () =>
    expect(
      said({
        machines: [machine({ failures: 3, repeats: 2, commissioned: asLocalDate('2012-01-01'), cost: 450_000 })],
      }),
    ).toEqual([
      [
        'retire',
        1,
        'it was down 3 times, twice within thirty days after it was mended, is 14 years old, took 4.5 times its share of the fees',
      ],
    ]));

  it('in one order, of each machine at most one thing, and nothing that rests on money where none is known', () => {
    const machines = fc.array(
      fc.record({
        ...{ failures: fc.nat(5), repeats: fc.nat(3), cost: fc.nat(1_000_000), earned: fc.nat(300_000) },
        commissioned: fc.integer({ min: 0, max: 8000 }).map((n) => addDays(TODAY, -n)),
      }),
      { maxLength: 6 },
    );
    fc.assert(
      fc.property(machines, fc.nat(2_000_000), fc.integer({ min: -50, max: 400 }), (all, cost, left) => {
        const own = all.map((m, i) => machine({ ...m, id: i, repeats: Math.min(m.repeats, m.failures) }));
        const known = facts({ machines: own, cost, termTo: addDays(TODAY, left) });
        const found = proposalsFor(known);
        const ranks = found.map((p) => PROPOSALS.indexOf(p.kind));
        expect(ranks).toEqual([...ranks].sort((a, b) => a - b));
        const about = found.flatMap((p) => p.machineId ?? []);
        expect(new Set(about).size).toBe(about.length);
        expect(about.every((id) => isInTrouble(own[id] as ReviewedMachine))).toBe(true);
        const blind = proposalsFor({
          ...known,
          ...{ earned: null, cost: null, machines: own.map((m) => ({ ...m, cost: null, earned: null })) },
        });
        expect(blind.some((p) => p.kind === 'reprice' || /fees/.test(p.because))).toBe(false);
      }),
    );
  });
});
