// Stock by its moves: the moving average by hand, nothing below zero, and money that is neither made nor lost.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { THOUSANDTHS } from './part.ts';
import { stockOf, type KeptMove } from './replay.ts';
import {
  availableIn,
  EMPTY_STOCK,
  holdStock,
  letGoOfStock,
  moveStock,
  unitAverage,
  type Stock,
  type ToMove,
} from './stock.ts';

const pieces = (n: number): number => n * THOUSANDTHS;
function after(stock: Stock, ...all: ToMove[]): Stock {
  return all.reduce((held, move) => {
    const moved = moveStock(held, move);
    if (!moved.ok) throw new Error(moved.refusals[0]?.message);
    return moved.value.stock;
  }, stock);
}
const receipt = (n: number, unitPrice: number): ToMove => ({ kind: 'receipt', thousandths: pieces(n), unitPrice });
const issue = (n: number, held = 0): ToMove => ({ kind: 'issue', thousandths: pieces(n), held: pieces(held) });
const refusedBy = (stock: Stock, move: ToMove): string | undefined => {
  const moved = moveStock(stock, move);
  return moved.ok ? undefined : `${moved.refusals[0]?.field} ${moved.refusals[0]?.code}`;
};

describe('the moving average', () => {
  // Worked by hand, the weighted average of IAS 2.27 after each receipt: 100 at 10.00 and 50 at 13.00 are 1,650.00 for 150, 11.00 each;
  // 60 go at 11.00, 660.00; 90 at 11.00 and 30 at 15.00 are 1,440.00 for 120, 12.00 each.
  it('is what the money on hand is worth a unit after each receipt, and what goes out goes at it', () => {
    const first = after(EMPTY_STOCK, receipt(100, 1000), receipt(50, 1300));
    expect(first).toMatchObject({ onHand: pieces(150), value: 165_000, average: 11_000_000, lastPrice: 1300 });
    const second = after(first, issue(60));
    expect(second).toMatchObject({ onHand: pieces(90), value: 99_000, average: 11_000_000 });
    expect(after(second, receipt(30, 1500))).toMatchObject({ value: 144_000, average: 12_000_000 });
  });

  // 1 at 10.00 and 2 at 10.01 are 30.02 for 3: 10.006667 each; one is 10.01, two 20.01, and the third takes what is left, 10.01.
  it('is kept to six decimals, money is rounded at each move, and the last takes no cents along', () => {
    const three = after(EMPTY_STOCK, receipt(1, 1000), receipt(2, 1001));
    expect(three).toMatchObject({ value: 3002, average: 10_006_667 });
    const one = after(three, issue(2));
    expect(one.value).toBe(3002 - 2001);
    expect(moveStock(one, issue(1))).toMatchObject({
      value: { stock: { onHand: 0, value: 0, average: 10_006_667 }, moves: [{ money: -1001 }] },
    });
    // Three times one are 30.03 for what cost 30.02: a cent goes to variance.
    const gone = moveStock(after(three, issue(1), issue(1)), issue(1));
    expect(gone.ok && gone.value.moves).toEqual([
      { kind: 'issue', thousandths: -1000, money: -1001 },
      { kind: 'variance', thousandths: 0, money: 1 },
    ]);
  });

  it('of an emptied store is kept for what is counted up, and weighs nothing in the next receipt', () => {
    const emptied = after(EMPTY_STOCK, receipt(2, 500), issue(2));
    expect(after(emptied, { kind: 'count', difference: pieces(1) })).toMatchObject({ value: 500, average: 5_000_000 });
    expect(after(emptied, receipt(4, 700))).toMatchObject({ value: 2800, average: 7_000_000 });
  });

  it('of what never came in is the price that is given, and is asked for where none is', () => {
    const count: ToMove = { kind: 'count', difference: 1500 };
    expect(refusedBy(EMPTY_STOCK, count)).toBe('price missing');
    expect(after(EMPTY_STOCK, { ...count, price: 333 })).toMatchObject({
      onHand: 1500,
      value: 500,
      average: 3_330_000,
    });
  });

  it('takes a return at the value it was issued at', () => {
    const stock = after(EMPTY_STOCK, receipt(2, 1000), issue(1), receipt(1, 2000));
    expect(stock.average).toBe(15_000_000);
    expect(after(stock, { kind: 'return', thousandths: pieces(1), money: 1000 })).toMatchObject({
      ...{ onHand: pieces(3), value: 4000, average: 13_333_333 },
    });
    expect(unitAverage(13_333_333)).toBe(1333);
  });
});

