// What pays what: payments and credit notes laid on invoices, what is not asked for any more, and all of it taken back.
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { AllocationId, CustomerId, DocumentId, IncomingId } from '#core/ids.ts';
import { sayAmountOf } from '#core/money.ts';
import { layOn, type Part } from '#core/settle/index.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { markCredit } from '../customers/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Write } from '../platform/writing.ts';
import { document } from './document-tables.ts';
import { allocation, incomingPayment } from './paid-tables.ts';

type Row = typeof document.$inferSelect;
/** Who does it, and when. */
export type By = { readonly who: Pick<Person, 'id' | 'zone'>; readonly now: Instant };

/** Issued documents, held until the end in the order of their ids. */
export async function holdIssued(tx: Tx, ids: readonly DocumentId[]): Promise<Row[]> {
  const each = [...new Set(ids)];
  if (each.length === 0) return [];
  return tx.db
    .select()
    .from(document)
    .where(and(inArray(document.id, each), eq(document.state, 'issued')))
    .orderBy(asc(document.id))
    .for('update');
}

export const openItemOf = ({ id, numberText, currency, unpaid }: Row) => ({
  ...{ id, number: numberText ?? '', currency, unpaid },
});

/** What is open of a document grows (or shrinks, below zero) by so much; it is due as long as there is something. */
export async function changeUnpaid(tx: Tx, ids: readonly DocumentId[], by: ReadonlyMap<number, number>): Promise<void> {
  for (let i = 0; i < ids.length; i += 500) {
    const some = ids.slice(i, i + 500);
    const change = sql.join(
      [sql`case ${document.id}`, ...some.map((id) => sql`when ${id} then ${by.get(id) ?? 0}`), sql`else 0 end`],
      sql` `,
    );
    // Written before the day it is due, which looks at what is then open.
    await tx.db
      .update(document)
      .set({ unpaid: sql`${document.unpaid} + ${change}` })
      .where(inArray(document.id, some));
    await tx.db
      .update(document)
      .set({ openDue: sql`if(${document.unpaid} = 0, null, ${document.dueOn})` })
      .where(inArray(document.id, some));
  }
}

const COLUMNS = [
  ...['kind', 'incoming_id', 'credit_id', 'document_id', 'minor', 'on'],
  ...['person_id', 'at', 'request_key', 'request_content'],
];

export type Laid = Part & { readonly incomingId: IncomingId | null; readonly creditId: DocumentId | null };

/** The request that lays it, kept with its first part. */
type Asked = { readonly requestKey: string; readonly requestContent: string };

/** Writes what is laid on invoices that are held; whether it fits was looked at before. */
export async function writeLaid(tx: Tx, laid: readonly Laid[], { who, now }: By, asked?: Asked): Promise<void> {
  if (laid.length === 0) return;
  const on = localDateAt(who.zone, now);
  await bulkInsert(
    tx.connection,
    'allocation',
    COLUMNS,
    laid.map((l, i) => [
      ...[l.incomingId === null ? 'credit note' : 'payment', l.incomingId, l.creditId, l.documentId, l.minor, on],
      ...[who.id, instantText(now), ...(asked && i === 0 ? [asked.requestKey, asked.requestContent] : [null, null])],
    ]),
  );
  const by = new Map<number, number>();
  for (const l of laid) by.set(l.documentId, (by.get(l.documentId) ?? 0) - l.minor);
  await changeUnpaid(tx, [...by.keys()] as DocumentId[], by);
}

/**
 * Lays a payment on invoices, all of them or none; gives what is left of it. Refused: what core refuses. The payment is held by the
 * caller.
 */
export async function layPaymentIn(
  tx: Tx,
  payment: { readonly id: IncomingId; readonly left: number; readonly currency: string },
  parts: readonly Part[],
  by: By,
): Promise<{ left: number; customers: CustomerId[] }> {
  const held = await holdIssued(tx, parts.map((p) => p.documentId) as DocumentId[]);
  const items = held.filter((d) => d.kind === 'invoice' && d.unpaid > 0);
  const left = accept(layOn(payment, items.map(openItemOf), parts));
  await writeLaid(
    tx,
    parts.map((p) => ({ ...p, incomingId: payment.id, creditId: null })),
    by,
  );
  return { left, customers: items.map((d) => d.customerId) };
}

/** A credit note just issued pays of its invoice what that has open; both are held. What is left of it stays theirs. */
export async function layNoteOnIts(tx: Tx, note: Pick<Row, 'id' | 'withTax'>, invoice: Row, by: By): Promise<void> {
  const minor = Math.min(note.withTax, invoice.unpaid);
  if (minor <= 0) return;
  await writeLaid(tx, [{ documentId: invoice.id, minor, incomingId: null, creditId: note.id }], by);
  await changeUnpaid(tx, [note.id], new Map([[note.id, minor]]));
}

