// What every import prepares: how much it would create and change, and the steps that write it.
import type { TableRemark, TableRow } from '#core/imports/index.ts';
import type { Tx } from '../platform/database.ts';
import type { Origin } from './assets.ts';

/** A plan ready to be carried out in steps; each step is one transaction. */
export type Prepared = {
  readonly created: Readonly<Record<string, number>>;
  readonly updated: number;
  readonly unchanged: number;
  readonly bad: readonly TableRemark[];
  readonly notes: readonly TableRemark[];
  readonly steps: readonly { readonly rows: number; readonly write: (tx: Tx, origin: Origin) => Promise<void> }[];
};

const STEP = 2500;
/** Up to this many rows all is written in one transaction: all of them or none. */
export const ONE_STEP = 5000;

export function inSteps<T>(rows: readonly T[]): T[][] {
  if (rows.length <= ONE_STEP) return rows.length === 0 ? [] : [[...rows]];
  return Array.from({ length: Math.ceil(rows.length / STEP) }, (_, i) => rows.slice(i * STEP, (i + 1) * STEP));
}

/** The distinct words of a column. */
export const wordsIn = (rows: readonly TableRow[], column: string): string[] => [
  ...new Set(rows.map((r) => r.cells[column] ?? '').filter((s) => s !== '')),
];
