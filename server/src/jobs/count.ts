// Jobs' number: those laid aside, waiting for somebody to look.
import { count, eq } from 'drizzle-orm';
import type { Db } from '../platform/database.ts';
import { job } from '../platform/tables.ts';

export async function countDead(db: Db): Promise<number> {
  const [dead] = await db.select({ n: count() }).from(job).where(eq(job.state, 'dead'));
  return dead?.n ?? 0;
}
