// Counts: what was found against what should be there, and who loses what is not.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type NeedId } from '../ids.ts';
import { asInstant, asLocalDate } from '../time/index.ts';
import { compareNeeds, countAgainst, keptOfHeld, type HeldForNeed } from './index.ts';

describe('a count', () => {
  it('is what was found less what should have been there, and names the units', () => {
    expect(countAgainst({ onHand: 5000, serials: [] }, { thousandths: 3500, serials: [] })).toEqual({
      ...{ difference: -1500, missing: [], found: [] },
    });
    const units = countAgainst({ onHand: 2000, serials: ['A', 'B'] }, { thousandths: 2000, serials: ['B', 'C'] });
    expect(units).toEqual({ difference: 0, missing: ['A'], found: ['C'] });
  });
});

describe('what is held where less is there', () => {
  const held = (id: number, n: number, day: string | null, priority = 3): HeldForNeed => ({
    ...{ id: asId<NeedId>(id), held: n, day: day === null ? null : asLocalDate(day), priority },
    askedAt: asInstant('2026-11-24T09:00:00Z'),
  });

  it('is kept by those whose turn is first, and lost by the last', () => {
    const all = [held(1, 2000, '2026-12-04'), held(2, 2000, '2026-11-25'), held(3, 1000, null)];
    expect([...keptOfHeld(all, 3000)].sort(([a], [b]) => a - b)).toEqual([
      [1, 1000],
      [2, 2000],
      [3, 0],
    ]);
    expect([...keptOfHeld(all, -1000).values()]).toEqual([0, 0, 0]);
  });

  it('is in all what is there, and nobody keeps anything while one before them lost some', () => {
    const some = fc.array(
      fc.record({
        n: fc.integer({ min: 1, max: 9 }),
        day: fc.integer({ min: 1, max: 28 }),
        priority: fc.integer({ min: 1, max: 4 }),
      }),
      { maxLength: 7 },
    );
    fc.assert(
      fc.property(some, fc.nat(40), (given, there) => {
        const all = given.map((g, i) => held(i + 1, g.n, `2026-12-${String(g.day).padStart(2, '0')}`, g.priority));
        const kept = keptOfHeld(all, there);
        const sum = [...kept.values()].reduce((a, b) => a + b, 0);
        expect(sum).toBe(
          Math.min(
            there,
            given.reduce((a, g) => a + g.n, 0),
          ),
        );
        const inTurn = [...all].sort(compareNeeds).map((h) => [h.held, kept.get(h.id) ?? 0] as const);
        const firstShort = inTurn.findIndex(([had, has]) => has < had);
        if (firstShort >= 0) expect(inTurn.slice(firstShort + 1).every(([, has]) => has === 0)).toBe(true);
      }),
    );
  });
});
