// One change to many assets: which it takes, which stay as they are, and which are refused with their reason.
import { planLife, type LivingAsset } from './life.ts';
import type { AssetFact } from './facts.ts';
import type { LocalDate } from '../time/index.ts';

export type BulkChange<L> =
  | { readonly kind: 'class'; readonly classId: number }
  | { readonly kind: 'owner'; readonly owner: 'customer' | 'own fleet' }
  | { readonly kind: 'place'; readonly locationId: L }
  | { readonly kind: 'retire' };

/** The place they are moved to, as far as the rule asks. */
export type BulkPlace<C> = { readonly name: string; readonly isTheirs: (customer: C) => boolean };

export type Sorted<A, L, C, R extends LivingAsset<A, L, C>> = {
  readonly taken: readonly { readonly row: R; readonly fact: AssetFact<A, L, C> }[];
  readonly unchanged: number;
  readonly refused: readonly { readonly tag: string; readonly reason: string }[];
};

/**
 * Refused one by one: a place that is not the customer’s, moving what is retired or in store, scrapping what its state does not let
 * be scrapped. What is so already stays unchanged and gets no fact.
 */
export function sortBulk<A, L, C, R extends LivingAsset<A, L, C>>(
  rows: readonly R[],
  change: BulkChange<L>,
  place: BulkPlace<C> | null,
  on: LocalDate,
): Sorted<A, L, C, R> {
  const taken: { row: R; fact: AssetFact<A, L, C> }[] = [];
  const refused: { tag: string; reason: string }[] = [];
  let unchanged = 0;
  for (const row of rows) {
    const reason = refusedBecause(row, change, place, on);
    if (reason !== null) refused.push({ tag: row.tag, reason });
    else if (isSo(row, change)) unchanged += 1;
    else taken.push({ row, fact: factOf(row, change, on) });
  }
  return { taken, unchanged, refused };
}

function refusedBecause<A, L, C>(
  row: LivingAsset<A, L, C>,
  change: BulkChange<L>,
  place: BulkPlace<C> | null,
  on: LocalDate,
): string | null {
  if (change.kind === 'place') {
    if (place && !place.isTheirs(row.customerId)) return `“${place.name}” is not a place of its customer.`;
    return row.state === 'retired' || row.state === 'in store' ? `It is ${row.state}.` : null;
  }
  if (change.kind === 'retire' && row.state !== 'retired') {
    const life = planLife(row, { kind: 'scrapped' }, on, on);
    return life.ok ? null : (life.refusals[0]?.message ?? 'refused');
  }
  return null;
}

function isSo<A, L, C>(row: LivingAsset<A, L, C>, change: BulkChange<L>): boolean {
  switch (change.kind) {
    case 'class':
      return row.classId === change.classId;
    case 'owner':
      return row.owner === change.owner;
    case 'place':
      return row.locationId === change.locationId;
    case 'retire':
      return row.state === 'retired';
  }
}

/** A part moves with what it is a part of as little as that moves with it: both stay tied. */
function factOf<A, L, C>(row: LivingAsset<A, L, C>, change: BulkChange<L>, on: LocalDate): AssetFact<A, L, C> {
  switch (change.kind) {
    case 'class':
      return { kind: 'changed', set: { classId: change.classId } };
    case 'owner':
      return { kind: 'changed', set: { owner: change.owner } };
    case 'place':
      return { kind: 'moved', on, locationId: change.locationId, parentId: row.parentId };
    case 'retire':
      return { kind: 'scrapped', on };
  }
}
