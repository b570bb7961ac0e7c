// Counting what waits: past some number it says nothing more to whoever looks, and costs as much as all of it.
import { count, sql, type SQL } from 'drizzle-orm';
import type { MySqlTable } from 'drizzle-orm/mysql-core';
import type { Db } from './database.ts';

/** How many rows of a table there are of a kind; no more than `most` are counted. */
export async function countUpTo(db: Db, table: MySqlTable, where: SQL | undefined, most: number): Promise<number> {
  const some = db
    .select({ one: sql<number>`1`.as('one') })
    .from(table)
    .where(where)
    .limit(most)
    .as('some');
  const [row] = await db.select({ n: count() }).from(some);
  return row?.n ?? 0;
}
