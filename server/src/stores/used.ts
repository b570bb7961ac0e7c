// Parts used on orders: at the prices of their day, each serial once.
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { usePart } from '#api/stores.ts';
import { type changeUse } from '#api/stores.ts';
import { orderNumber } from '#api/shapes.ts';
import type { OrderId, OrderLineId, PartId, StoreId, UsedPartId } from '#core/ids.ts';
import { availableIn, checkUse, plannedLeft, sayQuantity, takePlanned } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { mustActOn, wasSentTo } from '../orders/index.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, isTaken, prepared, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { ordersCharged } from '../platform/order-life.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import { unlessTaken, type Write } from '../platform/writing.ts';
import { thenCover } from './covering.ts';
import { needOfLine, unusedOfLine, usedOfLine } from './needs.ts';
import { part, stock, store, usedPart } from './tables.ts';
import { giveBack, take, type Use } from './taking.ts';

const orderHeld = prepared((db) =>
  db
    .select({
      ...{ stage: workOrder.stage, technicianId: workOrder.technicianId, technician: workOrder.technician },
      lineId: orderLine.id,
    })
    .from(workOrder)
    .leftJoin(orderLine, and(eq(orderLine.orderId, workOrder.id), eq(orderLine.id, sql.placeholder('lineId'))))
    .where(eq(workOrder.id, sql.placeholder('id')))
    .for('update')
    .prepare(),
);

/**
 * The order, held until the end. Refused: one that takes nothing more, a line of another, and for technicians somebody else's. What
 * somebody used or needed on site is kept where the order was called off meanwhile, or given to another.
 */
export async function orderToBookOn(tx: Tx, who: Person, id: OrderId, lineId: OrderLineId): Promise<void> {
  const [order] = await orderHeld(tx.db).execute({ id, lineId });
  if (!order) refuse('not-found', 'That work order does not exist.');
  if (!who.onSite || !(await wasSentTo(tx, who, id))) await mustActOn(tx, who, { id, ...order });
  if ((order.stage === 'called off' && !who.onSite) || order.stage === 'settled')
    refuse('wrong-stage', `${orderNumber(id)} is ${order.stage}: nothing more is booked on it.`);
  if (order.lineId === null) refuse('not-found', 'That machine is not on this order.', 'lineId');
  if (order.stage === 'done') await ordersCharged(tx, [id]);
}

const unlessUsed = <T>(work: () => Promise<T>): Promise<T> =>
  unlessTaken('A part with this serial was used already; look at the number again.', 'serial', work);

const partWhole = prepared((db) =>
  db
    .select()
    .from(part)
    .where(eq(part.id, sql.placeholder('id')))
    .prepare(),
);

async function partOf(tx: Tx, id: PartId) {
  const [row] = await partWhole(tx.db).execute({ id });
  return row ?? refuse('not-found', 'That part does not exist; choose another.', 'partId');
}

type UseBody = Asked<typeof usePart>['body'];

const useOf = (row: typeof usedPart.$inferSelect): Use => ({
  ...{ id: row.id, orderId: row.orderId, lineId: row.orderLineId, partId: row.partId },
  ...{ thousandths: row.thousandths, serial: row.serial, storeId: row.storeId, unitCost: row.unitCost },
});

const USE_COLUMNS = [
  ...['order_id', 'order_line_id', 'part_id', 'thousandths', 'store_id', 'serial', 'unit_price', 'unit_cost'],
  ...['person_id', 'at', 'request_key', 'request_content'],
];

/** Writes a use and takes its part out of the store it comes from; `met`: a need of the line is met by it. */
export async function insertUse(
  tx: Tx,
  who: Person,
  use: Omit<Use, 'id' | 'unitCost'>,
  known: typeof part.$inferSelect,
  now: Instant,
  sent: { readonly requestKey: string; readonly requestContent: string } | null = null,
): Promise<{ id: UsedPartId; met: boolean }> {
  const [first] = await bulkInsert(tx.connection, 'used_part', USE_COLUMNS, [
    [
      ...[use.orderId, use.lineId, use.partId, use.thousandths, use.storeId, use.serial, known.listPrice, known.cost],
      ...[who.id, instantText(now), sent?.requestKey ?? null, sent?.requestContent ?? null],
    ],
  ]);
  const id = first as UsedPartId;
  return { id, met: await take(tx, who, { id, ...use, unitCost: known.cost }, known, now) };
}

