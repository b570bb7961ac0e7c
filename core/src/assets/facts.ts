// What happened to an asset, told so that its row can be built again: each fact says what it set and from which day.
import { actAfter, afterSwapOut, rentedSinceAfter, type AssetState, type LifeAct, type OldGoes } from './life.ts';
import type { LocalDate } from '../time/index.ts';

/** What the register holds of an asset; ids are those of its customer, place, parent and class. */
export type AssetRecord<A, L, C> = {
  readonly customerId: C;
  readonly locationId: L | null;
  readonly parentId: A | null;
  readonly classId: number;
  readonly maker: string;
  readonly model: string;
  readonly serial: string;
  readonly tag: string;
  readonly owner: 'customer' | 'own fleet';
  readonly state: AssetState;
  readonly commissioned: LocalDate | null;
  readonly rentedSince: LocalDate | null;
  readonly warrantyFrom: LocalDate | null;
  readonly warrantyUntil: LocalDate | null;
  /** Shares the warranty bears, in percent. */
  readonly warrantyLabour: number;
  readonly warrantyParts: number;
  readonly warrantyTravel: number;
  /** Free visits within the warranty. */
  readonly warrantyVisits: number;
};

/** What is so where a registration says nothing. */
const UNSAID = {
  locationId: null,
  parentId: null,
  owner: 'customer',
  state: 'in service',
  commissioned: null,
  rentedSince: null,
  warrantyFrom: null,
  warrantyUntil: null,
  warrantyLabour: 100,
  warrantyParts: 100,
  warrantyTravel: 100,
  warrantyVisits: 0,
} as const satisfies Partial<AssetRecord<never, never, never>>;

type Unsaid = keyof typeof UNSAID;
export type Registration<A, L, C> = Omit<AssetRecord<A, L, C>, Unsaid> & Partial<Pick<AssetRecord<A, L, C>, Unsaid>>;

/** What is changed by hand without an act of the asset's life. */
export type AssetAttributes<A, L, C> = Omit<AssetRecord<A, L, C>, 'customerId' | 'locationId' | 'state'>;

/** Where it stood until a day, that day excluded. */
export type PastStay<L, C> = { readonly until: LocalDate; readonly locationId: L | null; readonly customerId: C };

export type AssetFact<A, L, C> =
  | { readonly kind: 'registered'; readonly asset: Registration<A, L, C> }
  /** As it was found when facts began to be kept. */
  | {
      readonly kind: 'taken over';
      readonly asset: AssetRecord<A, L, C>;
      readonly stays: readonly PastStay<L, C>[];
    }
  | { readonly kind: 'changed'; readonly set: Partial<AssetAttributes<A, L, C>> }
  | (LifeAct<L, A> & { readonly on: LocalDate })
  | { readonly kind: 'swapped out'; readonly on: LocalDate; readonly goes: OldGoes; readonly for: A }
  | {
      readonly kind: 'swapped in';
      readonly on: LocalDate;
      readonly for: A;
      readonly customerId: C;
      readonly locationId: L | null;
      readonly parentId: A | null;
    }
  | { readonly kind: 'merged'; readonly gone: A; readonly set: Partial<AssetAttributes<A, L, C>> }
  | { readonly kind: 'merged away'; readonly kept: A; readonly tag: string }
  /** Two places turned out to be one: it stood at the kept one all along. */
  | { readonly kind: 'place merged'; readonly gone: L; readonly kept: L };

/** An asset as its facts leave it, with the places it stood at before. */
export type KnownAsset<A, L, C> = {
  readonly asset: AssetRecord<A, L, C>;
  /** The oldest first. */
  readonly stays: readonly PastStay<L, C>[];
};

/** Only what differs from what goes without saying, so that a large import's facts stay short. */
export function sparingly<A, L, C>(asset: Registration<A, L, C>): Registration<A, L, C> {
  return Object.fromEntries(
    Object.entries(asset).filter(([key, value]) => !(key in UNSAID) || UNSAID[key as Unsaid] !== value),
  ) as Registration<A, L, C>;
}

/**
 * Ends the present stay on a day; the new place counts from that day on. A move told for a day before an earlier told one replaces
 * it; moved twice on one day, where it stood before that day stays.
 */
function stayEnded<L, C>(
  stays: readonly PastStay<L, C>[],
  from: { readonly locationId: L | null; readonly customerId: C },
  on: LocalDate,
): readonly PastStay<L, C>[] {
  const before = stays.filter((s) => s.until <= on);
  if (before.some((s) => s.until === on)) return before;
  const { locationId, customerId } = stays.find((s) => s.until > on) ?? from;
  return [...before, { until: on, locationId, customerId }];
}

/** What an act of its life leaves of an asset: state, place and customer, and since when it is rented out. */
function lived<A, L, C>(
  known: KnownAsset<A, L, C>,
  after: Partial<Pick<AssetRecord<A, L, C>, 'customerId' | 'locationId' | 'parentId' | 'state'>>,
  on: LocalDate,
): KnownAsset<A, L, C> {
  const was = known.asset;
  const is = { ...was, ...after };
  const moved = is.locationId !== was.locationId || is.customerId !== was.customerId;
  return {
    asset: { ...is, rentedSince: rentedSinceAfter(was, is, on) },
    stays: moved ? stayEnded(known.stays, was, on) : known.stays,
  };
}

/**
 * One step of an asset's history, in the order in which facts were recorded. Throws where a history does not begin with the
 * asset's registration, for then its row cannot be built. Facts were decided when they were recorded; none is refused here.
 */
export function afterFact<A, L, C>(known: KnownAsset<A, L, C> | null, fact: AssetFact<A, L, C>): KnownAsset<A, L, C> {
  if (fact.kind === 'registered') return { asset: { ...UNSAID, ...fact.asset }, stays: known?.stays ?? [] };
  if (fact.kind === 'taken over') return { asset: fact.asset, stays: fact.stays };
  if (known === null) throw new Error(`an asset's history begins with “${fact.kind}”`);
  const { asset, stays } = known;
  switch (fact.kind) {
    case 'changed':
    case 'merged':
      return { asset: { ...asset, ...fact.set }, stays };
    case 'installed':
    case 'moved':
    case 'removed':
    case 'scrapped':
    case 'out of service':
    case 'back in service':
      return lived(known, actAfter<A, L, C>(fact), fact.on);
    case 'swapped out':
      return lived(known, afterSwapOut(asset, fact.goes), fact.on);
    case 'swapped in': {
      const { customerId, locationId, parentId } = fact;
      return lived(known, { customerId, locationId, parentId, state: 'in service' }, fact.on);
    }
    case 'merged away':
      return { asset: { ...asset, state: 'retired', parentId: null, rentedSince: null, tag: fact.tag }, stays };
    case 'place merged': {
      const kept = (id: L | null): L | null => (id === fact.gone ? fact.kept : id);
      return {
        asset: { ...asset, locationId: kept(asset.locationId) },
        stays: stays.map((s) => ({ ...s, locationId: kept(s.locationId) })),
      };
    }
  }
}