/** Lays what is left of a credit note on invoices. A repeated request key does nothing more. */
export const layCreditOn = (
  write: Write,
  id: DocumentId,
  { requestKey, parts }: { readonly requestKey: string; readonly parts: readonly Part[] },
  by: By,
): Promise<void> =>
  write(async (tx, told) => {
    const held = await holdIssued(tx, [id, ...(parts.map((p) => p.documentId) as DocumentId[])]);
    const note = held.find((d) => d.id === id);
    const requestContent = contentOf({ id, parts });
    if (note?.kind !== 'credit note') refuse('not-found', 'That is no issued credit note.');
    if (await wasSent(tx, requestKey, requestContent)) return;
    const items = held.filter((d) => d.kind === 'invoice' && d.unpaid > 0);
    accept(layOn({ left: -note.unpaid, currency: note.currency }, items.map(openItemOf), parts));
    await writeLaid(
      tx,
      parts.map((p) => ({ ...p, incomingId: null, creditId: id })),
      by,
      { requestKey, requestContent },
    );
    await changeUnpaid(tx, [id], new Map([[id, parts.reduce((sum, p) => sum + p.minor, 0)]]));
    await markCredit(tx, [note.customerId, ...items.map((d) => d.customerId)]);
    told({ subject: 'document', id, text: `laid on ${items.map((d) => d.numberText).join(', ')}` });
  });

async function wasSent(tx: Tx, requestKey: string, content: string): Promise<boolean> {
  const [sent] = await tx.db.select().from(allocation).where(eq(allocation.requestKey, requestKey));
  if (sent) mustBeSame(sent.requestContent, content);
  return sent !== undefined;
}

/** Asks no more for so much of an invoice. Refused: more than is open, a document that is not open. */
export const writeOffOf = (
  write: Write,
  id: DocumentId,
  { requestKey, minor, reason }: { readonly requestKey: string; readonly minor: number; readonly reason: string },
  { who, now }: By,
): Promise<void> =>
  write(async (tx, told) => {
    const [row] = await holdIssued(tx, [id]);
    const requestContent = contentOf({ id, minor, reason });
    if (row?.kind !== 'invoice') refuse('not-found', 'That is no issued invoice.');
    if (await wasSent(tx, requestKey, requestContent)) return;
    if (minor > row.unpaid) refuse('invalid', `Only ${sayAmountOf(row.unpaid, row.currency)} of it is open.`, 'minor');
    await tx.db.insert(allocation).values({
      ...{ kind: 'written off', documentId: id, minor, reason, on: localDateAt(who.zone, now), personId: who.id },
      ...{ at: now, requestKey, requestContent },
    });
    await changeUnpaid(tx, [id], new Map([[id, -minor]]));
    await markCredit(tx, [row.customerId]);
    told({ subject: 'document', id, text: `${sayAmountOf(minor, row.currency)} written off: ${reason}` });
  });

/** So much of a payment is left again; gives whose it is. */
async function leaveAgain(tx: Tx, id: IncomingId, minor: number): Promise<CustomerId | null> {
  const only = eq(incomingPayment.id, id);
  const [row] = await tx.db.select().from(incomingPayment).where(only).for('update');
  if (!row) throw new Error('what was laid was laid from a payment');
  await tx.db
    .update(incomingPayment)
    .set({ left: row.left + minor, state: 'open', version: row.version + 1 })
    .where(only);
  return row.customerId;
}

/** What was laid is taken back: open again there, left again here. Refused: taken back already. */
export const takeBack = (write: Write, id: AllocationId, because: string, { who, now }: By): Promise<void> =>
  write(async (tx, told) => {
    // Nobody else holds what was laid; payment and documents are held in the order in which others hold them.
    const [known] = await tx.db.select().from(allocation).where(eq(allocation.id, id)).for('update');
    if (!known) refuse('not-found', 'That was not laid.');
    if (known.undoneOn !== null) refuse('conflict', 'That was taken back already.');
    const { incomingId, creditId, documentId, minor, kind } = known;
    const payer = incomingId === null ? null : await leaveAgain(tx, incomingId, minor);
    const held = await holdIssued(tx, creditId === null ? [documentId] : [documentId, creditId]);
    const changes = new Map<number, number>([[documentId, minor]]);
    if (creditId !== null) changes.set(creditId, -minor);
    await changeUnpaid(
      tx,
      held.map((d) => d.id),
      changes,
    );
    await tx.db
      .update(allocation)
      .set({ undoneOn: localDateAt(who.zone, now), undoneById: who.id, undoneBecause: because })
      .where(and(eq(allocation.id, id), isNull(allocation.undoneOn)));
    await markCredit(tx, [...held.map((d) => d.customerId), ...(payer === null ? [] : [payer])]);
    const number = held.find((d) => d.id === documentId)?.numberText;
    told({ subject: 'document', id: documentId, text: `${kind} of ${minor} on ${number} taken back: ${because}` });
  });