/** The van of who goes, or of who asks where nobody does: what is free there of some parts, and which of them lie in any store. */
async function vanOf(tx: Tx, who: Person, orderId: OrderId, ids: readonly PartId[]) {
  const [order] = await tx.db
    .select({ technicianId: workOrder.technicianId })
    .from(workOrder)
    .where(eq(workOrder.id, orderId));
  const [van] = await tx.db
    .select({ id: store.id })
    .from(store)
    .where(eq(store.personId, order?.technicianId ?? who.id));
  const rows =
    ids.length === 0
      ? []
      : await tx.db
          .select()
          .from(stock)
          .where(inArray(stock.partId, [...ids]));
  const free = new Map(rows.filter((r) => r.storeId === van?.id).map((r) => [r.partId, availableIn(r)]));
  const kept = new Set(rows.map((r) => r.partId));
  return {
    of: (id: PartId) => (van ? { storeId: van.id, free: Math.max(0, free.get(id) ?? 0) } : null),
    isKept: (id: PartId) => kept.has(id),
    took: (id: PartId, storeId: StoreId, thousandths: number): void => {
      if (storeId === van?.id) free.set(id, (free.get(id) ?? 0) - thousandths);
    },
  };
}

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
  const { lineId, partId, thousandths, storeId } = body;
  const serial = body.serial || null;
  try {
    return await thenCover(database, now, (follow) =>
      write(async (tx, told) => {
        await orderToBookOn(tx, who, orderId, lineId);
        const known = await partOf(tx, partId);
        if (known.retired) refuse('conflict', `${known.number} is not offered any more; choose another.`, 'partId');
        const found = checkUse(known, body);
        if (found.length > 0) throw new Refused(found);
        const use = { orderId, lineId, partId, thousandths, serial, storeId };
        const { id, met } = await insertUse(tx, who, use, known, now, { requestKey, requestContent });
        if (met) await follow(tx, { marks: [orderId] });
        told({ subject: 'order', id: orderId, text: `used ${known.number} ${known.name}` });
        return { id };
      }),
    );
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
export async function usePlannedOn(
  database: Database,
  write: Write,
  who: Person,
  orderId: OrderId,
  now: Instant,
): Promise<{ booked: number; left: string[] }> {
  return thenCover(database, now, (follow) =>
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
      const left = new Set<string>();
      const van = await vanOf(tx, who, orderId, ids);
      let booked = 0;
      for (const { partId, thousandths, lineId } of wanted) {
        const own = known.get(partId);
        if (!own) continue;
        const called = `${own.number} ${own.name}`;
        if (own.serialTracked || own.retired) {
          left.add(called);
          continue;
        }
        const holds = (await needOfLine(tx, lineId, own.id))?.holds ?? [];
        const { taken, short } = takePlanned(thousandths, holds, van.of(own.id), van.isKept(own.id));
        for (const { storeId, thousandths: some } of taken) {
          await insertUse(
            tx,
            who,
            { orderId, lineId, partId: own.id, thousandths: some, serial: null, storeId },
            own,
            now,
          );
          if (storeId !== null) van.took(own.id, storeId, some);
        }
        if (short < thousandths) booked += 1;
        if (short > 0) left.add(`${called}: ${sayQuantity(short)} neither held for it nor in the van`);
      }
      if (booked > 0) {
        await follow(tx, { orders: [orderId] });
        told({ subject: 'order', id: orderId, text: `used ${booked} planned ${booked === 1 ? 'part' : 'parts'}` });
      }
      return { booked, left: [...left] };
    }),
  );
}

async function usedUnderLock(tx: Tx, who: Person, id: UsedPartId, lineId: OrderLineId | null) {
  const [own] = await tx.db.select().from(usedPart).where(eq(usedPart.id, id)).for('update');
  if (!own) refuse('not-found', 'That was taken back already.');
  await orderToBookOn(tx, who, own.orderId, lineId ?? own.orderLineId);
  return own;
}

/** What is used of another store, number or quantity goes back and out anew; for another machine only its needs change. */
export async function changeUseOf(
  database: Database,
  write: Write,
  who: Person,
  id: UsedPartId,
  { version, ...body }: Asked<typeof changeUse>['body'],
  now: Instant,
): Promise<void> {
  await unlessUsed(() =>
    thenCover(database, now, (follow) =>
      write(async (tx, told) => {
        const own = await usedUnderLock(tx, who, id, body.lineId);
        if (own.version !== version) stale({ id: own.id, version: own.version });
        const known = await partOf(tx, own.partId);
        const found = checkUse(known, body);
        if (found.length > 0) throw new Refused(found);
        const before = useOf(own);
        const after: Use = { ...before, ...body, serial: body.serial || null };
        const isMoved =
          before.thousandths !== after.thousandths ||
          before.serial !== after.serial ||
          before.storeId !== after.storeId;
        await tx.db
          .update(usedPart)
          .set({
            ...{ orderLineId: after.lineId, thousandths: after.thousandths, serial: after.serial },
            ...{ storeId: after.storeId, version: version + 1 },
            ...(after.storeId === null && before.storeId !== null && { unitCost: known.cost }),
          })
          .where(eq(usedPart.id, id));
        if (isMoved) {
          await giveBack(tx, who, before, now);
          await take(tx, who, after, known, now);
        } else if (before.lineId !== after.lineId) {
          await unusedOfLine(tx, before.lineId, before.partId, before.thousandths);
          await usedOfLine(tx, after.lineId, after.partId, null, after.thousandths);
        }
        await follow(tx, { orders: [own.orderId], parts: [own.partId] });
        told({ subject: 'order', id: own.orderId, text: `changed the use of ${known.number}` });
      }),
    ),
  );
}

export async function removeUseOf(
  database: Database,
  write: Write,
  who: Person,
  id: UsedPartId,
  now: Instant,
): Promise<void> {
  await thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const own = await usedUnderLock(tx, who, id, null);
      const known = await partOf(tx, own.partId);
      await giveBack(tx, who, useOf(own), now);
      await tx.db.delete(usedPart).where(eq(usedPart.id, id));
      await follow(tx, { orders: [own.orderId], parts: [own.partId] });
      told({ subject: 'order', id: own.orderId, text: `took back the use of ${known.number} ${known.name}` });
    }),
  );
}

/** What was used on an order, with the part and who said so. */
export const usedOn = (db: Db, ids: readonly OrderId[]) =>
  db
    .select({ used: usedPart, part, who: person.name, storeName: store.name })
    .from(usedPart)
    .innerJoin(part, eq(part.id, usedPart.partId))
    .leftJoin(person, eq(person.id, usedPart.personId))
    .leftJoin(store, eq(store.id, usedPart.storeId))
    .where(inArray(usedPart.orderId, [...ids]))
    .orderBy(asc(usedPart.id));
