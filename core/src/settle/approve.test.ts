import { describe, expect, it } from 'vitest';
import { asId, type CustomerId, type OrderId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { asLocalDate } from '../time/index.ts';
import {
  approveOrder,
  approveSecond,
  billableOf,
  isFarFromLike,
  medianOf,
  oddOf,
  whyOff,
  type ApprovedCharge,
  type LookedAt,
} from './index.ts';

const plain: LookedAt = {
  ...{ minutes: 60, withoutRate: false, cost: 100_00, like: [90_00, 100_00, 110_00, 100_00, 95_00], leftPercent: null },
  ...{ excluded: false, wantsReference: false, reference: '', overTerms: false, withoutTax: false },
  ...{ corrected: false, changedSince: false },
};

describe('what is odd', () => {
  it.each([
    ['nothing', {}, []],
    ['no hours', { minutes: 0 }, ['no hours']],
    ['more than twice what is usual', { cost: 200_01 }, ['cost far from like work']],
    ['twice what is usual is not far', { cost: 200_00 }, []],
    ['less than half', { cost: 49_99 }, ['cost far from like work']],
    ['nothing', { cost: 0 }, []],
    ['four like works say nothing', { cost: 1, like: [9, 9, 9, 9] }, []],
    ['a tenth of the cover left', { leftPercent: 10 }, ['cover nearly full']],
    ['11 % left', { leftPercent: 11 }, []],
    ['a number that is wanted and missing', { wantsReference: true, reference: ' ' }, ['no customer order number']],
    ['a number that is there', { wantsReference: true, reference: 'PO 4' }, []],
    [
      'everything in its order',
      { minutes: 0, overTerms: true, withoutTax: true },
      ['no hours', 'over credit terms', 'no tax'],
    ],
  ] as const)('%s', (_, over, odd) => {
    expect(oddOf({ ...plain, ...over })).toEqual(odd);
  });

  it('the median of an even number is the lower middle; of nothing there is none', () => {
    expect(medianOf([4, 1, 3, 2])).toBe(2);
    expect(() => medianOf([])).toThrow('no median');
    expect(isFarFromLike(5, [])).toBe(false);
  });
});

describe('approving', () => {
  it('is refused by name for what would make documents wrong, and stands for what is only odd', () => {
    const refused = approveOrder(['no hours', 'without a rate', 'no tax'], 0, null);
    expect(refused.ok ? [] : refused.refusals.map((r) => r.message)).toEqual([
      expect.stringContaining('no rate'),
      expect.stringContaining('no tax'),
    ]);
    expect(approveOrder(['no hours', 'over credit terms'], 0, null)).toMatchObject({ value: 'approved' });
  });

  it.each([
    [100_00, 100_00, 'approved'],
    [100_01, 100_00, 'second'],
    [1, 0, 'second'],
    [1e9, null, 'approved'],
  ])('goodwill of %i with a limit of %s is %s', (goodwill, limit, state) => {
    expect(approveOrder([], goodwill, limit)).toMatchObject({ value: state });
  });

  it('a second person is another one', () => {
    expect(approveSecond(1, 1)).toMatchObject({ refusals: [{ code: 'not-allowed' }] });
    expect(approveSecond(1, 2).ok).toBe(true);
  });
});

describe('a line of a payer', () => {
  const [own, landlord] = [asId<CustomerId>(1), asId<CustomerId>(2)];
  const split = { list: 100, borne: 50, discount: 5, goodwill: 15 };
  const charge: ApprovedCharge = {
    ...{ id: 4, orderId: asId<OrderId>(7), agreementId: null, assetId: null, doneOn: asLocalDate('2026-11-24') },
    ...{ currency: 'EUR' as Currency, text: 'Compressor', quantity: 1000, unit: 'C62', reference: '', list: 100 },
    ...{ coming: null, offBecause: 'borne by AG-1', rate: { category: 'S', hundredths: 2300 } },
  };
  it('lists in full and says what is off and why, what takes most off first', () => {
    expect(whyOff(split, 20)).toEqual(['borne', 'goodwill', 'paid by somebody else', 'discount']);
    expect(whyOff({ ...split, borne: 0, goodwill: 0 }, 95)).toEqual(['discount']);
    const all = [
      { customerId: landlord, minor: 10, times: 0 },
      { customerId: own, minor: 20, times: 0 },
      { customerId: own, minor: 20, times: 1 },
    ].map((payer) => billableOf(charge, payer));
    expect(all.map((b) => [b.list, b.list - b.off])).toEqual([
      [100, 10],
      [100, 20],
      [100, 20],
    ]);
    expect(new Set(all.map((b) => b.key)).size).toBe(3);
  });
});
