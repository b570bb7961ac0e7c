// The table of the house: sorted, chosen, ordered, sized and kept columns; ticks, unfolding, keys; saved as a file.
import {
  Fragment,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type CSSProperties,
  type ReactNode,
} from 'react';
import { getCoreRowModel, getSortedRowModel, useReactTable, type Row } from '@tanstack/react-table';
import { csvText } from '#core/csv.ts';
import { useListKeys } from '../../shell/keys.ts';
import { definition, isSaying, savedRows, type Column, type Value } from './column.ts';
import { ColumnsMenu } from './columns-menu.tsx';
import { HeadCell } from './head-cell.tsx';
import { useTableLook } from './look.ts';
import { TickBox, useTickRange, type Ticks } from './ticks.tsx';

export type Sort = { readonly by: string; readonly down: boolean };

type Props<R, K> = {
  /** Names what is kept of it and the file it is saved as. */
  readonly name: string;
  readonly caption: string;
  readonly title?: ReactNode;
  readonly columns: readonly Column<R>[];
  readonly rows: readonly R[];
  readonly idOf: (row: R) => number | string;
  /** Where rows come page by page, the server sorts: which columns it can, and by which it does. */
  readonly sorting?: {
    readonly can: readonly string[];
    readonly sort: Sort | null;
    readonly onSort: (sort: Sort | null) => void;
  };
  /** Where the file comes from, with the whole list in it; without it the rows shown are saved, for they are all there are. */
  readonly csv?: string | null;
  /** A row may stand for several. */
  readonly ticks?:
    | undefined
    | {
        readonly of: Ticks<K>;
        readonly idsOf: (row: R) => readonly K[];
        readonly nameOf: (row: R) => string;
      };
  /** Walked by j and k, opened by Enter or a double click. */
  readonly onOpen?: (row: R) => void;
  readonly unfold?: { readonly nameOf: (row: R) => string; readonly show: (row: R) => ReactNode };
  readonly rowClass?: (row: R) => string;
};

