// Time that somebody has running on an order: it is stopped before the order is done.
import { asc, eq } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import type { Missing } from '#core/orders/index.ts';
import { runningTime } from '../labour/tables.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';

export async function stillRunning(db: Db, id: OrderId): Promise<Missing[]> {
  const rows = await db
    .select({ lineId: runningTime.orderLineId, name: person.name })
    .from(runningTime)
    .innerJoin(person, eq(person.id, runningTime.personId))
    .where(eq(runningTime.orderId, id))
    .orderBy(asc(person.name));
  return rows.map(({ lineId, name }) => ({ what: 'running time', lineId, id: null, text: name }));
}
