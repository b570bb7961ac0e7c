// One change to many assets: each is taken, left or refused, none is lost; and a warranty as the catalogue promises it.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { addDays, addMonths, type LocalDate } from '../time/index.ts';
import { afterFact, sortBulk, warrantyOf, type BulkChange, type AssetFact, type LivingAsset } from './index.ts';

type Row = LivingAsset<number, number, number>;
const ON = '2026-11-24' as LocalDate;
const states = ['in service', 'out of service', 'in store', 'retired'] as const;

const row: fc.Arbitrary<Row> = fc
  .record({
    id: fc.nat(500),
    state: fc.constantFrom(...states),
    classId: fc.integer({ min: 1, max: 3 }),
    owner: fc.constantFrom('customer' as const, 'own fleet' as const),
    locationId: fc.option(fc.integer({ min: 1, max: 4 }), { nil: null }),
    customerId: fc.integer({ min: 1, max: 2 }),
    parentId: fc.option(fc.integer({ min: 900, max: 903 }), { nil: null }),
  })
  .map(
    (r) =>
      ({
        ...r,
        tag: `Q${r.id}`,
        locationId: r.state === 'in store' ? null : r.locationId,
        lastActOn: null,
      }) as unknown as Row,
  );
const change: fc.Arbitrary<BulkChange<number>> = fc.oneof(
  fc.record({ kind: fc.constant('class' as const), classId: fc.integer({ min: 1, max: 3 }) }),
  fc.record({ kind: fc.constant('owner' as const), owner: fc.constantFrom('customer' as const, 'own fleet' as const) }),
  fc.record({ kind: fc.constant('place' as const), locationId: fc.integer({ min: 1, max: 4 }) }),
  fc.record({ kind: fc.constant('retire' as const) }),
);
/** The place of the test is the first customer's. */
const place = { name: 'Norvela', isTheirs: (customer: number) => customer === 1 };

const changedBy = (r: Row, fact: AssetFact<unknown, number, number>): Row =>
  afterFact({ asset: r as never, stays: [] }, fact).asset as unknown as Row;

const isWanted = (r: Row, c: BulkChange<number>): boolean =>
  c.kind === 'class'
    ? r.classId === c.classId
    : c.kind === 'owner'
      ? r.owner === c.owner
      : c.kind === 'place'
        ? r.locationId === c.locationId
        : r.state === 'retired';

describe('a change to many', () => {
  it('takes, leaves or refuses each, and what is taken becomes what was wanted', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 30 }), change, (rows, wanted) => {
        const sorted = sortBulk(rows, wanted, wanted.kind === 'place' ? place : null, ON);
        expect(sorted.taken.length + sorted.unchanged + sorted.refused.length).toBe(rows.length);
        for (const { row: r, fact } of sorted.taken) {
          expect(isWanted(r, wanted)).toBe(false);
          expect(isWanted(changedBy(r, fact), wanted)).toBe(true);
        }
        // Whoever may not be moved is told so, and by the right reason.
        if (wanted.kind === 'place')
          for (const r of rows) {
            const told = sorted.refused.filter((x) => x.tag === r.tag).map((x) => x.reason);
            if (r.customerId !== 1) expect(told).toContain('“Norvela” is not a place of its customer.');
            else if (r.state === 'retired' || r.state === 'in store') expect(told).toContain(`It is ${r.state}.`);
          }
      }),
      { numRuns: 300 },
    );
  });

  it('made twice changes nothing the second time', () => {
    fc.assert(
      fc.property(fc.array(row, { maxLength: 20 }), change, (rows, wanted) => {
        const at = wanted.kind === 'place' ? place : null;
        const first = sortBulk(rows, wanted, at, ON);
        const changed = first.taken.map(({ row: r, fact }) => changedBy(r, fact));
        expect(sortBulk(changed, wanted, at, ON).taken).toEqual([]);
      }),
      { numRuns: 200 },
    );
  });

  it('moves a part with its tie to what it is a part of', () => {
    const part = {
      ...{ id: 1, tag: 'Q1', state: 'in service', classId: 1, owner: 'customer', locationId: 2, customerId: 1 },
      ...{ parentId: 900, lastActOn: null },
    } as unknown as Row;
    const { taken } = sortBulk([part], { kind: 'place', locationId: 3 }, place, ON);
    expect(taken[0]?.fact).toEqual({ kind: 'moved', on: ON, locationId: 3, parentId: 900 });
  });
});

describe('a warranty of the catalogue', () => {
  const model = { warrantyLabour: 100, warrantyParts: 80, warrantyTravel: 0, warrantyVisits: 2 };
  it('lasts its months, the last day included, and is followed by the day it does not cover', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 240 }), fc.integer({ min: 0, max: 9000 }), (months, day) => {
        const from = addDays('2008-02-28' as LocalDate, day);
        const { warrantyFrom, warrantyUntil } = warrantyOf({ ...model, warrantyMonths: months }, from) as {
          warrantyFrom: LocalDate;
          warrantyUntil: LocalDate;
        };
        expect(warrantyFrom).toBe(from);
        expect(addDays(warrantyUntil, 1)).toBe(addMonths(from, months));
      }),
    );
  });
  it('of no months is none at all', () => {
    expect(warrantyOf(undefined, ON)).toEqual({});
    expect(warrantyOf({ ...model, warrantyMonths: 0 }, ON)).toEqual({});
  });
});
