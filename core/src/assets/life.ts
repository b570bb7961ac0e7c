// The life of an asset: installed, moved, swapped, removed, scrapped; each an event with what it changes.
import { decided, refusal, refused, type Decided, type Refusal } from '../refusal.ts';
import type { LocalDate } from '../time/index.ts';

export const ASSET_STATES = ['in service', 'out of service', 'in store', 'retired'] as const;
export type AssetState = (typeof ASSET_STATES)[number];

export type LivingAsset<A, L, C> = {
  readonly id: A;
  readonly tag: string;
  readonly customerId: C;
  readonly classId: number;
  readonly locationId: L | null;
  readonly parentId: A | null;
  readonly owner: 'customer' | 'own fleet';
  readonly state: AssetState;
};

/** What the act writes to one asset. */
export type AssetChange<A, L, C> = {
  readonly id: A;
  readonly customerId: C;
  readonly locationId: L | null;
  readonly parentId: A | null;
  readonly state: AssetState;
};

export type LifeAct<L, A> =
  | { readonly kind: 'installed'; readonly locationId: L; readonly parentId: A | null }
  | { readonly kind: 'moved'; readonly locationId: L | null; readonly parentId: A | null }
  | { readonly kind: 'removed' }
  | { readonly kind: 'scrapped' }
  | { readonly kind: 'out of service' }
  | { readonly kind: 'back in service' };

/** Which acts an asset's state allows; scrapping ends its life. */
export function actsOffered(state: AssetState): readonly LifeAct<never, never>['kind'][] {
  switch (state) {
    case 'in service':
      return ['moved', 'removed', 'out of service', 'scrapped'];
    case 'out of service':
      return ['back in service', 'moved', 'removed', 'scrapped'];
    case 'in store':
      return ['installed', 'scrapped'];
    case 'retired':
      return [];
  }
}

/** The act that leads from one state to another; null when none does by itself (what comes out of the store is installed at a place). */
export function actLeadingTo(
  from: AssetState,
  to: AssetState,
): 'removed' | 'scrapped' | 'out of service' | 'back in service' | null {
  const act = (
    {
      retired: 'scrapped',
      'in store': 'removed',
      'out of service': 'out of service',
      'in service': 'back in service',
    } as const
  )[to];
  return actsOffered(from).includes(act) ? act : null;
}

/** Since when a machine of the own fleet is rented out: from the day it stands at a place; in store or retired it is not. */
export function rentedSinceAfter(
  was: { readonly owner: 'customer' | 'own fleet'; readonly rentedSince: LocalDate | null },
  is: { readonly locationId: unknown; readonly state: AssetState },
  on: LocalDate,
): LocalDate | null {
  const rented =
    was.owner === 'own fleet' && is.locationId !== null && is.state !== 'retired' && is.state !== 'in store';
  return rented ? (was.rentedSince ?? on) : null;
}

/** What an act sets, its permission aside. */
export function actAfter<A, L, C>(act: LifeAct<L, A>): Partial<Omit<AssetChange<A, L, C>, 'id'>> {
  switch (act.kind) {
    case 'installed':
      return { locationId: act.locationId, parentId: act.parentId, state: 'in service' };
    case 'moved':
      return { locationId: act.locationId, parentId: act.parentId };
    case 'removed':
      return { locationId: null, parentId: null, state: 'in store' };
    case 'scrapped':
      return { parentId: null, state: 'retired' };
    case 'out of service':
      return { state: 'out of service' };
    case 'back in service':
      return { state: 'in service' };
  }
}

function notFuture(on: LocalDate, today: LocalDate): Refusal[] {
  return on > today
    ? [refusal('in-the-future', `${on} lies in the future; record it on the day it happens.`, 'on')]
    : [];
}

/**
 * Applies one act to an asset on a date. Refused: an act its state does not offer, a date in the future. A scrapped asset is
 * retired: it keeps its history, and its schedules stop with that reason in the next run (domain.md).
 */
