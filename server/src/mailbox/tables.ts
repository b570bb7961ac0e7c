// Mail that came in, as it was read; the message as it came is kept beside it.
import { boolean, index, int, mediumtext, mysqlEnum, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { ContactId, CustomerId, MailId, OrderId, PersonId } from '#core/ids.ts';
import { MAIL_STATES } from '#core/mail/index.ts';
import { contact, customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { fileContent, person } from '../platform/tables.ts';

/** What of a message was not kept as a file of its own, and why. */
export type NotKept = { readonly name: string; readonly bytes: number; readonly why: string };

export const mail = mysqlTable(
  'mail',
  {
    id: rowId<MailId>(),
    /** Its own identifier, or one made of its content where it has none: the same message that comes twice is one. */
    messageId: varchar({ length: 255 }).notNull(),
    /** The message as it came. */
    sha256: varchar({ length: 64 })
      .notNull()
      .references(() => fileContent.sha256),
    bytes: int().notNull(),
    /** Of the envelope; empty for a report of delivery. */
    returnPath: varchar({ length: 320 }).notNull(),
    receivedAt: instantColumn().notNull(),
    state: mysqlEnum(MAIL_STATES).notNull(),
    /** False until its words are read, some moments after it came. */
    isRead: boolean().notNull().default(false),
    /** Why its words could not be read. */
    problem: varchar({ length: 300 }),
    fromName: varchar({ length: 200 }).notNull().default(''),
    fromAddress: varchar({ length: 320 }).notNull().default(''),
    subject: varchar({ length: 300 }).notNull().default(''),
    text: mediumtext(),
    sentAt: instantColumn(),
    threadIds: jsonColumn<readonly string[]>().notNull().default([]),
    isAutomatic: boolean().notNull().default(false),
    notKept: jsonColumn<readonly NotKept[]>().notNull().default([]),
    contactId: reference<ContactId>().references(() => contact.id, { onDelete: 'set null' }),
    customerId: reference<CustomerId>().references(() => customer.id),
    /** The order it is on; while it is to be looked at, the one it most likely belongs to. */
    orderId: reference<OrderId>().references(() => workOrder.id),
    putAwayReason: varchar({ length: 300 }),
    /** Who decided what became of it. */
    personId: reference<PersonId>().references(() => person.id),
  },
  (t) => [
    uniqueIndex('mail_message').on(t.messageId),
    index('mail_state').on(t.state, t.id),
    index('mail_order').on(t.orderId),
    index('mail_from').on(t.fromAddress),
  ],
);
