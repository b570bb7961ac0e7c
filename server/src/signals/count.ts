// Signals’ number: alerts that go on, and were told.
import { count } from 'drizzle-orm';
import type { Db } from '../platform/database.ts';
import { isToldOf } from './going-on.ts';
import { alert } from './tables.ts';

export async function countSignals(db: Db): Promise<number> {
  const [active] = await db.select({ n: count() }).from(alert).where(isToldOf);
  return active?.n ?? 0;
}
