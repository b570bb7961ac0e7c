// What was counted at places, divided among those below one of them.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addCounts, amissIn, NOTHING_COUNTED, type Counts } from './attainment.ts';
import { belowPlace, type CountedPlace } from './below.ts';

const few = fc.nat(5);
const counts: fc.Arbitrary<Counts> = fc
  .record({ met: few, missed: few, inWindow: few, late: few, declined: few })
  .map(({ late, ...n }) => ({ ...n, owed: n.inWindow + late }));
/** Trees of ids up to four deep: "/1/", "/1/12/", … where 1 and 12 begin alike. */
const path = fc.array(fc.constantFrom(1, 2, 12, 21), { minLength: 1, maxLength: 4 }).map((ids) => `/${ids.join('/')}/`);
const places: fc.Arbitrary<CountedPlace[]> = fc.array(fc.record({ path, counts }), { maxLength: 20 });

describe('places below one', () => {
  it('have each count once: all together are what was given', () => {
    fc.assert(
      fc.property(path, places, (at, counted) => {
        const { below, here, elsewhere } = belowPlace(at, counted);
        const all = [...below.values(), here, elsewhere].reduce(addCounts, NOTHING_COUNTED);
        expect(all).toEqual(counted.map((c) => c.counts).reduce(addCounts, NOTHING_COUNTED));
      }),
    );
  });

  it('have what is beneath them: gone into, one is the sum of its own', () => {
    fc.assert(
      fc.property(path, places, (at, counted) => {
        for (const [id, counts] of belowPlace(at, counted).below) {
          const inside = belowPlace(`${at}${id}/`, counted);
          expect([...inside.below.values(), inside.here].reduce(addCounts, NOTHING_COUNTED)).toEqual(counts);
        }
      }),
    );
  });

  it('are told apart by the whole of their ids, as worked by hand', () => {
    const one = (met: number, missed: number): Counts => ({ ...NOTHING_COUNTED, met, missed });
    const told = belowPlace('/1/', [
      { path: '/1/', counts: one(1, 0) },
      { path: '/1/2/', counts: one(2, 1) },
      { path: '/1/2/7/', counts: one(3, 0) },
      { path: '/1/21/', counts: one(0, 4) },
      { path: '/12/2/', counts: one(9, 9) },
    ]);
    expect([...told.below]).toEqual([
      [2, one(5, 1)],
      [21, one(0, 4)],
    ]);
    expect([told.here, told.elsewhere]).toEqual([one(1, 0), one(9, 9)]);
    expect(amissIn({ met: 3, missed: 2, owed: 5, inWindow: 4, declined: 1 })).toBe(3);
  });
});
