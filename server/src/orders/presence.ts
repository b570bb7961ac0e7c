// Who else has an order open: people see each other there before they change the same.
import { and, asc, eq, gt, lt, ne } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import { instant, MINUTE, type Instant } from '#core/time/index.ts';
import type { Database } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { orderPresence } from './desk-tables.ts';
import { workOrder } from './tables.ts';

/** Pages say it every half minute: whoever missed three turns is gone. */
const HERE_MS = 1.5 * MINUTE;

export function hereAt(database: Database, who: Person, id: OrderId, now: Instant) {
  return database.transact(async ({ db }) => {
    const [order] = await db.select({ id: workOrder.id }).from(workOrder).where(eq(workOrder.id, id));
    if (!order) refuse('not-found', 'That work order does not exist.');
    await db
      .insert(orderPresence)
      .values({ orderId: id, personId: who.id, seenAt: now })
      .onDuplicateKeyUpdate({ set: { seenAt: now } });
    const since = instant(now - HERE_MS);
    await db.delete(orderPresence).where(and(eq(orderPresence.orderId, id), lt(orderPresence.seenAt, since)));
    const others = await db
      .select({ id: person.id, name: person.name })
      .from(orderPresence)
      .innerJoin(person, eq(person.id, orderPresence.personId))
      .where(and(eq(orderPresence.orderId, id), ne(orderPresence.personId, who.id), gt(orderPresence.seenAt, since)))
      .orderBy(asc(person.name))
      .limit(20);
    return { others };
  });
}
