import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asLocalDate } from '../time/index.ts';
import { CHARGE_ELEMENTS } from './comes-to.ts';
import {
  bearerOfCharge,
  closeMonth,
  journalDay,
  linesOfAllocation,
  linesOfCard,
  linesOfCentre,
  linesOfDocument,
  linesOfReceipt,
  linesOfWriteOff,
} from './journal.ts';
import { totalsOf, type TaxRate } from './tax.ts';

const rate: fc.Arbitrary<TaxRate> = fc.constantFrom(
  { category: 'S', hundredths: 2300 },
  { category: 'S', hundredths: 600 },
  { category: 'E', hundredths: 0 },
);
const billed = fc.array(
  fc.record({
    of: fc.constantFrom(...CHARGE_ELEMENTS, 'fees' as const),
    minor: fc.integer({ min: -9_000, max: 90_000 }),
    rate,
  }),
  { minLength: 1, maxLength: 12 },
);
const sum = (lines: readonly { minor: number }[]) => lines.reduce((total, l) => total + l.minor, 0);

describe('entries of the journal', () => {
  it('balance, whatever was billed and paid by card before', () => {
    fc.assert(
      fc.property(billed, fc.boolean(), fc.nat(), (all, isInvoice, part) => {
        const totals = totalsOf(all.map((l) => ({ amount: l.minor, rate: l.rate })));
        const paid = isInvoice && totals.withTax > 0 ? part % (totals.withTax + 1) : 0;
        const lines = linesOfDocument({
          ...{ kind: isInvoice ? 'invoice' : 'credit note', withTax: totals.withTax, paid },
          ...{ nets: all, taxes: totals.rows },
        });
        expect(sum(lines)).toBe(0);
        const owed = sum(lines.filter((l) => l.account === 'receivables'));
        expect(owed).toBe(isInvoice ? totals.withTax - paid : -totals.withTax || 0);
        expect(new Set(lines.map((l) => `${l.account}|${l.centre}`)).size).toBe(lines.length);
      }),
    );
  });
  it('of an invoice and of the credit note over all of it come to nothing, account by account', () => {
    fc.assert(
      fc.property(billed, (all) => {
        const totals = totalsOf(all.map((l) => ({ amount: l.minor, rate: l.rate })));
        const of = (kind: 'invoice' | 'credit note') =>
          linesOfDocument({ kind, withTax: totals.withTax, paid: 0, nets: all, taxes: totals.rows });
        const both = [...of('invoice'), ...of('credit note')];
        for (const account of new Set(both.map((l) => `${l.account}|${l.centre}`)))
          expect(sum(both.filter((l) => `${l.account}|${l.centre}` === account))).toBe(0);
      }),
    );
  });
  it('tell a payment from the bank to what is owed', () => {
    const all = [
      ...linesOfReceipt(500),
      ...linesOfAllocation(500),
      ...linesOfCard(70),
      ...linesOfWriteOff(3),
      ...linesOfCentre('own', 'O', 9),
    ];
    const at = (account: string) => sum(all.filter((l) => l.account === account));
    expect(
      [
        'bank',
        'receipts to allocate',
        'receivables',
        'card clearing',
        'written off',
        'own work',
        'internal services',
      ].map(at),
    ).toEqual([570, 0, -503, -70, 3, 9, -9]);
    expect(sum(all)).toBe(0);
    expect(linesOfAllocation(-500)).toEqual(linesOfAllocation(500).map((l) => ({ ...l, minor: -l.minor })));
  });
});

describe('who bears', () => {
  const cover = (label: string, agreementId: number | null, taken = true) => ({
    label,
    agreementId: agreementId as never,
    taken,
    reason: '',
  });
  const verdict = { considered: [cover('W', null, false), cover('AG-1', 4), cover('W2', null)] };
  const charge = (by: string | null, element: 'labour' | 'other' = 'labour', borne = 5) => ({ element, borne, by });
  it.each([
    ['an agreement', charge('AG-1'), false, 'agreement'],
    ['the warranty', charge('W2'), false, 'warranty'],
    ['a cover that was refused bears nothing', charge('W'), false, 'agreement'],
    ['us, of internal work', charge('our own fleet'), true, 'own'],
    ['us, of a cost we took on', charge('us: late', 'other'), false, 'own'],
    ['nobody', charge(null, 'labour', 0), false, null],
  ])('%s', (_, of, internal, bearer) => {
    expect(bearerOfCharge(of, { internal, verdict })).toBe(bearer);
  });
});

describe('closed months', () => {
  const [today, closedTo] = [asLocalDate('2026-11-24'), asLocalDate('2026-09-30')];
  it('tell what is booked late under the first day that is open', () => {
    expect([journalDay(asLocalDate('2026-09-30'), closedTo), journalDay(asLocalDate('2026-10-01'), closedTo)]).toEqual([
      '2026-10-01',
      '2026-10-01',
    ]);
    expect(journalDay(asLocalDate('2020-01-01'), null)).toBe('2020-01-01');
  });
  it.each([
    ['2026-10', closedTo, '2026-11-24', '2026-10-31'],
    ['2026-10', closedTo, '2026-11-02', '2026-10-31'],
    ['2026-10', closedTo, '2026-11-01', 'not-ready'],
    ['2026-11', closedTo, '2026-12-24', 'out-of-order'],
    ['2026-09', closedTo, '2026-11-24', 'conflict'],
    ['2026-08', null, '2026-11-24', '2026-08-31'],
    ['2026-07', null, '2026-11-24', 'out-of-order'],
    ['2026-11', asLocalDate('2026-10-31'), '2026-11-24', 'not-ready'],
  ])('%s after %s on %s: %s', (month, closed, on, says) => {
    const answer = closeMonth(month, { closedTo: closed, first: '2026-08', today: asLocalDate(on) });
    expect(answer.ok ? answer.value : answer.refusals[0]?.code).toBe(says);
  });
  it('follow each other without a gap', () => {
    let closed: ReturnType<typeof asLocalDate> | null = null;
    for (const month of ['2026-08', '2026-09', '2026-10']) {
      const answer = closeMonth(month, { closedTo: closed, first: '2026-08', today });
      expect(answer.ok).toBe(true);
      if (answer.ok) closed = answer.value;
    }
    expect(closed).toBe('2026-10-31');
  });
});
