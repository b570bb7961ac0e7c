// Purchase orders: of whom and how much, what may be sent, and whom a delivery serves.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type NeedId, type OrderId, type SupplierId } from '../ids.ts';
import {
  againstSending,
  deliver,
  inPacks,
  receiveLine,
  stageAfter,
  toCome,
  totalOfPurchase,
  usualSupplier,
  type BoughtFor,
  type Offered,
  type PurchaseLine,
} from './index.ts';

const offer = (id: number, over: Partial<Offered> = {}): Offered => ({
  ...{ supplierId: asId<SupplierId>(id), unitPrice: 900, pack: 1000, leadDays: 5, preferred: false, ...over },
});
const line = (over: Partial<PurchaseLine> = {}): PurchaseLine => ({
  ...{ thousandths: 4000, unitPrice: 900, received: 0, short: null, ...over },
});

describe('a part is bought', () => {
  it('of the preferred supplier, else of the cheapest; of one without a price only where no other is', () => {
    const all = [offer(1), offer(2, { unitPrice: 800 }), offer(3, { unitPrice: null }), offer(4, { unitPrice: 800 })];
    expect(usualSupplier(all)?.supplierId).toBe(2);
    expect(usualSupplier([...all, offer(5, { preferred: true, unitPrice: 5000 })])?.supplierId).toBe(5);
    expect(usualSupplier([offer(3, { unitPrice: null })])?.supplierId).toBe(3);
    expect(usualSupplier([offer(8, { leadDays: 3 }), offer(2, { leadDays: 4 })])?.supplierId).toBe(8);
    expect(usualSupplier([])).toBeNull();
  });

  it('in whole packs, no less than is asked for and less than a pack more', () => {
    expect([inPacks(4000, 1000), inPacks(4001, 1000), inPacks(1, 10_000)]).toEqual([4000, 5000, 10_000]);
    const asked = fc.integer({ min: 1, max: 1_000_000 });
    fc.assert(
      fc.property(asked, fc.integer({ min: 1, max: 50_000 }), (n, pack) => {
        const bought = inPacks(n, pack);
        expect(bought % pack).toBe(0);
        expect(bought - n).toBeGreaterThanOrEqual(0);
        expect(bought - n).toBeLessThan(pack);
      }),
    );
    expect(() => inPacks(1, 0)).toThrow('A pack');
  });
});

describe('an order', () => {
  it('comes to the sum of its lines, each rounded once', () => {
    expect(totalOfPurchase([line(), line({ thousandths: 333, unitPrice: 100 })])).toEqual({
      ...{ total: 3600 + 33, withoutPrice: 0 },
    });
  });

  it('is sent with parts on it, prices to each, and approval above the limit', () => {
    const why = (...of: Parameters<typeof againstSending>): string[] => againstSending(...of).map((r) => r.code);
    expect(why([], true, null)).toEqual(['missing']);
    expect(why([line(), line({ unitPrice: null })], true, null)).toEqual(['missing']);
    expect(why([line()], false, 3599)).toEqual(['not-allowed']);
    expect([why([line()], true, 3599), why([line()], false, 3600), why([line()], false, null)]).toEqual([[], [], []]);
  });

  it('is closed once nothing more comes of it: all came, or the rest was closed short', () => {
    const lines = [line({ received: 4000 }), line({ received: 1000 })];
    expect(lines.map(toCome)).toEqual([0, 3000]);
    expect(stageAfter('sent', lines)).toBe('sent');
    expect(stageAfter('sent', [lines[0] as PurchaseLine, line({ received: 1000, short: 'not made any more' })])).toBe(
      'closed',
    );
    expect(stageAfter('draft', [line({ received: 4000 })])).toBe('draft');
  });

  it('takes what comes, asks before it takes more than was ordered, and counts what is broken as not come', () => {
    const came = (good: number, bad: number, more = false, of = line({ received: 1000 })) => {
      const after = receiveLine('sent', of, { good, bad }, more);
      return after.ok ? after.value.received : after.refusals[0]?.code;
    };
    expect([came(3000, 0), came(3001, 0), came(3001, 0, true), came(0, 2000), came(0, 0)]).toEqual([
      ...[4000, 'conflict', 4001, 1000, 'invalid'],
    ]);
    expect(receiveLine('draft', line(), { good: 1000, bad: 0 }, true)).toMatchObject({ ok: false });
  });
});

describe('a delivery', () => {
  const wanting = (id: number, thousandths: number, open = thousandths): BoughtFor => ({
    ...{ needId: asId<NeedId>(id), orderId: asId<OrderId>(id), thousandths, open },
  });
  it('serves those it was bought for in their turn, up to what is open; what they do not need any more is free', () => {
    expect(deliver(5000, [wanting(1, 2000), wanting(2, 4000), wanting(3, 1000)])).toEqual({
      held: [
        { needId: 1, orderId: 1, thousandths: 2000 },
        { needId: 2, orderId: 2, thousandths: 3000 },
      ],
      left: [
        { needId: 2, thousandths: 1000 },
        { needId: 3, thousandths: 1000 },
      ],
    });
    expect(deliver(5000, [wanting(1, 2000, 500)])).toEqual({
      ...{ held: [{ needId: 1, orderId: 1, thousandths: 500 }], left: [] },
    });
  });

  it('gives nobody more than they wait for, and all that came as long as somebody waits', () => {
    const some = fc.array(fc.record({ bought: fc.integer({ min: 1, max: 9 }), open: fc.nat(9) }), { maxLength: 6 });
    fc.assert(
      fc.property(fc.nat(30), some, (n, all) => {
        const waits = all.map(({ bought, open }, i) => wanting(i + 1, bought, open));
        const { held, left } = deliver(n, waits);
        const given = held.reduce((a, h) => a + h.thousandths, 0);
        const asked = all.reduce((a, { bought, open }) => a + Math.min(bought, open), 0);
        expect(given).toBe(Math.min(n, asked));
        expect(given + left.reduce((a, l) => a + l.thousandths, 0)).toBe(asked);
      }),
    );
    expect(deliver(1500, [wanting(1, 2000)], true).held[0]?.thousandths).toBe(1000);
  });
});
