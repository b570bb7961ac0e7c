// What a store will have, against a day-by-day count, and what is ordered of it.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, asLocalDate, daysBetween } from '../time/index.ts';
import { projectStock, type ToProject } from './reorder.ts';

const TODAY = asLocalDate('2026-11-24');
const asked = (over: Partial<ToProject> = {}): ToProject => ({
  ...{ today: TODAY, leadDays: 5, reviewDays: 2, onHand: 6000, reserved: 1000, ordered: [], needs: [] },
  ...{ minimum: 3000, maximum: 10_000, pack: 1000, ...over },
});

describe('a proposal to order', () => {
  it('is made where what is free falls below the minimum within lead and review days, both ends counted', () => {
    const need = (days: number) => ({ needs: [{ day: addDays(TODAY, days), thousandths: 3000 }] });
    expect(projectStock(asked(need(7)))).toMatchObject({ belowOn: addDays(TODAY, 7), propose: 8000 });
    expect(projectStock(asked(need(8)))).toMatchObject({ belowOn: null, propose: 0 });
    expect(projectStock(asked()).days).toHaveLength(8);
  });

  it('goes up to the maximum in whole packs, and over it only to reach the minimum', () => {
    const low = { onHand: 2000, reserved: 0 };
    expect(projectStock(asked({ ...low, pack: 3000 })).propose).toBe(6000);
    expect(projectStock(asked({ ...low, minimum: 4000, maximum: 5000, pack: 10_000 })).propose).toBe(10_000);
    expect(projectStock(asked({ onHand: 500, reserved: 2000, maximum: 3000, pack: 2000 })).propose).toBe(6000);
  });

  it('counts what is overdue today, and needs nothing of what comes in time', () => {
    const late = addDays(TODAY, -3);
    expect(projectStock(asked({ needs: [{ day: late, thousandths: 3000 }] })).belowOn).toBe(TODAY);
    const ordered = [{ day: late, thousandths: 4000 }];
    expect(projectStock(asked({ onHand: 0, reserved: 0, ordered })).propose).toBe(0);
  });

  it('is a fault for a pack of nothing, or for a maximum below the minimum', () => {
    expect(() => projectStock(asked({ pack: 0 }))).toThrow();
    expect(() => projectStock(asked({ maximum: 1 }))).toThrow();
  });
});

it('is what a count of each single day comes to, for any orders and needs', () => {
  const dated = fc.array(fc.record({ in: fc.integer({ min: -5, max: 20 }), n: fc.integer({ min: 1, max: 9000 }) }), {
    maxLength: 6,
  });
  fc.assert(
    fc.property(
      dated,
      dated,
      fc.nat(9000),
      fc.nat(3000),
      fc.nat(9),
      fc.nat(5),
      fc.nat(4000),
      fc.nat(9000),
      fc.integer({ min: 1, max: 5 }),
      (o, n, onHand, reserved, leadDays, reviewDays, minimum, more, packs) => {
        const at = (all: typeof o) => all.map((d) => ({ day: addDays(TODAY, d.in), thousandths: d.n }));
        const given = asked({
          ordered: at(o),
          needs: at(n),
          onHand,
          reserved,
          leadDays,
          reviewDays,
          minimum,
          maximum: minimum + more,
          pack: packs * 500,
        });
        const found = projectStock(given);
        // Each day by itself: all that has come by then less all that has gone by then.
        const freeOn = (i: number): number => {
          const by = (all: typeof o): number => all.reduce((sum, d) => sum + (Math.max(0, d.in) <= i ? d.n : 0), 0);
          return onHand - reserved + by(o) - by(n);
        };
        const last = leadDays + reviewDays;
        expect(found.days.map((d) => [daysBetween(TODAY, d.day), d.thousandths])).toEqual(
          Array.from({ length: last + 1 }, (_, i) => [i, freeOn(i)]),
        );
        const isBelow = Array.from({ length: last + 1 }, (_, i) => freeOn(i)).some((free) => free < minimum);
        expect(found.belowOn !== null).toBe(isBelow);
        expect(found.propose % given.pack).toBe(0);
        if (!isBelow) {
          expect(found.propose).toBe(0);
          return;
        }
        const then = freeOn(last) + found.propose;
        expect(then).toBeGreaterThanOrEqual(minimum);
        // One pack less would be below the minimum, or one more above the maximum.
        if (found.propose > 0)
          expect(then > given.maximum ? then - given.pack < minimum : then + given.pack > given.maximum).toBe(true);
      },
    ),
    { numRuns: 400, seed: 8 },
  );
});
