// An asset's row and past stays, built from its facts.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, asLocalDate, type LocalDate } from '../time/index.ts';
import { afterFact, sparingly, type AssetFact, type KnownAsset } from './facts.ts';

type Fact = AssetFact<number, number, number>;
type Known = KnownAsset<number, number, number>;

const DAY_0 = asLocalDate('2026-01-01');
const day = (n: number): LocalDate => addDays(DAY_0, n);
const registered: Fact = {
  kind: 'registered',
  asset: { customerId: 1, classId: 2, maker: 'Vessmark', model: 'INC-240', serial: 'S1', tag: 'T1', locationId: 100 },
};
const build = (facts: readonly Fact[]): Known => facts.reduce<Known | null>(afterFact, null) as Known;

/** Where the asset stood on a day, by its stays and its row. */
const stoodAt = ({ asset, stays }: Known, on: LocalDate): number | null =>
  (stays.find((s) => on < s.until) ?? asset).locationId;

describe('an asset built from its facts', () => {
  it('begins with its registration, or is a fault', () => {
    expect(() => afterFact(null, { kind: 'changed', set: { tag: 'T2' } })).toThrow('begins with “changed”');
    expect(build([registered]).asset).toMatchObject({ state: 'in service', warrantyLabour: 100, parentId: null });
  });

  it('registered sparingly, is the same', () => {
    const full = build([registered]).asset;
    const short = sparingly(full);
    expect(Object.keys(short)).toHaveLength(7);
    expect(build([{ kind: 'registered', asset: short }]).asset).toEqual(full);
    const odd = { ...full, warrantyLabour: 0, state: 'in store' as const, locationId: null };
    expect(build([{ kind: 'registered', asset: sparingly(odd) }]).asset).toEqual(odd);
  });

  it('stands on any day where the moves that were not replaced put it', () => {
    const move = fc.record({ on: fc.integer({ min: 0, max: 30 }), to: fc.integer({ min: 101, max: 104 }) });
    fc.assert(
      fc.property(fc.array(move, { maxLength: 10 }), fc.integer({ min: -5, max: 35 }), (moves, asked) => {
        const known = build([
          registered,
          ...moves.map(({ on, to }): Fact => ({ kind: 'moved', on: day(on), locationId: to, parentId: null })),
        ]);
        // Told by hand: a move replaces those of its day and later; one to the place where it stands already is none.
        let told: { on: number; to: number }[] = [];
        let stands = 100;
        for (const m of moves) {
          if (m.to === stands) continue;
          told = [...told.filter((t) => t.on < m.on), m];
          stands = m.to;
        }
        const expected = told.filter((t) => t.on <= asked).at(-1)?.to ?? 100;
        expect(stoodAt(known, day(asked))).toBe(expected);
        expect(known.stays.map((s) => s.until)).toEqual([...known.stays.map((s) => s.until)].sort());
      }),
      { numRuns: 500 },
    );
  });

  it('is rented out from the day it stands at a place, if it is of the own fleet', () => {
    const store: Fact = { kind: 'removed', on: day(5) };
    const own: Fact = { kind: 'changed', set: { owner: 'own fleet' } };
    const there: Fact = { kind: 'installed', on: day(9), locationId: 101, parentId: null };
    expect(build([registered, own, store]).asset.rentedSince).toBeNull();
    expect(build([registered, own, store, there]).asset.rentedSince).toBe(day(9));
    expect(build([registered, store, there]).asset.rentedSince).toBeNull();
    expect(build([registered, own, store, there, { kind: 'scrapped', on: day(20) }]).asset).toMatchObject({
      rentedSince: null,
      state: 'retired',
      locationId: 101,
    });
  });

  it('swapped in for another takes its customer, place and parent from the day on', () => {
    const swapped: Fact = { kind: 'swapped in', on: day(3), for: 9, customerId: 7, locationId: 102, parentId: 55 };
    const known = build([registered, { kind: 'removed', on: day(1) }, swapped]);
    expect(known.asset).toMatchObject({ customerId: 7, locationId: 102, parentId: 55, state: 'in service' });
    expect(known.stays).toEqual([
      { until: day(1), locationId: 100, customerId: 1 },
      { until: day(3), locationId: null, customerId: 1 },
    ]);
  });

  it('of a place that was merged stood at the kept one all along', () => {
    const moved: Fact = { kind: 'moved', on: day(3), locationId: 101, parentId: null };
    const known = build([registered, moved, { kind: 'place merged', gone: 100, kept: 104 }]);
    expect([stoodAt(known, day(0)), stoodAt(known, day(4))]).toEqual([104, 101]);
  });
});
