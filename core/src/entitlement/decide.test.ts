import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import {
  asId,
  type AgreementId,
  type AssetClassId,
  type AssetId,
  type CoverageLineId,
  type LocationId,
  type ServiceLevelId,
} from '../ids.ts';
import { asLocalDate } from '../time/index.ts';
import { decideEntitlement, sayVerdict, type Cover, type Question } from './index.ts';

type Line = Extract<Cover, { kind: 'coverage line' }>;
const d = asLocalDate;
const asset = {
  id: asId<AssetId>(7),
  classId: asId<AssetClassId>(3),
  locationPath: [asId<LocationId>(1), asId<LocationId>(2)],
};
const ask = (over: Partial<Question> = {}): Question => ({
  asset,
  on: d('2026-11-24'),
  kind: 'repair',
  cause: 'wear',
  ...over,
});
const line = (n: number, over: Partial<Line> = {}): Line => ({
  kind: 'coverage line',
  label: `AG-${n}`,
  lineId: asId<CoverageLineId>(n),
  agreementId: asId<AgreementId>(n),
  stage: 'in force',
  agreementTerm: { from: d('2026-01-01'), to: d('2026-12-31') },
  term: { from: d('2026-01-01'), to: null },
  reach: { kind: 'asset', assetId: asset.id },
  shares: { labour: 100, parts: 50, travel: 0 },
  serviceLevelId: asId<ServiceLevelId>(n),
  kinds: ['repair', 'preventive'],
  excludedCauses: ['misuse'],
  ...over,
});
const warranty: Cover = {
  kind: 'warranty',
  label: 'Warranty',
  assetId: asset.id,
  term: { from: d('2025-01-01'), to: d('2027-01-01') },
  shares: { labour: 100, parts: 100, travel: 0 },
};

describe('the entitlement decision', () => {
  it('takes the warranty before the agreement and lets the agreement bear what the warranty leaves out', () => {
    const verdict = decideEntitlement(ask(), [line(1, { shares: { labour: 50, parts: 50, travel: 80 } }), warranty]);
    expect(verdict.elements).toEqual({
      labour: { share: 100, by: 'Warranty' },
      parts: { share: 100, by: 'Warranty' },
      travel: { share: 80, by: 'AG-1' },
    });
    expect(sayVerdict(verdict)).toBe('Covered by Warranty and AG-1: labour 100 %, parts 100 %, travel 80 %.');
  });

  it('takes asset before deeper location before shallower before class', () => {
    const covers = [
      line(4, { reach: { kind: 'class', assetClassId: asset.classId } }),
      line(3, { reach: { kind: 'location', locationId: asId<LocationId>(1) } }),
      line(2, { reach: { kind: 'location', locationId: asId<LocationId>(2) } }),
      line(1),
    ];
    expect(decideEntitlement(ask(), covers).considered.map((c) => c.label)).toEqual(['AG-1', 'AG-2', 'AG-3', 'AG-4']);
  });

  it('then the larger share, then the older agreement', () => {
    const larger = line(9, { shares: { labour: 100, parts: 100, travel: 100 } });
    const older = line(8, { agreementTerm: { from: d('2024-01-01'), to: null } });
    expect(decideEntitlement(ask(), [line(1), older, larger]).considered.map((c) => c.label)).toEqual([
      'AG-9',
      'AG-8',
      'AG-1',
    ]);
  });

  it.each<[string, Cover, Partial<Question>, string]>([
    ['a draft everybody believes in force', line(1, { stage: 'draft' }), {}, 'still in draft'],
    ['a suspended agreement', line(1, { stage: 'suspended' }), {}, 'suspended'],
    ['an ended term', line(1), { on: d('2027-01-01') }, 'ended on 31 Dec 2026'],
    ['a term not begun', line(1), { on: d('2025-12-31') }, 'starts on 1 Jan 2026'],
    ['a kind of work left out', line(1), { kind: 'installation' }, 'installation work is not included'],
    ['an excluded cause', line(1), { cause: 'misuse' }, 'misuse is excluded'],
    ['a cover of other assets', line(1, { reach: { kind: 'asset', assetId: asId<AssetId>(8) } }), {}, 'does not reach'],
    ['an ended warranty', warranty, { on: d('2027-01-02') }, 'ended on 1 Jan 2027'],
  ])('refuses %s and says why', (_, cover, question, reason) => {
    const verdict = decideEntitlement(ask(question), [cover]);
    expect(verdict.considered[0]).toMatchObject({ taken: false, reason: expect.stringContaining(reason) as string });
    expect(sayVerdict(verdict)).toBe('Not covered: chargeable at list rates, no promise.');
    expect(verdict.serviceLevelIds).toEqual([]);
  });

  it('counts the last day of a term as covered', () => {
    expect(decideEntitlement(ask({ on: d('2026-12-31') }), [line(1)]).considered[0]?.taken).toBe(true);
  });

  const anyLine = fc
    .record({
      n: fc.integer({ min: 1, max: 9 }),
      stage: fc.constantFrom('in force' as const, 'draft' as const),
      reach: fc.constantFrom<Line['reach']>(
        { kind: 'asset', assetId: asset.id },
        { kind: 'location', locationId: asId<LocationId>(2) },
        { kind: 'class', assetClassId: asset.classId },
      ),
      labour: fc.constantFrom(0, 50, 100),
      parts: fc.constantFrom(0, 50, 100),
    })
    .map(({ n, stage, reach, labour, parts }) => line(n, { stage, reach, shares: { labour, parts, travel: 0 } }));
  const covers = fc.uniqueArray(anyLine, { maxLength: 6, selector: (c) => c.lineId });

  it('does not depend on the order of the covers', () => {
    fc.assert(
      fc.property(covers, fc.nat(), (list, turn) => {
        const turned = [...list.slice(turn % (list.length || 1)), ...list.slice(0, turn % (list.length || 1))];
        expect(decideEntitlement(ask(), turned)).toEqual(decideEntitlement(ask(), list));
      }),
    );
  });

  it('is not changed by an unrelated cover, and losing the winner yields the runner-up', () => {
    fc.assert(
      fc.property(covers, (list) => {
        const verdict = decideEntitlement(ask(), list);
        const unrelated = line(50, { reach: { kind: 'asset', assetId: asId<AssetId>(99) } });
        const { elements, serviceLevelIds } = decideEntitlement(ask(), [...list, unrelated]);
        expect({ elements, serviceLevelIds }).toEqual({
          elements: verdict.elements,
          serviceLevelIds: verdict.serviceLevelIds,
        });
        const taken = verdict.considered.filter((c) => c.taken).map((c) => c.label);
        const without = decideEntitlement(
          ask(),
          list.filter((c) => c.label !== taken[0]),
        );
        expect(without.considered.filter((c) => c.taken).map((c) => c.label)).toEqual(taken.slice(1));
      }),
    );
  });
});
