// Counted rights and what was drawn from them.
import { boolean, index, int, mysqlEnum, mysqlTable, uniqueIndex } from 'drizzle-orm/mysql-core';
import type { AgreementId, AllowanceId, AssetId, OrderId, OrderLineId } from '#core/ids.ts';
import { ALLOWANCE_PERIODS, ALLOWANCE_UNITS } from '#core/entitlement/index.ts';
import { dateColumn, instantColumn, reference, rowId } from '../platform/columns.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';

/** A counted right of an agreement: hours in minutes, visits and call-outs one by one. */
export const allowance = mysqlTable(
  'allowance',
  {
    id: rowId<AllowanceId>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    unit: mysqlEnum(ALLOWANCE_UNITS).notNull(),
    amount: int().notNull(),
    period: mysqlEnum(ALLOWANCE_PERIODS).notNull(),
    carriesOver: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('allowance_unit').on(t.agreementId, t.unit)],
);

/** What an order took from an allowance, or from the free visits of an asset’s warranty; given back when the order is called off. */
export const allowanceDraw = mysqlTable(
  'allowance_draw',
  {
    id: rowId<number>(),
    allowanceId: reference<AllowanceId>().references(() => allowance.id),
    warrantyAssetId: reference<AssetId>().references(() => asset.id),
    orderId: reference<OrderId>().notNull(),
    /** Whose work drew it: each line of an order draws for itself. */
    orderLineId: reference<OrderLineId>().notNull(),
    drawnOn: dateColumn().notNull(),
    amount: int().notNull(),
    at: instantColumn().notNull(),
    returnedAt: instantColumn(),
  },
  (t) => [
    uniqueIndex('allowance_draw_once').on(t.orderLineId, t.allowanceId),
    uniqueIndex('allowance_draw_warranty_once').on(t.orderLineId, t.warrantyAssetId),
    index('allowance_draw_order').on(t.orderId),
    index('allowance_draw_allowance').on(t.allowanceId, t.drawnOn),
    index('allowance_draw_warranty').on(t.warrantyAssetId, t.drawnOn),
  ],
);
