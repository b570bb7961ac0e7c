// Customers, their contacts, notes and wishes.
import {
  bigint,
  boolean,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import type { ContactId, CustomerId, CustomerNoteId, ImportId, PersonId, RateCardId } from '#core/ids.ts';
import { WAYS_TO_TELL } from '#core/customers.ts';
import { LANGUAGES } from '#core/telling.ts';
import { dateColumn, instantColumn, reference, rowId } from '../platform/columns.ts';
import { person } from '../platform/tables.ts';

export const customer = mysqlTable(
  'customer',
  {
    id: rowId<CustomerId>(),
    name: varchar({ length: 120 }).notNull(),
    serviceAddress: varchar({ length: 300 }),
    /** Credit terms: days to pay and the most that may be open, in minor units; `overSince` while they are broken. */
    creditDays: int(),
    creditLimit: bigint({ mode: 'number' }),
    creditCurrency: varchar({ length: 3 }).notNull().default('EUR'),
    overSince: dateColumn(),
    /** The rate card agreed with them; null: the standard one. */
    rateCardId: reference<RateCardId>(),
    importId: reference<ImportId>(),
    version: int().notNull().default(1),
  },
  (t) => [
    index('customer_rate_card').on(t.rateCardId),
    uniqueIndex('customer_name').on(t.name),
    index('customer_import').on(t.importId),
  ],
);

/** What breaks credit terms, one row. Without days customers are marked by hand; with them it follows from what they owe. */
export const creditSetting = mysqlTable('credit_setting', {
  id: int().primaryKey(),
  /** Days past due that are let go. */
  graceDays: int(),
});

/** Customers of whom something changed that their credit terms look at. */
export const creditMark = mysqlTable('credit_mark', {
  customerId: reference<CustomerId>().primaryKey(),
  marks: int().notNull(),
});

/** Somebody at the customer, and how they want to be told. */
export const contact = mysqlTable(
  'contact',
  {
    id: rowId<ContactId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    name: varchar({ length: 120 }).notNull(),
    role: varchar({ length: 120 }),
    email: varchar({ length: 200 }),
    phone: varchar({ length: 60 }),
    preferred: mysqlEnum(WAYS_TO_TELL).notNull(),
    /** What is written to them in. */
    language: mysqlEnum(LANGUAGES).notNull().default('en'),
    importId: reference<ImportId>(),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('contact_customer').on(t.customerId, t.name),
    index('contact_import').on(t.importId),
    index('contact_email').on(t.email),
  ],
);

/** What to know about a customer; `popsUp` shows it whenever an order is raised. */
export const customerNote = mysqlTable(
  'customer_note',
  {
    id: rowId<CustomerNoteId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    text: varchar({ length: 1000 }).notNull(),
    popsUp: boolean().notNull(),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
  },
  (t) => [index('customer_note_customer').on(t.customerId)],
);

/** Technicians a customer wants or does not want to see. */
export const technicianWish = mysqlTable(
  'technician_wish',
  {
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    wish: mysqlEnum(['preferred', 'blocked']).notNull(),
  },
  (t) => [primaryKey({ columns: [t.customerId, t.personId] })],
);
