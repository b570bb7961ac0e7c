// Purchase orders as they are changed: lines, approval, calling off, closing short; one transaction each.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import { purchaseNumber } from '#api/purchases.ts';
import type * as contracts from '#api/purchases.ts';
import type { PartId, PurchaseId, PurchaseLineId } from '#core/ids.ts';
import { priceOf, sayQuantity, stageAfter, toCome, type PurchaseStage } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import type { Told, Write } from '../platform/writing.ts';
import { purchase, purchaseFor, purchaseLine } from './purchase-tables.ts';
import { part } from './tables.ts';

export type PurchaseOrder = typeof purchase.$inferSelect;
export type PurchaseLineRow = typeof purchaseLine.$inferSelect;

/** What was approved is approved again once it is another: its version grows with it. */
export async function changed(tx: Tx, id: PurchaseId): Promise<void> {
  const [row] = await tx.db.select().from(purchase).where(eq(purchase.id, id)).for('update');
  await tx.db
    .update(purchase)
    .set({ version: (row?.version ?? 0) + 1, ...(row?.stage === 'draft' && { approvedBy: null, approvedAt: null }) })
    .where(eq(purchase.id, id));
}

/** A purchase order with its lines, held until the end. */
export async function purchaseUnderLock(
  tx: Tx,
  id: PurchaseId,
): Promise<{ readonly order: PurchaseOrder; readonly lines: readonly PurchaseLineRow[] }> {
  const [order] = await tx.db.select().from(purchase).where(eq(purchase.id, id)).for('update');
  if (!order) refuse('not-found', 'That purchase order does not exist.');
  const lines = await tx.db
    .select()
    .from(purchaseLine)
    .where(eq(purchaseLine.purchaseId, id))
    .orderBy(asc(purchaseLine.id))
    .for('update');
  return { order, lines };
}

export const mustBeIn = (order: PurchaseOrder, stages: readonly PurchaseStage[], right: string): void => {
  if (!stages.includes(order.stage)) refuse('wrong-stage', `${purchaseNumber(order.id)} is ${order.stage}: ${right}`);
};

/** The order after its lines are otherwise: closed once nothing more comes. */
export async function settleStage(tx: Tx, order: PurchaseOrder, lines: readonly PurchaseLineRow[]): Promise<void> {
  await tx.db
    .update(purchase)
    .set({ stage: stageAfter(order.stage, lines), version: order.version + 1 })
    .where(eq(purchase.id, order.id));
}

const nobody = (tx: Tx, lineIds: readonly PurchaseLineId[]) =>
  lineIds.length === 0 ? undefined : tx.db.delete(purchaseFor).where(inArray(purchaseFor.lineId, [...lineIds]));

export const setLineOf = (
  write: Write,
  { id, part: partId }: { readonly id: PurchaseId; readonly part: PartId },
  { thousandths, unitPrice, promisedOn, version }: BodyOf<typeof contracts.setPurchaseLine>,
): Promise<void> =>
  write(async (tx, told) => {
    const { order, lines } = await purchaseUnderLock(tx, id);
    mustBeIn(order, ['draft', 'sent'], 'its lines stay as they are.');
    const there = lines.find((l) => l.partId === partId);
    if ((there?.version ?? 0) !== version) stale({ id: partId, version: there?.version ?? 0 });
    if (order.stage === 'sent' && there?.thousandths !== thousandths)
      refuse('wrong-stage', 'It was sent: close the rest short, or make another order.', 'thousandths');
    const [known] = await tx.db.select().from(part).where(eq(part.id, partId));
    if (!known) refuse('not-found', 'That part does not exist; choose another.', 'partId');
    if (thousandths === 0) {
      if (!there) refuse('invalid', 'More than 0.', 'thousandths');
      await nobody(tx, [there.id]);
      await tx.db.delete(purchaseLine).where(eq(purchaseLine.id, there.id));
    } else if (there) {
      await tx.db
        .update(purchaseLine)
        .set({
          ...{ thousandths, unitPrice, promisedOn, version: version + 1 },
          toCome: toCome({ ...there, thousandths }),
        })
        .where(eq(purchaseLine.id, there.id));
      await boughtUpTo(tx, there.id, thousandths - there.received);
    } else
      await tx.db
        .insert(purchaseLine)
        .values({ purchaseId: id, partId, thousandths, toCome: thousandths, unitPrice, promisedOn });
    await changed(tx, id);
    told({ subject: 'purchase', id, text: `${sayQuantity(thousandths)} ${known.number} on ${purchaseNumber(id)}` });
  });

