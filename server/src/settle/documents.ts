// Invoices and credit notes: issued with a number without gaps, discarded while they are drafts, taken back by credit notes.
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { creditDocument } from '#api/documents.ts';
import type { ChargeId, CustomerId, DocumentId, DocumentLineId } from '#core/ids.ts';
import { creditNoteOf, type CreditNote, type DocumentKind, type Party, type TaxRow } from '#core/settle/index.ts';
import { addDays, localDateAt, type Instant } from '#core/time/index.ts';
import { markCredit } from '../customers/index.ts';
import { customer } from '../customers/tables.ts';
import { isTaken, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { leaveJob } from '../platform/jobs.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Told, Write } from '../platform/writing.ts';
import { billingOf, settleSettings } from './billing-settings.ts';
import { chargePayer, document, documentLine, documentPaid, documentSeries, documentTax } from './document-tables.ts';
import { layNoteOnIts } from './laying.ts';
import { unsettle } from './settled.ts';

export const PAPERS = 'papers of documents';
/** Days to pay, where the customer has no terms. */
const USUAL_DAYS = 30;

type Row = typeof document.$inferSelect;
export const PREFIX: Readonly<Record<DocumentKind, string>> = { invoice: 'INV-', 'credit note': 'CN-' };
const FIRST = 10_001;

/** Takes numbers of a kind, under the lock of its series until the end: a number that is not used was never given. */
async function takeNumbers(tx: Tx, kind: DocumentKind, count: number): Promise<{ first: number; prefix: string }> {
  await tx.db
    .insert(documentSeries)
    .values({ kind, prefix: PREFIX[kind], next: FIRST })
    .onDuplicateKeyUpdate({ set: { kind } });
  const [series] = await tx.db.select().from(documentSeries).where(eq(documentSeries.kind, kind)).for('update');
  if (!series) throw new Error('a series that was just made is there');
  await tx.db
    .update(documentSeries)
    .set({ next: series.next + count })
    .where(eq(documentSeries.kind, kind));
  return { first: series.next, prefix: series.prefix };
}

/** The buyers of documents as they stand now, and their days to pay. */
async function buyersOf(db: Db, ids: readonly CustomerId[]) {
  const [rows, billing] = await Promise.all([
    db
      .select({ id: customer.id, name: customer.name, address: customer.serviceAddress, days: customer.creditDays })
      .from(customer)
      .where(inArray(customer.id, [...ids])),
    billingOf(db, ids),
  ]);
  return new Map(
    rows.map((r) => {
      const { address, country, taxNumber, contactId } = billing(r.id);
      const party: Party = { name: r.name, address: address || (r.address ?? ''), country, taxNumber };
      return [r.id, { party, days: r.days ?? USUAL_DAYS, contactId }] as const;
    }),
  );
}

/** Has the papers of documents drawn whose ids lie between these, both included. */
export const leavePapers = (tx: Tx, from: number, to: number): Promise<number> =>
  leaveJob(tx, PAPERS, { from, to }, { key: `papers ${from} ${to}` });

/**
 * Gives drafts their numbers, dates and parties, in the order of their ids; from then on they never change. Papers are drawn beside
 * requests. Drafts are held by the caller. Refused: nobody said in whose name documents are sent.
 */
export async function issueIn(tx: Tx, drafts: readonly Row[], now: Instant, zone: Person['zone']): Promise<void> {
  if (drafts.length === 0) return;
  const { seller, account } = await settleSettings(tx.db);
  if (seller === null) refuse('not-ready', 'Say first in whose name documents are sent: Setup, Billing.', 'seller');
  const buyers = await buyersOf(tx.db, [...new Set(drafts.map((d) => d.customerId))]);
  const issuedOn = localDateAt(zone, now);
  for (const kind of ['invoice', 'credit note'] as const) {
    const own = drafts.filter((d) => d.kind === kind).toSorted((a, b) => a.id - b.id);
    if (own.length === 0) continue;
    const { first, prefix } = await takeNumbers(tx, kind, own.length);
    await setIssued(
      tx,
      own.map((d, i) => {
        const buyer = buyers.get(d.customerId);
        if (!buyer) throw new Error('a document’s customer is there');
        const dueOn = addDays(issuedOn, kind === 'invoice' ? buyer.days : 0);
        return { id: d.id, number: first + i, numberText: `${prefix}${first + i}`, dueOn, buyer: buyer.party };
      }),
      { seller, account, issuedOn, now },
    );
  }
  await markCredit(
    tx,
    drafts.map((d) => d.customerId),
  );
  const ids = drafts.map((d) => d.id);
  await leavePapers(tx, Math.min(...ids), Math.max(...ids));
}

type Numbered = {
  readonly id: DocumentId;
  readonly number: number;
  readonly numberText: string;
  readonly dueOn: string;
  readonly buyer: Party;
};
type Common = {
  readonly seller: Party;
  readonly account: string;
  readonly issuedOn: NonNullable<Row['issuedOn']>;
  readonly now: Instant;
};

const AT_ONCE = 500;

/** What is open of a document when it is issued: what was not paid on site; of a credit note all of it, for them. */
const UNPAID = sql`if(${document.kind} = 'invoice', ${document.withTax} - ${document.paid}, -${document.withTax})`;

/** Many at once: each by its own number, what is the same for all said once. */
async function setIssued(tx: Tx, all: readonly Numbered[], { seller, account, issuedOn, now }: Common): Promise<void> {
  for (let i = 0; i < all.length; i += AT_ONCE) {
    const some = all.slice(i, i + AT_ONCE);
    const by = (of: (n: Numbered) => string | number) =>
      sql.join([sql`case ${document.id}`, ...some.map((n) => sql`when ${n.id} then ${of(n)}`), sql`end`], sql` `);
    await tx.db
      .update(document)
      .set({
        ...{ state: 'issued', issuedOn, issuedAt: now, seller, account, version: sql`${document.version} + 1` },
        number: sql`${by((n) => n.number)}`,
        numberText: sql`${by((n) => n.numberText)}`,
        dueOn: sql`${by((n) => n.dueOn)}`,
        buyer: sql`${by((n) => JSON.stringify(n.buyer))}`,
        unpaid: UNPAID,
        openDue: sql`if(${UNPAID} = 0, null, ${by((n) => n.dueOn)})`,
      })
      .where(
        inArray(
          document.id,
          some.map((n) => n.id),
        ),
      );
  }
}

async function holdDraft(tx: Tx, id: DocumentId, version: number): Promise<Row> {
  const [row] = await tx.db.select().from(document).where(eq(document.id, id)).for('update');
  if (!row) refuse('not-found', 'That document does not exist; the draft may have been discarded.');
  if (row.state !== 'draft')
    refuse('wrong-stage', `${row.numberText} is issued; it never changes. Write a credit note.`);
  if (row.version !== version) stale({ id, version: row.version });
  return row;
}

export const issueOne = (write: Write, id: DocumentId, version: number, who: Person, now: Instant): Promise<void> =>
  write(async (tx, told) => {
    const row = await holdDraft(tx, id, version);
    await issueIn(tx, [row], now, who.zone);
    told({ subject: 'document', id, text: 'issued' });
  });

/** A draft is given up: what was on it waits to be billed again. */
export const discardDraft = (write: Write, id: DocumentId, version: number, who: Person, now: Instant): Promise<void> =>
  write(async (tx, told) => {
    const row = await holdDraft(tx, id, version);
    const lines = await tx.db.select().from(documentLine).where(eq(documentLine.documentId, id));
    await billAgain(tx, row.customerId, lines, 'a draft was given up', 0, who, now);
    await tx.db.delete(documentLine).where(eq(documentLine.documentId, id));
    await tx.db.delete(documentTax).where(eq(documentTax.documentId, id));
    await tx.db.delete(documentPaid).where(eq(documentPaid.documentId, id));
    await tx.db.delete(document).where(eq(document.id, id));
    told({ subject: 'document', id, text: `draft over ${row.withTax} given up` });
  });

type Line = typeof documentLine.$inferSelect;

/** Charges on these lines wait to be billed once more. */
async function billAgain(
  tx: Tx,
  customerId: CustomerId,
  lines: readonly Line[],
  text: string,
  times: 0 | 1,
  who: Person,
  now: Instant,
): Promise<void> {
  const charges = lines.flatMap((l) => (l.chargeId === null ? [] : [l.chargeId]));
  if (charges.length === 0) return;
  await tx.db
    .update(chargePayer)
    .set({ state: 'open', times: sql`${chargePayer.times} + ${times}` })
    .where(and(eq(chargePayer.customerId, customerId), inArray(chargePayer.chargeId, charges as ChargeId[])));
  const orders = [...new Set(lines.flatMap((l) => (l.orderId === null ? [] : [l.orderId])))];
  await unsettle(tx, orders, text, who.id, now);
}

/** Credit notes over a document so far, as far as a further one asks of them. */
async function notesOn(tx: Tx, id: DocumentId): Promise<CreditNote[]> {
  const notes = await tx.db
    .select({ id: document.id })
    .from(document)
    .where(eq(document.ofId, id))
    .orderBy(asc(document.id));
  const ids = notes.map((n) => n.id);
  if (ids.length === 0) return [];
  const [lines, rows] = await Promise.all([
    tx.db.select().from(documentLine).where(inArray(documentLine.documentId, ids)),
    tx.db.select().from(documentTax).where(inArray(documentTax.documentId, ids)),
  ]);
  return ids.map((note): CreditNote => {
    const own = lines.filter((l) => l.documentId === note);
    const taxes = rows.filter((r) => r.documentId === note).map(taxRow);
    const sum = own.reduce((total, l) => total + l.net, 0);
    const tax = taxes.reduce((total, r) => total + r.tax, 0);
    return {
      lines: own.map((l) => ({ lineId: l.ofLineId ?? 0, minor: l.net })),
      totals: { lines: sum, withoutTax: sum, tax, withTax: sum + tax, rows: taxes },
    };
  });
}

const taxRow = (r: typeof documentTax.$inferSelect): TaxRow => ({
  ...{ category: r.category, hundredths: r.hundredths, taxable: r.taxable, tax: r.tax },
});

type Asked = BodyOf<typeof creditDocument>;

/**
 * A credit note over an invoice, in full or in part, issued at once. `again`: what is taken back in full waits to be billed again.
 * A repeated request key gives the first note. Refused: what core refuses, a draft, a credit note.
 */
export async function creditOf(
  write: Write,
  db: Db,
  id: DocumentId,
  { requestKey, ...body }: Asked,
  who: Person,
  now: Instant,
): Promise<{ id: DocumentId }> {
  const requestContent = contentOf({ id, ...body });
  try {
    return await write(async (tx, told) => creditIn(tx, told, id, body, { who, now, requestKey, requestContent }));
  } catch (error) {
    if (!isTaken(error)) throw error;
    const [sent] = await db
      .select({ id: document.id, content: document.requestContent })
      .from(document)
      .where(eq(document.requestKey, requestKey));
    if (!sent) throw error;
    mustBeSame(sent.content, requestContent);
    return { id: sent.id };
  }
}

type By = { readonly who: Person; readonly now: Instant; readonly requestKey: string; readonly requestContent: string };

async function creditIn(
  tx: Tx,
  told: Told,
  id: DocumentId,
  { lines: asked, reason, again }: Omit<Asked, 'requestKey'>,
  { who, now, requestKey, requestContent }: By,
): Promise<{ id: DocumentId }> {
  const [row] = await tx.db.select().from(document).where(eq(document.id, id)).for('update');
  if (!row) refuse('not-found', 'That document does not exist.');
  const [sent] = await tx.db.select().from(document).where(eq(document.requestKey, requestKey));
  if (sent) {
    mustBeSame(sent.requestContent, requestContent);
    return { id: sent.id };
  }
  if (row.state !== 'issued' || row.kind !== 'invoice')
    refuse('wrong-stage', 'Only an issued invoice is credited; a draft is given up.');
  const [lines, rows] = await Promise.all([
    tx.db.select().from(documentLine).where(eq(documentLine.documentId, id)).orderBy(asc(documentLine.position)),
    tx.db.select().from(documentTax).where(eq(documentTax.documentId, id)),
  ]);
  const issued = {
    lines: lines.map((l) => ({
      ...{ id: l.id, net: l.net },
      rate: { category: l.taxCategory, hundredths: l.taxHundredths },
    })),
    rows: rows.map(taxRow),
  };
  const note = accept(creditNoteOf(issued, await notesOn(tx, id), asked));
  const lineOf = new Map(lines.map((l) => [l.id as number, l]));
  const taken = note.lines.map(({ lineId, minor }) => ({ line: lineOf.get(lineId) as Line, minor }));
  if (again && taken.some(({ line, minor }) => line.net !== minor))
    refuse('conflict', 'What is to be billed again is taken back in full, line by line.', 'again');
  const { customerId, currency, about, customerReference, language } = row;
  const [made] = await tx.db
    .insert(document)
    .values({
      ...({ kind: 'credit note', state: 'draft', customerId, currency, about, customerReference, language } as const),
      ...{ withoutTax: note.totals.withoutTax, tax: note.totals.tax, withTax: note.totals.withTax },
      ...{ ofId: id, reason, personId: who.id, madeAt: now, requestKey, requestContent },
    })
    .$returningId();
  const noteId = made?.id as DocumentId;
  await tx.db.insert(documentLine).values(
    taken.map(({ line, minor }, i) => ({
      ...line,
      ...{ id: undefined as unknown as DocumentLineId, documentId: noteId, position: i + 1, sourceKey: null },
      ...{ list: minor, off: 0, net: minor, offBecause: '', quantity: 1000, unit: 'C62', ofLineId: line.id, again },
    })),
  );
  await tx.db.insert(documentTax).values(note.totals.rows.map((r) => ({ documentId: noteId, ...r })));
  const [draft] = await tx.db.select().from(document).where(eq(document.id, noteId));
  await issueIn(tx, [draft as Row], now, who.zone);
  await layNoteOnIts(tx, { id: noteId, withTax: note.totals.withTax }, row, { who, now });
  if (again)
    await billAgain(
      tx,
      customerId,
      taken.map((t) => t.line),
      `credited to be billed again: ${reason}`,
      1,
      who,
      now,
    );
  told({ subject: 'document', id: noteId, text: `credit note over ${row.numberText}: ${reason}` });
  return { id: noteId };
}

/** What of each line was credited so far. */
export async function creditedOf(db: Db, id: DocumentId): Promise<Map<number, number>> {
  const rows = await db
    .select({ lineId: documentLine.ofLineId, minor: sql<string>`sum(${documentLine.net})` })
    .from(documentLine)
    .innerJoin(document, and(eq(document.id, documentLine.documentId), eq(document.ofId, id)))
    .where(sql`${documentLine.ofLineId} is not null`)
    .groupBy(documentLine.ofLineId);
  return new Map(rows.map((r) => [r.lineId as number, Number(r.minor)]));
}

/** Drafts of a customer or run that wait to be issued, under lock in the order of their ids. */
export const holdDrafts = (tx: Tx, ids: readonly DocumentId[]) =>
  tx.db
    .select()
    .from(document)
    .where(and(inArray(document.id, [...ids]), eq(document.state, 'draft'), isNull(document.number)))
    .orderBy(asc(document.id))
    .for('update');
