// @vitest-environment jsdom
// The table: sorting, columns that are chosen, ordered, sized and kept, ticks with Shift, and the file it is saved as.
import { cleanup, render, screen, waitFor, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { TableLook } from '#api/house.ts';
import type { Column } from './index.ts';

const kept = vi.hoisted((): { looks: Record<string, unknown>; writes: unknown[] } => ({ looks: {}, writes: [] }));
vi.mock('../../shell/store.ts', () => ({
  server: {
    useReadTableLooksQuery: () => ({ data: kept.looks }),
    useKeepTableLookMutation: () => [
      ({ params, body }: { params: { name: string }; body: unknown }) => {
        kept.writes.push(body);
        kept.looks = { ...kept.looks, [params.name]: body };
      },
    ],
  },
}));

const { Table, useTicks } = await import('./index.ts');
const { ordered } = await import('./ordered.ts');
const { answers, savedRows, compareValues } = await import('./column.ts');
type Part = { id: number; name: string; held: number | null; note: string };

const PARTS: Part[] = [
  { id: 1, name: 'Gasket 10', held: 4, note: '=1+1' },
  { id: 2, name: 'Gasket 9', held: null, note: '' },
  { id: 3, name: 'fan', held: 12, note: 'spare, "old"' },
];
const COLUMNS: readonly Column<Part>[] = [
  { id: 'name', head: 'Name', value: (p) => p.name },
  { id: 'held', head: 'Held', isNumber: true, value: (p) => p.held, show: (p) => `${p.held ?? 'none'} pcs` },
  { id: 'note', head: 'Note', value: (p) => p.note, isExtra: true },
  { id: 'act', head: '', show: () => <button>use</button> },
];

function Shown({ open }: { open?: (p: Part) => void }) {
  const ticks = useTicks();
  return (
    <>
      <p data-testid="ticked">{[...ticks.ticked].sort().join(' ')}</p>
      <Table
        name="parts"
        caption="Parts"
        columns={COLUMNS}
        rows={PARTS}
        idOf={(p) => p.id}
        ticks={{ of: ticks, idsOf: (p) => [p.id], nameOf: (p) => p.name }}
        {...(open && { onOpen: open })}
      />
    </>
  );
}

const rowsShown = (): string[] =>
  within(screen.getByRole('table'))
    .getAllByRole('row')
    .slice(1)
    .map((row) => within(row).getAllByRole('cell')[1]?.textContent ?? '');
const heads = (): string[] => screen.getAllByRole('columnheader').map((h) => h.textContent);

beforeEach(() => {
  kept.looks = {};
  kept.writes = [];
});
afterEach(cleanup);

describe('a table', { timeout: 30_000 }, () => {
  it('sorts by a column’s plain value, both ways and not at all; what says nothing stands last both ways', async () => {
    const user = userEvent.setup();
    render(<Shown />);
    expect(rowsShown()).toEqual(['Gasket 10', 'Gasket 9', 'fan']);
    await user.click(screen.getByRole('button', { name: 'Name' }));
    expect(rowsShown()).toEqual(['fan', 'Gasket 9', 'Gasket 10']);
    await user.click(screen.getByRole('button', { name: 'Held' }));
    expect(rowsShown()).toEqual(['Gasket 10', 'fan', 'Gasket 9']);
    expect(screen.getByRole('columnheader', { name: /Held/ }).getAttribute('aria-sort')).toBe('ascending');
    await user.click(screen.getByRole('button', { name: 'Held' }));
    expect(rowsShown()).toEqual(['fan', 'Gasket 10', 'Gasket 9']);
    await user.click(screen.getByRole('button', { name: 'Held' }));
    expect(rowsShown()).toEqual(['Gasket 10', 'Gasket 9', 'fan']);
  });

  it('leaves columns out, puts them in order, and keeps that with the person', async () => {
    const user = userEvent.setup();
    const { unmount } = render(<Shown />);
    expect(heads()).toEqual(['', 'Name', 'Held', '']);
    await user.click(screen.getByRole('button', { name: 'Columns (1 left out)' }));
    await user.click(screen.getByRole('checkbox', { name: 'Note' }));
    await user.click(screen.getByRole('button', { name: 'Held further left' }));
    await user.keyboard('{Escape}');
    await waitFor(() => expect(heads()).toEqual(['', 'Held', 'Name', 'Note', '']));
    unmount();
    // Left before the last write was due: written on leaving, with all of it. Who is slow has written what was before as well.
    expect(kept.writes.at(-1)).toEqual({
      ...{ hidden: [], order: ['held', 'name', 'note', 'act'], pinned: [], widths: {}, sort: null },
    } satisfies TableLook);
    render(<Shown />);
    expect(heads()).toEqual(['', 'Held', 'Name', 'Note', '']);
  });

  it('is never without a column, and comes back as it was at first', async () => {
    const user = userEvent.setup();
    render(<Shown />);
    await user.click(screen.getByRole('button', { name: /^Columns/ }));
    await user.click(screen.getByRole('checkbox', { name: 'Held' }));
    expect(screen.getByRole<HTMLInputElement>('checkbox', { name: 'Name' }).disabled).toBe(true);
    await user.click(screen.getByRole('button', { name: 'As at first' }));
    expect(screen.getByRole<HTMLInputElement>('checkbox', { name: 'Name' }).disabled).toBe(false);
  });

  it('is sized by keyboard, and the write waits for the last step', async () => {
    const user = userEvent.setup();
    render(<Shown />);
    const edge = screen.getByRole('separator', { name: 'Width of Name' });
    edge.focus();
    await user.keyboard('{ArrowRight}{ArrowRight}{ArrowRight}{ArrowLeft}');
    expect(edge.getAttribute('aria-valuenow')).toBe('48');
    expect(kept.writes).toEqual([]);
    await waitFor(() => expect(kept.writes).toMatchObject([{ widths: { name: 48 } }]), { timeout: 2000 });
  });

  it('ticks one, all between two with Shift in the order shown, and all', async () => {
    const user = userEvent.setup();
    render(<Shown />);
    await user.click(screen.getByRole('button', { name: 'Name' }));
    await user.click(screen.getByRole('checkbox', { name: 'Tick fan' }));
    expect(screen.getByTestId('ticked').textContent).toBe('3');
    await user.keyboard('{Shift>}');
    await user.click(screen.getByRole('checkbox', { name: 'Tick Gasket 9' }));
    await user.keyboard('{/Shift}');
    expect(screen.getByTestId('ticked').textContent).toBe('2 3');
    await user.click(screen.getByRole('checkbox', { name: 'Tick all rows' }));
    expect(screen.getByTestId('ticked').textContent).toBe('1 2 3');
    await user.click(screen.getByRole('checkbox', { name: 'Tick all rows' }));
    expect(screen.getByTestId('ticked').textContent).toBe('');
  });

  it('is walked by j and k and opened by Enter, in the order shown', async () => {
    const user = userEvent.setup();
    const opened: string[] = [];
    render(<Shown open={(p) => opened.push(p.name)} />);
    await user.click(screen.getByRole('button', { name: 'Name' }));
    (document.activeElement as HTMLElement).blur();
    await user.keyboard('jjk{Enter}');
    expect(opened).toEqual(['fan']);
  });
});

describe('what a table is saved as', () => {
  it('has the columns shown, with plain values, and the rows in their order', () => {
    const columns = COLUMNS.filter((c) => c.id !== 'held');
    expect(savedRows(columns, PARTS)).toEqual([
      ['Name', 'Note'],
      ['Gasket 10', '=1+1'],
      ['Gasket 9', ''],
      ['fan', 'spare, "old"'],
    ]);
    expect(savedRows(COLUMNS, [PARTS[1] as Part])[1]).toEqual(['Gasket 9', '', '']);
  });
  it('numbers are compared by size, words as people read them', () => {
    expect([compareValues(2, 10) < 0, compareValues('Q2', 'Q10') < 0, compareValues('ä', 'b') < 0]).toEqual([
      true,
      true,
      true,
    ]);
  });
  it('columns that came since somebody ordered them stand where they were made to stand', () => {
    expect(ordered(['a', 'b', 'c', 'd'], ['c', 'a'])).toEqual(['c', 'd', 'a', 'b']);
    expect(ordered(['x', 'a'], ['a'])).toEqual(['x', 'a']);
    expect(ordered(['a'], ['gone', 'a'])).toEqual(['a']);
  });
});

describe('rows one looks for', () => {
  const MANY: Part[] = Array.from({ length: 9 }, (_, i) => ({ id: i + 1, name: `Gasket ${i + 1}`, held: i, note: '' }));
  const openMany = () => {
    render(<Table name="many" caption="Parts" columns={COLUMNS} rows={MANY} idOf={(p) => p.id} />);
    return userEvent.setup();
  };

  it('answer to a part of their words, and of numbers to more or less than one', () => {
    expect(answers(' KET ', 'Gasket 9', null)).toBe(true);
    expect(answers('nov', '2026-11-24', 'Tue 24 Nov 2026')).toBe(true);
    expect([answers('> 4', 5, null), answers('>4', 4, null), answers('< 4,5', 4, null)]).toEqual([true, false, true]);
    expect([answers('> 4', 'gasket > 4', null), answers('9', null, null)]).toEqual([true, false]);
  });

  it('are the only ones shown, counted, and all come back', async () => {
    const user = openMany();
    expect(screen.queryByLabelText('Only rows whose Name has')).toBeNull();
    await user.click(screen.getByRole('button', { name: 'Filter' }));
    await user.type(screen.getByLabelText('Only rows whose Held has'), '> 5');
    expect(screen.getByRole('status').textContent).toBe('3 of 9');
    await user.type(screen.getByLabelText('Only rows whose Name has'), 'zz');
    await user.click(screen.getByRole('button', { name: 'Show all 9' }));
    expect(screen.getAllByRole('row')).toHaveLength(2 + 9);
    await user.type(screen.getByLabelText('Only rows whose Name has'), '9');
    expect(screen.getAllByRole('row')).toHaveLength(2 + 1);
    await user.click(screen.getByRole('button', { name: 'Show all rows' }));
    expect(screen.getAllByRole('row')).toHaveLength(1 + 9);
  });

  it('are not looked for in a handful, nor where only a page of them is here', () => {
    render(<Table name="few" caption="Few" columns={COLUMNS} rows={MANY.slice(0, 3)} idOf={(p) => p.id} />);
    expect(screen.queryByRole('button', { name: 'Filter' })).toBeNull();
    cleanup();
    const sorting = { can: [], sort: null, onSort: () => undefined };
    render(<Table name="paged" caption="Paged" columns={COLUMNS} rows={MANY} idOf={(p) => p.id} sorting={sorting} />);
    expect(screen.queryByRole('button', { name: 'Filter' })).toBeNull();
  });
});
