// Signals’ number: alerts that go on.
import { count, isNull } from 'drizzle-orm';
import type { Db } from '../platform/database.ts';
import { alert } from './tables.ts';

export async function countSignals(db: Db): Promise<number> {
  const [active] = await db.select({ n: count() }).from(alert).where(isNull(alert.endedAt));
  return active?.n ?? 0;
}
