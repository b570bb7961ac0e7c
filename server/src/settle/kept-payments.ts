// What was paid, or said about paying, on site.
import { asc, eq } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { orderPayment } from './tables.ts';

export const paymentsOf = (db: Db, id: OrderId) =>
  db
    .select({ payment: orderPayment, who: person.name })
    .from(orderPayment)
    .innerJoin(person, eq(person.id, orderPayment.personId))
    .where(eq(orderPayment.orderId, id))
    .orderBy(asc(orderPayment.id));
