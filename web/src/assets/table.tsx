// Assets in rows with their threads, drawn only where they are seen; long lists are fetched in pieces as they come into view.
import { useRef } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { Link, useNavigate } from 'react-router';
import type { AssetRow } from '#api/register.ts';
import { RibbonAxis, RibbonLine, type RibbonSpan } from '../parts/ribbon.tsx';
import { assetsApi } from './endpoints.ts';

export type AssetListFilter = { readonly customer?: string; readonly location?: string; readonly search?: string };
/** Rows fetched at a time. */
const PIECE = 50;

/** The piece of a list that holds a row. */
export function usePiece(filter: AssetListFilter, index: number) {
  const query = {
    limit: String(PIECE),
    offset: String(Math.floor(Math.max(0, index) / PIECE) * PIECE),
    ...(filter.customer && { customer: filter.customer }),
    ...(filter.location && { location: filter.location }),
    ...(filter.search && { search: filter.search }),
  };
  const found = assetsApi.useListAssetsQuery({ query });
  return { ...found, row: found.currentData?.items[Math.max(0, index) % PIECE] };
}

export function CoverWord({ text }: { text: string }) {
  return text.startsWith('no cover') ? <span>○ {text}</span> : <span>● {text}</span>;
}

type Ticks = {
  /** Ids that are ticked; without it there is no tick column. */
  readonly ticked?: ReadonlySet<number> | undefined;
  readonly tick?: ((id: number) => void) | undefined;
};

function Cells({ row, span, ticked, tick }: { row: AssetRow; span: RibbonSpan } & Ticks) {
  return (
    <>
      {ticked && (
        <span role="cell">
          <input
            type="checkbox"
            className="box-tick"
            aria-label={`Tick ${row.tag}`}
            checked={ticked.has(row.id)}
            onClick={(e) => e.stopPropagation()}
            onChange={() => tick?.(row.id)}
          />
        </span>
      )}
      <span role="cell" className="min-w-0 leading-tight">
        <Link className="serial link-ink font-semibold" to={`/assets/${row.id}`}>
          {row.tag}
        </Link>{' '}
        <span className="quiet">{row.state === 'in service' ? '' : row.state}</span>
        <br />
        <span className="block truncate" title={`${row.className}, ${row.maker} ${row.model}, ${row.serial}`}>
          {row.className} <span className="quiet">{row.model}</span>
        </span>
      </span>
      <span role="cell" className="min-w-0 text-[0.9rem] leading-tight">
        <span className="line-clamp-2" title={row.place}>
          {row.place.split(' · ').slice(-3).join(' · ')}
        </span>
      </span>
      <span role="cell" className="min-w-0 text-[0.9rem] leading-tight">
        <span className="line-clamp-2" title={row.coverNow}>
          <CoverWord text={row.coverNow} />
        </span>
      </span>
      <span role="cell">
        <RibbonLine ribbon={row.ribbon} span={span} size="thread" />
      </span>
    </>
  );
}

function PagedCells({ filter, index, ...rest }: { filter: AssetListFilter; index: number; span: RibbonSpan } & Ticks) {
  const { row } = usePiece(filter, index);
  return row ? (
    <Cells row={row} {...rest} />
  ) : (
    <span role="cell" className="quiet col-span-full h-9">
      …
    </span>
  );
}

export function AssetTable({
  rows,
  count,
  filter,
  span,
  chosen,
  choose,
  height,
  ticked,
  tick,
}: {
  /** All rows, or else a filter whose rows are fetched where they are seen. */
  rows?: readonly AssetRow[];
  count: number;
  filter?: AssetListFilter;
  span: RibbonSpan;
  chosen: number;
  choose: (i: number) => void;
  height?: string;
} & Ticks) {
  const navigate = useNavigate();
  const scroller = useRef<HTMLDivElement>(null);
  // The library keeps its own state; the compiler rule does not apply here.
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => 47,
    overscan: 10,
  });
  const columns = ticked
    ? 'grid grid-cols-[1.1rem_minmax(10rem,1.1fr)_minmax(8rem,0.9fr)_minmax(9rem,0.9fr)_minmax(15rem,2.2fr)] gap-x-3 px-2'
    : 'grid grid-cols-[minmax(11rem,1.1fr)_minmax(10rem,1fr)_minmax(9rem,0.9fr)_minmax(16rem,2.2fr)] gap-x-3 px-2';
  return (
    <div role="table" aria-label="Assets" aria-rowcount={count + 1}>
      <div
        role="row"
        className={`${columns} items-end border-b border-secondary pb-1 text-[0.87rem] font-semibold text-ink2`}
      >
        {ticked && <span role="columnheader" aria-label="Ticked" />}
        <span role="columnheader">Asset</span>
        <span role="columnheader">Place</span>
        <span role="columnheader">Cover today</span>
        <span role="columnheader">
          <span className="sr-only">Time line</span>
          <RibbonAxis span={span} every={2} />
        </span>
      </div>
      <div
        ref={scroller}
        className="overflow-y-auto"
        style={{ maxHeight: height ?? 'calc(100vh - 10.5rem)' }}
        tabIndex={0}
        role="rowgroup"
      >
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }} role="presentation">
          {virtual.getVirtualItems().map((item) => {
            const row = rows?.[item.index];
            return (
              <div
                key={item.index}
                role="row"
                aria-rowindex={item.index + 2}
                ref={virtual.measureElement}
                data-index={item.index}
                className={`${columns} absolute w-full cursor-pointer items-center border-b border-hairline py-1 ${item.index === chosen ? 'bg-base-100 outline outline-1 -outline-offset-1 outline-base-content' : 'hover:bg-base-300/60'}`}
                style={{ transform: `translateY(${item.start}px)` }}
                onClick={() => choose(item.index)}
                onDoubleClick={(e) => {
                  const link = e.currentTarget.querySelector('a');
                  if (link) void navigate(link.getAttribute('href') ?? '');
                }}
              >
                {row ? (
                  <Cells row={row} span={span} ticked={ticked} tick={tick} />
                ) : (
                  filter && <PagedCells filter={filter} index={item.index} span={span} ticked={ticked} tick={tick} />
                )}
              </div>
            );
          })}
        </div>
      </div>
    </div>
  );
}
