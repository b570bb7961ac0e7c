// Other costs of an order: tolls, hire, postage, with their receipts; the customer's unless the office decides that we bear them.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { addCost } from '#api/settle.ts';
import type { OrderId, OtherCostId } from '#core/ids.ts';
import { seesMoney } from '#core/people.ts';
import type { Instant } from '#core/time/index.ts';
import { attachment } from '../assets/tables.ts';
import { isTaken, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { orderToBookOn } from '../stores/index.ts';
import { otherCost, tax } from './tables.ts';

type CostBody = Omit<Asked<typeof addCost>['body'], 'requestKey'>;

/** Refused: a tax or a receipt that is none of the order's, and who may not decide that we bear it. */
async function columnsOf(tx: Tx, who: Person, orderId: OrderId, body: CostBody, held: string | null) {
  const { lineId: orderLineId, taxId, receiptId, ...rest } = body;
  const oursBecause = body.oursBecause?.trim() || null;
  if (oursBecause !== held && !seesMoney(who.role))
    refuse('not-allowed', 'Who bears it is decided in the office.', 'oursBecause');
  if (taxId !== null) {
    const [known] = await tx.db.select({ id: tax.id }).from(tax).where(eq(tax.id, taxId));
    if (!known) refuse('not-found', 'That tax does not exist; choose another.', 'taxId');
  }
  if (receiptId !== null) {
    const [known] = await tx.db
      .select({ id: attachment.id })
      .from(attachment)
      .where(and(eq(attachment.id, receiptId), eq(attachment.subject, 'order'), eq(attachment.subjectId, orderId)));
    if (!known) refuse('not-found', 'That receipt is not among the order’s files; attach it first.', 'receiptId');
  }
  return { ...rest, orderId, orderLineId, taxId, receiptId, oursBecause };
}

/** A repeated request key gives the first cost again. */
export async function addCostTo(
  database: Database,
  write: Write,
  who: Person,
  orderId: OrderId,
  { requestKey, ...body }: Asked<typeof addCost>['body'],
  now: Instant,
): Promise<{ id: OtherCostId }> {
  const requestContent = contentOf({ orderId, ...body });
  try {
    return await write(async (tx, told) => {
      await orderToBookOn(tx, who, orderId, body.lineId);
      const columns = await columnsOf(tx, who, orderId, body, null);
      const [made] = await tx.db
        .insert(otherCost)
        .values({ ...columns, personId: who.id, at: now, requestKey, requestContent })
        .$returningId();
      told({ subject: 'order', id: orderId, text: `added the cost “${body.text}”` });
      return { id: made?.id as OtherCostId };
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    const [sent] = await database.db
      .select({ id: otherCost.id, content: otherCost.requestContent })
      .from(otherCost)
      .where(eq(otherCost.requestKey, requestKey));
    if (!sent) throw error;
    mustBeSame(sent.content, requestContent);
    return { id: sent.id };
  }
}

async function costUnderLock(tx: Tx, who: Person, id: OtherCostId, lineId: CostBody['lineId'] | null) {
  const [own] = await tx.db.select().from(otherCost).where(eq(otherCost.id, id)).for('update');
  if (!own) refuse('not-found', 'That cost was removed already.');
  await orderToBookOn(tx, who, own.orderId, lineId ?? own.orderLineId);
  return own;
}

export const changeCostOf = (
  write: Write,
  who: Person,
  id: OtherCostId,
  { version, ...body }: CostBody & { version: number },
): Promise<void> =>
  write(async (tx, told) => {
    const own = await costUnderLock(tx, who, id, body.lineId);
    if (own.version !== version) stale({ id: own.id, version: own.version });
    const columns = await columnsOf(tx, who, own.orderId, body, own.oursBecause);
    await tx.db
      .update(otherCost)
      .set({ ...columns, version: version + 1 })
      .where(eq(otherCost.id, id));
    told({ subject: 'order', id: own.orderId, text: `changed the cost “${body.text}”` });
  });

export const removeCostOf = (write: Write, who: Person, id: OtherCostId): Promise<void> =>
  write(async (tx, told) => {
    const own = await costUnderLock(tx, who, id, null);
    await tx.db.delete(otherCost).where(eq(otherCost.id, id));
    told({ subject: 'order', id: own.orderId, text: `removed the cost “${own.text}”` });
  });

export const othersOn = (db: Db, ids: readonly OrderId[]) =>
  db
    .select({ cost: otherCost, who: person.name })
    .from(otherCost)
    .leftJoin(person, eq(person.id, otherCost.personId))
    .where(inArray(otherCost.orderId, [...ids]))
    .orderBy(asc(otherCost.day), asc(otherCost.id));
