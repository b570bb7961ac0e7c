import { describe, expect, it } from 'vitest';
import { asId, type CraftId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { asLocalDate } from '../time/index.ts';
import { indicate, type RateCard } from './index.ts';

const step = { step: 15, minimum: 60 };
const card: RateCard = {
  ...{ name: 'Standard', currency: 'EUR' as Currency, surcharges: {}, night: null, callOut: 5_000 },
  rates: [
    { craftId: asId<CraftId>(1), from: asLocalDate('2026-01-01'), cost: 3_000, sales: 6_000 },
    { craftId: asId<CraftId>(1), from: asLocalDate('2026-07-01'), cost: 3_000, sales: 8_000 },
    { craftId: asId<CraftId>(2), from: asLocalDate('2026-01-01'), cost: 2_000, sales: 4_000 },
    { craftId: asId<CraftId>(3), from: asLocalDate('2026-01-01'), cost: 4_000, sales: 10_000 },
  ],
  billing: { work: step, travel: step, waiting: step },
  travel: { by: 'flat', price: 2_500 },
};
const on = asLocalDate('2026-11-24');
const like = [
  { minutes: 50, partsCost: 0 },
  { minutes: 80, partsCost: 4_000 },
  { minutes: 200, partsCost: 90_000 },
];

describe('a price said on the telephone', () => {
  it('is the median’s time, billed, at the middle rate of the day, coming once, and the median’s parts', () => {
    // 80 min are billed as 90 at 80.00 an hour = 120.00; call-out 50.00, flat travel 25.00, parts 40.00.
    expect(indicate(like, card, on)).toEqual({
      count: 3,
      minutes: 80,
      partsCost: 4_000,
      price: 12_000 + 7_500 + 4_000,
    });
  });
  it('is none without like work, and has no amount without a card or a rate on the day', () => {
    expect(indicate([], card, on)).toBeNull();
    expect(indicate(like, null, on)?.price).toBeNull();
    expect(indicate(like, card, asLocalDate('2025-01-01'))?.price).toBeNull();
  });
});
