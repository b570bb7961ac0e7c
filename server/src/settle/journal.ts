// The journal of a month: everything that happened on its days, told from what stands, entry by entry. Nothing of it is kept twice.
import { and, asc, eq, gte, inArray, lt, lte, min, sql } from 'drizzle-orm';
import type { JournalPage } from '#api/journal.ts';
import { orderNumber } from '#api/shapes.ts';
import type { DocumentId } from '#core/ids.ts';
import { fixedPoint, decimalsOf } from '#core/money.ts';
import {
  ACCOUNTS,
  closeMonth,
  linesOfAllocation,
  linesOfCard,
  linesOfCentre,
  linesOfClaim,
  linesOfDocument,
  linesOfReceipt,
  linesOfWriteOff,
  type Account,
  type JournalEntry,
} from '#core/settle/index.ts';
import {
  addDays,
  addMonths,
  localDateAt,
  startOfDay,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { accept, stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { settleSettings } from './billing-settings.ts';
import { claimNumber } from '#api/claims.ts';
import { holdSettings } from './change-settings.ts';
import { document, documentLine, documentTax, orderCharge, settleSetting } from './document-tables.ts';
import { claim, claimEntry } from './claim-tables.ts';
import { allocation, centreEntry, incomingPayment } from './paid-tables.ts';
import { orderPayment } from './tables.ts';

const UTC = 'UTC' as Zone;
/** Of one kind read at a time. */
const AT_ONCE = 500;

type Days = { readonly from: LocalDate; readonly to: LocalDate };
const daysOf = (month: string): Days => {
  const from = `${month}-01` as LocalDate;
  return { from, to: addDays(addMonths(from, 1), -1) };
};

/** All of a kind whose day lies in a month, some at a time by their ids. */
async function* some<Row extends { readonly id: number }>(
  read: (after: number, limit: number) => Promise<Row[]>,
): AsyncGenerator<Row[]> {
  for (let after = 0; ;) {
    const rows = await read(after, AT_ONCE);
    if (rows.length > 0) yield rows;
    const last = rows.at(-1);
    if (!last || rows.length < AT_ONCE) return;
    after = last.id;
  }
}

async function* documentEntries(db: Db, { from, to }: Days): AsyncGenerator<JournalEntry> {
  const read = (after: number, limit: number) =>
    db
      .select({ of: document, id: document.id, name: customer.name })
      .from(document)
      .innerJoin(customer, eq(customer.id, document.customerId))
      .where(and(gte(document.issuedOn, from), lte(document.issuedOn, to), sql`${document.id} > ${after}`))
      .orderBy(asc(document.id))
      .limit(limit);
  for await (const rows of some(read)) {
    const ids = rows.map((r) => r.id);
    const [nets, taxes] = await Promise.all([netsOf(db, ids), taxesOf(db, ids)]);
    for (const { of, name } of rows)
      yield {
        ...{ key: of.numberText ?? '', day: of.issuedOn as LocalDate, currency: of.currency, customer: name },
        text: `${of.kind} ${of.numberText}`,
        lines: linesOfDocument({
          ...{ kind: of.kind, withTax: of.withTax, paid: of.paid },
          nets: nets.filter((n) => n.id === of.id).map((n) => ({ of: n.of ?? 'fees', minor: Number(n.minor) })),
          taxes: taxes.filter((t) => t.documentId === of.id),
        }),
      };
  }
}

/** What documents are for, by element; fees of agreements have none. */
const netsOf = (db: Db, ids: readonly DocumentId[]) =>
  db
    .select({ id: documentLine.documentId, of: orderCharge.element, minor: sql<string>`sum(${documentLine.net})` })
    .from(documentLine)
    .leftJoin(orderCharge, eq(orderCharge.id, documentLine.chargeId))
    .where(inArray(documentLine.documentId, [...ids]))
    .groupBy(documentLine.documentId, orderCharge.element);
const taxesOf = (db: Db, ids: readonly DocumentId[]) =>
  db
    .select()
    .from(documentTax)
    .where(inArray(documentTax.documentId, [...ids]));

async function* receiptEntries(db: Db, { from, to }: Days): AsyncGenerator<JournalEntry> {
  const read = (after: number, limit: number) =>
    db
      .select()
      .from(incomingPayment)
      .where(
        and(
          gte(incomingPayment.journalOn, from),
          lte(incomingPayment.journalOn, to),
          sql`${incomingPayment.id} > ${after}`,
        ),
      )
      .orderBy(asc(incomingPayment.id))
      .limit(limit);
  for await (const rows of some(read))
    for (const row of rows)
      yield {
        ...{ key: `PAY-${row.id}`, day: row.journalOn, currency: row.currency, customer: '' },
        ...{ text: `received${row.payer && ` from ${row.payer}`}`, lines: linesOfReceipt(row.minor) },
      };
}

async function* cardEntries(db: Db, { from, to }: Days): AsyncGenerator<JournalEntry> {
  const read = (after: number, limit: number) =>
    db
      .select()
      .from(orderPayment)
      .where(
        and(
          eq(orderPayment.state, 'paid'),
          gte(orderPayment.at, startOfDay(UTC, from)),
          lt(orderPayment.at, startOfDay(UTC, addDays(to, 1))),
          sql`${orderPayment.id} > ${after}`,
        ),
      )
      .orderBy(asc(orderPayment.id))
      .limit(limit);
  for await (const rows of some(read))
    for (const row of rows)
      yield {
        ...{ key: `CARD-${row.id}`, day: localDateAt(UTC, row.at), currency: row.currency ?? '', customer: '' },
        ...{ text: `card on site, ${orderNumber(row.orderId)}`, lines: linesOfCard(row.amount ?? 0) },
      };
}

/** What was allocated or written off in a month, and what of it was taken back in it. */
async function* allocationEntries(db: Db, { from, to }: Days, isBack: boolean): AsyncGenerator<JournalEntry> {
  const day = isBack ? allocation.undoneOn : allocation.on;
  const read = (after: number, limit: number) =>
    db
      .select({
        of: allocation,
        id: allocation.id,
        number: document.numberText,
        currency: document.currency,
        name: customer.name,
      })
      .from(allocation)
      .innerJoin(document, eq(document.id, allocation.documentId))
      .innerJoin(customer, eq(customer.id, document.customerId))
      .where(
        and(
          // A credit note moves nothing between accounts when it is laid: both are what the customer owes.
          inArray(allocation.kind, ['payment', 'written off']),
          ...[gte(day, from), lte(day, to), sql`${allocation.id} > ${after}`],
        ),
      )
      .orderBy(asc(allocation.id))
      .limit(limit);
  for await (const rows of some(read))
    for (const { of, number, currency, name } of rows) {
      const minor = isBack ? -of.minor : of.minor;
      const what = of.kind === 'payment' ? `PAY-${of.incomingId} to ${number}` : `${number} written off: ${of.reason}`;
      yield {
        ...{ key: `ALL-${of.id}${isBack ? '-BACK' : ''}`, day: (isBack ? of.undoneOn : of.on) as LocalDate, currency },
        ...{ customer: name, text: isBack ? `taken back: ${what}` : what },
        lines: of.kind === 'payment' ? linesOfAllocation(minor) : linesOfWriteOff(minor),
      };
    }
}

async function* centreEntries(db: Db, { from, to }: Days): AsyncGenerator<JournalEntry> {
  const read = (after: number, limit: number) =>
    db
      .select({ of: centreEntry, id: centreEntry.id, name: customer.name })
      .from(centreEntry)
      .innerJoin(workOrder, eq(workOrder.id, centreEntry.orderId))
      .innerJoin(customer, eq(customer.id, workOrder.customerId))
      .where(and(gte(centreEntry.on, from), lte(centreEntry.on, to), sql`${centreEntry.id} > ${after}`))
      .orderBy(asc(centreEntry.id))
      .limit(limit);
  for await (const rows of some(read))
    for (const { of, name } of rows)
      yield {
        ...{ key: `CC-${of.id}`, day: of.on, currency: of.currency, customer: name },
        text: `${orderNumber(of.orderId)}, ${of.bearer === 'own' ? 'our own' : 'under warranty'}`,
        lines: linesOfCentre(of.bearer, of.centre, of.minor),
      };
}

async function* claimEntries(db: Db, { from, to }: Days): AsyncGenerator<JournalEntry> {
  const read = (after: number, limit: number) =>
    db
      .select({ of: claimEntry, id: claimEntry.id, name: customer.name })
      .from(claimEntry)
      .innerJoin(claim, eq(claim.id, claimEntry.claimId))
      .innerJoin(workOrder, eq(workOrder.id, claim.orderId))
      .innerJoin(customer, eq(customer.id, workOrder.customerId))
      .where(and(gte(claimEntry.on, from), lte(claimEntry.on, to), sql`${claimEntry.id} > ${after}`))
      .orderBy(asc(claimEntry.id))
      .limit(limit);
  for await (const rows of some(read))
    for (const { of, name } of rows)
      yield {
        ...{ key: `CLE-${of.id}`, day: of.on, currency: of.currency, customer: name },
        text: `${claimNumber(of.claimId)}, ${of.minor < 0 ? 'taken back: ' : ''}${of.kind}`,
        lines: linesOfClaim(of, of.maker),
      };
}

/** Every entry of a month. */
export async function* entriesOf(db: Db, month: string): AsyncGenerator<JournalEntry> {
  const days = daysOf(month);
  yield* documentEntries(db, days);
  yield* receiptEntries(db, days);
  yield* cardEntries(db, days);
  yield* allocationEntries(db, days, false);
  yield* allocationEntries(db, days, true);
  yield* centreEntries(db, days);
  yield* claimEntries(db, days);
}

export const JOURNAL_HEAD = [
  ...['entry', 'date', 'account', 'code', 'centre', 'customer', 'text', 'debit', 'credit', 'currency'],
];

/** A month as rows of a file: of each entry a row for each account. */
export async function* journalRows(db: Db, month: string): AsyncGenerator<(string | null)[][]> {
  const { accounts } = await settleSettings(db);
  let rows: (string | null)[][] = [];
  for await (const e of entriesOf(db, month)) {
    for (const l of e.lines) {
      const amount = fixedPoint(Math.abs(l.minor), decimalsOf(e.currency));
      rows.push([
        ...[e.key, e.day, l.account, accounts?.[l.account] ?? '', l.centre, e.customer, e.text],
        ...[l.minor > 0 ? amount : '', l.minor < 0 ? amount : '', e.currency],
      ]);
    }
    if (rows.length >= AT_ONCE) {
      yield rows;
      rows = [];
    }
  }
  if (rows.length > 0) yield rows;
}

/** The month of the first thing that was booked; null: nothing was. */
async function firstMonth(db: Db): Promise<string | null> {
  const all = await Promise.all([
    db.select({ day: min(document.issuedOn) }).from(document),
    db.select({ day: min(incomingPayment.journalOn) }).from(incomingPayment),
    db.select({ day: min(centreEntry.on) }).from(centreEntry),
    db.select({ day: min(allocation.on) }).from(allocation),
    db
      .select({ day: sql<LocalDate | null>`date(min(${orderPayment.at}))` })
      .from(orderPayment)
      .where(eq(orderPayment.state, 'paid')),
  ]);
  const days = all.flatMap(([row]) => (row?.day ? [String(row.day).slice(0, 7)] : []));
  return days.sort()[0] ?? null;
}

const monthsBetween = (first: string, last: string): string[] => {
  const months: string[] = [];
  for (let m = `${last}-01` as LocalDate; m >= `${first}-01`; m = addMonths(m, -1)) months.push(m.slice(0, 7));
  return months;
};

const blankCodes = (): Record<Account, string> =>
  Object.fromEntries(ACCOUNTS.map((a) => [a, ''])) as Record<Account, string>;

export async function readJournalOf(db: Db, asked: string | undefined, now: Instant): Promise<JournalPage> {
  const today = localDateAt(UTC, now);
  const [{ closedTo, accounts, version }, first] = await Promise.all([settleSettings(db), firstMonth(db)]);
  const codes = { ...blankCodes(), ...accounts };
  const months = first === null ? [] : monthsBetween(first, today.slice(0, 7) > first ? today.slice(0, 7) : first);
  const month = asked ?? months[0] ?? '';
  const sums = new Map<string, JournalPage['accounts'][number]>();
  let entries = 0;
  if (month !== '')
    for await (const e of entriesOf(db, month)) {
      entries += 1;
      for (const l of e.lines) {
        const key = `${e.currency}|${l.account}|${l.centre}`;
        const own = sums.get(key) ?? {
          ...{
            account: l.account,
            code: codes[l.account],
            centre: l.centre,
            currency: e.currency,
            debit: 0,
            credit: 0,
          },
        };
        sums.set(key, {
          ...own,
          debit: own.debit + Math.max(0, l.minor),
          credit: own.credit + Math.max(0, -l.minor),
        });
      }
    }
  const next = first === null ? null : closedTo === null ? first : addDays(closedTo, 1).slice(0, 7);
  const closing = next === null ? null : closeMonth(next, { closedTo, first: first ?? '', today });
  return {
    ...{ closedTo, month, entries, codes, version },
    months: months.map((m) => ({ month: m, isClosed: closedTo !== null && daysOf(m).to <= closedTo })),
    accounts: [...sums.values()].sort(
      (a, b) =>
        a.currency.localeCompare(b.currency) ||
        ACCOUNTS.indexOf(a.account) - ACCOUNTS.indexOf(b.account) ||
        a.centre.localeCompare(b.centre),
    ),
    next:
      next === null || closing === null
        ? null
        : { month: next, whyNot: closing.ok ? null : (closing.refusals[0]?.message ?? '') },
  };
}

/** Up to which day the journal is closed, held until the end: nobody closes a month while something is booked in it. */
export async function closedToHeld(tx: Tx): Promise<LocalDate | null> {
  const [row] = await tx.db.select({ to: settleSetting.closedTo }).from(settleSetting).for('update');
  return row?.to ?? null;
}

export const closeJournalMonth = (write: Write, month: string, now: Instant): Promise<void> =>
  write(async (tx, told) => {
    const { closedTo } = await holdSettings(tx);
    const first = (await firstMonth(tx.db)) ?? '';
    const to = accept(closeMonth(month, { closedTo, first, today: localDateAt(UTC, now) }));
    await tx.db.update(settleSetting).set({ closedTo: to });
    told({ subject: 'settle settings', id: 1, text: `journal closed to ${to}` });
  });

export const nameAccountsAs = (
  write: Write,
  { version, codes }: { readonly version: number; readonly codes: Partial<Record<Account, string>> },
): Promise<void> =>
  write(async (tx, told) => {
    const held = await holdSettings(tx);
    if (held.version !== version) stale({ id: 1, version: held.version });
    await tx.db.update(settleSetting).set({ accounts: codes, version: version + 1 });
    told({ subject: 'settle settings', id: 1, text: 'accounts named' });
  });
