// Documents by the business rules of EN 16931-1 (from memory of its annex; the arithmetic is computed here a second time).
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type AgreementId, type CustomerId, type OrderId } from '../ids.ts';
import type { Currency } from '../money.ts';
import { asLocalDate } from '../time/index.ts';
import {
  creditNoteOf,
  documentOf,
  documentsOf,
  netOf,
  paidBefore,
  type Billable,
  type CreditNote,
  type DocumentTotals,
  type IssuedDocument,
  type TaxRate,
} from './index.ts';

const STANDARD: TaxRate = { category: 'S', hundredths: 2300 };
const REDUCED: TaxRate = { category: 'S', hundredths: 600 };
const EXEMPT: TaxRate = { category: 'E', hundredths: 0 };
let made = 0;
const line = (list: number, over: Partial<Billable> = {}): Billable => ({
  ...{ key: `charge ${(made += 1)}`, customerId: asId<CustomerId>(1), currency: 'EUR' as Currency },
  ...{
    orderId: asId<OrderId>(7),
    agreementId: null,
    assetId: null,
    chargeId: null,
    coming: null,
    fee: null,
    reference: '',
    day: asLocalDate('2026-11-24'),
    text: 'Work',
  },
  ...{ quantity: 1000, unit: 'C62', list, off: 0, offBecause: '', rate: STANDARD, ...over },
});
const someRate = fc.constantFrom(STANDARD, REDUCED, EXEMPT);
const someLines = (min = -200_000) =>
  fc.array(
    fc
      .record({ list: fc.integer({ min, max: 500_000 }), share: fc.integer({ min: 0, max: 100 }), rate: someRate })
      .map(({ list, share, rate }) => line(list, { off: Math.trunc((list * share) / 100), rate })),
    { minLength: 1, maxLength: 12 },
  );

/** BR-CO-17 by whole numbers, half-up away from zero, written out a second time. */
const taxBy = (taxable: number, hundredths: number): number => {
  const exact = BigInt(Math.abs(taxable)) * BigInt(hundredths);
  const up = Number((exact + 5_000n) / 10_000n);
  return taxable < 0 ? 0 - up : up;
};
function expectByTheRules(lines: readonly { net: number; rate: TaxRate }[], totals: DocumentTotals): void {
  // BR-CO-10: the sum of line amounts. BR-CO-11, BR-CO-12: there are no allowances and charges of the document as a whole.
  expect(totals.lines).toBe(lines.reduce((sum, l) => sum + l.net, 0));
  // BR-CO-13: without tax = lines − allowances + charges.
  expect(totals.withoutTax).toBe(totals.lines);
  // BR-CO-14, BR-CO-15.
  expect(totals.tax).toBe(totals.rows.reduce((sum, r) => sum + r.tax, 0));
  expect(totals.withTax).toBe(totals.withoutTax + totals.tax);
  // BR-S-08, BR-E-08: one row for each category and rate, taxed on the sum of its lines.
  const keys = totals.rows.map((r) => `${r.category} ${r.hundredths}`);
  expect(new Set(keys).size).toBe(keys.length);
  for (const row of totals.rows)
    expect(row.taxable).toBe(
      lines
        .filter((l) => l.rate.category === row.category && l.rate.hundredths === row.hundredths)
        .reduce((sum, l) => sum + l.net, 0),
    );
}
const netLines = (lines: readonly Billable[]) => lines.map((l) => ({ net: netOf(l), rate: l.rate }));

