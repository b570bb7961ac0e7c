// What customers owe: by age for all of them, and one customer's open documents and payments.
import { and, asc, count, desc, eq, gt, inArray, isNotNull, max, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { Debtor, listDebtors, listPayments, OpenItemsPage, PaymentPage, PaymentRow } from '#api/payments.ts';
import type { CustomerId, DocumentId, IncomingId } from '#core/ids.ts';
import { AGE_ENDS, ageOf, AGES } from '#core/settle/index.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { creditGrace } from '../customers/index.ts';
import { customer } from '../customers/tables.ts';
import type { Db } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { aboutWords } from './about.ts';
import { proposalsFor } from './bank-file.ts';
import { claimEntry } from './claim-tables.ts';
import { document } from './document-tables.ts';
import { allocation, bankFile, incomingPayment, reminder } from './paid-tables.ts';
import { customerNames } from './names.ts';

const PAGE = 60;
const ITEMS_SHOWN = 300;

/** Sums of what is open by age, as SQL: invoices only. */
const ageColumns = (today: LocalDate) =>
  AGES.map((_, i) => {
    const youngest = i === 0 ? null : addDays(today, -(AGE_ENDS[i - 1] as number) - 1);
    const oldest = i < AGE_ENDS.length ? addDays(today, -(AGE_ENDS[i] as number)) : null;
    const within = and(
      gt(document.unpaid, 0),
      youngest === null ? undefined : sql`${document.openDue} <= ${youngest}`,
      oldest === null ? undefined : sql`${document.openDue} >= ${oldest}`,
    );
    return sql<string>`coalesce(sum(case when ${within} then ${document.unpaid} else 0 end), 0)`;
  });

const isOverdue = (today: LocalDate) =>
  sql<string>`coalesce(sum(case when ${document.unpaid} > 0 and ${document.openDue} < ${today} then ${document.unpaid} else 0 end), 0)`;

/** What is left of payments, by customer and currency. */
async function leftOf(db: Db, ids: readonly CustomerId[] | null): Promise<Map<string, number>> {
  if (ids?.length === 0) return new Map();
  const rows = await db
    .select({
      ...{ customerId: incomingPayment.customerId, currency: incomingPayment.currency },
      left: sql<string>`sum(${incomingPayment.left})`,
    })
    .from(incomingPayment)
    .where(
      and(
        eq(incomingPayment.state, 'open'),
        ids === null ? isNotNull(incomingPayment.customerId) : inArray(incomingPayment.customerId, [...ids]),
      ),
    )
    .groupBy(incomingPayment.customerId, incomingPayment.currency);
  return new Map(rows.map((r) => [`${r.customerId} ${r.currency}`, Number(r.left)]));
}

/** Levels by which customers were reminded of what is open. */
async function levelsSent(db: Db, ids: readonly CustomerId[]): Promise<Map<CustomerId, number>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: document.customerId, level: max(reminder.level) })
    .from(document)
    .innerJoin(reminder, eq(reminder.documentId, document.id))
    .where(and(inArray(document.customerId, [...ids]), isNotNull(document.openDue)))
    .groupBy(document.customerId);
  return new Map(rows.map((r) => [r.id, r.level ?? 0]));
}

