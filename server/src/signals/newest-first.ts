// Lists by time, the newest first: where the next page begins.
import { and, eq, lt, or, type SQL } from 'drizzle-orm';
import type { MySqlColumn } from 'drizzle-orm/mysql-core';
import { instant, type Instant } from '#core/time/index.ts';

type Row = { readonly id: number; readonly at: Instant };

/** What lies behind the mark of a page before; all, where there is none. */
export function behind(mark: string | undefined, at: MySqlColumn, id: MySqlColumn): SQL | undefined {
  const [time, last] = (mark ?? '').split('-').map(Number);
  if (!time || !last) return undefined;
  return or(lt(at, instant(time)), and(eq(at, instant(time)), lt(id, last)));
}

/** A page of rows of which one more was asked for than it holds, with the mark of the next. */
export function pageOf<R>(
  rows: readonly R[],
  limit: number,
  keyOf: (row: R) => Row,
): { items: R[]; next: string | null } {
  const items = rows.slice(0, limit);
  const last = items.at(-1);
  if (rows.length <= limit || last === undefined) return { items, next: null };
  const { at, id } = keyOf(last);
  return { items, next: `${at}-${id}` };
}
