// Assets in rows with their threads, drawn only where they are seen; long lists are fetched in pieces as they come into view.
import { useEffect, useMemo, useRef } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Link, useNavigate } from 'react-router';
import { ASSET_SORTS, type AssetRow } from '#api/register.ts';
import { RibbonAxis, RibbonLine, type RibbonSpan } from '../parts/ribbon.tsx';
import {
  ariaSort,
  ColumnsMenu,
  Edge,
  HeadWords,
  ordered,
  SortButton,
  TickBox,
  sortAsked,
  sortedNext,
  useTableLook,
  type Column,
  type Looking,
  type Sort,
} from '../parts/table/index.ts';
import { assetsApi } from './endpoints.ts';
import { TICKED_AT_MOST, type AssetTicks } from './ticks.ts';

export type AssetListFilter = { readonly customer?: string; readonly location?: string; readonly search?: string };
export type Sorting = { readonly sort: Sort | null; readonly onSort: (sort: Sort | null) => void };
/** Rows fetched at a time. */
const PIECE = 50;

/** The piece of a list that holds a row. */
export function usePiece(filter: AssetListFilter, sort: Sort | null, index: number) {
  const query = {
    limit: String(PIECE),
    offset: String(Math.floor(Math.max(0, index) / PIECE) * PIECE),
    ...(filter.customer && { customer: filter.customer }),
    ...(filter.location && { location: filter.location }),
    ...(filter.search && { search: filter.search }),
    ...sortAsked(sort, ASSET_SORTS),
  };
  const found = assetsApi.useListAssetsQuery({ query });
  return { ...found, row: found.currentData?.items[Math.max(0, index) % PIECE] };
}

export function CoverWord({ text }: { text: string }) {
  return text.startsWith('no cover') ? <span>○ {text}</span> : <span>● {text}</span>;
}

/** Without it there is no tick column. */
type Ticked = { readonly ticks?: AssetTicks | undefined };

type AssetColumn = Column<AssetRow> & {
  /** How much of the room it takes, and in rem no less than which. */
  readonly share: number;
  readonly least: number;
};

const columnsOn = (span: RibbonSpan): readonly AssetColumn[] => [
  {
    ...{ id: 'asset', head: 'Asset', share: 1.1, least: 10 },
    show: (row) => (
      <>
        <Link className="serial link-ink font-semibold" to={`/assets/${row.id}`}>
          {row.tag}
        </Link>{' '}
        <span className="quiet">{row.state === 'in service' ? '' : row.state}</span>
        <br />
        <span className="block truncate" title={`${row.className}, ${row.maker} ${row.model}, ${row.serial}`}>
          {row.className} <span className="quiet">{row.model}</span>
        </span>
      </>
    ),
  },
  {
    ...{ id: 'place', head: 'Place', share: 0.9, least: 8, className: 'text-[0.9rem]' },
    show: (row) => (
      <span className="line-clamp-2" title={row.place}>
        {row.place.split(' · ').slice(-3).join(' · ')}
      </span>
    ),
  },
  {
    ...{ id: 'cover', head: 'Cover today', share: 0.9, least: 9, className: 'text-[0.9rem]' },
    show: (row) => (
      <span className="line-clamp-2" title={row.coverNow}>
        <CoverWord text={row.coverNow} />
      </span>
    ),
  },
  {
    ...{ id: 'serial', head: 'Serial', share: 0.6, least: 7, isExtra: true },
    show: (row) => <span className="serial truncate">{row.serial}</span>,
  },
  {
    ...{ id: 'maker', head: 'Maker', share: 0.6, least: 7, isExtra: true },
    show: (row) => <span className="truncate">{row.maker}</span>,
  },
  {
    ...{ id: 'customer', head: 'Customer', share: 0.8, least: 8, isExtra: true },
    show: (row) => <span className="line-clamp-2">{row.customerName}</span>,
  },
  {
    ...{ id: 'line', head: 'Time line', share: 2.2, least: 15 },
    drawnHead: <RibbonAxis span={span} every={2} />,
    show: (row) => <RibbonLine ribbon={row.ribbon} span={span} size="thread" />,
  },
];

type Shown = { readonly columns: readonly AssetColumn[]; readonly template: string };

/** The columns as the reader likes them, and the grid they stand in. */
function useColumns(span: RibbonSpan, hasTicks: boolean) {
  const all = useMemo(() => columnsOn(span), [span]);
  const looking = useTableLook('assets', { hidden: all.filter((c) => c.isExtra).map((c) => c.id) });
  const { look } = looking;
  const ids = all.map((c) => c.id);
  const hidden = look.hidden.filter((id) => ids.includes(id));
  const inOrder = ordered(ids, look.order);
  const columns = [...look.pinned, ...inOrder.filter((id) => !look.pinned.includes(id))]
    .filter((id) => !hidden.includes(id))
    .flatMap((id) => all.filter((c) => c.id === id));
  const widthOf = ({ id, share, least }: AssetColumn): string => {
    const width = look.widths[id];
    return width === undefined ? `minmax(${least}rem, ${share}fr)` : `${width}px`;
  };
  const shown: Shown = { columns, template: [hasTicks ? '1.1rem' : '', ...columns.map(widthOf)].join(' ') };
  return { all, looking, hidden, inOrder, shown };
}

