import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Borne, CostElement } from '../entitlement/index.ts';
import { asId, type CraftId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { asLocalDate } from '../time/index.ts';
import type { RateCard, Worked } from '../labour/index.ts';
import {
  comesTo,
  splitCharge,
  totalOf,
  type Charge,
  type ChargedLine,
  type OtherCost,
  type UsedPart,
} from './index.ts';

const TECHNICIAN = asId<CraftId>(1);
const card = (over: Partial<RateCard> = {}): RateCard => ({
  name: 'Standard',
  currency: 'EUR' as Currency,
  rates: [{ craftId: TECHNICIAN, from: asLocalDate('2026-01-01'), cost: 3_000, sales: 8_000 }],
  surcharges: { night: { sales: 150, cost: 100 } },
  billing: {
    work: { step: 15, minimum: 60 },
    travel: { step: 15, minimum: 0 },
    waiting: { step: 15, minimum: 0 },
  },
  night: null,
  callOut: 0,
  travel: { by: 'time' },
  ...over,
});
const worked = (over: Partial<Worked> = {}): Worked => ({
  ...{ lineId: 1, personId: 7, craftId: TECHNICIAN, kind: 'work', hours: 'normal', minutes: 60 },
  day: asLocalDate('2026-11-24'),
  ...over,
});
type Given = Partial<Record<CostElement, readonly [share: number, discount?: number]>>;
const line = (id: number, given: Given, surcharge: number | null = null, attended = true): ChargedLine => {
  const borne = (element: CostElement): Borne => {
    const [share, discount = 0] = given[element] ?? [0];
    return { share, by: share > 0 ? 'AG-1' : null, discount };
  };
  const elements = {
    labour: borne('labour'),
    parts: borne('parts'),
    consumables: borne('consumables'),
    travel: borne('travel'),
  };
  return {
    id,
    attended,
    verdict: { elements, surcharge: surcharge === null ? null : { percent: surcharge, by: 'AG-1' } },
  };
};

const ofTime = (all: readonly Worked[], by: RateCard, lines: readonly ChargedLine[], comings: number): Charge[] =>
  comesTo({ worked: all, parts: [], others: [], comings, driven: [], visits: [] }, by, lines);

describe('a charge', () => {
  it.each([
    [10_000, 100, 0, [10_000, 0, 0]],
    [10_000, 0, 0, [0, 0, 10_000]],
    [10_000, 0, 50, [0, 5_000, 5_000]],
    // 33 % of 0.05 is 0.0165, half of the 0.03 left is 0.015: each rounded half-up, the customer pays the rest.
    [5, 33, 50, [2, 2, 1]],
    [1, 50, 0, [1, 0, 0]],
    [0, 40, 10, [0, 0, 0]],
  ])('of %i, %i %% borne and %i %% off the rest', (list, share, discount, [borne, off, pay]) => {
    expect(splitCharge(list, { share, discount })).toEqual({ list, borne, discount: off, pay });
  });

  it('is divided without a cent too much or too little', () => {
    const percent = fc.integer({ min: 0, max: 100 });
    fc.assert(
      fc.property(fc.nat(1e9), percent, percent, (list, share, discount) => {
        const split = splitCharge(list, { share, discount });
        expect(split.borne + split.discount + split.pay).toBe(list);
        return split.borne >= 0 && split.discount >= 0 && split.pay >= 0;
      }),
    );
  });
});

describe('what an order comes to', () => {
  const totals = (
    lines: ChargedLine[],
    all: Worked[] = [worked(), worked({ kind: 'travel', minutes: 30 })],
    of = card(),
  ) => totalOf(ofTime(all, of, lines, 1));

  it('covered in full is nothing for the customer, and still costs', () => {
    expect(totals([line(1, { labour: [100], travel: [100] })])).toEqual({
      ...{ cost: 4_500, list: 12_000, borne: 12_000, discount: 0, pay: 0 },
    });
  });

  it('with labour not covered bills labour alone', () => {
    const charges = ofTime(
      [worked(), worked({ kind: 'travel', minutes: 30 })],
      card(),
      [line(1, { travel: [100] })],
      1,
    );
    expect(charges.map((c) => [c.what, c.list, c.pay, c.by])).toEqual([
      ['work', 8_000, 8_000, null],
      ['travel', 4_000, 0, 'AG-1'],
    ]);
  });

  it('takes half off troubleshooting labour', () => {
    expect(totals([line(1, { labour: [0, 50] })], [worked({ minutes: 90 })])).toMatchObject({
      list: 12_000,
      discount: 6_000,
      pay: 6_000,
    });
  });

  it('counts waiting as labour', () => {
    const [charge] = ofTime([worked({ kind: 'waiting', minutes: 20 })], card(), [line(1, { labour: [100] })], 0);
    expect(charge).toMatchObject({ element: 'labour', list: 4_000, pay: 0 });
  });

  it('of two machines under different covers is split each by its own', () => {
    const lines = [line(1, { labour: [100] }), line(2, { labour: [0, 10] })];
    const charges = ofTime([worked({ lineId: 1, minutes: 45 }), worked({ lineId: 2, minutes: 45 })], card(), lines, 0);
    expect(charges.map((c) => [c.lineId, c.borne, c.discount, c.pay])).toEqual([
      [1, 6_000, 0, 0],
      [2, 0, 600, 5_400],
    ]);
  });

  it('has the cover’s surcharge instead of the card’s on labour outside normal hours, never on travel', () => {
    const night = [worked({ hours: 'night' }), worked({ hours: 'normal' }), worked({ hours: 'night', kind: 'travel' })];
    const charges = ofTime(night, card(), [line(1, {}, 30)], 0);
    expect(charges.map((c) => [c.what, c.labour?.hours, c.list])).toEqual([
      ['work', 'night', 10_400],
      ['work', 'normal', 8_000],
      ['travel', 'night', 12_000],
    ]);
  });

  it('divides call-out and flat travel equally over the lines attended; then the way’s time has a cost only', () => {
    const flat = card({ callOut: 101, travel: { by: 'flat', price: 5_000 } });
    const lines = [line(1, { travel: [100] }), line(2, {}), line(3, {}, null, false)];
    const charges = ofTime([worked({ kind: 'travel', minutes: 60 })], flat, lines, 1);
    expect(charges.map((c) => [c.what, c.lineId, c.cost, c.list, c.pay])).toEqual([
      ['travel', 1, 3_000, 0, 0],
      ['call-out', 1, 0, 51, 0],
      ['call-out', 2, 0, 50, 50],
      ['flat travel', 1, 0, 2_500, 0],
      ['flat travel', 2, 0, 2_500, 2_500],
    ]);
    expect(ofTime([], flat, lines, 0)).toEqual([]);
  });

  it('sold by the kilometre is what was driven for each line; its time has a cost only, and nothing is billed by the visit', () => {
    const lines = [line(1, { travel: [100] }), line(2, { travel: [50, 10] }), line(3, {})];
    const driven = [
      { lineId: 1, kilometres: 40 },
      { lineId: 2, kilometres: 39 },
      { lineId: 3, kilometres: 0 },
    ];
    const done = {
      worked: [worked({ kind: 'travel', minutes: 60 })],
      parts: [],
      others: [],
      comings: 2,
      driven,
      visits: [],
    };
    const charges = comesTo(done, card({ travel: { by: 'km', price: 45 } }), lines);
    // 39 × 0.45 = 17.55; half borne 8.78 (half-up), of the rest 8.77 a tenth off 0.88: 7.89 is paid.
    expect(charges.map((c) => [c.what, c.lineId, c.cost, c.list, c.borne, c.discount, c.pay])).toEqual([
      ['travel', 1, 3_000, 0, 0, 0, 0],
      ['kilometres', 1, 0, 1_800, 1_800, 0, 0],
      ['kilometres', 2, 0, 1_755, 878, 88, 789],
    ]);
    // By time or a flat sum they are known, and not sold.
    expect(comesTo(done, card(), lines).map((c) => c.what)).toEqual(['travel']);
  });

  it('without a verdict is the customer’s', () => {
    expect(totals([{ id: 1, verdict: null, attended: true }])).toMatchObject({ borne: 0, pay: 12_000 });
  });
});

const part = (over: Partial<UsedPart> = {}): UsedPart => ({
  ...{ id: 1, lineId: 1, number: 'GS-720', name: 'Door gasket', thousandths: 1000, unitPrice: 8_990, unitCost: 5_100 },
  ...{ consumable: false, ...over },
});
const other = (over: Partial<OtherCost> = {}): OtherCost => ({
  ...{ id: 1, lineId: 1, cost: 1_250, price: 1_500, oursBecause: null, ...over },
});
const all = (
  parts: readonly UsedPart[],
  others: readonly OtherCost[],
  lines: readonly ChargedLine[],
  time: Worked[] = [],
) => comesTo({ worked: time, parts, others, comings: 0, driven: [], visits: [] }, card(), lines);

describe('parts and other costs', () => {
  // Common practice: labour and parts covered in full leave the customer nothing, while the cost is booked all the same.
  it('covered in full cost the customer nothing, and us what they cost', () => {
    const full = line(1, { labour: [100], parts: [100], consumables: [100] });
    const total = totalOf(all([part(), part({ id: 2, consumable: true })], [], [full], [worked()]));
    expect([total.pay, total.cost, total.list]).toEqual([0, 3_000 + 2 * 5_100, 8_000 + 2 * 8_990]);
  });

  // Common practice: labour not covered, parts covered: only labour is billed.
  it('with labour not covered and parts covered, only labour is the customer’s', () => {
    const total = totalOf(all([part()], [], [line(1, { parts: [100] })], [worked()]));
    expect(total.pay).toBe(8_000);
  });

  it('go by their own element: consumables are not parts, other costs are the customer’s unless somebody decides', () => {
    const charges = all(
      [part(), part({ id: 2, consumable: true })],
      [other(), other({ id: 2, oursBecause: 'we came twice' })],
      [line(1, { parts: [80, 50] })],
    );
    expect(charges.map((c) => [c.what, c.of, c.list, c.borne, c.discount, c.pay, c.by])).toEqual([
      ['part', 1, 8_990, 7_192, 899, 899, 'AG-1'],
      ['consumable', 2, 8_990, 0, 0, 8_990, null],
      ['other', 1, 1_500, 0, 0, 1_500, null],
      ['other', 2, 1_500, 1_500, 0, 0, 'us: we came twice'],
    ]);
  });

  it('left out by the cover are the customer’s, by number, name or pattern', () => {
    const covered = line(1, { parts: [100] });
    const without = (partsLeftOut: string[]): ChargedLine[] => [
      { ...covered, verdict: { ...(covered.verdict as NonNullable<ChargedLine['verdict']>), partsLeftOut } },
    ];
    const paid = (left: string[]): number => totalOf(all([part()], [], without(left))).pay;
    expect([paid([]), paid(['gs-720']), paid(['door*']), paid(['compressor*'])]).toEqual([0, 8_990, 8_990, 0]);
  });

  it('are priced by the thousandth of a unit, rounded half-up once', () => {
    const [charge] = all([part({ thousandths: 335, unitPrice: 1_000, unitCost: 999 })], [], [line(1, {})]);
    expect([charge?.list, charge?.cost]).toEqual([335, 335]);
    const [half] = all([part({ thousandths: 500, unitPrice: 1, unitCost: 1 })], [], [line(1, {})]);
    expect([half?.list, half?.cost]).toEqual([1, 1]);
  });

  it('have their price without a rate card; time then has none', () => {
    const charges = comesTo(
      {
        worked: [worked()],
        parts: [part()],
        others: [],
        comings: 2,
        driven: [{ lineId: 1, kilometres: 38 }],
        visits: [],
      },
      null,
      [line(1, {})],
    );
    expect(charges.map((c) => c.what)).toEqual(['part']);
  });

  it('never lose a cent between who bears it, the discount and the customer', () => {
    const shares = fc.tuple(fc.integer({ min: 0, max: 100 }), fc.integer({ min: 0, max: 100 }));
    const some = fc.record({ thousandths: fc.integer({ min: 1, max: 99_999 }), unitPrice: fc.nat(500_000) });
    fc.assert(
      fc.property(shares, fc.array(some, { maxLength: 6 }), (given, used) => {
        const charges = all(
          used.map((u, id) => part({ ...u, id })),
          [],
          [line(1, { parts: given })],
        );
        for (const c of charges) {
          expect(c.borne + c.discount + c.pay).toBe(c.list);
          expect(Math.min(c.borne, c.discount, c.pay)).toBeGreaterThanOrEqual(0);
        }
      }),
    );
  });
});
