// Paying on site: a card held to the terminal, each payment once however often it is asked for; or that an invoice is wanted.
import { and, eq } from 'drizzle-orm';
import * as v from 'valibot';
import type { BodyOf } from '#api/contract.ts';
import type { OrderCharges, takeCard } from '#api/settle.ts';
import { orderNumber } from '#api/shapes.ts';
import type { OrderId, PaymentId } from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import { isOffice } from '#core/people.ts';
import { mayAsk } from '#core/settle/index.ts';
import type { Instant } from '#core/time/index.ts';
import { mustActOn } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Config } from '../platform/config.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import type { Told, Write } from '../platform/writing.ts';
import { paymentsOf } from './kept-payments.ts';
import { chargesOf } from './of-order.ts';
import { orderPayment } from './tables.ts';

type Payment = typeof orderPayment.$inferSelect;

/** Whether somebody may show customers what work comes to: the office, and technicians who are let. */
export async function showsPrice(db: Db, who: Pick<Person, 'id' | 'role'>): Promise<boolean> {
  if (isOffice(who.role)) return true;
  const [row] = await db.select({ shows: person.showsPrice }).from(person).where(eq(person.id, who.id));
  return row?.shows ?? false;
}

/** The order, held until the end. Refused: somebody else's, for technicians. */
async function orderToPay(tx: Tx, who: Person, id: OrderId): Promise<void> {
  const [order] = await tx.db
    .select({ id: workOrder.id, technicianId: workOrder.technicianId, technician: workOrder.technician })
    .from(workOrder)
    .where(eq(workOrder.id, id))
    .for('update');
  if (!order) refuse('not-found', 'That work order does not exist.');
  await mustActOn(tx, who, order);
}

/** What the customer owes as far as it is known, with its tax: minor units. */
export const dueOf = ({ tax, charges }: Pick<OrderCharges, 'tax' | 'charges'>): number =>
  tax?.withTax ?? charges.reduce((sum, c) => sum + (c.pay ?? 0), 0);

const ANSWER = v.object({ state: v.picklist(['approved', 'declined']), receipt: v.pipe(v.string(), v.maxLength(200)) });
const TERMINAL_MS = 60_000;

/** What the terminal says of a payment; asked again for the same, it says the same. Refused: no terminal, or it does not answer. */
async function askTerminal({ terminalUrl }: Pick<Config, 'terminalUrl'>, { id, orderId, amount, currency }: Payment) {
  if (terminalUrl === null) refuse('not-ready', 'No card terminal is set up; have it invoiced.', 'amount');
  try {
    const answer = await fetch(terminalUrl, {
      method: 'POST',
      signal: AbortSignal.timeout(TERMINAL_MS),
      headers: { 'content-type': 'application/json', 'idempotency-key': `payment-${id}` },
      body: JSON.stringify({ amount, currency, reference: orderNumber(orderId) }),
    });
    if (!answer.ok) throw new Error(`the terminal answered ${answer.status}`);
    return v.parse(ANSWER, await answer.json());
  } catch {
    return refuse('not-ready', 'The terminal did not answer. Try again: nothing is taken twice.', 'amount');
  }
}

/** Asks the terminal and keeps what it says; whoever was first to hear of it has kept it. */
async function settled(
  config: Pick<Config, 'terminalUrl'>,
  write: Write,
  payment: Payment,
): Promise<Pick<Payment, 'state' | 'receipt'>> {
  const { state: said, receipt } = await askTerminal(config, payment);
  const state = said === 'approved' ? 'paid' : 'declined';
  await write(async (tx, told) => {
    const [kept] = await tx.db
      .update(orderPayment)
      .set({ state, receipt })
      .where(and(eq(orderPayment.id, payment.id), eq(orderPayment.state, 'asked')));
    if (kept.affectedRows > 0) told({ subject: 'order', id: payment.orderId, text: `card ${state}: ${receipt}` });
  });
  return { state, receipt };
}

/**
 * Has the terminal take an amount. What is asked for stands before it is asked: an answer that is lost, here or on the way, is asked for
 * again by the same request key, or by the next payment of the order.
 */
export async function takeCardFor(
  { database, config }: { readonly database: Database; readonly config: Pick<Config, 'terminalUrl'> },
  write: Write,
  who: Person,
  orderId: OrderId,
  { requestKey, amount }: BodyOf<typeof takeCard>,
  now: Instant,
): Promise<Pick<Payment, 'state' | 'receipt'>> {
  if (!(await showsPrice(database.db, who)))
    refuse('not-allowed', 'You do not take cards; have it invoiced. The administrator sets it under People.');
  await database.transact((tx) => orderToPay(tx, who, orderId));
  const before = (await paymentsOf(database.db, orderId)).map((p) => p.payment);
  for (const open of before.filter((p) => p.state === 'asked' && p.requestKey !== requestKey))
    await settled(config, write, open);
  const charges = await chargesOf(database.db, orderId, 'manager');
  const currency = charges.currency as Currency;
  const requestContent = contentOf({ orderId, amount });
  const payment = await write(async (tx) => {
    await orderToPay(tx, who, orderId);
    const [sent] = await tx.db.select().from(orderPayment).where(eq(orderPayment.requestKey, requestKey));
    if (sent) {
      mustBeSame(sent.requestContent, requestContent);
      return sent;
    }
    const all = (await paymentsOf(tx.db, orderId)).map((p) => p.payment);
    accept(mayAsk({ minor: dueOf(charges), currency }, all, amount));
    const values = {
      ...({ orderId, way: 'card', state: 'asked', amount, currency, receipt: '', personId: who.id } as const),
      ...{ at: now, requestKey, requestContent },
    };
    const [made] = await tx.db.insert(orderPayment).values(values).$returningId();
    return { id: made?.id as PaymentId, ...values };
  });
  return payment.state === 'asked' ? settled(config, write, payment) : payment;
}

/** That the customer wants an invoice. */
export async function leaveToInvoice(
  tx: Tx,
  told: Told,
  orderId: OrderId,
  { who, key, at }: { readonly who: Person; readonly key: string; readonly at: Instant },
): Promise<void> {
  await tx.db.insert(orderPayment).values({
    ...{ orderId, way: 'invoice', state: 'agreed', amount: null, currency: null, receipt: '' },
    ...{ personId: who.id, at, requestKey: key, requestContent: contentOf({ orderId }) },
  });
  told({ subject: 'order', id: orderId, text: 'to be invoiced' });
}
