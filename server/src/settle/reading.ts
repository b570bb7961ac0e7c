// Documents as they are read: the list, one with its lines, and everything a paper or file of it says.
import { and, asc, desc, eq, inArray, like, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { DocumentPage, DocumentRow, listDocuments } from '#api/documents.ts';
import { orderNumber } from '#api/shapes.ts';
import type { AgreementId, DocumentId, OrderId } from '#core/ids.ts';
import { agreement } from '../agreements/tables.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { aboutWords } from './about.ts';
import { document, documentLine, documentTax } from './document-tables.ts';
import { allocation, reminder } from './paid-tables.ts';
import { creditedOf } from './documents.ts';

const PAGE = 60;

/** What was taken back of documents by credit notes, with tax. */
async function creditedSums(db: Db, ids: readonly DocumentId[]): Promise<Map<DocumentId, number>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: document.ofId, sum: sql<string>`sum(${document.withTax})` })
    .from(document)
    .where(inArray(document.ofId, [...ids]))
    .groupBy(document.ofId);
  return new Map(rows.map((r) => [r.id as DocumentId, Number(r.sum)]));
}

const rowOut = (
  { of, name }: { of: typeof document.$inferSelect; name: string },
  credited: number,
  about: (about: string) => string,
): DocumentRow => ({
  ...{ id: of.id, kind: of.kind, state: of.state, number: of.numberText, customer: { id: of.customerId, name } },
  ...{
    currency: of.currency,
    about: about(of.about),
    issuedOn: of.issuedOn,
    dueOn: of.dueOn,
    withoutTax: of.withoutTax,
  },
  ...{ withTax: of.withTax, credited, unpaid: of.unpaid, version: of.version },
});

export async function readDocuments(db: Db, query: Asked<typeof listDocuments>['query']) {
  const page = keyset(document.id, document.id, { down: true, after: query.after, hasEmpty: false });
  const rows = await db
    .select({ of: document, name: customer.name })
    .from(document)
    .innerJoin(customer, eq(customer.id, document.customerId))
    .where(
      and(
        query.state && eq(document.state, query.state),
        query.kind && eq(document.kind, query.kind),
        query.customer && eq(document.customerId, query.customer),
        query.run && eq(document.runId, query.run),
        query.number ? like(document.numberText, `%${escapeLike(query.number)}%`) : undefined,
        page.behind,
      ),
    )
    .orderBy(...page.order)
    .limit(PAGE + 1);
  const shown = rows.slice(0, PAGE);
  const credited = await creditedSums(
    db,
    shown.map((r) => r.of.id),
  );
  const about = await aboutWords(
    db,
    shown.map((r) => r.of.about),
  );
  const last = shown.at(-1)?.of.id ?? 0;
  return {
    items: shown.map((r) => rowOut(r, credited.get(r.of.id) ?? 0, about)),
    next: rows.length > PAGE ? page.markOf(last, last) : null,
  };
}

async function titlesOf(db: Db, ids: readonly OrderId[]): Promise<Map<OrderId, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: workOrder.id, title: workOrder.title })
    .from(workOrder)
    .where(inArray(workOrder.id, [...ids]));
  return new Map(rows.map((r) => [r.id, `${orderNumber(r.id)} ${r.title}`]));
}

async function agreementNames(db: Db, ids: readonly AgreementId[]): Promise<Map<AgreementId, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: agreement.id, number: agreement.number, name: agreement.name })
    .from(agreement)
    .where(inArray(agreement.id, [...ids]));
  return new Map(rows.map((r) => [r.id, `${r.number} ${r.name}`]));
}

