// Offers, with their lines as they were last written.
import { bigint, index, int, mysqlEnum, mysqlTable, text, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { CALLED_KINDS } from '#api/calls.ts';
import type { AssetId, ContactId, CustomerId, LocationId, MailId, OfferId, OrderId, PersonId } from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import { OFFER_STATES, type OfferLine } from '#core/offers/index.ts';
import type { TaxRate } from '#core/settle/index.ts';
import { contact, customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { person } from '../platform/tables.ts';

/** A line with the tax it had when it was last written. */
export type KeptOfferLine = OfferLine & { readonly rate: TaxRate };

export const offer = mysqlTable(
  'offer',
  {
    id: rowId<OfferId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    locationId: reference<LocationId>().references(() => location.id),
    contactId: reference<ContactId>().references(() => contact.id, { onDelete: 'set null' }),
    assetIds: jsonColumn<readonly AssetId[]>().notNull(),
    kind: varchar({ length: 20 }).notNull().$type<(typeof CALLED_KINDS)[number]>(),
    title: varchar({ length: 120 }).notNull(),
    text: text().notNull(),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    lines: jsonColumn<readonly KeptOfferLine[]>().notNull(),
    /** Minor units, of the lines. */
    withoutTax: bigint({ mode: 'number' }).notNull(),
    validUntil: dateColumn().notNull(),
    state: mysqlEnum(OFFER_STATES).notNull(),
    createdAt: instantColumn().notNull(),
    personId: reference<PersonId>().references(() => person.id),
    sentAt: instantColumn(),
    /** Whom it was sent to; null: it was handed over. */
    sentTo: varchar({ length: 320 }),
    decidedAt: instantColumn(),
    decision: varchar({ length: 300 }),
    /** What came of it, and what it was made of. */
    orderId: reference<OrderId>(),
    fromOrderId: reference<OrderId>(),
    fromMailId: reference<MailId>(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('offer_request').on(t.requestKey),
    index('offer_state').on(t.state, t.id),
    index('offer_customer').on(t.customerId, t.id),
    index('offer_order').on(t.orderId),
    index('offer_from_order').on(t.fromOrderId),
  ],
);
