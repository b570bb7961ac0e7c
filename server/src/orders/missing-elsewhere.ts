// What is missing for the end of an order that other rooms know of: time that runs on it, a sign-off that its agreement asks for.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { OrderId } from '#core/ids.ts';
import { heldOf, signOffMissing, type Missing } from '#core/orders/index.ts';
import { agreement } from '../agreements/tables.ts';
import { runningTime } from '../labour/tables.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import type { LoadedOrder } from './loading.ts';

async function stillRunning(db: Db, id: OrderId): Promise<Missing[]> {
  const rows = await db
    .select({ lineId: runningTime.orderLineId, name: person.name })
    .from(runningTime)
    .innerJoin(person, eq(person.id, runningTime.personId))
    .where(eq(runningTime.orderId, id))
    .orderBy(asc(person.name));
  return rows.map(({ lineId, name }) => ({ what: 'running time', lineId, id: null, text: name }));
}

/** Whether an agreement that the work is done under wants the customer's sign-off. */
async function asksSignOff(db: Db, { order, lines }: Pick<LoadedOrder, 'order' | 'lines'>): Promise<boolean> {
  const under = [order.agreementId, ...lines.map((l) => l.verdict?.verdict.agreementId ?? null)];
  const ids = [...new Set(under.filter((id) => id !== null))];
  if (ids.length === 0) return false;
  const [asks] = await db
    .select({ id: agreement.id })
    .from(agreement)
    .where(and(inArray(agreement.id, ids), eq(agreement.signOff, true)))
    .limit(1);
  return asks !== undefined;
}

export async function missingElsewhere(db: Db, loaded: LoadedOrder): Promise<Missing[]> {
  const [running, asks] = await Promise.all([stillRunning(db, loaded.order.id), asksSignOff(db, loaded)]);
  return [...(asks ? signOffMissing(heldOf(loaded.events)) : []), ...running];
}
