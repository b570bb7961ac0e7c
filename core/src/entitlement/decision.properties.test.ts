// Properties of the decision over any covers: order is irrelevant, unrelated covers change nothing, shares sum up, and what an element is given can be read from the reasons.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  asId,
  type AgreementId,
  type AllowanceId,
  type AssetClassId,
  type AssetId,
  type CalendarId,
  type CoverageLineId,
  type LocationId,
  type ServiceLevelId,
} from '../ids.ts';
import { ORDER_KINDS } from '../orders/index.ts';
import { asLocalDate } from '../time/index.ts';
import {
  AGREEMENT_STAGES,
  CAUSES,
  COST_ELEMENTS,
  customerShare,
  decideEntitlement,
  indexCovers,
  leftOf,
  type Cover,
  type LineCover,
  type Question,
} from './index.ts';

const d = asLocalDate;
const asset = {
  id: asId<AssetId>(7),
  classId: asId<AssetClassId>(3),
  owner: 'own fleet' as const,
  locationPath: [asId<LocationId>(1), asId<LocationId>(2)],
};
const share = fc.constantFrom(0, 25, 50, 100);
const shares = fc.record({ labour: share, parts: share, consumables: share, travel: share });
const days = fc.constantFrom('2025-06-01', '2026-01-01', '2026-11-24', '2026-11-25').map(d);

const anyLine: fc.Arbitrary<LineCover> = fc
  .record({
    n: fc.integer({ min: 1, max: 12 }),
    stage: fc.constantFrom(...AGREEMENT_STAGES),
    coversSuspended: fc.boolean(),
    reach: fc.constantFrom<LineCover['reach']>(
      { kind: 'asset', assetId: asset.id },
      { kind: 'location', locationId: asId<LocationId>(1) },
      { kind: 'location', locationId: asId<LocationId>(2) },
      { kind: 'class', assetClassId: asset.classId },
      { kind: 'own fleet' },
      { kind: 'asset', assetId: asId<AssetId>(99) },
    ),
    from: days,
    shares,
    discount: fc.record({ element: fc.constantFrom(...COST_ELEMENTS), percent: fc.integer({ min: 0, max: 100 }) }),
    calendar: fc.constantFrom(null, 1, 2),
    amount: fc.constantFrom(null, 0, 1, 3),
    unit: fc.constantFrom('visits', 'hours', 'call-outs'),
    kinds: fc.subarray([...ORDER_KINDS], { minLength: 1 }),
    excludedCauses: fc.subarray([...CAUSES]),
  })
  .map(({ n, from, discount, calendar, amount, unit, ...rest }) => ({
    kind: 'coverage line',
    label: `AG-${n}`,
    lineId: asId<CoverageLineId>(n),
    agreementId: asId<AgreementId>(n),
    agreementTerm: { from, to: null },
    term: { from, to: null },
    discounts: [{ ...discount, kinds: rest.kinds }],
    hours:
      calendar === null ? null : { calendarId: asId<CalendarId>(calendar), shareOutside: 50, surchargePercent: 30 },
    allowances:
      amount === null
        ? []
        : [
            leftOf(
              {
                key: { kind: 'agreement', id: asId<AllowanceId>(n) },
                unit,
                amount,
                period: 'term',
                carriesOver: false,
              },
              { from, to: null },
              [{ on: d('2026-02-01'), amount: 1 }],
              d('2026-11-24'),
            ),
          ],
    serviceLevelId: asId<ServiceLevelId>(n),
    excludedParts: ['compressor*'],
    ...rest,
  }));
const covers = fc.uniqueArray(anyLine, { maxLength: 7, selector: (c) => c.lineId });
const question: fc.Arbitrary<Question> = fc.record({
  asset: fc.constant(asset),
  on: fc.constant(d('2026-11-24')),
  kind: fc.constantFrom(...ORDER_KINDS),
  cause: fc.constantFrom(...CAUSES),
  part: fc.constantFrom(null, 'Compressor 2'),
  closedCalendars: fc.constantFrom(new Set<CalendarId>(), new Set([asId<CalendarId>(1)])),
});

const turned = <T>(list: readonly T[], by: number): T[] => [
  ...list.slice(by % (list.length || 1)),
  ...list.slice(0, by % (list.length || 1)),
];

