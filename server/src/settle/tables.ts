// Taxes as the provider charges them, and costs of an order that are neither time nor parts.
import { bigint, boolean, index, int, mysqlEnum, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { AttachmentId, OrderId, OrderLineId, OtherCostId, PaymentId, PersonId, TaxId } from '#core/ids.ts';
import { PAY_STATES, PAY_WAYS, TAX_CATEGORIES } from '#core/settle/index.ts';
import { dateColumn, instantColumn, reference, rowId } from '../platform/columns.ts';
import { orderLine } from '../orders/tables.ts';

export const tax = mysqlTable(
  'tax',
  {
    id: rowId<TaxId>(),
    name: varchar({ length: 60 }).notNull(),
    category: mysqlEnum(TAX_CATEGORIES).notNull(),
    /** Percent in hundredths. */
    hundredths: int().notNull(),
    /** True on one at most, null on the others: what time, travel and parts without another are taxed by. */
    isStandard: boolean(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('tax_name').on(t.name), uniqueIndex('tax_standard').on(t.isStandard)],
);

export const otherCost = mysqlTable(
  'other_cost',
  {
    id: rowId<OtherCostId>(),
    orderId: reference<OrderId>().notNull(),
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    day: dateColumn().notNull(),
    text: varchar({ length: 200 }).notNull(),
    /** Minor units of the provider’s currency: what it cost us, and what it is sold for. */
    cost: bigint({ mode: 'number' }).notNull(),
    price: bigint({ mode: 'number' }).notNull(),
    /** Null: the standard one. */
    taxId: reference<TaxId>().references(() => tax.id),
    /** Why we bear it; null: it is the customer’s. */
    oursBecause: varchar({ length: 200 }),
    /** The photo of its receipt, among the order’s files. */
    receiptId: reference<AttachmentId>(),
    personId: reference<PersonId>(),
    at: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [index('other_cost_order').on(t.orderId), uniqueIndex('other_cost_request').on(t.requestKey)],
);

/** What customers said or did about paying on site: a card held to the terminal, or that they want an invoice. */
export const orderPayment = mysqlTable(
  'order_payment',
  {
    id: rowId<PaymentId>(),
    orderId: reference<OrderId>().notNull(),
    way: mysqlEnum(PAY_WAYS).notNull(),
    state: mysqlEnum(PAY_STATES).notNull(),
    /** Minor units, tax in it; null: as it will be invoiced. */
    amount: bigint({ mode: 'number' }),
    currency: varchar({ length: 3 }),
    /** The terminal’s word for it. */
    receipt: varchar({ length: 200 }).notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }).notNull(),
    requestContent: varchar({ length: 64 }).notNull(),
  },
  (t) => [
    index('order_payment_order').on(t.orderId),
    index('order_payment_at').on(t.state, t.at),
    uniqueIndex('order_payment_request').on(t.requestKey),
  ],
);