function Cells({ row, index, shown, ticks }: { row: AssetRow; index: number; shown: Shown } & Ticked) {
  return (
    <>
      {ticks && (
        <span role="cell">
          <TickBox
            name={row.tag}
            checked={ticks.ticked.has(row.id)}
            onTick={(withShift) => ticks.tick(row.id, index, withShift)}
          />
        </span>
      )}
      {shown.columns.map(({ id, show, className }) => (
        <span
          key={id}
          role="cell"
          className={`min-w-0 leading-tight ${typeof className === 'string' ? className : ''}`}
        >
          {show?.(row)}
        </span>
      ))}
    </>
  );
}

function PagedCells({
  filter,
  sort,
  index,
  ...rest
}: { filter: AssetListFilter; sort: Sort | null; index: number; shown: Shown } & Ticked) {
  const { row } = usePiece(filter, sort, index);
  return row ? (
    <Cells row={row} index={index} {...rest} />
  ) : (
    <span role="cell" className="quiet col-span-full h-9">
      …
    </span>
  );
}

const ROW = 'grid gap-x-3 px-2';

function HeadOf({ column, sorting: { sort, onSort } }: { column: AssetColumn; sorting: Sorting }) {
  const { id, head, drawnHead } = column;
  if (drawnHead) return <HeadWords head={head} drawn={drawnHead} />;
  if (!(ASSET_SORTS as readonly string[]).includes(id)) return <span className="inline-flex">{head}</span>;
  return (
    <SortButton sorted={wayOf(sort, id)} onPress={() => onSort(sortedNext(sort, id))}>
      {head}
    </SortButton>
  );
}

const wayOf = (sort: Sort | null, id: string) => (sort?.by !== id ? null : sort.down ? 'down' : 'up');

function Head({
  count,
  shown,
  looking,
  sorting,
  ticks,
}: { count: number; shown: Shown; looking: Looking; sorting: Sorting } & Ticked) {
  const { look, change } = looking;
  return (
    <div
      role="row"
      className={`${ROW} items-end border-b border-secondary pb-1 text-[0.87rem] font-semibold text-ink2`}
      style={{ gridTemplateColumns: shown.template }}
    >
      {ticks && (
        <span role="columnheader" aria-label="Ticked">
          {count <= TICKED_AT_MOST && (
            <TickBox
              name={`all ${count}`}
              checked={ticks.isWhole}
              some={ticks.ticked.size > 0}
              onTick={() => ticks.tickAll(count, !ticks.isWhole)}
            />
          )}
        </span>
      )}
      {shown.columns.map((column) => (
        <span
          key={column.id}
          role="columnheader"
          data-column={column.id}
          aria-sort={ariaSort(wayOf(sorting.sort, column.id))}
          className="relative"
        >
          <HeadOf column={column} sorting={sorting} />
          <Edge
            name={column.head}
            width={look.widths[column.id]}
            onSize={(width) => change({ widths: { ...look.widths, [column.id]: width } })}
          />
        </span>
      ))}
    </div>
  );
}

/** Its rows are drawn and fetched only where they are seen; the table is as long as the whole list. */
export function AssetTable({
  count,
  filter,
  sorting,
  span,
  chosen,
  choose,
  height,
  ticks,
}: {
  count: number;
  filter: AssetListFilter;
  sorting: Sorting;
  span: RibbonSpan;
  chosen: number;
  choose: (i: number) => void;
  height: string;
} & Ticked) {
  const navigate = useNavigate();
  const scroller = useRef<HTMLDivElement>(null);
  const { all, looking, hidden, inOrder, shown } = useColumns(span, ticks !== undefined);
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => 47,
    overscan: 10,
  });
  // In another order another row is the first.
  const { sort } = sorting;
  useEffect(() => {
    if (scroller.current) scroller.current.scrollTop = 0;
  }, [sort?.by, sort?.down]);
  return (
    <>
      <p className="flex justify-end pb-1 text-[0.87rem]">
        <ColumnsMenu columns={all} inOrder={inOrder} hidden={hidden} looking={looking} />
      </p>
      <div role="table" aria-label="Assets" aria-rowcount={count + 1}>
        <Head count={count} shown={shown} looking={looking} sorting={sorting} ticks={ticks} />
        <div ref={scroller} className="overflow-y-auto" style={{ maxHeight: height }} tabIndex={0} role="rowgroup">
          <div style={{ height: virtual.getTotalSize(), position: 'relative' }} role="presentation">
            {virtual.getVirtualItems().map((item) => (
              <div
                key={item.index}
                role="row"
                aria-rowindex={item.index + 2}
                ref={virtual.measureElement}
                data-index={item.index}
                className={`${ROW} absolute w-full cursor-pointer items-center border-b border-hairline py-1 ${item.index === chosen ? 'bg-base-100 outline outline-1 -outline-offset-1 outline-base-content' : 'hover:bg-base-300/60'}`}
                style={{ transform: `translateY(${item.start}px)`, gridTemplateColumns: shown.template }}
                onClick={() => choose(item.index)}
                onDoubleClick={(e) => {
                  const link = e.currentTarget.querySelector('a');
                  if (link) void navigate(link.getAttribute('href') ?? '');
                }}
              >
                <PagedCells filter={filter} sort={sort} index={item.index} shown={shown} ticks={ticks} />
              </div>
            ))}
          </div>
        </div>
      </div>
    </>
  );
}