describe('what is refused', () => {
  const held = after(EMPTY_STOCK, receipt(5, 100));
  const stock = { ...held, reserved: pieces(3) };

  it('is more than there is, or than is free of what is held for others', () => {
    expect(refusedBy(stock, issue(6))).toBe('thousandths conflict');
    expect(refusedBy(stock, issue(3))).toBe('thousandths conflict');
    expect(after(stock, issue(2))).toMatchObject({ onHand: pieces(3), reserved: pieces(3) });
    expect(after(stock, issue(5, 3))).toMatchObject({ onHand: 0, reserved: 0 });
    expect(refusedBy(stock, { kind: 'count', difference: -pieces(6) })).toBe('thousandths conflict');
  });

  it('is nothing, less, a part of a thousandth, or more than any store holds', () => {
    for (const thousandths of [0, -1000, 0.5, 2e9])
      expect(refusedBy(stock, { kind: 'receipt', thousandths, unitPrice: 1 })).toBe('thousandths invalid');
    expect(refusedBy({ ...stock, onHand: 999_999_999 }, receipt(1, 1))).toBe('thousandths too-large');
  });

  it('is to hold more than is free; to let go of more than is held is a fault', () => {
    expect(holdStock(stock, pieces(2))).toMatchObject({ value: { reserved: pieces(5) } });
    expect(holdStock(stock, pieces(3)).ok).toBe(false);
    expect(() => letGoOfStock(stock, pieces(4))).toThrow();
  });

  it('is not what a count finds below what is held: that stands', () => {
    const counted = after(stock, { kind: 'count', difference: -pieces(4) });
    expect(counted).toMatchObject({ onHand: pieces(1), reserved: pieces(3) });
    expect(availableIn(counted)).toBe(-pieces(2));
  });
});

const quantity = fc.integer({ min: 1, max: 40_000 });
const asked: fc.Arbitrary<ToMove> = fc.oneof(
  fc.record({ kind: fc.constant('receipt' as const), thousandths: quantity, unitPrice: fc.nat(500_000) }),
  fc.record({ kind: fc.constantFrom('return', 'transfer in'), thousandths: quantity, money: fc.nat(900_000) }),
  fc.record({ kind: fc.constantFrom('issue', 'scrap', 'to supplier', 'transfer out'), thousandths: quantity }),
  fc.record({
    kind: fc.constant('count' as const),
    difference: fc.integer({ min: -9000, max: 9000 }),
    price: fc.nat(9000),
  }),
);

describe('any moves', () => {
  it('appended one after the other and gone through again come to the same stock', () => {
    fc.assert(
      fc.property(fc.array(asked, { maxLength: 30 }), (all) => {
        let stock = EMPTY_STOCK;
        const kept: KeptMove[] = [];
        for (const move of all) {
          const moved = moveStock(stock, move);
          if (!moved.ok) continue;
          const unitPrice =
            move.kind === 'receipt' ? move.unitPrice : move.kind === 'count' ? (move.price ?? null) : null;
          kept.push(...moved.value.moves.map((m) => ({ ...m, unitPrice: m.kind === 'variance' ? null : unitPrice })));
          stock = moved.value.stock;
        }
        expect(stockOf(kept)).toEqual(stock);
      }),
      { numRuns: 300, seed: 17 },
    );
    // More out than ever came in was never a move.
    expect(() => stockOf([{ kind: 'issue', thousandths: -1000, money: 0, unitPrice: null }])).toThrow(/refused/);
  });

  it('leave on hand and value as their sums, nothing below zero, and a refused one changes nothing', () => {
    fc.assert(
      fc.property(fc.array(asked, { maxLength: 40 }), fc.nat(20_000), (all, wish) => {
        let stock = EMPTY_STOCK;
        const sums = { thousandths: 0, money: 0 };
        for (const move of all) {
          const moved = moveStock(stock, move);
          if (!moved.ok) continue;
          for (const m of moved.value.moves) {
            sums.thousandths += m.thousandths;
            sums.money += m.money;
          }
          stock = moved.value.stock;
          expect([stock.onHand, stock.value]).toEqual([sums.thousandths, sums.money]);
          expect(stock.onHand).toBeGreaterThanOrEqual(0);
          if (stock.onHand === 0) expect(stock.value).toBe(0);
          // Each move rounds by half a minor unit at most, and the average is as fine as six decimals.
          const worth = ((stock.average ?? 0) / 1e4) * (stock.onHand / 1e3);
          expect(Math.abs(worth - stock.value)).toBeLessThanOrEqual(all.length * (0.5 + stock.onHand * 1e-7) + 1);
          const holds = holdStock(stock, Math.max(1, wish));
          if (move.kind !== 'count' && holds.ok) stock = letGoOfStock(holds.value, Math.max(1, wish));
        }
      }),
      { numRuns: 400, seed: 15 },
    );
  });

  it('from one store to another take exactly the money along that leaves', () => {
    fc.assert(
      fc.property(fc.array(asked, { maxLength: 12 }), quantity, (all, thousandths) => {
        let stock = EMPTY_STOCK;
        for (const move of all) {
          const moved = moveStock(stock, move);
          if (moved.ok) stock = moved.value.stock;
        }
        const out = moveStock(stock, { kind: 'transfer out', thousandths });
        if (!out.ok) return;
        const [left] = out.value.moves;
        const there = moveStock(EMPTY_STOCK, { kind: 'transfer in', thousandths, money: -(left?.money ?? 0) });
        expect(there.ok && there.value.stock.value).toBe(-(left?.money ?? 0));
      }),
      { numRuns: 200, seed: 16 },
    );
  });
});
