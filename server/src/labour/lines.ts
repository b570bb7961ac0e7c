// Orders that time may be entered for, as somebody looks for them while they type.
import { and, desc, eq, like, ne, notInArray, or, sql, type SQL } from 'drizzle-orm';
import type { Bookable } from '#api/labour.ts';
import { orderOfNumber } from '#api/shapes.ts';
import { plainSerial } from '#core/assets/index.ts';
import { asId, type OrderId, type PersonId } from '#core/ids.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { escapeLike, type Db } from '../platform/database.ts';

const SHOWN = 20;

/** What was typed is an order's number, or begins a tag or a serial; nothing typed asks for what the person goes to. */
function asked(typed: string, person: PersonId): SQL | undefined {
  if (typed === '') return and(eq(workOrder.technicianId, person), ne(workOrder.stage, 'done'));
  const number = orderOfNumber(typed);
  if (number !== null) return eq(workOrder.id, asId<OrderId>(number));
  const serial = plainSerial(typed);
  return or(
    like(asset.tag, `${escapeLike(typed)}%`),
    serial === '' ? undefined : like(asset.serialPlain, `${serial}%`),
  );
}

/** The newest orders first; those called off or settled take no more time. */
export async function findLines(
  db: Db,
  typed: string,
  person: PersonId,
): Promise<{ items: Bookable[]; more: boolean }> {
  const rows = await db
    .select({
      lineId: orderLine.id,
      orderId: orderLine.orderId,
      title: workOrder.title,
      tag: sql<string>`coalesce(${asset.tag}, '')`,
      customer: customer.name,
    })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .where(and(notInArray(workOrder.stage, ['called off', 'settled']), asked(typed, person)))
    .orderBy(desc(workOrder.id), orderLine.id)
    .limit(SHOWN + 1);
  return { items: rows.slice(0, SHOWN), more: rows.length > SHOWN };
}
