// Payments that came in: typed, laid on what they pay, set aside where they pay nothing of ours.
import { eq } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { typePayment } from '#api/payments.ts';
import type { CustomerId, IncomingId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { journalDay, type Part } from '#core/settle/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { markCredit } from '../customers/index.ts';
import { customer } from '../customers/tables.ts';
import { isTaken, type Db, type Tx } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Write } from '../platform/writing.ts';
import { closedToHeld } from './journal.ts';
import { layPaymentIn, type By } from './laying.ts';
import { incomingPayment } from './paid-tables.ts';

export const stateOf = (left: number): 'open' | 'laid' => (left === 0 ? 'laid' : 'open');

async function mustPay(tx: Tx, id: CustomerId): Promise<void> {
  const [row] = await tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, id));
  if (!row) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
}

async function sentBefore(db: Db, requestKey: string, content: string): Promise<{ id: IncomingId } | null> {
  const [sent] = await db
    .select({ id: incomingPayment.id, content: incomingPayment.requestContent })
    .from(incomingPayment)
    .where(eq(incomingPayment.requestKey, requestKey));
  if (!sent) return null;
  mustBeSame(sent.content, content);
  return { id: sent.id };
}

/**
 * Types a payment. A repeated request key gives the first one. A day of a
 * closed month is told under the first open one. Refused: a day to come, and what laying it refuses.
 */
export async function typeIncoming(
  write: Write,
  db: Db,
  { requestKey, ...body }: BodyOf<typeof typePayment>,
  by: By,
): Promise<{ id: IncomingId }> {
  const requestContent = contentOf(body);
  const { customerId, minor, currency, bookedOn, text, parts } = body;
  try {
    return await write(async (tx, told) => {
      const sent = await sentBefore(tx.db, requestKey, requestContent);
      if (sent) return sent;
      if (bookedOn > localDateAt(by.who.zone, by.now))
        refuse('in-the-future', 'That day is still to come; write the day on which it was booked.', 'bookedOn');
      await mustPay(tx, customerId);
      const [made] = await tx.db
        .insert(incomingPayment)
        .values({
          ...{ customerId, state: 'open', minor, left: minor, currency, bookedOn, text },
          journalOn: journalDay(bookedOn, await closedToHeld(tx)),
          ...{ payer: '', payerAccount: '', personId: by.who.id, at: by.now, requestKey, requestContent },
        })
        .$returningId();
      const id = made?.id as IncomingId;
      const { left, customers } = await layPaymentIn(tx, { id, left: minor, currency }, parts, by);
      await tx.db
        .update(incomingPayment)
        .set({ left, state: stateOf(left) })
        .where(eq(incomingPayment.id, id));
      await markCredit(tx, [customerId, ...customers]);
      told({ subject: 'incoming payment', id, text: `${currency} ${sayAmountOf(minor, currency)} of ${bookedOn}` });
      return { id };
    });
  } catch (error) {
    const sent = isTaken(error) ? await sentBefore(db, requestKey, requestContent) : null;
    if (!sent) throw error;
    return sent;
  }
}

async function hold(tx: Tx, id: IncomingId, version: number) {
  const [row] = await tx.db.select().from(incomingPayment).where(eq(incomingPayment.id, id)).for('update');
  if (!row) refuse('not-found', 'That payment does not exist.');
  if (row.version !== version) stale({ id, version: row.version });
  return row;
}

/** Says who paid and lays what is left on invoices. With no invoices it stays with the customer, to be laid later. */
export const layIncoming = (
  write: Write,
  id: IncomingId,
  body: { readonly version: number; readonly customerId: CustomerId; readonly parts: readonly Part[] },
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const row = await hold(tx, id, body.version);
    if (row.state === 'aside') refuse('wrong-stage', 'It was set aside; take it back first.');
    await mustPay(tx, body.customerId);
    const { left, customers } = await layPaymentIn(tx, row, body.parts, by);
    await tx.db
      .update(incomingPayment)
      .set({ customerId: body.customerId, left, state: stateOf(left), version: row.version + 1 })
      .where(eq(incomingPayment.id, id));
    await markCredit(tx, [body.customerId, ...(row.customerId === null ? [] : [row.customerId]), ...customers]);
    told({ subject: 'incoming payment', id, text: `laid ${row.left - left}, left ${left}` });
  });

/** It pays nothing of ours. Refused: some of it was laid. */
export const setAside = (
  write: Write,
  id: IncomingId,
  { version, reason }: { readonly version: number; readonly reason: string },
): Promise<void> =>
  write(async (tx, told) => {
    const row = await hold(tx, id, version);
    if (row.state === 'aside') refuse('wrong-stage', 'It was set aside already.');
    if (row.left !== row.minor)
      refuse('wrong-stage', 'Some of it is laid on invoices; take that back before it is set aside.');
    await tx.db
      .update(incomingPayment)
      .set({ state: 'aside', asideBecause: reason, version: version + 1 })
      .where(eq(incomingPayment.id, id));
    if (row.customerId !== null) await markCredit(tx, [row.customerId]);
    told({ subject: 'incoming payment', id, text: `set aside: ${reason}` });
  });

export const takeBackFromAside = (write: Write, id: IncomingId, version: number): Promise<void> =>
  write(async (tx, told) => {
    const row = await hold(tx, id, version);
    if (row.state !== 'aside') refuse('wrong-stage', 'It was not set aside.');
    await tx.db
      .update(incomingPayment)
      .set({ state: stateOf(row.left), asideBecause: null, version: version + 1 })
      .where(eq(incomingPayment.id, id));
    if (row.customerId !== null) await markCredit(tx, [row.customerId]);
    told({ subject: 'incoming payment', id, text: 'waits again' });
  });
