// Pages of a list in any order: the next page begins behind the last row's value and id, so that rows which come and go shift nothing.
import { asc, desc, sql, type SQL, type SQLWrapper } from 'drizzle-orm';
import * as v from 'valibot';
import { refuse } from './refuse.ts';

const mark = v.tuple([v.nullable(v.union([v.string(), v.number()])), v.number()]);

export type Keyset = {
  /** Rows behind the mark; undefined on the first page. */
  readonly behind: SQL | undefined;
  readonly order: SQL[];
  /** The mark of a row, given what it was sorted by and its id. */
  readonly markOf: (value: string | number | null, id: number) => string;
};

type Asked = {
  readonly down: boolean;
  readonly after: string | undefined;
  /** False where every row has a value: then an index alone can give the order. */
  readonly hasEmpty: boolean;
};

/**
 * `by` is what is sorted by, `id` breaks ties, both the same way. Rows without a value stand last both ways. Refused: a mark that is
 * not one of ours.
 */
export function keyset(by: SQLWrapper, id: SQLWrapper, { down, after, hasEmpty }: Asked): Keyset {
  const isNothing = sql`(${by} is null)`;
  const way = down ? desc : asc;
  return {
    behind: after === undefined ? undefined : behindMark(by, id, { down, hasEmpty }, readMark(after)),
    order: [...(hasEmpty ? [asc(isNothing)] : []), way(by), way(id)],
    markOf: (value, rowId) => Buffer.from(JSON.stringify([value, rowId])).toString('base64url'),
  };
}

function readMark(after: string): v.InferOutput<typeof mark> {
  try {
    return v.parse(mark, JSON.parse(Buffer.from(after, 'base64url').toString()));
  } catch {
    return refuse('invalid', 'Ask for the next page with the `next` of the page before.', 'after');
  }
}

function behindMark(
  by: SQLWrapper,
  id: SQLWrapper,
  { down, hasEmpty }: Omit<Asked, 'after'>,
  [value, last]: v.InferOutput<typeof mark>,
): SQL {
  const further = (of: SQLWrapper, than: string | number): SQL => (down ? sql`${of} < ${than}` : sql`${of} > ${than}`);
  if (value === null) return sql`(${by} is null and ${further(id, last)})`;
  const behind = sql`${further(by, value)} or (${by} = ${value} and ${further(id, last)})`;
  return hasEmpty ? sql`(${behind} or ${by} is null)` : sql`(${behind})`;
}
