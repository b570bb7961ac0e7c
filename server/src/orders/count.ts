// Orders’ number: those not finished.
import { count, inArray } from 'drizzle-orm';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { Db } from '../platform/database.ts';
import { workOrder } from './tables.ts';

export async function countOrders(db: Db): Promise<number> {
  const [open] = await db
    .select({ n: count() })
    .from(workOrder)
    .where(inArray(workOrder.stage, [...OPEN_STAGES]));
  return open?.n ?? 0;
}
