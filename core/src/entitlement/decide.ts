// Entitlement: who bears labour, parts and travel for an asset at an instant, which promise holds, and why.
import type { AgreementId, AssetClassId, AssetId, CoverageLineId, LocationId, ServiceLevelId } from '../ids.ts';
import type { OrderKind } from '../orders/index.ts';
import { sayDay, type LocalDate } from '../time/index.ts';

export const CAUSES = ['wear', 'misuse', 'accident', 'consumable', 'unknown'] as const;
export type Cause = (typeof CAUSES)[number];

export const COST_ELEMENTS = ['labour', 'parts', 'travel'] as const;
export type CostElement = (typeof COST_ELEMENTS)[number];
/** Whole percent, 0 to 100, borne by the cover. */
export type Shares = { readonly [E in CostElement]: number };

export type AgreementStage = 'draft' | 'in force' | 'suspended' | 'ended';

/** Includes both days; an open end is null. */
export type Term = { readonly from: LocalDate; readonly to: LocalDate | null };

export type Reach =
  | { readonly kind: 'asset'; readonly assetId: AssetId }
  | { readonly kind: 'location'; readonly locationId: LocationId }
  | { readonly kind: 'class'; readonly assetClassId: AssetClassId };

export type Cover =
  | {
      readonly kind: 'warranty';
      readonly label: string;
      readonly assetId: AssetId;
      readonly term: Term;
      readonly shares: Shares;
    }
  | {
      readonly kind: 'coverage line';
      readonly label: string;
      readonly lineId: CoverageLineId;
      readonly agreementId: AgreementId;
      readonly stage: AgreementStage;
      readonly agreementTerm: Term;
      readonly term: Term;
      readonly reach: Reach;
      readonly shares: Shares;
      readonly serviceLevelId: ServiceLevelId | null;
      readonly kinds: readonly OrderKind[];
      readonly excludedCauses: readonly Cause[];
    };

export type CoveredAsset = {
  readonly id: AssetId;
  readonly classId: AssetClassId;
  /** From the top of the tree down to the asset's own place. */
  readonly locationPath: readonly LocationId[];
};

export type Question = {
  readonly asset: CoveredAsset;
  readonly on: LocalDate;
  readonly kind: OrderKind;
  readonly cause: Cause;
};

/** One cover as it was looked at. */
export type Considered = {
  readonly label: string;
  readonly agreementId: AgreementId | null;
  readonly taken: boolean;
  readonly reason: string;
};

export type Borne = { readonly share: number; readonly by: string | null };

export type Verdict = {
  readonly elements: { readonly [E in CostElement]: Borne };
  readonly agreementId: AgreementId | null;
  readonly serviceLevelIds: readonly ServiceLevelId[];
  readonly considered: readonly Considered[];
};

/** Both ends belong to the term. */
export function holdsOn(term: Term, date: LocalDate): boolean {
  return term.from <= date && (term.to === null || date <= term.to);
}

/** How a coverage line reaches an asset: 1000 for the asset itself, else the depth of the location, 0 for its class; null when it does not. */
function reachRank(reach: Reach, asset: CoveredAsset): number | null {
  switch (reach.kind) {
    case 'asset':
      return reach.assetId === asset.id ? 1000 : null;
    case 'location': {
      const depth = asset.locationPath.indexOf(reach.locationId);
      return depth < 0 ? null : depth + 1;
    }
    case 'class':
      return reach.assetClassId === asset.classId ? 0 : null;
  }
}

function sayReach(reach: Reach): string {
  return { asset: 'this asset', location: 'everything below its location', class: 'its class at the customer' }[
    reach.kind
  ];
}

function offTerm(term: Term, on: LocalDate, what: string): string | null {
  if (on < term.from) return `${what} starts on ${sayDay(term.from)}`;
  return term.to !== null && on > term.to ? `${what} ended on ${sayDay(term.to)}` : null;
}

