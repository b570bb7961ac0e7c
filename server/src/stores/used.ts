// Parts used on orders: at the prices of their day, each serial once.
import { and, asc, eq } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { usePart } from '#api/stores.ts';
import { type changeUse } from '#api/stores.ts';
import { orderNumber } from '#api/shapes.ts';
import type { OrderId, OrderLineId, PartId, UsedPartId } from '#core/ids.ts';
import { actsOnOrderOf } from '#core/people.ts';
import { checkUse } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { isTaken, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import { unlessTaken, type Write } from '../platform/writing.ts';
import { part, usedPart } from './tables.ts';

/** The order, held until the end. Refused: one that takes nothing more, a line of another, and for technicians somebody else's. */
export async function orderToBookOn(tx: Tx, who: Person, id: OrderId, lineId: OrderLineId): Promise<void> {
  const [order] = await tx.db.select().from(workOrder).where(eq(workOrder.id, id)).for('update');
  if (!order) refuse('not-found', 'That work order does not exist.');
  if (!actsOnOrderOf(who, order))
    refuse('not-allowed', `This order is ${order.technician}’s; you may read it. Ask a dispatcher to plan it for you.`);
  if (order.stage === 'called off' || order.stage === 'settled')
    refuse('wrong-stage', `${orderNumber(id)} is ${order.stage}: nothing more is booked on it.`);
  const [line] = await tx.db
    .select({ id: orderLine.id })
    .from(orderLine)
    .where(and(eq(orderLine.id, lineId), eq(orderLine.orderId, id)));
  if (!line) refuse('not-found', 'That machine is not on this order.', 'lineId');
}

const unlessUsed = <T>(work: () => Promise<T>): Promise<T> =>
  unlessTaken('A part with this serial was used already; look at the number again.', 'serial', work);

async function partOf(tx: Tx, id: PartId) {
  const [row] = await tx.db.select().from(part).where(eq(part.id, id));
  return row ?? refuse('not-found', 'That part does not exist; choose another.', 'partId');
}

type UseBody = Asked<typeof usePart>['body'];

/** A repeated request key gives the first use again. */
export async function useOn(
  database: Database,
  write: Write,
  who: Person,
  orderId: OrderId,
  { requestKey, ...body }: UseBody,
  now: Instant,
): Promise<{ id: UsedPartId }> {
  const requestContent = contentOf({ orderId, ...body });
  try {
    return await write(async (tx, told) => {
      await orderToBookOn(tx, who, orderId, body.lineId);
      const known = await partOf(tx, body.partId);
      if (known.retired) refuse('conflict', `${known.number} is not offered any more; choose another.`, 'partId');
      const found = checkUse(known, body);
      if (found.length > 0) throw new Refused(found);
      const [made] = await tx.db
        .insert(usedPart)
        .values({
          ...{ orderId, orderLineId: body.lineId, partId: known.id, thousandths: body.thousandths },
          ...{ serial: body.serial || null, unitPrice: known.listPrice, unitCost: known.cost },
          ...{ personId: who.id, at: now, requestKey, requestContent },
        })
        .$returningId();
      told({ subject: 'order', id: orderId, text: `used ${known.number} ${known.name}` });
      return { id: made?.id as UsedPartId };
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    const [sent] = await database.db
      .select({ id: usedPart.id, content: usedPart.requestContent })
      .from(usedPart)
      .where(eq(usedPart.requestKey, requestKey));
    if (!sent) return refuse('taken', 'A part with this serial was used already; look at the number again.', 'serial');
    mustBeSame(sent.content, requestContent);
    return { id: sent.id };
  }
}

async function usedUnderLock(tx: Tx, who: Person, id: UsedPartId, lineId: OrderLineId | null) {
  const [own] = await tx.db.select().from(usedPart).where(eq(usedPart.id, id)).for('update');
  if (!own) refuse('not-found', 'That was taken back already.');
  await orderToBookOn(tx, who, own.orderId, lineId ?? own.orderLineId);
  return own;
}

export const changeUseOf = (
  write: Write,
  who: Person,
  id: UsedPartId,
  { version, ...body }: Asked<typeof changeUse>['body'],
): Promise<void> =>
  unlessUsed(() =>
    write(async (tx, told) => {
      const own = await usedUnderLock(tx, who, id, body.lineId);
      if (own.version !== version) stale({ id: own.id, version: own.version });
      const known = await partOf(tx, own.partId);
      const found = checkUse(known, body);
      if (found.length > 0) throw new Refused(found);
      await tx.db
        .update(usedPart)
        .set({
          ...{ orderLineId: body.lineId, thousandths: body.thousandths, serial: body.serial || null },
          version: version + 1,
        })
        .where(eq(usedPart.id, id));
      told({ subject: 'order', id: own.orderId, text: `changed the use of ${known.number}` });
    }),
  );

export const removeUseOf = (write: Write, who: Person, id: UsedPartId): Promise<void> =>
  write(async (tx, told) => {
    const own = await usedUnderLock(tx, who, id, null);
    const known = await partOf(tx, own.partId);
    await tx.db.delete(usedPart).where(eq(usedPart.id, id));
    told({ subject: 'order', id: own.orderId, text: `took back the use of ${known.number} ${known.name}` });
  });

/** What was used on an order, with the part and who said so. */
export const usedOn = (db: Db, id: OrderId) =>
  db
    .select({ used: usedPart, part, who: person.name })
    .from(usedPart)
    .innerJoin(part, eq(part.id, usedPart.partId))
    .leftJoin(person, eq(person.id, usedPart.personId))
    .where(eq(usedPart.orderId, id))
    .orderBy(asc(usedPart.id));
