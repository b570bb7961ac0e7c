// Parts used on orders: at the prices of their day, each serial once.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { usePart } from '#api/stores.ts';
import { type changeUse } from '#api/stores.ts';
import { orderNumber } from '#api/shapes.ts';
import type { OrderId, OrderLineId, PartId, UsedPartId } from '#core/ids.ts';
import { actsOnOrderOf } from '#core/people.ts';
import { checkUse, plannedLeft } from '#core/stores/index.ts';
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

/**
 * The parts that the order's job plans foresee, as far as they were not used yet, at their prices of now; pressed twice, nothing is
 * left the second time. Parts kept by serial and those not offered any more are named instead.
 */
export const usePlannedOn = (
  write: Write,
  who: Person,
  orderId: OrderId,
  now: Instant,
): Promise<{ booked: number; left: string[] }> =>
  write(async (tx, told) => {
    // Held before anything is read: of two who press at once, the second sees what the first entered.
    await tx.db.select({ id: workOrder.id }).from(workOrder).where(eq(workOrder.id, orderId)).for('update');
    const lines = await tx.db
      .select({ id: orderLine.id, plan: orderLine.plan })
      .from(orderLine)
      .where(eq(orderLine.orderId, orderId))
      .orderBy(asc(orderLine.id));
    const [first] = lines;
    if (!first) refuse('not-found', 'That work order does not exist.');
    await orderToBookOn(tx, who, orderId, first.id);
    const used = await tx.db
      .select({ lineId: usedPart.orderLineId, partId: usedPart.partId, thousandths: usedPart.thousandths })
      .from(usedPart)
      .where(eq(usedPart.orderId, orderId));
    const wanted = lines.flatMap((line) =>
      plannedLeft(
        line.plan?.parts ?? [],
        used.filter((u) => u.lineId === line.id),
      ).map((w) => ({ ...w, lineId: line.id })),
    );
    const ids = [...new Set(wanted.map((w) => w.partId as PartId))];
    const known = new Map(
      (ids.length === 0 ? [] : await tx.db.select().from(part).where(inArray(part.id, ids))).map((p) => [
        p.id as number,
        p,
      ]),
    );
    const [rows, left]: [(typeof usedPart.$inferInsert)[], Set<string>] = [[], new Set()];
    for (const { partId, thousandths, lineId } of wanted) {
      const own = known.get(partId);
      if (!own) continue;
      if (own.serialTracked || own.retired) left.add(`${own.number} ${own.name}`);
      else
        rows.push({
          ...{ orderId, orderLineId: lineId, partId: own.id, thousandths, serial: null },
          ...{ unitPrice: own.listPrice, unitCost: own.cost, personId: who.id, at: now },
        });
    }
    if (rows.length > 0) {
      await tx.db.insert(usedPart).values(rows);
      told({
        subject: 'order',
        id: orderId,
        text: `used ${rows.length} planned ${rows.length === 1 ? 'part' : 'parts'}`,
      });
    }
    return { booked: rows.length, left: [...left] };
  });

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
