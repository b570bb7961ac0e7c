// The tree of places: fold, choose, and drag a place onto another to move it there.
import { useState } from 'react';
import { DndContext, PointerSensor, useDraggable, useDroppable, useSensor, useSensors } from '@dnd-kit/core';
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

type TreeProps = {
  readonly children: ReadonlyMap<number | null, readonly TreeNode[]>;
  readonly counts: ReadonlyMap<number, number>;
  readonly chosen: number | null;
  readonly choose: (id: number) => void;
  readonly open: ReadonlySet<number>;
  readonly toggle: (id: number) => void;
  readonly mayMove: boolean;
};

function TreeRow({ node, depth, tree }: { node: TreeNode; depth: number; tree: TreeProps }) {
  const inner = (tree.children.get(node.id)?.length ?? 0) > 0;
  const isOpen = tree.open.has(node.id);
  const drag = useDraggable({ id: node.id, disabled: !tree.mayMove || node.retiredOn !== null });
  const drop = useDroppable({ id: node.id, disabled: node.retiredOn !== null });
  const chosen = tree.chosen === node.id;
  return (
    <li role="treeitem" aria-expanded={inner ? isOpen : undefined} aria-selected={chosen}>
      <div
        ref={drop.setNodeRef}
        className={`flex items-center hover:bg-base-300 ${chosen ? 'bg-base-300 font-semibold' : ''} ${drop.isOver ? 'outline outline-2 -outline-offset-2 outline-base-content' : ''} ${drag.isDragging ? 'opacity-50' : ''}`}
        style={{ paddingLeft: depth * 14 + 4 }}
      >
        {inner ? (
          <button
            className="w-5 text-ink2"
            aria-label={`${isOpen ? 'Fold' : 'Unfold'} ${node.name}`}
            onClick={() => tree.toggle(node.id)}
          >
            {isOpen ? '▾' : '▸'}
          </button>
        ) : (
          <span className="w-5" />
        )}
        <button
          ref={drag.setNodeRef}
          {...drag.listeners}
          className="flex flex-1 justify-between gap-2 py-0.5 pr-2 text-left"
          onClick={() => tree.choose(node.id)}
        >
          <span className={node.retiredOn ? 'text-ink2 line-through' : undefined}>{node.name}</span>
          <span className="quiet tabular-nums">{tree.counts.get(node.id) || ''}</span>
        </button>
      </div>
      {inner && isOpen && (
        <ul role="group">
          {tree.children.get(node.id)?.map((child) => (
            <TreeRow key={child.id} node={child} depth={depth + 1} tree={tree} />
          ))}
        </ul>
      )}
    </li>
  );
}

/** Trees up to this size open unfolded. */
const UNFOLDED = 60;

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
  const [folded, setFolded] = useState<ReadonlySet<number>>(new Set());
  const unfolded = new Set(nodes.filter((n) => n.parentId === null || nodes.length < UNFOLDED).map((n) => n.id));
  const open = new Set(
    [...unfolded].filter((id) => !folded.has(id)).concat([...folded].filter((id) => !unfolded.has(id))),
  );
  // A short pull is a click; only a longer one drags.
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 8 } }));
  const children = childrenOf(nodes);
  const tree: TreeProps = {
    children,
    counts: subtreeCounts(nodes),
    chosen,
    choose,
    open,
    mayMove,
    toggle: (id) => setFolded((old) => new Set(old.has(id) ? [...old].filter((x) => x !== id) : [...old, id])),
  };
  return (
    <DndContext
      sensors={sensors}
      onDragEnd={({ active, over }) => {
        const [node, to] = [nodes.find((n) => n.id === active.id), nodes.find((n) => n.id === over?.id)];
        if (node && to && node.id !== to.id && node.parentId !== to.id) onMove(node, to);
      }}
    >
      <ul role="tree" aria-label={`Places of ${name}`}>
        {children.get(null)?.map((node) => (
          <TreeRow key={node.id} node={node} depth={0} tree={tree} />
        ))}
      </ul>
    </DndContext>
  );
}
