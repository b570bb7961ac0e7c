// Places: what a location inherits from the nodes above it, with the source shown.

export type PlaceNode<K> = {
  readonly id: K;
  readonly parentId: K | null;
  readonly name: string;
  readonly address: string | null;
  readonly zone: string | null;
  readonly latitude: number | null;
  readonly longitude: number | null;
  readonly calendarId: number | null;
  readonly depotId: number | null;
  readonly joinDays: number | null;
  readonly accessNote: string | null;
};

/** A value and the node it comes from. */
export type Inherited<T, K> = { readonly value: T; readonly from: { readonly id: K; readonly name: string } } | null;

export const MAX_DEPTH = 12;

/** The nodes from the top of the tree down to `id`. Throws on a loop or a missing parent: both are kept out when the tree is written. */
export function pathTo<K>(nodes: ReadonlyMap<K, PlaceNode<K>>, id: K): PlaceNode<K>[] {
  const path: PlaceNode<K>[] = [];
  for (let next: K | null = id; next !== null;) {
    const node: PlaceNode<K> | undefined = nodes.get(next);
    if (!node || path.length > MAX_DEPTH) throw new Error('the location tree has a loop or a missing parent');
    path.unshift(node);
    next = node.parentId;
  }
  return path;
}

/** The nearest value on the way up, the node itself first; null when no node has one (domain: a place without an address takes the nearest ancestor's). */
export function inherit<
  K,
  F extends 'address' | 'zone' | 'latitude' | 'longitude' | 'calendarId' | 'depotId' | 'joinDays' | 'accessNote',
>(path: readonly PlaceNode<K>[], field: F): Inherited<NonNullable<PlaceNode<K>[F]>, K> {
  for (let i = path.length - 1; i >= 0; i -= 1) {
    const node = path[i] as PlaceNode<K>;
    const value = node[field];
    if (value !== null && value !== '') return { value: value, from: { id: node.id, name: node.name } };
  }
  return null;
}
