// Paying on site: never more than is due, whatever is tried in whatever order.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { Currency } from '../money.ts';
import { mayAsk, paidOf, type PayState, type PayWay } from './payment.ts';

type Payment = { way: PayWay; state: PayState; amount: number | null };
const card = (state: PayState, amount: number): Payment => ({ way: 'card', state, amount });
const eur = (minor: number) => ({ minor, currency: 'EUR' as Currency });
const message = (said: ReturnType<typeof mayAsk>): string => (said.ok ? 'yes' : (said.refusals[0]?.message ?? ''));

describe('a card', () => {
  it('is asked for at most what is left, one at a time; what was declined or will be invoiced pays nothing', () => {
    expect(message(mayAsk(eur(10_000), [], 10_000))).toBe('yes');
    expect(message(mayAsk(eur(10_000), [card('paid', 4_000), card('declined', 6_000)], 6_001))).toContain(
      '60.00 is left',
    );
    expect(message(mayAsk(eur(10_000), [card('paid', 4_000)], 6_000))).toBe('yes');
    expect(message(mayAsk(eur(10_000), [card('asked', 4_000)], 1))).toContain('wait for the terminal');
    expect(message(mayAsk(eur(10_000), [{ way: 'invoice', state: 'agreed', amount: null }], 1))).toBe('yes');
    expect(message(mayAsk(eur(0), [], 1))).toContain('Nothing is left');
    for (const amount of [0, -5, 1.5, Number.NaN]) expect(message(mayAsk(eur(10), [], amount))).toContain('above 0');
  });

  it('never pays more than is due in any sequence of tries', () => {
    const tries = fc.array(fc.record({ amount: fc.integer({ min: -10, max: 3_000 }), taken: fc.boolean() }));
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 5_000 }), tries, (due, all) => {
        const payments: Payment[] = [];
        for (const { amount, taken } of all)
          if (mayAsk(eur(due), payments, amount).ok) payments.push(card(taken ? 'paid' : 'declined', amount));
        expect(paidOf(payments)).toBeLessThanOrEqual(due);
      }),
    );
  });
});
