// Covers: what warranties and coverage lines give, as plain data that the decision looks through.
import type {
  AgreementId,
  AssetClassId,
  AssetId,
  CalendarId,
  CoverageLineId,
  LocationId,
  ServiceLevelId,
} from '../ids.ts';
import type { OrderKind } from '../orders/index.ts';
import type { LocalDate } from '../time/index.ts';
import type { AllowanceLeft } from './allowance.ts';
import type { Term } from './term.ts';

export const CAUSES = ['wear', 'misuse', 'accident', 'consumable', 'unknown'] as const;
export type Cause = (typeof CAUSES)[number];

export const COST_ELEMENTS = ['labour', 'parts', 'consumables', 'travel'] as const;
export type CostElement = (typeof COST_ELEMENTS)[number];
/** Whole percent, 0 to 100, borne by the cover. */
export type Shares = { readonly [E in CostElement]: number };
export const NO_SHARES: Shares = { labour: 0, parts: 0, consumables: 0, travel: 0 };

export const AGREEMENT_STAGES = ['draft', 'in force', 'suspended', 'ended'] as const;
export type AgreementStage = (typeof AGREEMENT_STAGES)[number];

export type Reach =
  | { readonly kind: 'asset'; readonly assetId: AssetId }
  | { readonly kind: 'location'; readonly locationId: LocationId }
  | { readonly kind: 'class'; readonly assetClassId: AssetClassId }
  | { readonly kind: 'own fleet' };

/** Percent off what is left to the customer of one cost element, for the named kinds of work. */
export type Discount = {
  readonly element: CostElement;
  readonly percent: number;
  readonly kinds: readonly OrderKind[];
};

/** Labour is borne in the calendar's opening hours; outside them to another share, with a surcharge on what the customer pays. */
export type LabourHours = {
  readonly calendarId: CalendarId;
  readonly shareOutside: number;
  readonly surchargePercent: number;
};

export type WarrantyCover = {
  readonly kind: 'warranty';
  readonly label: string;
  readonly assetId: AssetId;
  readonly term: Term;
  readonly shares: Shares;
  /** Free preventive visits; null when it includes none. */
  readonly visits: AllowanceLeft | null;
};

export type LineCover = {
  readonly kind: 'coverage line';
  readonly label: string;
  readonly lineId: CoverageLineId;
  readonly agreementId: AgreementId;
  readonly stage: AgreementStage;
  /** Whether its cover goes on while the agreement is suspended. */
  readonly coversSuspended: boolean;
  readonly agreementTerm: Term;
  readonly term: Term;
  readonly reach: Reach;
  readonly shares: Shares;
  readonly discounts: readonly Discount[];
  readonly hours: LabourHours | null;
  readonly allowances: readonly AllowanceLeft[];
  readonly serviceLevelId: ServiceLevelId | null;
  readonly kinds: readonly OrderKind[];
  readonly excludedCauses: readonly Cause[];
  /** Parts never borne, by name or number, as written in the agreement. */
  readonly excludedParts: readonly string[];
};

export type Cover = WarrantyCover | LineCover;

export type CoveredAsset = {
  readonly id: AssetId;
  readonly classId: AssetClassId;
  readonly owner: 'customer' | 'own fleet';
  /** From the top of the tree down to the asset's own place. */
  readonly locationPath: readonly LocationId[];
};

/** Both ends belong to the term. */
export function holdsOn(term: Term, date: LocalDate): boolean {
  return term.from <= date && (term.to === null || date <= term.to);
}

/** How a coverage line reaches an asset: 1000 for the asset itself, else the depth of the location, 0 for its class, -1 for the own fleet at the customer; null when it does not. */
export function reachRank(reach: Reach, asset: CoveredAsset): number | null {
  switch (reach.kind) {
    case 'asset':
      return reach.assetId === asset.id ? 1000 : null;
    case 'location': {
      const depth = asset.locationPath.indexOf(reach.locationId);
      return depth < 0 ? null : depth + 1;
    }
    case 'class':
      return reach.assetClassId === asset.classId ? 0 : null;
    case 'own fleet':
      return asset.owner === 'own fleet' ? -1 : null;
  }
}

const REACHES: Readonly<Record<Reach['kind'], string>> = {
  asset: 'this asset',
  location: 'everything below its location',
  class: 'its class at the customer',
  'own fleet': 'the own fleet at the customer',
};

export const sayReach = (reach: Pick<Reach, 'kind'>): string => REACHES[reach.kind];

/** Covers by what they reach, so that the candidates of one asset are found without looking through all. */
export type CoverIndex = { candidatesOf(asset: CoveredAsset, warranties?: readonly Cover[]): Cover[] };

/** Builds the index over the coverage lines of one customer's agreements. */
export function indexCovers(lines: readonly LineCover[]): CoverIndex {
  const byAsset = new Map<AssetId, LineCover[]>();
  const byLocation = new Map<LocationId, LineCover[]>();
  const byClass = new Map<AssetClassId, LineCover[]>();
  const fleet: LineCover[] = [];
  const push = <K>(map: Map<K, LineCover[]>, key: K, line: LineCover): void => {
    const list = map.get(key);
    if (list) list.push(line);
    else map.set(key, [line]);
  };
  for (const line of lines) {
    const { reach } = line;
    if (reach.kind === 'asset') push(byAsset, reach.assetId, line);
    else if (reach.kind === 'location') push(byLocation, reach.locationId, line);
    else if (reach.kind === 'class') push(byClass, reach.assetClassId, line);
    else fleet.push(line);
  }
  return {
    candidatesOf(asset, warranties = []) {
      const found: Cover[] = [...warranties];
      for (const line of byAsset.get(asset.id) ?? []) found.push(line);
      for (const id of asset.locationPath) for (const line of byLocation.get(id) ?? []) found.push(line);
      for (const line of byClass.get(asset.classId) ?? []) found.push(line);
      if (asset.owner === 'own fleet') found.push(...fleet);
      return found;
    },
  };
}