export function planLife<A, L, C>(
  asset: LivingAsset<A, L, C>,
  act: LifeAct<L, A>,
  on: LocalDate,
  today: LocalDate,
): Decided<AssetChange<A, L, C>> {
  const refusals = notFuture(on, today);
  if (!actsOffered(asset.state).includes(act.kind))
    refusals.push(
      refusal(
        'wrong-stage',
        `${asset.tag} is ${asset.state}; it cannot be ${act.kind === 'back in service' ? 'put back in service' : act.kind}.`,
        'kind',
      ),
    );
  if (refusals.length > 0) return refused(...refusals);
  const { id, customerId, locationId, parentId, state } = asset;
  return decided({ id, customerId, locationId, parentId, state, ...actAfter<A, L, C>(act) });
}

/** Where a machine goes that is swapped out. */
export type OldGoes = 'to store' | 'scrapped';

/** What a swap leaves of the machine that goes out. */
export function afterSwapOut<L>(was: { readonly locationId: L | null }, goes: OldGoes) {
  return {
    locationId: goes === 'scrapped' ? was.locationId : null,
    parentId: null,
    state: goes === 'scrapped' ? ('retired' as const) : ('in store' as const),
  };
}

export type SwapPlan<A, L, C> = { readonly out: AssetChange<A, L, C>; readonly in: AssetChange<A, L, C> };

/**
 * Old out, new in, in one act: the new one takes place, parent, customer and with them coverage and schedules; the old one
 * goes to the store or is retired. History stays with each. Refused: the same machine twice, a machine of another customer, an old one that stands
 * nowhere or is retired, a new one that is in service elsewhere or retired, a date in the future.
 */
export function planSwap<A, L, C>(
  old: LivingAsset<A, L, C>,
  fresh: LivingAsset<A, L, C>,
  oldGoes: OldGoes,
  on: LocalDate,
  today: LocalDate,
): Decided<SwapPlan<A, L, C>> {
  const refusals = notFuture(on, today);
  if (old.id === fresh.id)
    refusals.push(refusal('conflict', 'A machine cannot be swapped with itself; choose another.', 'newAssetId'));
  else if (fresh.state !== 'in store')
    refusals.push(
      refusal(
        'wrong-stage',
        `${fresh.tag} is ${fresh.state}; only a machine in store can be put in. Remove it from its place first.`,
        'newAssetId',
      ),
    );
  if (old.id !== fresh.id && fresh.owner === 'customer' && fresh.customerId !== old.customerId)
    refusals.push(
      refusal(
        'conflict',
        `${fresh.tag} belongs to another customer; put in one of this customer or of the own fleet.`,
        'newAssetId',
      ),
    );
  if (old.state === 'retired' || old.state === 'in store')
    refusals.push(
      refusal(
        'wrong-stage',
        `${old.tag} is ${old.state}; only a machine at its place can be swapped out.`,
        'oldAssetId',
      ),
    );
  if (refusals.length > 0) return refused(...refusals);
  return decided({
    out: {
      id: old.id,
      customerId: old.customerId,
      ...afterSwapOut(old, oldGoes),
    },
    in: {
      id: fresh.id,
      customerId: old.customerId,
      locationId: old.locationId,
      parentId: old.parentId,
      state: 'in service',
    },
  });
}

/** Whether `parent` may hold `child`: not itself, and no loop. `parentOf` gives the parents as they stand. */
export function checkParent<A>(child: A, parent: A | null, parentOf: (id: A) => A | null): Refusal | null {
  const seen = new Set<A>();
  for (let next = parent; next !== null && !seen.has(next); next = parentOf(next)) {
    if (next === child)
      return refusal('conflict', 'An asset cannot be part of itself, directly or by way of its parts.', 'parentId');
    seen.add(next);
  }
  return null;
}

/** What can be read in an asset's life; each is an event with its own time. */
export const ASSET_EVENT_KINDS = [
  'registered',
  'changed',
  'retired',
  'installed',
  'moved',
  'swapped in',
  'swapped out',
  'removed',
  'scrapped',
  'out of service',
  'back in service',
  'merged',
  'taken over',
] as const;
export type AssetEventKind = (typeof ASSET_EVENT_KINDS)[number];