/** Why a cover is refused, or null when it is taken. */
function whyRefused(cover: Cover, question: Question): string | null {
  const { asset, on, kind, cause } = question;
  if (cover.kind === 'warranty') {
    if (cover.assetId !== asset.id) return 'it belongs to another asset';
    const off = offTerm(cover.term, on, 'the warranty');
    if (off) return off;
    if (cause === 'misuse' || cause === 'accident' || cause === 'consumable')
      return `a warranty does not bear ${cause}`;
    return kind === 'preventive' ? 'the warranty includes no preventive visits' : null;
  }
  if (cover.stage !== 'in force') return `the agreement is ${cover.stage === 'draft' ? 'still in draft' : cover.stage}`;
  const off = offTerm(cover.agreementTerm, on, 'the agreement') ?? offTerm(cover.term, on, 'its coverage line');
  if (off) return off;
  if (reachRank(cover.reach, asset) === null) return 'it does not reach this asset';
  if (!cover.kinds.includes(kind)) return `${kind} work is not included`;
  return cover.excludedCauses.includes(cause) ? `${cause} is excluded` : null;
}

const total = (shares: Shares): number => shares.labour + shares.parts + shares.travel;

/** Warranty before agreement; asset before deeper location before shallower before class; larger share; older agreement; then the name, so that input order never matters. */
function compareCovers(asset: CoveredAsset): (a: Cover, b: Cover) => number {
  const rank = (c: Cover): number => (c.kind === 'warranty' ? Infinity : (reachRank(c.reach, asset) ?? -1));
  const start = (c: Cover): string => (c.kind === 'warranty' ? c.term.from : c.agreementTerm.from);
  const age = (c: Cover): number => (c.kind === 'warranty' ? 0 : c.agreementId);
  return (a, b) => {
    const [ra, rb] = [rank(a), rank(b)];
    if (ra !== rb) return rb > ra ? 1 : -1;
    return (
      total(b.shares) - total(a.shares) ||
      start(a).localeCompare(start(b)) ||
      age(a) - age(b) ||
      a.label.localeCompare(b.label)
    );
  };
}

/**
 * The entitlement decision (domain: Entitlement decision). Deterministic; the order of `covers` does not matter.
 * Each cost element is borne by the first cover in order that includes it (share above 0); the rest is the customer's.
 * No cover taken: chargeable at list rates, no promise.
 */
export function decideEntitlement(question: Question, covers: readonly Cover[]): Verdict {
  const ordered = [...covers].sort(compareCovers(question.asset));
  const accepted: Cover[] = [];
  const considered = ordered.map((cover): Considered => {
    const refusedBecause = whyRefused(cover, question);
    if (refusedBecause === null) accepted.push(cover);
    return {
      label: cover.label,
      agreementId: cover.kind === 'coverage line' ? cover.agreementId : null,
      taken: refusedBecause === null,
      reason: refusedBecause ?? (cover.kind === 'warranty' ? 'warranty running' : `covers ${sayReach(cover.reach)}`),
    };
  });
  const borne = (element: CostElement): Borne => {
    const first = accepted.find((c) => c.shares[element] > 0);
    return first ? { share: first.shares[element], by: first.label } : { share: 0, by: null };
  };
  const lines = accepted.filter((c) => c.kind === 'coverage line');
  return {
    elements: { labour: borne('labour'), parts: borne('parts'), travel: borne('travel') },
    agreementId: lines[0]?.agreementId ?? null,
    serviceLevelIds: [...new Set(lines.flatMap((c) => (c.serviceLevelId === null ? [] : [c.serviceLevelId])))],
    considered,
  };
}

/** The verdict's cover in one sentence, without the promise (which needs clocks). */
export function sayVerdict(verdict: Verdict): string {
  const taken = verdict.considered.filter((c) => c.taken);
  if (taken.length === 0) return 'Not covered: chargeable at list rates, no promise.';
  const parts = COST_ELEMENTS.map((element) => {
    const { share } = verdict.elements[element];
    return share === 0 ? `${element} not covered` : `${element} ${share} %`;
  });
  return `Covered by ${taken.map((c) => c.label).join(' and ')}: ${parts.join(', ')}.`;
}
