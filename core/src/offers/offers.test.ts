// Offers: what lines come to, by hand and against fractions; what may become of an offer, against a plain model of its life.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type AssetId, type CraftId, type PartId, type TaxId } from '../ids.ts';
import type { RateCard } from '../labour/index.ts';
import type { Currency } from '../money.ts';
import type { TaxRate } from '../settle/index.ts';
import { addDays, asLocalDate } from '../time/index.ts';
import {
  amountOfLine,
  checkOfferAct,
  checkOfferLines,
  comingOffered,
  costOfLine,
  MOST_OFFER_LINES,
  OFFER_ACTS,
  planOffered,
  standingOf,
  totalsOfOffer,
  type OfferLine,
  type OfferState,
} from './index.ts';

const line = (over: Partial<OfferLine> = {}): OfferLine => ({
  ...{ kind: 'part', assetId: null, text: 'Gasket', quantity: 1000, unit: 'piece', price: 8990, cost: 5100 },
  ...{ discount: 0, partId: null, supplier: '', taxId: null, ...over },
});
const STANDARD: TaxRate = { category: 'S', hundredths: 2300 };
const ZERO: TaxRate = { category: 'Z', hundredths: 0 };

describe('what an offer comes to', () => {
  it('is this by hand', () => {
    // 1 h 50 min at 72.00 = 132.00; 2.5 × 89.90 = 224.75, 10 % off 22.48 (half-up) = 202.27; coming 45.00.
    const lines = [
      line({ kind: 'work', quantity: 110, price: 7200, cost: 3000 }),
      line({ quantity: 2500, discount: 10 }),
      line({ kind: 'travel', price: 4500, cost: 0 }),
    ];
    expect(lines.map(amountOfLine)).toEqual([
      { list: 13_200, off: 0, pay: 13_200 },
      { list: 22_475, off: 2248, pay: 20_227 },
      { list: 4500, off: 0, pay: 4500 },
    ]);
    expect(lines.map(costOfLine)).toEqual([5500, 12_750, 0]);
    expect(totalsOfOffer(lines, (l) => (l.kind === 'travel' ? ZERO : STANDARD))).toMatchObject({
      ...{ list: 40_175, off: 2248, cost: 18_250, withoutTax: 37_927 },
      // 23 % of 334.27 = 76.8821
      ...{ tax: 7688, withTax: 45_615 },
      rows: [
        { category: 'S', taxable: 33_427, tax: 7688 },
        { category: 'Z', taxable: 4500, tax: 0 },
      ],
    });
  });

  it('is off by no more than half a unit from the exact fraction, line by line, and lines make the whole', () => {
    const any = fc.record({
      kind: fc.constantFrom('work' as const, 'travel' as const, 'part' as const, 'other' as const),
      quantity: fc.integer({ min: 1, max: 50_000 }),
      price: fc.integer({ min: 0, max: 500_000 }),
      discount: fc.integer({ min: 0, max: 100 }),
    });
    fc.assert(
      fc.property(fc.array(any, { maxLength: 20 }), (drawn) => {
        const lines = drawn.map((over) => line(over));
        for (const l of lines) {
          const { list, off, pay } = amountOfLine(l);
          const under = l.kind === 'work' ? 60 : 1000;
          // 2·|list·under − price·quantity| ≤ under, in whole numbers.
          expect(2 * Math.abs(list * under - l.price * l.quantity)).toBeLessThanOrEqual(under);
          expect(2 * Math.abs(off * 100 - list * l.discount)).toBeLessThanOrEqual(100);
          expect([pay, pay >= 0]).toEqual([list - off, true]);
        }
        const totals = totalsOfOffer(lines, (l) => (l.kind === 'other' ? ZERO : STANDARD));
        expect(totals.withoutTax).toBe(totals.list - totals.off);
        expect(totals.rows.reduce((sum, r) => sum + r.taxable, 0)).toBe(totals.withoutTax);
        expect(totals.withTax).toBe(totals.withoutTax + totals.tax);
      }),
    );
  });

  it.each<[string, Partial<OfferLine>]>([
    ['text', { text: ' ' }],
    ['quantity', { quantity: 0 }],
    ['quantity', { quantity: -1000 }],
    ['quantity', { quantity: 1.5 }],
    ['quantity', { kind: 'work', quantity: 100_001 }],
    ['price', { price: -1 }],
    ['cost', { cost: 0.5 }],
    ['discount', { discount: 101 }],
    ['partId', { kind: 'other', partId: asId<PartId>(1) }],
  ])('is refused at %s: %o', (field, over) =>
    expect(checkOfferLines([line(), line(over)]).map((r) => r.field)).toEqual([`lines.1.${field}`]),
  );

  it('has at most so many lines', () => {
    expect(checkOfferLines(Array.from({ length: MOST_OFFER_LINES }, () => line()))).toEqual([]);
    expect(checkOfferLines(Array.from({ length: MOST_OFFER_LINES + 1 }, () => line()))[0]?.code).toBe('too-large');
  });
});

