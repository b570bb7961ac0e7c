// What a column of a table is: its head, what it shows, and the plain value it is sorted and saved by.
import type { ReactNode } from 'react';
import type { ColumnDef, RowData } from '@tanstack/react-table';

export type Value = string | number | boolean | null;

export type Column<R> = {
  /** Stable: what a person likes is kept by it. */
  readonly id: string;
  /** Words of its head; a column without any (acts, drawings) is always there and not saved. */
  readonly head: string;
  /** Stands in the head instead of the words, which are then read out only. */
  readonly drawnHead?: ReactNode;
  /** What it is sorted and saved by; without it, it is neither. */
  readonly value?: (row: R) => Value;
  readonly show?: (row: R) => ReactNode;
  readonly isNumber?: boolean;
  /** In pixels, until somebody sizes it. */
  readonly width?: number;
  readonly className?: string | ((row: R) => string);
  /** Left out until somebody asks for it. */
  readonly isExtra?: boolean;
};

declare module '@tanstack/react-table' {
  // The library’s own two parameters must be repeated.
  // oxlint-disable-next-line no-unused-vars
  interface ColumnMeta<TData extends RowData, TValue> {
    readonly column: Column<TData>;
  }
}

const said = (value: Value): string =>
  value === null ? '' : typeof value === 'boolean' ? (value ? 'yes' : 'no') : String(value);

/** Words by the alphabet, numbers by size; what says nothing stands last, whichever way it is sorted. */
export function compareValues(a: Value, b: Value): number {
  if (typeof a === 'number' && typeof b === 'number') return a - b;
  return said(a).localeCompare(said(b), 'en', { numeric: true, sensitivity: 'base' });
}

export const isSaying = (value: Value): boolean => value !== null && value !== '';

/**
 * Whether a row answers to what is typed under a column's head: a part of its words in any case; of a number also
 * more or less than one, as > 5 or < 5.
 */
export function answers(typed: string, value: Value, shown: string | null): boolean {
  const wanted = typed.trim().toLocaleLowerCase();
  const bound = /^([<>])\s*(-?\d+(?:[.,]\d+)?)$/.exec(wanted);
  if (bound && typeof value === 'number') {
    const limit = Number(bound[2]?.replace(',', '.'));
    return bound[1] === '<' ? value < limit : value > limit;
  }
  return [said(value), shown ?? ''].some((text) => text.toLocaleLowerCase().includes(wanted));
}

export function definition<R>(column: Column<R>, sorts: boolean): ColumnDef<R, Value> {
  return {
    id: column.id,
    meta: { column },
    enableHiding: column.head !== '',
    enableSorting: sorts,
    ...(column.value && { accessorFn: column.value }),
    sortingFn: (x, y, id) => compareValues(x.getValue(id), y.getValue(id)),
    enableColumnFilter: column.value !== undefined && column.head !== '',
    filterFn: (row, id, typed: string) => {
      const shown = column.show?.(row.original);
      return answers(typed, row.getValue(id), typeof shown === 'string' ? shown : null);
    },
  };
}

/** The rows as a file holds them: columns that have a value, in the order in which they are shown. */
export const savedRows = <R>(columns: readonly Column<R>[], rows: readonly R[]): string[][] => {
  const saved = columns.filter((c) => c.value);
  return [saved.map((c) => c.head), ...rows.map((row) => saved.map((c) => said(c.value?.(row) ?? null)))];
};