describe('a document', () => {
  it('keeps the rules of EN 16931, and is a credit note where it comes to less than nothing', () => {
    fc.assert(
      fc.property(someLines(), (lines) => {
        const { kind, lines: shown, totals } = documentOf('order 7', lines);
        expectByTheRules(netLines(shown), totals);
        // BR-CO-17.
        for (const row of totals.rows) expect(row.tax).toBe(taxBy(row.taxable, row.hundredths));
        const sum = lines.reduce((total, l) => total + netOf(l), 0);
        expect([kind, totals.withoutTax]).toEqual([sum < 0 ? 'credit note' : 'invoice', Math.abs(sum)]);
        expect(shown.map((l) => l.position)).toEqual(shown.map((_, i) => i + 1));
      }),
      { numRuns: 500 },
    );
  });

  it('facts of the trade: covered in full costs nothing and is shown with 100 % off where that is wanted', () => {
    const covered = line(1_00, { off: 1_00, offBecause: 'borne by AG-1' });
    const wanted = documentsOf([covered], { grouping: 'order', showsCovered: true });
    expect(wanted.documents[0]).toMatchObject({ lines: [{ list: 1_00, off: 1_00 }], totals: { withTax: 0 } });
    // A row stands also at 0 (settled questions).
    expect(wanted.documents[0]?.totals.rows).toEqual([{ ...STANDARD, taxable: 0, tax: 0 }]);
    expect(documentsOf([covered], { grouping: 'order', showsCovered: false })).toEqual({
      documents: [],
      silent: [covered],
    });
  });

  it('brings work together by order or by month, fees by agreement, and never two currencies', () => {
    const all = [
      line(1_00),
      line(2_00, { orderId: asId<OrderId>(8), day: asLocalDate('2026-10-30') }),
      line(3_00, { orderId: null, agreementId: asId<AgreementId>(5) }),
      line(4_00, { currency: 'USD' as Currency }),
    ];
    const said = (grouping: 'order' | 'month') =>
      documentsOf(all, { grouping, showsCovered: false }).documents.map(
        (d) => `${d.about} ${d.currency} ${d.totals.withoutTax}`,
      );
    expect(said('order')).toEqual(['order 7 EUR 100', 'order 8 EUR 200', 'agreement 5 EUR 300', 'order 7 USD 400']);
    expect(said('month')).toEqual(['month 2026-11 EUR 400', 'month 2026-10 EUR 200', 'month 2026-11 USD 400']);
  });

  it('stands for one appointment where that is wanted; what has none goes by its order', () => {
    const on = (day: string, nth: number): Partial<Billable> => ({ coming: { nth, on: asLocalDate(day) } });
    const all = [
      line(100, on('2026-11-03', 1)),
      line(200, on('2026-11-10', 2)),
      line(50, on('2026-11-03', 1)),
      line(70, on('2026-11-10', 3)),
      line(25),
    ];
    const wish = { grouping: 'appointment', showsCovered: true } as const;
    expect(documentsOf(all, wish).documents.map((d) => [d.about, d.totals.lines])).toEqual([
      ['order 7 2026-11-03 1', 150],
      ['order 7 2026-11-10 2', 200],
      ['order 7 2026-11-10 3', 70],
      ['order 7', 25],
    ]);
    // Whoever wants it otherwise by then gets it together.
    expect(documentsOf(all, { ...wish, grouping: 'order' }).documents.map((d) => d.totals.lines)).toEqual([445]);
  });

  it('what was paid on site is taken off once, never more than it comes to, and off no credit note: BR-CO-16', () => {
    const [seven, eight, nine] = [7, 8, 9].map((id) => asId<OrderId>(id)) as [OrderId, OrderId, OrderId];
    const paid = [
      { orderId: nine, minor: 50_00 },
      { orderId: seven, minor: 100_00 },
      { orderId: eight, minor: 100_00 },
    ];
    // 1.23 × 120.00 = 147.60: all of what was paid for the one, 47.60 of the other.
    const document = documentOf('month 2026-11', [line(100_00), line(20_00, { orderId: eight })]);
    expect(paidBefore(document, paid)).toEqual([
      { orderId: seven, minor: 100_00 },
      { orderId: eight, minor: 47_60 },
    ]);
    expect(paidBefore(documentOf('order 7', [line(-1_00)]), paid)).toEqual([]);
  });

  it('bills everything once: on one document, or silently', () => {
    fc.assert(
      fc.property(
        someLines(),
        fc.boolean(),
        fc.constantFrom('order' as const, 'month' as const),
        (lines, shows, grouping) => {
          const { documents, silent } = documentsOf(lines, { grouping, showsCovered: shows });
          const keys = [...documents.flatMap((d) => d.lines), ...silent].map((l) => l.key);
          expect(keys.toSorted()).toEqual(lines.map((l) => l.key).toSorted());
          expect(silent.every((l) => netOf(l) === 0)).toBe(true);
        },
      ),
    );
  });
});

