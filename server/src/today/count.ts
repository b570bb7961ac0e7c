// Today’s number: orders with a promise that ends within a day.
import { and, eq, lte, sql } from 'drizzle-orm';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import { clock } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';

export async function countToday(db: Db, { now }: { readonly now: Instant }): Promise<number> {
  const [late] = await db
    .select({ n: sql<number>`count(distinct ${clock.orderId})` })
    .from(clock)
    .where(and(eq(clock.state, 'running'), lte(clock.dueAt, instant(now + DAY))));
  return Number(late?.n ?? 0);
}
