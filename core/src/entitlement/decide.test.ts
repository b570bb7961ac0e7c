import { describe, expect, it } from 'vitest';
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
  owner: 'customer' as const,
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
  coversSuspended: false,
  shares: { labour: 100, parts: 50, consumables: 0, travel: 0 },
  discounts: [],
  hours: null,
  allowances: [],
  serviceLevelId: asId<ServiceLevelId>(n),
  kinds: ['repair', 'preventive'],
  excludedCauses: ['misuse'],
  excludedParts: [],
  ...over,
});
const warranty: Cover = {
  kind: 'warranty',
  label: 'Warranty',
  assetId: asset.id,
  term: { from: d('2025-01-01'), to: d('2027-01-01') },
  shares: { labour: 100, parts: 100, consumables: 0, travel: 0 },
  visits: null,
};

describe('the entitlement decision', () => {
  it('takes the warranty before the agreement and lets the agreement bear what the warranty leaves out', () => {
    const verdict = decideEntitlement(ask(), [
      line(1, { shares: { labour: 50, parts: 50, consumables: 0, travel: 80 } }),
      warranty,
    ]);
    expect(verdict.elements).toEqual({
      labour: { share: 100, by: 'Warranty', discount: 0 },
      parts: { share: 100, by: 'Warranty', discount: 0 },
      consumables: { share: 0, by: null, discount: 0 },
      travel: { share: 80, by: 'AG-1', discount: 0 },
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
    const larger = line(9, { shares: { labour: 100, parts: 100, consumables: 0, travel: 100 } });
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
});
