// What customers paid of what was billed: payments that came in, what they were laid on, and reminders of what did not.
import { bigint, index, int, mysqlEnum, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type {
  AllocationId,
  BankFileId,
  CentreEntryId,
  CustomerId,
  DocumentId,
  IncomingId,
  OrderId,
  PersonId,
  ReminderId,
} from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import { LONGEST_BANK_TEXT, LONGEST_PAYER } from '#core/settle/index.ts';
import { customer } from '../customers/tables.ts';
import { dateColumn, instantColumn, reference, rowId } from '../platform/columns.ts';
import { workOrder } from '../orders/tables.ts';
import { document } from './document-tables.ts';

const money = () => bigint({ mode: 'number' });

/** A statement or list of a bank that was loaded. */
export const bankFile = mysqlTable(
  'bank_file',
  {
    id: rowId<BankFileId>(),
    name: varchar({ length: 160 }).notNull(),
    account: varchar({ length: 40 }).notNull(),
    ...{ entries: int().notNull(), known: int().notNull(), laid: int().notNull() },
    ...{ passed: int().notNull(), bad: int().notNull() },
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }).notNull(),
    requestContent: varchar({ length: 64 }).notNull(),
  },
  (t) => [uniqueIndex('bank_file_request').on(t.requestKey), index('bank_file_at').on(t.at)],
);

/** Money that came in for what was billed. `left` is not laid on any invoice yet. */
export const incomingPayment = mysqlTable(
  'incoming_payment',
  {
    id: rowId<IncomingId>(),
    /** Who paid; null: nobody said yet. */
    customerId: reference<CustomerId>().references(() => customer.id),
    state: mysqlEnum(['open', 'laid', 'aside']).notNull(),
    ...{ minor: money().notNull(), left: money().notNull() },
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    bookedOn: dateColumn().notNull(),
    /** The day under which the accounts have it: that on which it was booked, or the first one that was not closed then. */
    journalOn: dateColumn().notNull(),
    payer: varchar({ length: LONGEST_PAYER }).notNull(),
    payerAccount: varchar({ length: 40 }).notNull(),
    text: varchar({ length: LONGEST_BANK_TEXT }).notNull(),
    fileId: reference<BankFileId>().references(() => bankFile.id),
    /** By what an entry of a bank is known again; null: it was typed. */
    bankKey: varchar({ length: 64 }),
    asideBecause: varchar({ length: 200 }),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('incoming_payment_bank').on(t.bankKey),
    uniqueIndex('incoming_payment_request').on(t.requestKey),
    index('incoming_payment_state').on(t.state, t.bookedOn, t.id),
    index('incoming_payment_customer').on(t.customerId, t.state, t.id),
    index('incoming_payment_account').on(t.payerAccount, t.customerId),
    index('incoming_payment_journal').on(t.journalOn, t.id),
    index('incoming_payment_file').on(t.fileId),
  ],
);

/** What of an invoice a payment or credit note pays, or what is not asked for any more; taken back it stays, with when. */
export const allocation = mysqlTable(
  'allocation',
  {
    id: rowId<AllocationId>(),
    kind: mysqlEnum(['payment', 'credit note', 'written off']).notNull(),
    incomingId: reference<IncomingId>().references(() => incomingPayment.id),
    creditId: reference<DocumentId>().references(() => document.id),
    documentId: reference<DocumentId>()
      .notNull()
      .references(() => document.id),
    minor: money().notNull(),
    reason: varchar({ length: 200 }).notNull().default(''),
    on: dateColumn().notNull(),
    personId: reference<PersonId>(),
    at: instantColumn().notNull(),
    undoneOn: dateColumn(),
    undoneById: reference<PersonId>(),
    undoneBecause: varchar({ length: 200 }),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
  },
  (t) => [
    uniqueIndex('allocation_request').on(t.requestKey),
    index('allocation_document').on(t.documentId, t.id),
    index('allocation_incoming').on(t.incomingId, t.id),
    index('allocation_credit').on(t.creditId, t.id),
    index('allocation_on').on(t.kind, t.on),
    index('allocation_undone').on(t.kind, t.undoneOn),
  ],
);

/** What cost centres bear of orders that were approved; an approval taken back adds the same below zero, on the day of that. */
export const centreEntry = mysqlTable(
  'centre_entry',
  {
    id: rowId<CentreEntryId>(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    bearer: mysqlEnum(['warranty', 'own']).notNull(),
    /** The maker of the machine under warranty; our own fleet, or why we bear it. */
    centre: varchar({ length: 160 }).notNull(),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    minor: money().notNull(),
    on: dateColumn().notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
  },
  (t) => [index('centre_entry_on').on(t.on, t.id), index('centre_entry_order').on(t.orderId, t.id)],
);

/** A customer was reminded of an invoice; once for each level. */
export const reminder = mysqlTable(
  'reminder',
  {
    id: rowId<ReminderId>(),
    documentId: reference<DocumentId>()
      .notNull()
      .references(() => document.id),
    level: int().notNull(),
    unpaid: money().notNull(),
    on: dateColumn().notNull(),
    /** Who got it; empty: nobody was mailed, it was told otherwise. */
    sentTo: varchar({ length: 200 }).notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
  },
  (t) => [uniqueIndex('reminder_level').on(t.documentId, t.level)],
);
