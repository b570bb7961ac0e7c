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
import {
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
  type Column as TableColumn,
  type ColumnFiltersState,
  type Row,
} from '@tanstack/react-table';
import type { TableLook } from '#api/house.ts';
import { csvText } from '#core/csv.ts';
import { useListKeys } from '../../shell/keys.ts';
import { definition, isSaying, savedRows, type Column, type Value } from './column.ts';
import { ColumnsMenu } from './columns-menu.tsx';
import { HeadCell } from './head-cell.tsx';
import { useTableLook } from './look.ts';
import { ordered } from './ordered.ts';
import type { Sort } from './sort.ts';
import { BodyCell, FilterRow, LeadHeads, UnfoldCell, type Lead } from './cells.tsx';
import { TickBox, useTickRange, type Ticks } from './ticks.tsx';

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
  const [filters, setFilters] = useState<ColumnFiltersState>([]);
  const table = useReactTable<R>({
    data,
    columns: definitions,
    getRowId: (row) => String(idOf(row)),
    getCoreRowModel: getCoreRowModel(),
    getSortedRowModel: getSortedRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    enableColumnFilters: sorting === undefined,
    onColumnFiltersChange: setFilters,
    manualSorting: sorting !== undefined,
    // Nothing is paged here; left to itself it would begin a page anew on each drawing, and draw again for that.
    autoResetAll: false,
    enableSortingRemoval: true,
    sortDescFirst: false,
    state: {
      sorting: sortingState,
      columnFilters: filters,
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

/** The file of the whole list from the server, or of the rows shown where they are all there are. */
function FileLink({ csv, onSave }: { csv: string | null | undefined; onSave: () => void }) {
  if (csv === null) return null;
  return csv ? (
    <a className="link-ink" href={csv} download>
      CSV
    </a>
  ) : (
    <button className="link-ink" onClick={onSave}>
      CSV
    </button>
  );
}

type BodyProps<R, K> = Pick<Props<R, K>, 'ticks' | 'onOpen' | 'unfold' | 'rowClass'> & {
  readonly rows: readonly Row<R>[];
  /** How many there are with those that do not answer to the filters. */
  readonly all: number;
  readonly inView: readonly TableColumn<R>[];
  readonly lead: Lead<K>;
  readonly look: TableLook;
  readonly styleOf: (id: string, width: number | undefined) => CSSProperties;
  readonly chosen: number;
  readonly choose: (i: number) => void;
  readonly showAll: () => void;
};

function Body<R, K>({
  rows,
  all,
  inView,
  lead,
  look,
  styleOf,
  chosen,
  choose,
  showAll,
  ticks,
  onOpen,
  unfold,
  rowClass,
}: BodyProps<R, K>) {
  const [open, setOpen] = useState<string | null>(null);
  const tick = useTickRange(
    ticks?.of ?? { ticked: new Set<K>(), toggle: () => undefined, clear: () => undefined },
    ticks ? rows.map((r) => ticks.idsOf(r.original)) : [],
  );
  const width = inView.length + (ticks ? 1 : 0) + (unfold ? 1 : 0);
  return (
    <tbody>
      {rows.map((row, i) => (
        <Fragment key={row.id}>
          <tr
            aria-selected={onOpen ? i === chosen : unfold ? open === row.id : undefined}
            className={`${onOpen ? 'cursor-pointer' : ''} ${rowClass?.(row.original) ?? ''}`}
            onClick={onOpen && (() => choose(i))}
            onDoubleClick={onOpen && (() => onOpen(row.original))}
          >
            {unfold && (
              <UnfoldCell
                className={lead.className}
                name={unfold.nameOf(row.original)}
                isOpen={open === row.id}
                toggle={() => setOpen(open === row.id ? null : row.id)}
              />
            )}
            {ticks && (
              <td className={lead.className}>
                <TickBox
                  name={ticks.nameOf(row.original)}
                  checked={ticks.idsOf(row.original).every((id) => ticks.of.ticked.has(id))}
                  onTick={(withShift) => tick(i, withShift)}
                />
              </td>
            )}
            {inView.map((column) => (
              <BodyCell
                key={column.id}
                column={column.columnDef.meta?.column as Column<R>}
                row={row.original}
                isSized={look.widths[column.id] !== undefined}
                style={styleOf(column.id, look.widths[column.id])}
              />
            ))}
          </tr>
          {unfold && open === row.id && (
            <tr className="bg-base-100">
              <td colSpan={width}>{unfold.show(row.original)}</td>
            </tr>
          )}
        </Fragment>
      ))}
      {rows.length === 0 && all > 0 && (
        <tr>
          <td colSpan={width} className="quiet py-4">
            No row answers to what is typed above.{' '}
            <button className="link-ink" onClick={showAll}>
              Show all {all}
            </button>
          </td>
        </tr>
      )}
    </tbody>
  );
}

/** From so many rows on it is worth looking for some of them. */
const FILTERED_FROM = 6;

/** What stands over the table: its title, how many rows are left, the filter, the columns, the file. */
function Over({
  title,
  shown,
  all,
  filter,
  children,
}: {
  title: ReactNode;
  shown: number;
  all: number;
  /** Undefined: it cannot be filtered. */
  filter: { readonly isOpen: boolean; readonly toggle: () => void } | undefined;
  children: ReactNode;
}) {
  return (
    <div className="flex items-end justify-between gap-4 pb-1">
      <div>{title}</div>
      <div className="flex items-baseline gap-3 text-[0.87rem]">
        {shown < all && (
          <span role="status" className="quiet">
            {shown} of {all}
          </span>
        )}
        {filter && (
          <button className="link-ink" aria-expanded={filter.isOpen} onClick={filter.toggle}>
            {filter.isOpen ? 'Show all rows' : 'Filter'}
          </button>
        )}
        {children}
      </div>
    </div>
  );
}

/** What stands before the first column; it stays at the left with a column that stays there. */
const leadOf = <R, K>({ unfold, ticks }: Props<R, K>, shown: readonly Row<R>[], stays: boolean): Lead<K> => ({
  className: stays ? 'stays-left' : '',
  unfolds: unfold !== undefined,
  ticks: ticks ? { of: ticks.of, ids: shown.flatMap((r) => ticks.idsOf(r.original)) } : null,
});

export function Table<R, K = number>(props: Props<R, K>) {
  const { name, caption, title, columns, rows, csv, onOpen, sorting } = props;
  const { table, shown, looking, inOrder, hidden } = useTable(props);
  const { look, change } = looking;
  const { head, styleOf } = usePinned(look.pinned, JSON.stringify([inOrder, hidden, look.widths]));
  const { box, isWide } = useWide();
  const [chosen, setChosen] = useState(-1);
  const [isFiltering, setFiltering] = useState(false);
  useListKeys(onOpen ? shown.length : 0, chosen, setChosen, (i) => shown[i] && onOpen?.(shown[i].original));
  const inView = table.getVisibleLeafColumns();
  const file = (): void => {
    const columnsInView = inView.flatMap((c) => c.columnDef.meta?.column ?? []);
    save(
      name,
      csvText(
        savedRows(
          columnsInView,
          shown.map((r) => r.original),
        ),
      ),
    );
  };
  const mayFilter = !sorting && csv === undefined && (isFiltering || rows.length >= FILTERED_FROM);
  const toggleFilters = (): void => {
    if (isFiltering) table.resetColumnFilters(true);
    setFiltering(!isFiltering);
  };
  const headStyle = (id: string): CSSProperties => ({
    ...styleOf(id, look.widths[id] ?? columns.find((c) => c.id === id)?.width),
    // Over the other heads, which are over the rows.
    ...(look.pinned.includes(id) && { zIndex: 3 }),
  });
  const lead = leadOf(props, shown, look.pinned.length > 0);
  return (
    <div>
      <Over
        title={title}
        shown={shown.length}
        all={rows.length}
        filter={mayFilter ? { isOpen: isFiltering, toggle: toggleFilters } : undefined}
      >
        <ColumnsMenu columns={columns} inOrder={inOrder} hidden={hidden} looking={looking} />
        <FileLink csv={csv} onSave={file} />
      </Over>
      <div ref={box} className={`kept-table ${isWide ? 'is-wide' : ''}`}>
        <table className="dense">
          <caption className="sr-only">{caption}</caption>
          <thead>
            <tr ref={head}>
              <LeadHeads lead={lead} />
              {table.getFlatHeaders().map((header) => (
                <HeadCell
                  key={header.id}
                  header={header as never}
                  width={look.widths[header.column.id]}
                  onSize={(width) => change({ widths: { ...look.widths, [header.column.id]: width } })}
                  style={headStyle(header.column.id)}
                />
              ))}
            </tr>
            {isFiltering && <FilterRow lead={lead} columns={inView} styleOf={headStyle} />}
          </thead>
          <Body
            {...props}
            rows={shown}
            all={rows.length}
            inView={inView}
            lead={lead}
            look={look}
            styleOf={styleOf}
            chosen={chosen}
            choose={setChosen}
            showAll={() => table.resetColumnFilters(true)}
          />
        </table>
      </div>
    </div>
  );
}
