// The tree of places: folded and walked with the keys, chosen, and a place dragged onto another, by pointer or keys, to move it there.
import { useMemo, useState } from 'react';
import { ChevronDown, ChevronRight, GripVertical } from 'lucide-react';
import { Button, Collection, Tree, TreeItem, TreeItemContent, useDragAndDrop } from 'react-aria-components';
import type { TreeNode } from '#api/places.ts';

/** Nodes below which the customer has assets, counted with everything under them. */
export function subtreeCounts(nodes: readonly Pick<TreeNode, 'id' | 'parentId' | 'assets'>[]): Map<number, number> {
  const counts = new Map(nodes.map((n) => [n.id, n.assets]));
  const byId = new Map(nodes.map((n) => [n.id, n]));
  for (const node of nodes) {
    for (let up = node.parentId; up !== null; up = byId.get(up)?.parentId ?? null)
      counts.set(up, (counts.get(up) ?? 0) + node.assets);
  }
  return counts;
}

/** Children by parent, so that a level is found without walking all nodes. */
export function childrenOf(nodes: readonly TreeNode[]): Map<number | null, TreeNode[]> {
  const known = new Set(nodes.map((n) => n.id));
  const children = new Map<number | null, TreeNode[]>();
  for (const node of nodes) {
    const parent = node.parentId !== null && known.has(node.parentId) ? node.parentId : null;
    const list = children.get(parent);
    if (list) list.push(node);
    else children.set(parent, [node]);
  }
  return children;
}

type Places = {
  readonly children: ReadonlyMap<number | null, readonly TreeNode[]>;
  readonly counts: ReadonlyMap<number, number>;
  readonly open: ReadonlySet<number>;
  readonly mayMove: boolean;
};

function PlaceItem({ node, places }: { node: TreeNode; places: Places }) {
  const inner = places.children.get(node.id) ?? [];
  return (
    <TreeItem
      id={node.id}
      textValue={node.name}
      className={({ isSelected, isDropTarget, isDragging }) =>
        `place-row ${isSelected ? 'bg-base-300 font-semibold' : ''} ${isDropTarget ? 'outline outline-2 -outline-offset-2 outline-base-content' : ''} ${isDragging ? 'opacity-50' : ''}`
      }
    >
      <TreeItemContent>
        {({ isExpanded, level, allowsDragging }) => (
          <div className="flex items-center hover:bg-base-300" style={{ paddingLeft: (level - 1) * 14 + 4 }}>
            {inner.length > 0 ? (
              <Button slot="chevron" className="flex w-5 items-center text-ink2">
                {isExpanded ? <ChevronDown size={14} /> : <ChevronRight size={14} />}
              </Button>
            ) : (
              <span className="w-5" />
            )}
            <span className="flex flex-1 justify-between gap-2 py-0.5 pr-2">
              <span className={node.retiredOn ? 'text-ink2 line-through' : undefined}>{node.name}</span>
              <span className="quiet tabular-nums">{places.counts.get(node.id) || ''}</span>
            </span>
            {allowsDragging && places.mayMove && node.retiredOn === null && (
              <Button slot="drag" className="grip" aria-label={`Drag ${node.name}`}>
                <GripVertical size={13} aria-hidden="true" />
              </Button>
            )}
          </div>
        )}
      </TreeItemContent>
      {/* Of what is folded one is made, by which it is known to unfold: a customer may have thousands of places. */}
      <Collection items={places.open.has(node.id) ? inner : inner.slice(0, 1)}>
        {(child) => <PlaceItem node={child} places={places} />}
      </Collection>
    </TreeItem>
  );
}

/** Trees up to this size open unfolded. */
const UNFOLDED = 60;

function useMoving(nodes: readonly TreeNode[], mayMove: boolean, onMove: (node: TreeNode, to: TreeNode) => void) {
  const byId = new Map(nodes.map((n) => [n.id, n]));
  const placeOf = (key: unknown): TreeNode | undefined => byId.get(Number(key));
  return useDragAndDrop({
    isDisabled: !mayMove,
    getItems: (keys) => [...keys].map((key) => ({ 'text/plain': placeOf(key)?.name ?? '', place: String(key) })),
    acceptedDragTypes: ['place'],
    getDropOperation: (target) => (target.type === 'item' && target.dropPosition === 'on' ? 'move' : 'cancel'),
    shouldAcceptItemDrop: ({ key }) => placeOf(key)?.retiredOn === null,
    onMove: ({ keys, target }) => {
      const to = placeOf(target.key);
      for (const node of [...keys].map(placeOf))
        if (node && to && node.id !== to.id && node.parentId !== to.id) return onMove(node, to);
    },
  }).dragAndDropHooks;
}

export function PlaceTree({
  name,
  nodes,
  chosen,
  choose,
  mayMove,
  onMove,
}: {
  name: string;
  nodes: readonly TreeNode[];
  chosen: number | null;
  choose: (id: number) => void;
  mayMove: boolean;
  onMove: (node: TreeNode, to: TreeNode) => void;
}) {
  const [open, setOpen] = useState<ReadonlySet<number>>(
    () => new Set(nodes.filter((n) => n.parentId === null || nodes.length < UNFOLDED).map((n) => n.id)),
  );
  const children = useMemo(() => childrenOf(nodes), [nodes]);
  const counts = useMemo(() => subtreeCounts(nodes), [nodes]);
  const dragAndDropHooks = useMoving(nodes, mayMove, onMove);
  const places: Places = { children, counts, open, mayMove };
  return (
    <Tree
      aria-label={`Places of ${name}`}
      items={children.get(null) ?? []}
      dependencies={[places]}
      selectionMode="single"
      selectionBehavior="replace"
      disallowEmptySelection
      selectedKeys={chosen === null ? [] : [chosen]}
      onSelectionChange={(keys) => {
        const [id] = keys === 'all' ? [] : [...keys];
        if (id !== undefined) choose(Number(id));
      }}
      expandedKeys={open}
      onExpandedChange={(keys) => setOpen(new Set([...keys].map(Number)))}
      dragAndDropHooks={dragAndDropHooks}
    >
      {(node) => <PlaceItem node={node} places={places} />}
    </Tree>
  );
}
