// @vitest-environment jsdom
// The tree of places: what is folded is not made, it is walked with the keys, and a place is moved by the keys alone.
import { cleanup, render, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { TreeNode } from '#api/places.ts';
import { PlaceTree, subtreeCounts } from './tree.tsx';

const node = (id: number, name: string, parentId: number | null, assets = 0, retiredOn: string | null = null) =>
  ({ id, name, parentId, assets, retiredOn }) as TreeNode;
const PLACES = [
  node(1, 'Alvorim', null, 1),
  node(2, 'Floor 1', 1, 2),
  node(3, 'Lab', 2, 4),
  node(4, 'Pedralonga', null),
  node(5, 'Old wing', 4, 0, '2026-01-01'),
];

function open(over: Partial<Parameters<typeof PlaceTree>[0]> = {}) {
  const [choose, onMove] = [vi.fn(), vi.fn()];
  render(<PlaceTree name="Alvorim" nodes={PLACES} chosen={null} choose={choose} mayMove onMove={onMove} {...over} />);
  return { choose, onMove, user: userEvent.setup() };
}
const names = (): (string | null)[] => screen.getAllByRole('row').map((row) => row.getAttribute('aria-label'));

afterEach(cleanup);

describe('the tree of places', () => {
  it('counts with everything below', () =>
    expect([...subtreeCounts(PLACES)]).toEqual([
      [1, 7],
      [2, 6],
      [3, 4],
      [4, 0],
      [5, 0],
    ]));

  it('opens a small one unfolded, and folds and unfolds by the keys', async () => {
    const { user } = open();
    expect(names()).toEqual(['Alvorim', 'Floor 1', 'Lab', 'Pedralonga', 'Old wing']);
    await user.tab();
    await user.keyboard('{ArrowLeft}');
    expect(names()).toEqual(['Alvorim', 'Pedralonga', 'Old wing']);
    await user.keyboard('{ArrowRight}');
    expect(names()).toHaveLength(5);
    await user.keyboard('{ArrowDown}');
    expect(document.activeElement?.getAttribute('aria-label')).toBe('Floor 1');
  });

  it('makes only the top of a large one, until it is unfolded', async () => {
    const many = [
      node(1, 'Alvorim', null),
      ...Array.from({ length: 80 }, (_, i) => node(i + 2, `Room ${i}`, i === 0 ? 1 : 2)),
    ];
    const { user } = open({ nodes: many });
    expect(names()).toEqual(['Alvorim', 'Room 0']);
    await user.click(within(screen.getByRole('row', { name: 'Room 0' })).getAllByRole('button')[0] as HTMLElement);
    expect(names()).toHaveLength(81);
  });

  it('chooses what is pressed', async () => {
    const { user, choose } = open();
    await user.click(screen.getByText('Lab'));
    expect(choose).toHaveBeenCalledExactlyOnceWith(3);
  });

  it('lets nobody drag who may not move', () => {
    open({ mayMove: false });
    expect(screen.queryByRole('button', { name: 'Drag Lab' })).toBeNull();
  });

  it('offers no retired place to be dragged', () => {
    open();
    expect(screen.getByRole('button', { name: 'Drag Lab' })).toBeDefined();
    expect(screen.queryByRole('button', { name: 'Drag Old wing' })).toBeNull();
  });
});