function save(name: string, text: string): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([text], { type: 'text/csv;charset=utf-8' }));
  link.download = `${name}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
}

/** Columns as somebody ordered them; ones that came since stand where they were made to stand. */
export function ordered(ids: readonly string[], order: readonly string[]): string[] {
  const known = order.filter((id) => ids.includes(id));
  const result = [...known];
  for (const [i, id] of ids.entries())
    if (!known.includes(id)) {
      const before = ids.slice(0, i).findLast((x) => result.includes(x));
      result.splice(before === undefined ? 0 : result.indexOf(before) + 1, 0, id);
    }
  return result;
}

/** Rows that say nothing in the sorted column stand last, both ways. */
function quietLast<R>(rows: readonly Row<R>[], by: string | undefined): Row<R>[] {
  if (by === undefined) return [...rows];
  const says = (row: Row<R>): boolean => isSaying(row.getValue<Value>(by));
  return [...rows.filter(says), ...rows.filter((row) => !says(row))];
}

function useTable<R, K>({ name, columns, rows, idOf, sorting }: Props<R, K>) {
  const extra = useMemo(() => columns.filter((c) => c.isExtra).map((c) => c.id), [columns]);
  const looking = useTableLook(name, { hidden: extra });
  const { look, change } = looking;
  const sort = sorting ? sorting.sort : look.sort;
  const ids = columns.map((c) => c.id);
  const inOrder = ordered(ids, look.order);
  const hidden = look.hidden.filter((id) => ids.includes(id));
  const definitions = useMemo(
    () => columns.map((c) => definition(c, sorting ? sorting.can.includes(c.id) : c.value !== undefined)),
    [columns, sorting],
  );
  const data = useMemo(() => [...rows], [rows]);
  const sortingState = useMemo(
    () => (sort && columns.some((c) => c.id === sort.by) ? [{ id: sort.by, desc: sort.down }] : []),
    [sort, columns],
  );
  // The library keeps functions that change with its state; the compiler rule does not apply here.
  const table = useReactTable<R>({
    data,
    columns: definitions,
    getRowId: (row) => String(idOf(row)),
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    manualSorting: sorting !== undefined,
    // Nothing is paged here; left to itself it would begin a page anew on each drawing, and draw again for that.
    autoResetAll: false,
    enableSortingRemoval: true,
    sortDescFirst: false,
    state: {
      sorting: sortingState,
      columnVisibility: Object.fromEntries(hidden.map((id) => [id, false])),
      columnOrder: [
        ...look.pinned.filter((id) => ids.includes(id)),
        ...inOrder.filter((id) => !look.pinned.includes(id)),
      ],
    },
    onSortingChange: (update) => {
      const [next] = typeof update === 'function' ? update(sortingState) : update;
      const chosen = next ? { by: next.id, down: next.desc } : null;
      if (sorting) sorting.onSort(chosen);
      else change({ sort: chosen });
    },
  });
  const shown = sorting ? table.getRowModel().rows : quietLast(table.getRowModel().rows, sort?.by);
  return { table, shown, looking, inOrder, hidden };
}

/** Whether the table is wider than its room: then it moves sideways by itself, and its head stays with it. */
function useWide() {
  const box = useRef<HTMLDivElement>(null);
  const [isWide, setWide] = useState(false);
  useEffect(() => {
    const room = box.current;
    const table = room?.querySelector('table');
    if (!room || !table || typeof ResizeObserver === 'undefined') return;
    const watch = new ResizeObserver(() => setWide(table.scrollWidth > room.clientWidth + 1));
    watch.observe(room);
    watch.observe(table);
    return () => watch.disconnect();
  }, []);
  return { box, isWide };
}

/** How far from the left each pinned column stays: the widths of those before it. */
function usePinned(pinned: readonly string[], layout: string) {
  const head = useRef<HTMLTableRowElement>(null);
  const [lefts, setLefts] = useState<Readonly<Record<string, number>>>({});
  useLayoutEffect(() => {
    let left = 0;
    const next: Record<string, number> = {};
    for (const cell of head.current?.querySelectorAll<HTMLElement>('th') ?? []) {
      const id = cell.dataset.column;
      if (id !== undefined && pinned.includes(id)) next[id] = left;
      if (id === undefined || pinned.includes(id)) left += cell.offsetWidth;
    }
    setLefts((old) => (JSON.stringify(next) === JSON.stringify(old) ? old : next));
  }, [pinned, layout]);
  const styleOf = (id: string, width: number | undefined): CSSProperties => ({
    ...(width !== undefined && { width, minWidth: width, maxWidth: width }),
    ...(id in lefts && { position: 'sticky', left: lefts[id], zIndex: 1, background: 'var(--color-base-200)' }),
  });
  return { head, styleOf };
}

export function Table<R, K = number>(props: Props<R, K>) {
  const { name, caption, title, columns, csv, ticks, onOpen, unfold, rowClass } = props;
  const { table, shown, looking, inOrder, hidden } = useTable(props);
  const { look, change } = looking;
  const { head, styleOf } = usePinned(look.pinned, JSON.stringify([inOrder, hidden, look.widths]));
  const { box, isWide } = useWide();
  const [chosen, setChosen] = useState(-1);
  const [open, setOpen] = useState<string | null>(null);
  useListKeys(onOpen ? shown.length : 0, chosen, setChosen, (i) => shown[i] && onOpen?.(shown[i].original));
  const tickRows = ticks ? shown.map((r) => ticks.idsOf(r.original)) : [];
  const tickIds = tickRows.flat();
  const tick = useTickRange(
    ticks?.of ?? { ticked: new Set<K>(), toggle: () => undefined, clear: () => undefined },
    tickRows,
  );
  // What stands before a column that stays at the left stays with it.
  const lead = look.pinned.length > 0 ? 'stays-left' : '';
  const widthOf = (id: string): number | undefined => look.widths[id] ?? columns.find((c) => c.id === id)?.width;
  const inView = table.getVisibleLeafColumns();
  const all = inView.length + (ticks ? 1 : 0) + (unfold ? 1 : 0);
  const file = (): void =>
    save(
      name,
      csvText(
        savedRows(
          inView.flatMap((c) => c.columnDef.meta?.column ?? []),
          shown.map((r) => r.original),
        ),
      ),
    );
  return (
    <div>
      <div className="flex items-end justify-between gap-4 pb-1">
        <div>{title}</div>
        <div className="flex items-baseline gap-3 text-[0.87rem]">
          <ColumnsMenu columns={columns} inOrder={inOrder} hidden={hidden} looking={looking} />
          {csv ? (
            <a className="link-ink" href={csv} download>
              CSV
            </a>
          ) : (
            csv !== null && (
              <button className="link-ink" onClick={file}>
                CSV
              </button>
            )
          )}
        </div>
      </div>
      <div ref={box} className={`kept-table ${isWide ? 'is-wide' : ''}`}>
        <table className="dense">
          <caption className="sr-only">{caption}</caption>
          <thead>
            <tr ref={head}>
              {unfold && (
                <th className={`w-8 ${lead}`}>
                  <span className="sr-only">Unfold</span>
                </th>
              )}
              {ticks && (
                <th className={`w-8 ${lead}`}>
                  <TickBox
                    name="all rows"
                    checked={tickIds.length > 0 && tickIds.every((id) => ticks.of.ticked.has(id))}
                    some={tickIds.some((id) => ticks.of.ticked.has(id))}
                    onTick={() => ticks.of.toggle(tickIds)}
                  />
                </th>
              )}
              {table.getFlatHeaders().map((header) => (
                <HeadCell
                  key={header.id}
                  header={header as never}
                  width={look.widths[header.column.id]}
                  onSize={(width) => change({ widths: { ...look.widths, [header.column.id]: width } })}
                  style={{
                    ...styleOf(header.column.id, widthOf(header.column.id)),
                    // Over the other heads, which are over the rows.
                    ...(look.pinned.includes(header.column.id) && { zIndex: 3 }),
                  }}
                />
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((row, i) => (
              <Fragment key={row.id}>
                <tr
                  aria-selected={onOpen ? i === chosen : unfold ? open === row.id : undefined}
                  className={`${onOpen ? 'cursor-pointer' : ''} ${rowClass?.(row.original) ?? ''}`}
                  onClick={onOpen && (() => setChosen(i))}
                  onDoubleClick={onOpen && (() => onOpen(row.original))}
                >
                  {unfold && (
                    <td className={lead}>
                      <button
                        aria-expanded={open === row.id}
                        aria-label={`${open === row.id ? 'Fold' : 'Unfold'} ${unfold.nameOf(row.original)}`}
                        className="w-6"
                        onClick={() => setOpen(open === row.id ? null : row.id)}
                      >
                        {open === row.id ? '▾' : '▸'}
                      </button>
                    </td>
                  )}
                  {ticks && (
                    <td className={lead}>
                      <TickBox
                        name={ticks.nameOf(row.original)}
                        checked={ticks.idsOf(row.original).every((id) => ticks.of.ticked.has(id))}
                        onTick={(withShift) => tick(i, withShift)}
                      />
                    </td>
                  )}
                  {inView.map((column) => {
                    const own = column.columnDef.meta?.column as Column<R>;
                    const more = typeof own.className === 'function' ? own.className(row.original) : own.className;
                    const width = look.widths[column.id];
                    return (
                      <td
                        key={column.id}
                        className={`${own.isNumber ? 'num' : ''} ${width === undefined ? '' : 'overflow-hidden text-ellipsis'} ${more ?? ''}`}
                        style={styleOf(column.id, width)}
                      >
                        {own.show ? own.show(row.original) : String(own.value?.(row.original) ?? '')}
                      </td>
                    );
                  })}
                </tr>
                {unfold && open === row.id && (
                  <tr className="bg-base-100">
                    <td colSpan={all}>{unfold.show(row.original)}</td>
                  </tr>
                )}
              </Fragment>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