describe('a credit note', () => {
  const issuedOf = (lines: readonly Billable[]): IssuedDocument => {
    const { lines: shown, totals } = documentOf('order 7', lines);
    return { lines: shown.map((l, i) => ({ id: i + 1, net: netOf(l), rate: l.rate })), rows: totals.rows };
  };
  const takes = (issued: IssuedDocument, before: readonly CreditNote[], lines: CreditNote['lines']): CreditNote => {
    const note = creditNoteOf(issued, before, lines);
    if (!note.ok) throw new Error(note.refusals[0]?.message);
    return note.value;
  };

  /** What is left of every line. */
  const allThatIsLeft = ({ lines }: IssuedDocument, before: readonly CreditNote[]): CreditNote['lines'] =>
    lines.flatMap(({ id, net }) => {
      const credited = before.flatMap((n) => n.lines).reduce((sum, l) => sum + (l.lineId === id ? l.minor : 0), 0);
      return net === credited ? [] : [{ lineId: id, minor: net - credited }];
    });

  it('takes the remaining tax with the last of a category: 0.23 comes back as 0.12 and 0.11', () => {
    const issued = issuedOf([line(1_00)]);
    const first = takes(issued, [], [{ lineId: 1, minor: 50 }]);
    const second = takes(issued, [first], allThatIsLeft(issued, [first]));
    expect([first.totals.tax, second.totals.tax]).toEqual([12, 11]);
  });

  it.each([
    ['of nothing', [], /nothing is chosen/],
    ['of a line of another document', [{ lineId: 4, minor: 1 }], /this document/],
    [
      'of one line twice',
      [
        { lineId: 1, minor: 1 },
        { lineId: 1, minor: 1 },
      ],
      /once/,
    ],
    ['of more than the line has', [{ lineId: 1, minor: 1_01 }], /than it has left/],
    ['with the other sign', [{ lineId: 1, minor: -1 }], /than it has left/],
    ['of half a cent', [{ lineId: 1, minor: 0.5 }], /than it has left/],
  ] as const)('%s is refused', (_, lines, message) => {
    const note = creditNoteOf(issuedOf([line(1_00)]), [], lines);
    expect(note.ok ? null : note.refusals[0]?.message).toMatch(message);
  });

  it('in parts, in any order, comes to the invoice and its tax exactly, and never to more', () => {
    fc.assert(
      fc.property(someLines(0), fc.infiniteStream(fc.integer({ min: 0, max: 100 })), (lines, shares) => {
        const issued = issuedOf(lines);
        const notes: CreditNote[] = [];
        for (let i = 0; i < 4; i += 1) {
          const left = allThatIsLeft(issued, notes);
          const part = left
            .map((l) => ({ ...l, minor: Math.trunc((l.minor * (shares.next().value as number)) / 100) }))
            .filter((l) => l.minor !== 0);
          const asked = i === 3 ? left : part;
          if (asked.length === 0) continue;
          const note = takes(issued, notes, asked);
          expectByTheRules(
            note.lines.map((l) => ({ net: l.minor, rate: issued.lines[l.lineId - 1]?.rate as TaxRate })),
            note.totals,
          );
          notes.push(note);
        }
        const sumOf = (of: (t: DocumentTotals) => number) => notes.reduce((sum, n) => sum + of(n.totals), 0);
        expect(sumOf((t) => t.withoutTax)).toBe(issued.lines.reduce((sum, l) => sum + l.net, 0));
        if (notes.length > 0) expect(sumOf((t) => t.tax)).toBe(issued.rows.reduce((sum, r) => sum + r.tax, 0));
        expect(allThatIsLeft(issued, notes)).toEqual([]);
        // BR-CO-17 holds to the cent on all but the note that ends a category, which takes what is left.
        for (const row of notes.flatMap((n) => n.totals.rows))
          expect(Math.abs(row.tax - taxBy(row.taxable, row.hundredths))).toBeLessThanOrEqual(notes.length);
      }),
      { numRuns: 300 },
    );
  });
});
