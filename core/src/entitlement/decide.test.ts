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
import { asLocalDate } from '../time/index.ts';
import { decideEntitlement, isExcludedPart, leftOf, sayVerdict, type Cover, type Question } from './index.ts';

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

describe('of two lines of one agreement', () => {
  const both = { agreementId: asId<AgreementId>(1), label: 'AG-1' };
  const hours = { calendarId: asId<CalendarId>(5), shareOutside: 50, surchargePercent: 40 };
  const closed = { closedCalendars: new Set([asId<CalendarId>(5)]) };

  it('the surcharge is that of the one that bears the labour, not of its neighbour with the same name', () => {
    const bearsLabour = line(1, both);
    const bearsParts = line(2, { ...both, shares: { labour: 0, parts: 100, consumables: 0, travel: 0 }, hours });
    expect(decideEntitlement(ask(closed), [bearsLabour, bearsParts])).toMatchObject({
      surcharge: null,
      elements: { labour: { share: 100 }, parts: { share: 100 } },
    });
    const outside = line(3, { ...both, hours });
    expect(decideEntitlement(ask(closed), [outside]).surcharge).toEqual({ percent: 40, by: 'AG-1' });
  });

  it('hours are drawn from the one that bears the labour, and from none where none bears it', () => {
    const counted = (id: number, drawn: number) =>
      leftOf(
        {
          key: { kind: 'agreement', id: asId<AllowanceId>(id) },
          unit: 'hours',
          amount: 60,
          period: 'term',
          carriesOver: false,
        },
        { from: d('2026-01-01'), to: null },
        [{ on: d('2026-02-01'), amount: drawn }],
        d('2026-11-24'),
      );
    const bearsLabour = line(1, both);
    const bearsParts = line(2, {
      ...both,
      shares: { labour: 0, parts: 100, consumables: 0, travel: 0 },
      allowances: [counted(8, 0)],
    });
    expect(decideEntitlement(ask(), [bearsLabour, bearsParts]).draws).toEqual([]);
    const usedUp = decideEntitlement(ask(), [
      line(3, { shares: { labour: 100, parts: 0, consumables: 0, travel: 0 }, allowances: [counted(9, 60)] }),
    ]);
    // Labour is left out; the rest of the cover stays, its promise too.
    expect(usedUp).toMatchObject({ draws: [], serviceLevelIds: [3], elements: { labour: { share: 0 } } });
    expect(usedUp.considered[0]).toMatchObject({
      taken: true,
      reason: expect.stringContaining('labour left out') as string,
    });
  });

  it('each element goes to the one with the larger share of it', () => {
    const more = line(1, { shares: { labour: 100, parts: 20, consumables: 100, travel: 100 } });
    const parts = line(2, { shares: { labour: 50, parts: 60, consumables: 0, travel: 0 } });
    expect(decideEntitlement(ask(), [more, parts]).elements).toMatchObject({
      labour: { by: 'AG-1', share: 100 },
      parts: { by: 'AG-2', share: 60 },
    });
  });
});

describe('excluded parts', () => {
  it.each<[string, string, boolean]>([
    ['1204', '1204', true],
    ['1204', '31204-7', false],
    ['1204', '12045', false],
    [' Compressor relay ', 'compressor relay', true],
    ['1204*', '1204-7', true],
    ['*1204*', '31204-7', true],
    ['31*-7', '31204-7', true],
    ['31*-7', '31204-8', false],
    ['12*12', '12', false],
    ['a*b*c', 'a-b-c', true],
    ['a*b*c', 'a-c', false],
    ['*', 'anything', true],
    ['', '', false],
    ['1.04', '1204', false],
  ])('“%s” on “%s”: %s', (excluded, part, out) => {
    expect(isExcludedPart([excluded], part)).toBe(out);
  });

  it('with stars match what a regular expression of the same meaning matches', () => {
    const letters = fc.stringMatching(/^[ab*]{0,6}$/);
    fc.assert(
      fc.property(letters, fc.stringMatching(/^[ab]{1,6}$/), (pattern, part) => {
        const expected = pattern !== '' && new RegExp(`^${pattern.replaceAll('*', '.*')}$`).test(part);
        expect(isExcludedPart([pattern], part)).toBe(expected);
      }),
    );
  });
});
