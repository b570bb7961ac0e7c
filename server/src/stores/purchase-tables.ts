// Suppliers and what they offer, purchase orders with their lines, and for whom each is bought.
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
import type {
  NeedId,
  PartId,
  PersonId,
  PurchaseId,
  PurchaseLineId,
  StoreActId,
  StoreId,
  SupplierId,
  SupplierReturnId,
} from '#core/ids.ts';
import { PURCHASE_STAGES, RETURN_REASONS, RETURN_STAGES } from '#core/stores/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { part, partNeed, store, storeAct } from './tables.ts';

export const supplier = mysqlTable(
  'supplier',
  {
    id: rowId<SupplierId>(),
    name: varchar({ length: 120 }).notNull(),
    /** Where orders are sent; empty: they are handed over on paper. */
    email: varchar({ length: 200 }).notNull().default(''),
    phone: varchar({ length: 60 }).notNull().default(''),
    /** Days from an order to its delivery, where a part does not say otherwise. */
    leadDays: int().notNull(),
    note: varchar({ length: 300 }).notNull().default(''),
    /** Nothing is bought there any more. */
    retired: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('supplier_name').on(t.name)],
);

/** A part as a supplier has it. */
export const partSupplier = mysqlTable(
  'part_supplier',
  {
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    supplierId: reference<SupplierId>()
      .notNull()
      .references(() => supplier.id),
    /** Their number for it. */
    number: varchar({ length: 60 }).notNull().default(''),
    /** Minor units for one unit; null: nobody said. */
    unitPrice: bigint({ mode: 'number' }),
    /** Thousandths of a unit in one pack. */
    pack: bigint({ mode: 'number' }).notNull(),
    /** Null: as the supplier's. */
    leadDays: int(),
    preferred: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [
    primaryKey({ columns: [t.partId, t.supplierId] }),
    index('part_supplier_supplier').on(t.supplierId, t.partId),
  ],
);

export const purchase = mysqlTable(
  'purchase',
  {
    id: rowId<PurchaseId>(),
    supplierId: reference<SupplierId>()
      .notNull()
      .references(() => supplier.id),
    /** Where it is delivered. */
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    stage: mysqlEnum(PURCHASE_STAGES).notNull(),
    note: varchar({ length: 300 }).notNull().default(''),
    createdBy: reference<PersonId>().notNull(),
    createdAt: instantColumn().notNull(),
    /** Who approved it as it stands: what is changed afterwards is approved again. */
    approvedBy: reference<PersonId>(),
    approvedAt: instantColumn(),
    sentAt: instantColumn(),
    /** By mail to this address; empty: handed over on paper. */
    sentTo: varchar({ length: 200 }).notNull().default(''),
    version: int().notNull().default(1),
  },
  (t) => [
    index('purchase_stage').on(t.stage, t.id),
    index('purchase_supplier').on(t.supplierId, t.stage),
    index('purchase_store').on(t.storeId, t.stage),
  ],
);

export const purchaseLine = mysqlTable(
  'purchase_line',
  {
    id: rowId<PurchaseLineId>(),
    purchaseId: reference<PurchaseId>()
      .notNull()
      .references(() => purchase.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    /** Thousandths of a unit. */
    thousandths: bigint({ mode: 'number' }).notNull(),
    received: bigint({ mode: 'number' }).notNull().default(0),
    /** Came wrong or broken, and went back with whoever brought it. */
    refused: bigint({ mode: 'number' }).notNull().default(0),
    /** What is still to come; 0 of an order that is over. */
    toCome: bigint({ mode: 'number' }).notNull(),
    unitPrice: bigint({ mode: 'number' }),
    promisedOn: dateColumn(),
    /** Why the rest does not come. */
    short: varchar({ length: 200 }),
    /** What was invoiced beyond what it was received at, in minor units: past issues stay as they were. */
    variance: bigint({ mode: 'number' }).notNull().default(0),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('purchase_line_part').on(t.purchaseId, t.partId),
    index('purchase_line_coming').on(t.partId, t.toCome),
  ],
);

/** For whom a line is bought: how much of it is expected for a need still. */
export const purchaseFor = mysqlTable(
  'purchase_for',
  {
    lineId: reference<PurchaseLineId>()
      .notNull()
      .references(() => purchaseLine.id),
    needId: reference<NeedId>()
      .notNull()
      .references(() => partNeed.id),
    thousandths: bigint({ mode: 'number' }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.lineId, t.needId] }), index('purchase_for_need').on(t.needId)],
);

