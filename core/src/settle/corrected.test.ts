import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { asId, type CustomerId } from '../ids.ts';
import { correctedCharges, settledTotalOf, splitCharge, type Charge, type Correction } from './index.ts';

const [OWN, LANDLORD, INSURER] = [1, 2, 3].map((id) => asId<CustomerId>(id)) as [CustomerId, CustomerId, CustomerId];
const charge = (list: number, over: Partial<Charge> = {}, share = 0): Charge => ({
  ...{ lineId: 1, element: 'parts', what: 'part', labour: null, of: 9, cost: list, by: share > 0 ? 'AG-1' : null },
  ...splitCharge(list, { share, discount: 0 }),
  ...over,
});
const goodwill = (off: Extract<Correction, { kind: 'goodwill' }>['off'], over: Partial<Correction> = {}): Correction =>
  ({ kind: 'goodwill', lineId: null, element: null, reason: 'late three times', off, ...over }) as Correction;
const payers = (...shares: readonly (readonly [CustomerId, number])[]): Correction => ({
  ...{ kind: 'payers', lineId: null, element: null, reason: 'the lease says so' },
  payers: shares.map(([customerId, percent]) => ({ customerId, percent })),
});
const said = (charges: readonly Charge[], corrections: readonly Correction[]) => {
  const done = correctedCharges(charges, corrections, OWN);
  return done.ok
    ? done.value.map((c) => [c.goodwill, c.pay, ...c.payers.map((p) => `${p.customerId}:${p.minor}`)])
    : done.refusals[0]?.message;
};

describe('charges as they are let stand', () => {
  it.each([
    ['nothing said: the customer pays', [charge(1_00)], [], [[0, 1_00, '1:100']]],
    ['borne in full, nobody pays anything', [charge(1_00, {}, 100)], [], [[0, 0]]],
    // 50 % of 0.05 is 0.025, half-up 0.03.
    ['half of 0.05 off, half-up', [charge(5)], [goodwill({ percent: 50 })], [[3, 2, '1:2']]],
    [
      'twice half off, one after the other',
      [charge(1_00)],
      [goodwill({ percent: 50 }), goodwill({ percent: 50 })],
      [[75, 25, '1:25']],
    ],
    [
      'an amount over charges by what is left',
      [charge(3_00), charge(1_00)],
      [goodwill({ minor: 1_00 })],
      [
        [75, 2_25, '1:225'],
        [25, 75, '1:75'],
      ],
    ],
    [
      'only of one element',
      [charge(1_00), charge(1_00, { element: 'labour' })],
      [goodwill({ percent: 100 }, { element: 'labour' })],
      [
        [0, 1_00, '1:100'],
        [1_00, 0],
      ],
    ],
    // Settled questions: several payers by largest remainder, ties to the earlier, the customer last.
    ['one cent on three payers', [charge(1)], [payers([LANDLORD, 33], [INSURER, 33])], [[0, 1, '1:1']]],
    [
      'one cent on three equal payers goes to the first',
      [charge(1)],
      [payers([LANDLORD, 33], [INSURER, 33], [OWN, 33])],
      [[0, 1, '2:1']],
    ],
    ['ten cents on three', [charge(10)], [payers([LANDLORD, 33], [INSURER, 33])], [[0, 10, '2:3', '3:3', '1:4']]],
    ['half a cent each: the earlier', [charge(1)], [payers([LANDLORD, 50])], [[0, 1, '2:1']]],
    [
      'the later word on who pays holds',
      [charge(1_00)],
      [payers([LANDLORD, 100]), payers([INSURER, 40])],
      [[0, 1_00, '3:40', '1:60']],
    ],
  ] as const)('%s', (_, charges, corrections, expected) => {
    expect(said(charges, corrections)).toEqual(expected);
  });

  it.each([
    ['without a reason', goodwill({ percent: 10 }, { reason: ' ' }), /Say why/],
    ['that concerns no charge', goodwill({ percent: 10 }, { lineId: 8 }), /No charge/],
    ['of nothing', goodwill({ minor: 0 }), /above 0/],
    ['of half a cent', goodwill({ minor: 0.5 }), /above 0/],
    ['of more than is left', goodwill({ minor: 1_01 }), /more than is left/],
    ['above all of it', goodwill({ percent: 101 }), /1 to 100/],
    ['that names nobody', payers(), /Name who/],
    ['that names somebody twice', payers([LANDLORD, 10], [LANDLORD, 10]), /twice/],
    ['of more than 100 % together', payers([LANDLORD, 60], [INSURER, 41]), /100 % together/],
  ])('a correction %s is refused', (_, correction, message) => {
    expect(said([charge(1_00)], [correction])).toMatch(message);
  });

  it('add up to their list prices, whatever was said of them, and nobody pays less than nothing', () => {
    const percent = fc.integer({ min: 1, max: 100 });
    const meant = { lineId: fc.constantFrom(null, 1, 2), element: fc.constantFrom(null, 'parts', 'labour') };
    const reason = fc.constant('so be it');
    const correction = fc.oneof(
      fc.record({ kind: fc.constant('goodwill'), ...meant, reason, off: fc.record({ percent }) }),
      fc.record({
        kind: fc.constant('goodwill'),
        ...meant,
        reason,
        off: fc.record({ minor: fc.integer({ min: 1, max: 500 }) }),
      }),
      fc.record({
        ...{ kind: fc.constant('payers'), ...meant, reason },
        payers: fc.uniqueArray(
          fc.record({ customerId: fc.constantFrom(OWN, LANDLORD, INSURER), percent: fc.integer({ min: 1, max: 50 }) }),
          { selector: (p) => p.customerId, minLength: 1, maxLength: 2 },
        ),
      }),
    ) as fc.Arbitrary<Correction>;
    const charges = fc.array(
      fc
        .record({
          ...{ lineId: fc.constantFrom(1, 2), element: fc.constantFrom('parts', 'labour') },
          ...{ list: fc.nat(5_000), share: fc.integer({ min: 0, max: 100 }) },
        })
        .map((c) => charge(c.list, { lineId: c.lineId, element: c.element as 'parts' }, c.share)),
      { minLength: 1, maxLength: 5 },
    );
    let taken = 0;
    fc.assert(
      fc.property(charges, fc.array(correction, { maxLength: 4 }), (all, corrections) => {
        const done = correctedCharges(all, corrections, OWN);
        if (!done.ok) return;
        taken += 1;
        for (const [i, c] of done.value.entries()) {
          expect(c.borne + c.discount + c.goodwill + c.pay).toBe(all[i]?.list);
          expect(c.payers.reduce((sum, p) => sum + p.minor, 0)).toBe(c.pay);
          expect(Math.min(c.pay, c.goodwill, ...c.payers.map((p) => p.minor))).toBeGreaterThanOrEqual(0);
        }
        const total = settledTotalOf(done.value);
        expect(total.list).toBe(total.borne + total.discount + total.goodwill + total.pay);
      }),
      { numRuns: 500 },
    );
    expect(taken).toBeGreaterThan(100);
  });
});