describe('the life of an offer', () => {
  const DAY = asLocalDate('2026-11-24');

  it('holds through its last day and has lapsed after it; only what was sent lapses', () => {
    expect(standingOf('sent', DAY, DAY)).toBe('sent');
    expect(standingOf('sent', DAY, addDays(DAY, 1))).toBe('lapsed');
    expect(standingOf('draft', DAY, addDays(DAY, 9))).toBe('draft');
    expect(standingOf('accepted', DAY, addDays(DAY, 9))).toBe('accepted');
  });

  it('whatever is tried in whatever order, it is accepted once at most, only while it holds, and an end is an end', () => {
    const NEXT: Readonly<Record<string, OfferState>> = {
      ...{ send: 'sent', accept: 'accepted', decline: 'declined', withdraw: 'withdrawn' },
    };
    const tried = fc.array(fc.tuple(fc.constantFrom(...OFFER_ACTS), fc.integer({ min: 0, max: 4 })), { maxLength: 25 });
    fc.assert(
      fc.property(tried, (acts) => {
        let [state, today, validUntil]: [OfferState, typeof DAY, typeof DAY] = ['draft', DAY, addDays(DAY, 5)];
        let accepted = 0;
        for (const [act, days] of acts) {
          today = addDays(today, days);
          // Sent anew with another day whenever it is sent.
          if (act === 'send') validUntil = addDays(today, 5);
          const before = state;
          const refused = checkOfferAct(act, { state, validUntil }, today);
          if (refused === null) {
            state = NEXT[act] ?? state;
            if (act === 'accept') {
              accepted += 1;
              expect([before, validUntil >= today]).toEqual(['sent', true]);
            }
            expect(['accepted', 'declined', 'withdrawn']).not.toContain(before);
          } else expect(refused.message).not.toBe('');
        }
        expect(accepted).toBeLessThanOrEqual(1);
      }),
    );
  });

  it('says what would be right where it is refused', () => {
    const lapsed = checkOfferAct('accept', { state: 'sent', validUntil: DAY }, addDays(DAY, 1));
    expect(lapsed?.message).toBe('It was valid until Tue 24 Nov 2026: send it again with another day.');
    const past = checkOfferAct('send', { state: 'draft', validUntil: DAY }, addDays(DAY, 1));
    expect([past?.field, past?.code]).toEqual(['validUntil', 'invalid']);
  });
});

describe('lines that are proposed', () => {
  const craft = asId<CraftId>(1);
  const card = (over: Partial<RateCard> = {}): RateCard => ({
    ...{ name: 'Standard', currency: 'EUR' as Currency, surcharges: {}, night: null, callOut: 2500 },
    rates: [{ craftId: craft, from: asLocalDate('2026-01-01'), cost: 3000, sales: 7200 }],
    billing: { work: { step: 15, minimum: 0 }, travel: { step: 15, minimum: 0 }, waiting: { step: 15, minimum: 0 } },
    travel: { by: 'flat', price: 2000 },
    ...over,
  });
  const day = asLocalDate('2026-11-24');
  const plan = {
    ...{ name: 'Yearly service', minutes: 90, crew: 2 },
    parts: [{ partId: 7, number: 'GS-1', name: 'Gasket', unit: 'piece', thousandths: 2000 }],
  };
  const machine = asId<AssetId>(4);

  it('of a job plan are its people’s minutes at the day’s rate and its parts at the list’s prices', () => {
    const prices = new Map([[7, { listPrice: 8990, cost: 5100, taxId: asId<TaxId>(3) }]]);
    const lines = planOffered(machine, plan, { card: card(), day, prices });
    expect(lines).toMatchObject([
      { kind: 'work', assetId: 4, text: 'Yearly service', quantity: 180, price: 7200, cost: 3000 },
      { kind: 'part', assetId: 4, text: 'GS-1 Gasket', quantity: 2000, price: 8990, cost: 5100, partId: 7, taxId: 3 },
    ]);
    expect(checkOfferLines(lines)).toEqual([]);
    // Before any rate holds, and without a card, they stand to be filled in.
    const early = planOffered(machine, plan, { card: card(), day: asLocalDate('2025-01-01'), prices: new Map() });
    expect(early.map((l) => l.price)).toEqual([0, 0]);
    expect(planOffered(null, { ...plan, minutes: 0, parts: [] }, { card: null, day, prices })).toEqual([]);
  });

  it('of coming are the call-out and the flat sum once, and nothing where there is neither', () => {
    expect(comingOffered(card()).map((l) => l.price)).toEqual([4500]);
    expect(comingOffered(card({ callOut: 0, travel: { by: 'time' } }))).toEqual([]);
    expect(comingOffered(null)).toEqual([]);
  });
});