/** Of a line that is less now, those it was bought for last get less. */
async function boughtUpTo(tx: Tx, lineId: PurchaseLineId, most: number): Promise<void> {
  const all = await tx.db
    .select()
    .from(purchaseFor)
    .where(eq(purchaseFor.lineId, lineId))
    .orderBy(asc(purchaseFor.needId))
    .for('update');
  let left = most;
  for (const { needId, thousandths } of all) {
    const stays = Math.max(0, Math.min(left, thousandths));
    left -= stays;
    const which = and(eq(purchaseFor.lineId, lineId), eq(purchaseFor.needId, needId));
    if (stays === 0) await tx.db.delete(purchaseFor).where(which);
    else if (stays < thousandths) await tx.db.update(purchaseFor).set({ thousandths: stays }).where(which);
  }
}

/** An act on a purchase order as it was seen. */
const actOn =
  (work: (tx: Tx, order: PurchaseOrder, lines: readonly PurchaseLineRow[], told: Told) => Promise<void>) =>
  (write: Write, id: PurchaseId, version: number): Promise<void> =>
    write(async (tx, told) => {
      const { order, lines } = await purchaseUnderLock(tx, id);
      if (order.version !== version) stale({ id, version: order.version });
      await work(tx, order, lines, told);
    });

export const approve = (write: Write, who: Person, id: PurchaseId, version: number, now: Instant): Promise<void> =>
  actOn(async (tx, order, lines, told) => {
    mustBeIn(order, ['draft'], 'there is nothing to approve.');
    if (lines.length === 0) refuse('missing', 'There is nothing on it to approve.');
    await tx.db
      .update(purchase)
      .set({ approvedBy: who.id, approvedAt: now, version: order.version + 1 })
      .where(eq(purchase.id, id));
    told({ subject: 'purchase', id, text: `approved ${purchaseNumber(id)}` });
  })(write, id, version);

export const callOff = (
  write: Write,
  id: PurchaseId,
  { version, reason }: BodyOf<typeof contracts.callOffPurchase>,
): Promise<void> =>
  actOn(async (tx, order, lines, told) => {
    mustBeIn(order, ['draft', 'sent'], 'it is over already.');
    if (lines.some((l) => l.received > 0))
      refuse('conflict', 'Some of it came: close the rest of its lines short instead.');
    await nobody(
      tx,
      lines.map((l) => l.id),
    );
    await tx.db.update(purchaseLine).set({ toCome: 0 }).where(eq(purchaseLine.purchaseId, id));
    await tx.db
      .update(purchase)
      .set({ stage: 'called off', note: reason, version: order.version + 1 })
      .where(eq(purchase.id, id));
    told({ subject: 'purchase', id, text: `called ${purchaseNumber(id)} off: ${reason}` });
  })(write, id, version);

const lineOf = (lines: readonly PurchaseLineRow[], partId: PartId, version: number): PurchaseLineRow => {
  const line = lines.find((l) => l.partId === partId);
  if (!line) refuse('not-found', 'That part is not on it.');
  if (line.version !== version) stale({ id: line.id, version: line.version });
  return line;
};

export const closeShortOf = (
  write: Write,
  { id, part: partId }: { readonly id: PurchaseId; readonly part: PartId },
  { version, reason }: BodyOf<typeof contracts.closeShort>,
): Promise<void> =>
  write(async (tx, told) => {
    const { order, lines } = await purchaseUnderLock(tx, id);
    mustBeIn(order, ['sent'], 'nothing is to come of it.');
    const line = lineOf(lines, partId, version);
    if (toCome(line) === 0) refuse('conflict', 'Nothing more is to come of it.');
    const closed = { short: reason, toCome: 0, version: version + 1 };
    await tx.db.update(purchaseLine).set(closed).where(eq(purchaseLine.id, line.id));
    await nobody(tx, [line.id]);
    await settleStage(
      tx,
      order,
      lines.map((l) => (l.id === line.id ? { ...l, ...closed } : l)),
    );
    told({ subject: 'purchase', id, text: `${sayQuantity(toCome(line))} do not come any more: ${reason}` });
  });

export const setInvoicedOf = (
  write: Write,
  { id, part: partId }: { readonly id: PurchaseId; readonly part: PartId },
  { version, unitPrice }: BodyOf<typeof contracts.setInvoiced>,
): Promise<void> =>
  write(async (tx, told) => {
    const { lines } = await purchaseUnderLock(tx, id);
    const line = lineOf(lines, partId, version);
    if (line.received === 0) refuse('conflict', 'Nothing of it came yet: change its price instead.', 'unitPrice');
    const variance = priceOf(line.received, unitPrice) - priceOf(line.received, line.unitPrice ?? 0);
    await tx.db
      .update(purchaseLine)
      .set({ variance, version: version + 1 })
      .where(eq(purchaseLine.id, line.id));
    told({ subject: 'purchase', id, text: `invoiced at another price: ${variance} to variance` });
  });