/** Purchases that were asked for with a request key, and what came of it: sent again they are the same. */
export const purchaseAsked = mysqlTable('purchase_asked', {
  requestKey: varchar({ length: 60 }).primaryKey(),
  requestContent: varchar({ length: 64 }).notNull(),
  purchases: jsonColumn<PurchaseId[]>().notNull(),
});

/** What runs low somewhere, as the last look at it worked it out: never the truth itself. */
export const reorderProposal = mysqlTable(
  'reorder_proposal',
  {
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    /** Thousandths of a unit: to order, and what is free at the end of each day from `fromDay` on. */
    propose: bigint({ mode: 'number' }).notNull(),
    belowOn: dateColumn().notNull(),
    fromDay: dateColumn().notNull(),
    curve: jsonColumn<number[]>().notNull(),
    minimum: bigint({ mode: 'number' }).notNull(),
    maximum: bigint({ mode: 'number' }).notNull(),
    /** What work takes and what comes within these days. */
    needed: bigint({ mode: 'number' }).notNull(),
    coming: bigint({ mode: 'number' }).notNull(),
    leadDays: int().notNull(),
    madeAt: instantColumn().notNull(),
  },
  (t) => [primaryKey({ columns: [t.storeId, t.partId] }), index('reorder_proposal_day').on(t.belowOn, t.partId)],
);

/** Goods that went back to a supplier or maker, and what came of it. What went is in the moves of its act. */
export const supplierReturn = mysqlTable(
  'supplier_return',
  {
    id: rowId<SupplierReturnId>(),
    supplierId: reference<SupplierId>()
      .notNull()
      .references(() => supplier.id),
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    actId: reference<StoreActId>()
      .notNull()
      .references(() => storeAct.id),
    reason: mysqlEnum(RETURN_REASONS).notNull(),
    /** Their number for it, so that an answer finds it. */
    reference: varchar({ length: 60 }).notNull().default(''),
    stage: mysqlEnum(RETURN_STAGES).notNull(),
    /** Minor units: what it was worth when it left, what they gave for it, and the difference. */
    worth: bigint({ mode: 'number' }).notNull(),
    credit: bigint({ mode: 'number' }),
    variance: bigint({ mode: 'number' }).notNull().default(0),
    answer: varchar({ length: 200 }).notNull().default(''),
    answeredBy: reference<PersonId>(),
    answeredAt: instantColumn(),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('supplier_return_act').on(t.actId),
    index('supplier_return_stage').on(t.stage, t.id),
    index('supplier_return_supplier').on(t.supplierId, t.id),
  ],
);

/** How a store does, as the last look at all of them worked it out: never the truth itself. */
export const storeFigure = mysqlTable('store_figure', {
  storeId: reference<StoreId>()
    .primaryKey()
    .references(() => store.id),
  /** Minor units: what went out for orders in a year, and what lay there at its beginning. */
  takenWorth: bigint({ mode: 'number' }).notNull(),
  worthBefore: bigint({ mode: 'number' }).notNull(),
  value: bigint({ mode: 'number' }).notNull(),
  parts: int().notNull(),
  /** What nothing was taken of in a year. */
  deadValue: bigint({ mode: 'number' }).notNull(),
  deadParts: int().notNull(),
  madeAt: instantColumn().notNull(),
});

/** What lies in a store though nothing of it was taken in a year; the worth that is most first. */
export const deadStock = mysqlTable(
  'dead_stock',
  {
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    onHand: bigint({ mode: 'number' }).notNull(),
    value: bigint({ mode: 'number' }).notNull(),
    /** When the last of it came or went. */
    lastMovedAt: instantColumn(),
  },
  (t) => [primaryKey({ columns: [t.storeId, t.partId] }), index('dead_stock_value').on(t.value, t.storeId, t.partId)],
);
