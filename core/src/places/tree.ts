// The location tree: moving, merging and retiring nodes, and what that changes for everything below.
import { decided, refusal, refused, type Decided } from '../refusal.ts';
import { inherit, MAX_DEPTH, pathTo, type PlaceNode } from './place.ts';

export type Inheritable = 'address' | 'zone' | 'calendarId' | 'depotId' | 'accessNote';
export const INHERITED: readonly Inheritable[] = ['address', 'zone', 'calendarId', 'depotId', 'accessNote'];

export type TreePlace<K> = PlaceNode<K> & { readonly retiredOn: string | null };

/** A value that a place takes from above and that the move changes, with the nearest source before and after. */
export type MovedValue<K> = {
  readonly id: K;
  readonly field: Inheritable;
  readonly before: string | null;
  readonly after: string | null;
};

export type MovePlan<K> = { readonly id: K; readonly parentId: K | null; readonly changes: readonly MovedValue<K>[] };

function below<K>(nodes: ReadonlyMap<K, TreePlace<K>>, id: K): K[] {
  const children = new Map<K, K[]>();
  for (const node of nodes.values())
    if (node.parentId !== null) children.set(node.parentId, [...(children.get(node.parentId) ?? []), node.id]);
  const found: K[] = [];
  const walk = (at: K): void => {
    found.push(at);
    for (const child of children.get(at) ?? []) walk(child);
  };
  walk(id);
  return found;
}

const textOf = (value: string | number | undefined): string | null => (value === undefined ? null : `${value}`);

/**
 * Moves a node with everything below it under another parent (null: to the top). Gives the inherited values that change,
 * for the node and each place below. `nodes` holds the moved subtree, the new parent and everything above both.
 * Refused: below itself, below a retired place, deeper than 12 levels, beside a node of the same name.
 * Source: domain.md (inherited address), architecture.md (bounded depth).
 */
export function planMove<K>(
  nodes: ReadonlyMap<K, TreePlace<K>>,
  id: K,
  parentId: K | null,
  siblings: readonly string[],
): Decided<MovePlan<K>> {
  const node = nodes.get(id);
  if (!node) throw new Error('the moved place is not among the nodes');
  const moved = below(nodes, id);
  if (parentId !== null && moved.includes(parentId))
    return refused(
      refusal('conflict', `“${node.name}” cannot stand below itself; choose a place outside it.`, 'parentId'),
    );
  const parent = parentId === null ? null : nodes.get(parentId);
  if (parent === undefined) throw new Error('the new parent is not among the nodes');
  if (parent?.retiredOn)
    return refused(refusal('conflict', `“${parent.name}” is retired; choose a place in use.`, 'parentId'));
  if (siblings.some((name) => name.toLowerCase() === node.name.toLowerCase()))
    return refused(
      refusal(
        'taken',
        `There is a “${node.name}” at that level already; rename one of them, or merge the two.`,
        'parentId',
      ),
    );
  const depthAbove = parentId === null ? 0 : pathTo(nodes, parentId).length;
  const depthOf = (place: K): number => pathTo(nodes, place).length - pathTo(nodes, id).length + 1;
  const deepest = Math.max(...moved.map(depthOf));
  if (depthAbove + deepest > MAX_DEPTH)
    return refused(
      refusal(
        'too-large',
        `That would make ${depthAbove + deepest} levels; at most ${MAX_DEPTH} are kept.`,
        'parentId',
      ),
    );
  const after = new Map(nodes).set(id, { ...node, parentId });
  const changes = moved.flatMap((place) => {
    const [from, to] = [pathTo(nodes, place), pathTo(after, place)];
    return INHERITED.flatMap((field): MovedValue<K>[] => {
      const [was, is] = [textOf(inherit(from, field)?.value), textOf(inherit(to, field)?.value)];
      return was === is ? [] : [{ id: place, field, before: was, after: is }];
    });
  });
  return decided({ id, parentId, changes });
}

/**
 * Merges `id` into `into`: its children and assets go there and it is retired. Children of the same name are merged in
 * turn; the pairs come deepest first, so that they can be carried out in order. Refused: with itself, with a place above
 * or below it, with a retired one, and where the two are shared with different customers.
 */
export function planMerge<K>(
  nodes: ReadonlyMap<K, TreePlace<K>>,
  id: K,
  into: K,
  customersOf: (place: K) => readonly number[],
): Decided<readonly { readonly from: K; readonly into: K }[]> {
  const [from, to] = [nodes.get(id), nodes.get(into)];
  if (!from || !to) throw new Error('a merged place is not among the nodes');
  if (id === into) return refused(refusal('conflict', 'A place cannot be merged with itself; choose another.', 'into'));
  if (below(nodes, id).includes(into) || below(nodes, into).includes(id))
    return refused(
      refusal('conflict', `One of “${from.name}” and “${to.name}” stands below the other; move it first.`, 'into'),
    );
  if (to.retiredOn) return refused(refusal('conflict', `“${to.name}” is retired; choose a place in use.`, 'into'));
  const sorted = (place: K): string => [...customersOf(place)].sort((a, b) => a - b).join();
  if (sorted(id) !== sorted(into))
    return refused(
      refusal(
        'conflict',
        `“${from.name}” and “${to.name}” belong to different customers; share the places first, or move the assets one by one.`,
        'into',
      ),
    );
  const children = (place: K): TreePlace<K>[] =>
    [...nodes.values()].filter((n) => n.parentId === place && !n.retiredOn);
  const pairs: { from: K; into: K }[] = [];
  const walk = (a: K, b: K): void => {
    for (const child of children(a)) {
      const twin = children(b).find((c) => c.name.toLowerCase() === child.name.toLowerCase());
      if (twin) walk(child.id, twin.id);
    }
    pairs.push({ from: a, into: b });
  };
  walk(id, into);
  return decided(pairs);
}