/** Customers with something open, those with most overdue first. */
export async function readDebtors(db: Db, query: Asked<typeof listDebtors>['query'], today: LocalDate) {
  const from = Number(query.after ?? 0);
  const overdue = isOverdue(today);
  const sums = {
    ages: ageColumns(today),
    free: sql<string>`coalesce(sum(case when ${document.unpaid} < 0 then ${document.unpaid} else 0 end), 0)`,
  };
  const ages = Object.fromEntries(sums.ages.map((column, i) => [`age${i}`, column])) as Record<
    string,
    (typeof sums)['free']
  >;
  const [rows, totals, free, [waiting]] = await Promise.all([
    db
      .select({
        ...{ customerId: document.customerId, name: customer.name, currency: document.currency },
        ...{ overSince: customer.overSince, free: sums.free, overdue, ...ages },
        items: sql<string>`sum(${document.unpaid} > 0)`,
        oldest: sql<LocalDate | null>`min(case when ${document.unpaid} > 0 then ${document.openDue} end)`,
      })
      .from(document)
      .innerJoin(customer, eq(customer.id, document.customerId))
      .where(isNotNull(document.openDue))
      .groupBy(document.customerId, customer.name, customer.overSince, document.currency)
      .having(query.overdue === 'yes' ? sql`${overdue} > 0` : undefined)
      .orderBy(sql`${overdue} desc`, asc(customer.name), asc(document.currency))
      .limit(PAGE + 1)
      .offset(from),
    db
      .select({ currency: document.currency, free: sums.free, ...ages })
      .from(document)
      .where(isNotNull(document.openDue))
      .groupBy(document.currency)
      .orderBy(asc(document.currency)),
    leftOf(db, null),
    db.select({ n: count() }).from(incomingPayment).where(eq(incomingPayment.state, 'open')),
  ]);
  const shown = rows.slice(0, PAGE);
  const levels = await levelsSent(db, [...new Set(shown.map((r) => r.customerId))]);
  const summed = (row: Record<string, unknown>, left: number) => {
    const each = AGES.map((_, i) => Number(row[`age${i}`]));
    const own = Number(row['free']) - left;
    return { ages: each, free: own, total: each.reduce((sum, n) => sum + n, 0) + own };
  };
  return {
    items: shown.map((r): Debtor => ({
      ...{ customer: { id: r.customerId, name: r.name }, currency: r.currency, items: Number(r.items) },
      ...{ oldest: r.oldest, overSince: r.overSince, level: levels.get(r.customerId) ?? 0 },
      ...summed(r, free.get(`${r.customerId} ${r.currency}`) ?? 0),
    })),
    next: rows.length > PAGE ? String(from + PAGE) : null,
    sums: totals.map((t) => {
      const left = [...free].reduce((sum, [key, n]) => (key.endsWith(` ${t.currency}`) ? sum + n : sum), 0);
      return { currency: t.currency, ...summed(t, left) };
    }),
    waiting: waiting?.n ?? 0,
  };
}

/** The levels and days of reminders of documents. */
export async function remindersOf(db: Db, ids: readonly DocumentId[]) {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({ id: reminder.documentId, level: max(reminder.level), on: max(reminder.on) })
          .from(reminder)
          .where(inArray(reminder.documentId, [...ids]))
          .groupBy(reminder.documentId);
  return new Map(rows.map((r) => [r.id, { level: r.level ?? 0, on: r.on }]));
}

export async function readOpenItemsOf(db: Db, id: CustomerId, today: LocalDate): Promise<OpenItemsPage> {
  const [owner] = await db.select().from(customer).where(eq(customer.id, id));
  if (!owner) refuse('not-found', 'That customer does not exist.');
  const isOpen = and(eq(document.customerId, id), isNotNull(document.openDue));
  const [rows, [all], payments, grace] = await Promise.all([
    db.select().from(document).where(isOpen).orderBy(asc(document.openDue), asc(document.id)).limit(ITEMS_SHOWN),
    db.select({ n: count() }).from(document).where(isOpen),
    db
      .select()
      .from(incomingPayment)
      .where(and(eq(incomingPayment.customerId, id), eq(incomingPayment.state, 'open')))
      .orderBy(asc(incomingPayment.id))
      .limit(ITEMS_SHOWN),
    creditGrace(db),
  ]);
  const [about, sent] = await Promise.all([
    aboutWords(
      db,
      rows.map((r) => r.about),
    ),
    remindersOf(
      db,
      rows.map((r) => r.id),
    ),
  ]);
  return {
    customer: { id, name: owner.name },
    ...{ overSince: owner.overSince, follows: grace !== null, creditLimit: owner.creditLimit },
    creditCurrency: owner.creditCurrency,
    items: rows.map((r) => ({
      ...{ id: r.id, kind: r.kind, number: r.numberText ?? '', currency: r.currency, about: about(r.about) },
      ...{ issuedOn: r.issuedOn as LocalDate, dueOn: r.dueOn as LocalDate, withTax: r.withTax, unpaid: r.unpaid },
      age: ageOf(r.openDue as LocalDate, today),
      ...{ level: sent.get(r.id)?.level ?? 0, remindedOn: sent.get(r.id)?.on ?? null },
    })),
    more: (all?.n ?? 0) - rows.length,
    payments: payments.map((p) => ({
      ...{ id: p.id, currency: p.currency, minor: p.minor, left: p.left, bookedOn: p.bookedOn, text: p.text },
      version: p.version,
    })),
  };
}