describe('over any covers and questions', () => {
  it('the order of the covers is irrelevant', () => {
    fc.assert(
      fc.property(question, covers, fc.nat(), (ask, list, by) => {
        expect(decideEntitlement(ask, turned(list, by))).toEqual(decideEntitlement(ask, list));
      }),
    );
  });

  it('an unrelated cover never changes the answer', () => {
    fc.assert(
      fc.property(question, covers, anyLine, (ask, list, other) => {
        const unrelated: Cover = {
          ...other,
          label: 'AG-50',
          lineId: asId<CoverageLineId>(50),
          agreementId: asId<AgreementId>(50),
          reach: { kind: 'asset', assetId: asId<AssetId>(1234) },
        };
        const { considered, ...answer } = decideEntitlement(ask, [...list, unrelated]);
        const { considered: before, ...expected } = decideEntitlement(ask, list);
        expect(answer).toEqual(expected);
        expect(considered.filter((c) => c.taken)).toEqual(before.filter((c) => c.taken));
      }),
    );
  });

  it('removing the winner yields the runner-up', () => {
    fc.assert(
      fc.property(question, covers, (ask, list) => {
        const taken = decideEntitlement(ask, list).considered.filter((c) => c.taken);
        const without = list.filter((c) => c.label !== taken[0]?.label);
        expect(decideEntitlement(ask, without).considered.filter((c) => c.taken)).toEqual(taken.slice(1));
      }),
    );
  });

  it('what is borne, taken off and paid by the customer sums to the whole', () => {
    fc.assert(
      fc.property(question, covers, (ask, list) => {
        const { elements } = decideEntitlement(ask, list);
        for (const element of COST_ELEMENTS) {
          const borne = elements[element];
          const takenOff = (100 - borne.share) * borne.discount;
          expect(borne.share * 100 + takenOff + customerShare(borne)).toBe(100_00);
          expect(borne.by === null).toBe(borne.share === 0 && borne.discount === 0);
        }
      }),
    );
  });

  it('nothing taken means nothing borne, promised or drawn; a draw always names a taken cover', () => {
    fc.assert(
      fc.property(question, covers, (ask, list) => {
        const verdict = decideEntitlement(ask, list);
        const taken = verdict.considered.filter((c) => c.taken).map((c) => c.label);
        for (const draw of verdict.draws) expect(taken).toContain(draw.label);
        if (taken.length > 0) return;
        expect(verdict.serviceLevelIds).toEqual([]);
        expect(COST_ELEMENTS.every((e) => verdict.elements[e].share === 0)).toBe(true);
      }),
    );
  });

  it('each element is borne by the closest cover that includes it, of equally close ones by the larger share, then the older', () => {
    // The other way round: every pair of covers is compared by the written rule, without any order of the whole list.
    const closeness = ({ reach }: LineCover): number =>
      reach.kind === 'asset'
        ? 9
        : reach.kind === 'location'
          ? Number(reach.locationId)
          : reach.kind === 'class'
            ? 0
            : -1;
    fc.assert(
      fc.property(question, covers, (ask, list) => {
        const plain = list.map((c): LineCover => ({ ...c, hours: null, allowances: [] }));
        const verdict = decideEntitlement({ ...ask, part: null }, plain);
        const taken = new Set(verdict.considered.filter((c) => c.taken).map((c) => c.label));
        for (const element of COST_ELEMENTS) {
          const bearing = plain.filter((c) => taken.has(c.label) && c.shares[element] > 0);
          const winners = bearing.filter((a) =>
            bearing.every((b) => {
              if (closeness(a) !== closeness(b)) return closeness(a) > closeness(b);
              if (a.shares[element] !== b.shares[element]) return a.shares[element] > b.shares[element];
              if (a.agreementTerm.from !== b.agreementTerm.from) return a.agreementTerm.from < b.agreementTerm.from;
              return a.agreementId <= b.agreementId;
            }),
          );
          expect(winners).toHaveLength(bearing.length === 0 ? 0 : 1);
          if (winners[0])
            expect(verdict.elements[element]).toMatchObject({
              by: winners[0].label,
              share: winners[0].shares[element],
            });
        }
      }),
    );
  });

  it('the index gives the same answer as looking through every cover', () => {
    fc.assert(
      fc.property(question, covers, (ask, list) => {
        const { considered, ...answer } = decideEntitlement(ask, indexCovers(list).candidatesOf(ask.asset));
        const { considered: all, ...expected } = decideEntitlement(ask, list);
        expect(answer).toEqual(expected);
        expect(considered).toEqual(
          all.filter((c) => c.reason !== 'it does not reach this asset' && considered.some((x) => x.label === c.label)),
        );
      }),
    );
  });
});
