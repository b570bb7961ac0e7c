import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Borne, CostElement } from '../entitlement/index.ts';
import { asId, type CraftId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { asLocalDate } from '../time/index.ts';
import { comesTo, splitCharge, totalOf, type ChargedLine, type RateCard, type Worked } from './index.ts';

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
  ) => totalOf(comesTo(all, of, lines, 1));

  it('covered in full is nothing for the customer, and still costs', () => {
    expect(totals([line(1, { labour: [100], travel: [100] })])).toEqual({
      ...{ cost: 4_500, list: 12_000, borne: 12_000, discount: 0, pay: 0 },
    });
  });

  it('with labour not covered bills labour alone', () => {
    const charges = comesTo(
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
    const [charge] = comesTo([worked({ kind: 'waiting', minutes: 20 })], card(), [line(1, { labour: [100] })], 0);
    expect(charge).toMatchObject({ element: 'labour', list: 4_000, pay: 0 });
  });

  it('of two machines under different covers is split each by its own', () => {
    const lines = [line(1, { labour: [100] }), line(2, { labour: [0, 10] })];
    const charges = comesTo([worked({ lineId: 1, minutes: 45 }), worked({ lineId: 2, minutes: 45 })], card(), lines, 0);
    expect(charges.map((c) => [c.lineId, c.borne, c.discount, c.pay])).toEqual([
      [1, 6_000, 0, 0],
      [2, 0, 600, 5_400],
    ]);
  });

  it('has the cover’s surcharge instead of the card’s on labour outside normal hours, never on travel', () => {
    const night = [worked({ hours: 'night' }), worked({ hours: 'normal' }), worked({ hours: 'night', kind: 'travel' })];
    const charges = comesTo(night, card(), [line(1, {}, 30)], 0);
    expect(charges.map((c) => [c.what, c.labour?.hours, c.list])).toEqual([
      ['work', 'night', 10_400],
      ['work', 'normal', 8_000],
      ['travel', 'night', 12_000],
    ]);
  });

  it('divides call-out and flat travel equally over the lines attended; then the way’s time has a cost only', () => {
    const flat = card({ callOut: 101, travel: { by: 'flat', price: 5_000 } });
    const lines = [line(1, { travel: [100] }), line(2, {}), line(3, {}, null, false)];
    const charges = comesTo([worked({ kind: 'travel', minutes: 60 })], flat, lines, 1);
    expect(charges.map((c) => [c.what, c.lineId, c.cost, c.list, c.pay])).toEqual([
      ['travel', 1, 3_000, 0, 0],
      ['call-out', 1, 0, 51, 0],
      ['call-out', 2, 0, 50, 50],
      ['flat travel', 1, 0, 2_500, 0],
      ['flat travel', 2, 0, 2_500, 2_500],
    ]);
    expect(comesTo([], flat, lines, 0)).toEqual([]);
  });

  it('without a verdict is the customer’s', () => {
    expect(totals([{ id: 1, verdict: null, attended: true }])).toMatchObject({ borne: 0, pay: 12_000 });
  });
});