const paymentOut = (row: typeof incomingPayment.$inferSelect, name: string | null): PaymentRow => ({
  ...{ id: row.id, state: row.state, minor: row.minor, left: row.left, currency: row.currency },
  ...{ bookedOn: row.bookedOn, payer: row.payer, text: row.text, isTyped: row.bankKey === null, version: row.version },
  customer: row.customerId === null || name === null ? null : { id: row.customerId, name },
});

export async function readPayments(db: Db, query: Asked<typeof listPayments>['query']) {
  const page = keyset(incomingPayment.id, incomingPayment.id, { down: true, after: query.after, hasEmpty: false });
  const rows = await db
    .select({ of: incomingPayment, name: customer.name })
    .from(incomingPayment)
    .leftJoin(customer, eq(customer.id, incomingPayment.customerId))
    .where(
      and(
        query.state && eq(incomingPayment.state, query.state),
        query.customer && eq(incomingPayment.customerId, query.customer),
        page.behind,
      ),
    )
    .orderBy(...page.order)
    .limit(PAGE + 1);
  const shown = rows.slice(0, PAGE);
  const last = shown.at(-1);
  return {
    items: shown.map((r) => paymentOut(r.of, r.name)),
    next: rows.length > PAGE && last ? page.markOf(last.of.id, last.of.id) : null,
  };
}

export async function readPaymentOf(db: Db, id: IncomingId): Promise<PaymentPage> {
  const [found] = await db
    .select({ of: incomingPayment, name: customer.name, who: person.name, file: bankFile.name })
    .from(incomingPayment)
    .innerJoin(person, eq(person.id, incomingPayment.personId))
    .leftJoin(customer, eq(customer.id, incomingPayment.customerId))
    .leftJoin(bankFile, eq(bankFile.id, incomingPayment.fileId))
    .where(eq(incomingPayment.id, id));
  if (!found) refuse('not-found', 'That payment does not exist.');
  const { of, name, who, file } = found;
  const [laid, claims, [proposal]] = await Promise.all([
    db
      .select({ of: allocation, number: document.numberText, who: person.name })
      .from(allocation)
      .innerJoin(document, eq(document.id, allocation.documentId))
      .leftJoin(person, eq(person.id, allocation.personId))
      .where(eq(allocation.incomingId, id))
      .orderBy(desc(allocation.id))
      .limit(ITEMS_SHOWN),
    db
      .select({ id: claimEntry.claimId, maker: claimEntry.maker, minor: sql<string>`sum(${claimEntry.minor})` })
      .from(claimEntry)
      .where(eq(claimEntry.incomingId, id))
      .groupBy(claimEntry.claimId, claimEntry.maker)
      .orderBy(asc(claimEntry.claimId)),
    of.state === 'open' ? proposalsFor(db, [{ ...of, minor: of.left }]) : [],
  ]);
  const parts = proposal?.parts ?? [];
  const numbers = await numbersOf(db, parts.map((p) => p.documentId) as DocumentId[]);
  const proposed = (proposal?.customerId ?? null) as CustomerId | null;
  const names = proposed === null ? new Map<CustomerId, string>() : await customerNames(db, [proposed]);
  return {
    ...paymentOut(of, name),
    ...{ payerAccount: of.payerAccount, asideBecause: of.asideBecause, who, at: of.at, file },
    laid: laid.map((l) => ({
      ...{ id: l.of.id, documentId: l.of.documentId, number: l.number ?? '', minor: l.of.minor, on: l.of.on },
      who: l.who ?? '',
      undone: l.of.undoneOn === null ? null : { on: l.of.undoneOn, because: l.of.undoneBecause ?? '' },
    })),
    // Where a claim was opened again it took nothing.
    claims: claims.map((c) => ({ ...c, minor: Number(c.minor) })).filter((c) => c.minor !== 0),
    proposal: {
      customer: proposed === null ? null : { id: proposed, name: names.get(proposed) ?? '' },
      because: proposal?.because ?? '',
      parts: parts.map((p) => ({ ...p, number: numbers.get(p.documentId as DocumentId) ?? '' })),
    },
  };
}

async function numbersOf(db: Db, ids: readonly DocumentId[]): Promise<Map<DocumentId, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: document.id, number: document.numberText })
    .from(document)
    .where(inArray(document.id, [...ids]));
  return new Map(rows.map((r) => [r.id, r.number ?? '']));
}
