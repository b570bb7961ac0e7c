// What the desk sets and looks at of orders: how they are raised, kept filters, and who has one open.
import { boolean, int, mysqlEnum, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { OrderId, OrderViewId, PersonId } from '#core/ids.ts';
import { OVER_TERMS, type OrderTelling } from '#core/orders/index.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { person } from '../platform/tables.ts';
import { workOrder } from './tables.ts';

/** How orders are raised, for the whole house: one row. */
export const orderSetting = mysqlTable('order_setting', {
  id: int().primaryKey(),
  overTerms: mysqlEnum(OVER_TERMS).notNull(),
  /** What people outside are told; null: everything. */
  tells: jsonColumn<OrderTelling[] | null>(),
  /** What the priorities mean, the first in front; null: as usual. */
  priorities: jsonColumn<string[] | null>(),
  version: int().notNull().default(1),
});

/** Who has an order open, and when they last said so: nothing is decided by it. */
export const orderPresence = mysqlTable(
  'order_presence',
  {
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    seenAt: instantColumn().notNull(),
  },
  (t) => [primaryKey({ columns: [t.orderId, t.personId] })],
);

/** Filters of the list of orders under a name, for oneself or for everybody. */
export const orderView = mysqlTable(
  'order_view',
  {
    id: rowId<OrderViewId>(),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    name: varchar({ length: 80 }).notNull(),
    /** The filters as they stand in the address. */
    query: varchar({ length: 500 }).notNull(),
    shared: boolean().notNull(),
  },
  (t) => [uniqueIndex('order_view_name').on(t.personId, t.name)],
);