export async function readOne(db: Db, id: DocumentId): Promise<DocumentPage> {
  const [found] = await db
    .select({ of: document, name: customer.name })
    .from(document)
    .innerJoin(customer, eq(customer.id, document.customerId))
    .where(eq(document.id, id));
  if (!found) refuse('not-found', 'That document does not exist; the draft may have been given up.');
  const { of } = found;
  const [lines, taxes, notes, credited, [origin]] = await Promise.all([
    db.select().from(documentLine).where(eq(documentLine.documentId, id)).orderBy(asc(documentLine.position)),
    db
      .select()
      .from(documentTax)
      .where(eq(documentTax.documentId, id))
      .orderBy(asc(documentTax.category), desc(documentTax.hundredths)),
    db
      .select({ id: document.id, number: document.numberText, withTax: document.withTax })
      .from(document)
      .where(eq(document.ofId, id))
      .orderBy(asc(document.id)),
    creditedOf(db, id),
    of.ofId === null
      ? []
      : db.select({ id: document.id, number: document.numberText }).from(document).where(eq(document.id, of.ofId)),
  ]);
  const [about, titles, names, laid, reminders] = await Promise.all([
    aboutWords(db, [of.about]),
    titlesOf(db, [...new Set(lines.flatMap((l) => l.orderId ?? []))]),
    agreementNames(db, [...new Set(lines.flatMap((l) => l.agreementId ?? []))]),
    laidOf(db, of),
    remindersSent(db, id),
  ]);
  return {
    ...rowOut(
      found,
      notes.reduce((sum, n) => sum + n.withTax, 0),
      about,
    ),
    ...{ paid: of.paid, left: of.withTax - of.paid },
    ...{ tax: of.tax, reference: of.customerReference, language: of.language, reason: of.reason, account: of.account },
    ...{ seller: of.seller, buyer: of.buyer, hasPaper: of.paper !== null, of: origin ?? null, notes },
    ...{ laid, reminders },
    lines: lines.map((l) => ({
      ...{ id: l.id, position: l.position, orderId: l.orderId, agreementId: l.agreementId, day: l.day, text: l.text },
      order: l.orderId === null ? null : (titles.get(l.orderId) ?? null),
      agreement: l.agreementId === null ? null : (names.get(l.agreementId) ?? null),
      ...{ quantity: l.quantity, unit: l.unit, list: l.list, off: l.off, offBecause: l.offBecause, net: l.net },
      ...{ credited: credited.get(l.id) ?? 0, category: l.taxCategory, hundredths: l.taxHundredths },
    })),
    taxes: taxes.map((t) => ({ category: t.category, hundredths: t.hundredths, taxable: t.taxable, tax: t.tax })),
  };
}

const LAID_SHOWN = 200;

/** What paid a document; of a credit note, what it paid. The newest first. */
async function laidOf(db: Db, { id, kind }: typeof document.$inferSelect): Promise<DocumentPage['laid']> {
  const [own, other] =
    kind === 'invoice' ? [allocation.documentId, allocation.creditId] : [allocation.creditId, allocation.documentId];
  const rows = await db
    .select({ of: allocation, who: person.name, other: document.id, number: document.numberText })
    .from(allocation)
    .leftJoin(person, eq(person.id, allocation.personId))
    .leftJoin(document, eq(document.id, other))
    .where(eq(own, id))
    .orderBy(desc(allocation.id))
    .limit(LAID_SHOWN);
  return rows.map(({ of, who, other: otherId, number }) => ({
    ...{ id: of.id, kind: of.kind, minor: of.minor, on: of.on, who: who ?? '', reason: of.reason },
    paymentId: of.incomingId,
    document: otherId === null ? null : { id: otherId, number },
    undone: of.undoneOn === null ? null : { on: of.undoneOn, because: of.undoneBecause ?? '' },
  }));
}

const remindersSent = (db: Db, id: DocumentId): Promise<DocumentPage['reminders']> =>
  db
    .select({ level: reminder.level, on: reminder.on, who: person.name, sentTo: reminder.sentTo })
    .from(reminder)
    .innerJoin(person, eq(person.id, reminder.personId))
    .where(eq(reminder.documentId, id))
    .orderBy(asc(reminder.level));

/** The paper as it was drawn; null: it is not yet. */
export async function keptPaper(db: Db, id: DocumentId): Promise<string | null> {
  const [row] = await db.select({ paper: document.paper }).from(document).where(eq(document.id, id));
  return row?.paper ?? null;
}
