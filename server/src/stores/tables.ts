// The parts list, and what of it was used on orders.
import { bigint, boolean, index, int, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { OrderId, OrderLineId, PartId, PersonId, TaxId, UsedPartId } from '#core/ids.ts';
import { instantColumn, reference, rowId } from '../platform/columns.ts';
import { orderLine } from '../orders/tables.ts';
import { tax } from '../settle/tables.ts';

export const part = mysqlTable(
  'part',
  {
    id: rowId<PartId>(),
    number: varchar({ length: 60 }).notNull(),
    name: varchar({ length: 120 }).notNull(),
    unit: varchar({ length: 20 }).notNull(),
    /** Minor units of the provider’s currency, for one unit. */
    listPrice: bigint({ mode: 'number' }).notNull(),
    cost: bigint({ mode: 'number' }).notNull(),
    consumable: boolean().notNull().default(false),
    serialTracked: boolean().notNull().default(false),
    /** Null: the standard one. */
    taxId: reference<TaxId>().references(() => tax.id),
    /** Not offered any more. */
    retired: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('part_number').on(t.number), index('part_name').on(t.name, t.id)],
);

export const usedPart = mysqlTable(
  'used_part',
  {
    id: rowId<UsedPartId>(),
    orderId: reference<OrderId>().notNull(),
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    thousandths: int().notNull(),
    /** Null where the part is not kept by serial; a serial is used once. */
    serial: varchar({ length: 80 }),
    /** As the parts list had them when it was used. */
    unitPrice: bigint({ mode: 'number' }).notNull(),
    unitCost: bigint({ mode: 'number' }).notNull(),
    personId: reference<PersonId>(),
    at: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    index('used_part_order').on(t.orderId),
    uniqueIndex('used_part_serial').on(t.partId, t.serial),
    uniqueIndex('used_part_request').on(t.requestKey),
  ],
);
