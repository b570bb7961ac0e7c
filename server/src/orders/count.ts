// Orders’ number: those not finished.
import { count, notInArray } from 'drizzle-orm';
import { FINISHED_STAGES } from '#core/orders/index.ts';
import type { Db } from '../platform/database.ts';
import { workOrder } from './tables.ts';

export async function countOrders(db: Db): Promise<number> {
  const [open] = await db
    .select({ n: count() })
    .from(workOrder)
    .where(notInArray(workOrder.stage, [...FINISHED_STAGES]));
  return open?.n ?? 0;
}
