// The cells of a table: what stands before the columns, the row one filters in, and a row's own cells.
import type { CSSProperties } from 'react';
import type { Column as TableColumn } from '@tanstack/react-table';
import type { Column, Value } from './column.ts';
import { TickBox, type Ticks } from './ticks.tsx';

/** What stands before the first column. */
export type Lead<K> = {
  readonly className: string;
  readonly unfolds: boolean;
  readonly ticks: { readonly of: Ticks<K>; readonly ids: readonly K[] } | null;
};

export function LeadHeads<K>({ lead: { className, unfolds, ticks } }: { lead: Lead<K> }) {
  return (
    <>
      {unfolds && (
        <th className={`w-8 ${className}`}>
          <span className="sr-only">Unfold</span>
        </th>
      )}
      {ticks && (
        <th className={`w-8 ${className}`}>
          <TickBox
            name="all rows"
            checked={ticks.ids.length > 0 && ticks.ids.every((id) => ticks.of.ticked.has(id))}
            some={ticks.ids.some((id) => ticks.of.ticked.has(id))}
            onTick={() => ticks.of.toggle(ticks.ids)}
          />
        </th>
      )}
    </>
  );
}

/** A field under each head whose column has words or numbers. */
export function FilterRow<R, K>({
  lead,
  columns,
  styleOf,
}: {
  lead: Lead<K>;
  columns: readonly TableColumn<R>[];
  styleOf: (id: string) => CSSProperties;
}) {
  return (
    <tr className="filter-row">
      {lead.unfolds && <td className={lead.className} />}
      {lead.ticks && <td className={lead.className} />}
      {columns.map((column) => {
        const own = column.columnDef.meta?.column;
        return (
          <td key={column.id} style={styleOf(column.id)}>
            {column.getCanFilter() && own && (
              <input
                className="box-field h-6! px-1!"
                aria-label={`Only rows whose ${own.head} has`}
                placeholder={own.isNumber ? '5, > 5, < 5' : ''}
                value={(column.getFilterValue() as string | undefined) ?? ''}
                onChange={(e) => column.setFilterValue(e.target.value || undefined)}
              />
            )}
          </td>
        );
      })}
    </tr>
  );
}

export function UnfoldCell({
  className,
  name,
  isOpen,
  toggle,
}: {
  className: string;
  name: string;
  isOpen: boolean;
  toggle: () => void;
}) {
  return (
    <td className={className}>
      <button
        aria-expanded={isOpen}
        aria-label={`${isOpen ? 'Fold' : 'Unfold'} ${name}`}
        className="w-6"
        onClick={toggle}
      >
        {isOpen ? '▾' : '▸'}
      </button>
    </td>
  );
}

const sayValue = (value: Value | undefined): string => String(value ?? '');

export function BodyCell<R>({
  column,
  row,
  isSized,
  style,
}: {
  column: Column<R>;
  row: R;
  isSized: boolean;
  style: CSSProperties;
}) {
  const more = typeof column.className === 'function' ? column.className(row) : column.className;
  return (
    <td
      className={`${column.isNumber ? 'num' : ''} ${isSized ? 'overflow-hidden text-ellipsis' : ''} ${more ?? ''}`}
      style={style}
    >
      {column.show ? column.show(row) : sayValue(column.value?.(row))}
    </td>
  );
}
