// Needs and stores: who is served first and from where, and that nothing is given twice.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type NeedId, type PartId, type PersonId, type StoreId } from '../ids.ts';
import { asInstant, asLocalDate, instant } from '../time/index.ts';
import { compareNeeds, coverNeeds, type OpenNeed, type Shelf } from './cover.ts';

const PART = asId<PartId>(1);
const WHO = asId<PersonId>(7);
const store = (id: number) => asId<StoreId>(id);
const ASKED = asInstant('2026-11-24T09:00:00Z');
const need = (id: number, over: Partial<OpenNeed> = {}): OpenNeed => ({
  ...{ id: asId<NeedId>(id), partId: PART, thousandths: 1000, day: asLocalDate('2026-11-26'), priority: 3 },
  ...{
    askedAt: ASKED,
    technicianId: WHO,
    kmTo: new Map([
      [store(1), 40],
      [store(2), 5],
    ]),
    ...over,
  },
});
const shelf = (id: number, available: number, over: Partial<Shelf> = {}): Shelf => ({
  ...{ storeId: store(id), kind: 'depot', personId: null, partId: PART, available, ...over },
});
const given = (...of: Parameters<typeof coverNeeds>): string[] => {
  const { held, open } = coverNeeds(...of);
  return [
    ...held.map((h) => `${h.needId} from ${h.storeId}: ${h.thousandths}`),
    ...open.map((o) => `${o.needId} open: ${o.thousandths}`),
  ];
};

describe('a need', () => {
  it('is given from the van of who goes, then from the nearest depot, then from others, and the rest is open', () => {
    const van = shelf(3, 1000, { kind: 'van', personId: WHO });
    const all = [shelf(1, 5000), shelf(2, 2000), van, shelf(9, 400)];
    expect(given([need(1, { thousandths: 9000 })], all)).toEqual([
      ...['1 from 3: 1000', '1 from 2: 2000', '1 from 1: 5000', '1 from 9: 400', '1 open: 600'],
    ]);
  });

  it('is never given from another’s van, from quarantine, or another part', () => {
    const others = [
      shelf(3, 9000, { kind: 'van', personId: asId<PersonId>(8) }),
      shelf(4, 9000, { kind: 'van' }),
      shelf(5, 9000, { kind: 'quarantine' }),
      shelf(6, 9000, { partId: asId<PartId>(2) }),
    ];
    expect(given([need(1)], others)).toEqual(['1 open: 1000']);
    expect(given([need(1, { technicianId: null })], others)).toEqual(['1 open: 1000']);
  });

  it('of what is kept by serial is given in whole ones, and nothing from where less is free than is held', () => {
    const two = need(1, { thousandths: 2000 });
    expect(given([two], [shelf(1, 1500), shelf(2, -1000)], new Set([PART]))).toEqual([
      ...['1 from 1: 1000', '1 open: 1000'],
    ]);
  });

  it('is served by its day, its priority and its age', () => {
    const [late, none] = [need(1, { day: asLocalDate('2026-11-30') }), need(2, { day: null, priority: 1 })];
    const [urgent, old] = [need(3, { priority: 1 }), need(4, { askedAt: instant(ASKED - 1) })];
    const order = [late, none, need(5), urgent, old].sort(compareNeeds).map((n) => n.id as number);
    expect(order).toEqual([3, 4, 5, 1, 2]);
  });
});

it('of any needs and stores nothing is given that is not there, each need gets no more than it asks, and none stays open beside what it may have', () => {
  const anyNeed = fc.record({ part: fc.nat(1), n: fc.integer({ min: 1, max: 6000 }), day: fc.nat(3), who: fc.nat(2) });
  const anyShelf = fc.record({
    part: fc.nat(1),
    n: fc.integer({ min: -500, max: 8000 }),
    kind: fc.nat(2),
    who: fc.nat(2),
  });
  fc.assert(
    fc.property(fc.array(anyNeed, { maxLength: 8 }), fc.array(anyShelf, { maxLength: 8 }), (needs, shelves) => {
      const asked = needs.map((n, i) =>
        need(i + 1, {
          ...{ partId: asId<PartId>(n.part + 1), thousandths: n.n, day: asLocalDate(`2026-11-2${n.day}`) },
          technicianId: asId<PersonId>(n.who + 1),
        }),
      );
      const here = shelves.map((s, i) =>
        shelf(i + 1, s.n, {
          ...{ partId: asId<PartId>(s.part + 1), kind: (['depot', 'van', 'quarantine'] as const)[s.kind] ?? 'depot' },
          personId: asId<PersonId>(s.who + 1),
        }),
      );
      const { held, open } = coverNeeds(asked, here);
      const sum = (of: readonly { thousandths: number }[]): number => of.reduce((all, h) => all + h.thousandths, 0);
      for (const s of here)
        expect(sum(held.filter((h) => h.storeId === s.storeId))).toBeLessThanOrEqual(Math.max(0, s.available));
      for (const n of asked) expect(sum([...held, ...open].filter((h) => h.needId === n.id))).toBe(n.thousandths);
      for (const o of open) {
        const own = asked.find((n) => n.id === o.needId) as OpenNeed;
        const left = here.filter(
          (s) =>
            s.partId === own.partId &&
            (s.kind === 'depot' || (s.kind === 'van' && s.personId === own.technicianId)) &&
            s.available - sum(held.filter((h) => h.storeId === s.storeId)) > 0,
        );
        expect(left).toEqual([]);
      }
    }),
    { numRuns: 300, seed: 4 },
  );
});
