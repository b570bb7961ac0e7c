// The parts list, what of it was used on orders, and stores with what lies in them by its moves.
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
  AssetId,
  CountId,
  DepotId,
  NeedId,
  OrderId,
  OrderLineId,
  PartId,
  PersonId,
  PickId,
  PurchaseId,
  PurchaseLineId,
  StockMoveId,
  StoreActId,
  StoreId,
  TaxId,
  UsedPartId,
} from '#core/ids.ts';
import { MOVE_KINDS, STORE_ACTS, STORE_KINDS } from '#core/stores/index.ts';
import { asset } from '../assets/tables.ts';
import { depot } from '../depots/tables.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { orderLine } from '../orders/tables.ts';
import { person } from '../platform/tables.ts';
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
    /** For how many months one that was built in is warranted; 0: nobody promises anything. */
    warrantyMonths: int().notNull().default(0),
    /** Null: the standard one. */
    taxId: reference<TaxId>().references(() => tax.id),
    /** Not offered any more. */
    retired: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('part_number').on(t.number), index('part_name').on(t.name, t.id)],
);

/** What may be taken instead of a part. */
export const partAlternative = mysqlTable(
  'part_alternative',
  {
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    otherId: reference<PartId>()
      .notNull()
      .references(() => part.id),
  },
  (t) => [primaryKey({ columns: [t.partId, t.otherId] }), index('part_alternative_other').on(t.otherId)],
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
    /** The store it was taken from; null: from none of ours. */
    storeId: reference<StoreId>(),
    /** Null where the part is not kept by serial; a serial is used once. */
    serial: varchar({ length: 80 }),
    /** As the parts list had them when it was used; the cost of what came from a store by what it was worth there. */
    unitPrice: bigint({ mode: 'number' }).notNull(),
    unitCost: bigint({ mode: 'number' }).notNull(),
    personId: reference<PersonId>(),
    at: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    /** The machine of the register that it became. */
    assetId: reference<AssetId>().references(() => asset.id),
    version: int().notNull().default(1),
  },
  (t) => [
    index('used_part_order').on(t.orderId),
    index('used_part_line').on(t.orderLineId, t.serial),
    uniqueIndex('used_part_serial').on(t.partId, t.serial),
    uniqueIndex('used_part_request').on(t.requestKey),
  ],
);

export const store = mysqlTable(
  'store',
  {
    id: rowId<StoreId>(),
    name: varchar({ length: 80 }).notNull(),
    kind: mysqlEnum(STORE_KINDS).notNull(),
    /** Where it stands, or where its van belongs. */
    depotId: reference<DepotId>()
      .notNull()
      .references(() => depot.id),
    /** Whose van it is; a person has one. */
    personId: reference<PersonId>().references(() => person.id),
    /** Nothing comes in any more. */
    retired: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('store_name').on(t.name), uniqueIndex('store_person').on(t.personId)],
);

/** What lies in a store: derived from its moves in the transaction that appends them. */
export const stock = mysqlTable(
  'stock',
  {
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    /** Thousandths of a unit. */
    onHand: bigint({ mode: 'number' }).notNull(),
    reserved: bigint({ mode: 'number' }).notNull(),
    /** Minor units. */
    value: bigint({ mode: 'number' }).notNull(),
    /** Of one unit, in ten-thousandths of a minor unit; null: it never had one. */
    average: bigint({ mode: 'number' }),
    lastPrice: bigint({ mode: 'number' }),
  },
  (t) => [primaryKey({ columns: [t.storeId, t.partId] }), index('stock_part').on(t.partId, t.storeId, t.onHand)],
);

/** How a store keeps a part: where it lies, and between what and what it is kept. */
export const shelf = mysqlTable(
  'shelf',
  {
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    bin: varchar({ length: 40 }).notNull().default(''),
    /** Thousandths; null: it is not reordered by itself. */
    minimum: bigint({ mode: 'number' }),
    maximum: bigint({ mode: 'number' }),
    version: int().notNull().default(1),
  },
  (t) => [primaryKey({ columns: [t.storeId, t.partId] }), index('shelf_part').on(t.partId)],
);

/** Who waited for what was delivered. */
export type Served = {
  readonly orderId: OrderId;
  readonly partId: PartId;
  readonly number: string;
  readonly name: string;
  readonly thousandths: number;
};

/** One thing that somebody did to stock, once: a receipt of several parts, a transfer, a count. */
export const storeAct = mysqlTable(
  'store_act',
  {
    id: rowId<StoreActId>(),
    kind: mysqlEnum(STORE_ACTS).notNull(),
    personId: reference<PersonId>(),
    orderId: reference<OrderId>(),
    /** Why, or by what paper. */
    text: varchar({ length: 200 }).notNull().default(''),
    at: instantColumn().notNull(),
    /** The purchase order it was delivered on, and whom it served. */
    purchaseId: reference<PurchaseId>(),
    served: jsonColumn<Served[] | null>(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
  },
  (t) => [
    index('store_act_purchase').on(t.purchaseId),
    uniqueIndex('store_act_request').on(t.requestKey),
    index('store_act_order').on(t.orderId),
  ],
);

/** Moves are appended and never edited. */
export const stockMove = mysqlTable(
  'stock_move',
  {
    id: rowId<StockMoveId>(),
    actId: reference<StoreActId>()
      .notNull()
      .references(() => storeAct.id),
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    kind: mysqlEnum(MOVE_KINDS).notNull(),
    /** Thousandths and minor units, below zero what goes out. */
    thousandths: bigint({ mode: 'number' }).notNull(),
    money: bigint({ mode: 'number' }).notNull(),
    /** Paid for one unit where it was bought; what it was counted at where nothing else said its worth. */
    unitPrice: bigint({ mode: 'number' }),
    usedPartId: reference<UsedPartId>(),
    purchaseLineId: reference<PurchaseLineId>(),
  },
  (t) => [
    index('stock_move_shelf').on(t.storeId, t.partId, t.id),
    index('stock_move_part').on(t.partId, t.id),
    index('stock_move_used').on(t.usedPartId),
    index('stock_move_purchase').on(t.purchaseLineId),
  ],
);

/** Which units a move moved, of what is kept by serial. */
export const moveSerial = mysqlTable(
  'move_serial',
  {
    moveId: reference<StockMoveId>()
      .notNull()
      .references(() => stockMove.id),
    serial: varchar({ length: 80 }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.moveId, t.serial] }), index('move_serial_serial').on(t.serial)],
);

/** A unit of what is kept by serial: in one store at a time, or out. */
export const serialUnit = mysqlTable(
  'serial_unit',
  {
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    serial: varchar({ length: 80 }).notNull(),
    /** Null: it went out. */
    storeId: reference<StoreId>().references(() => store.id),
  },
  (t) => [primaryKey({ columns: [t.partId, t.serial] }), index('serial_unit_store').on(t.storeId, t.partId)],
);

/** What an order line asks for, once for each part; how much of it is held and used follows from the holds and the uses. */
export const partNeed = mysqlTable(
  'part_need',
  {
    id: rowId<NeedId>(),
    orderId: reference<OrderId>().notNull(),
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    /** Thousandths of a unit. */
    wanted: bigint({ mode: 'number' }).notNull(),
    used: bigint({ mode: 'number' }).notNull().default(0),
    held: bigint({ mode: 'number' }).notNull().default(0),
    /** What nobody has yet; 0 once the order is over. */
    open: bigint({ mode: 'number' }).notNull(),
    /** Why the work is planned without what is open, and who decided so. */
    anyway: varchar({ length: 200 }),
    anywayBy: reference<PersonId>(),
    /** Why it was not picked, or not all of it. */
    notPicked: varchar({ length: 200 }),
    askedAt: instantColumn().notNull(),
    /** The order is over: nothing is held for it any more. */
    over: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('part_need_line').on(t.orderLineId, t.partId),
    index('part_need_order').on(t.orderId),
    index('part_need_open').on(t.partId, t.open),
  ],
);

/** What a store holds for a need. */
export const stockHold = mysqlTable(
  'stock_hold',
  {
    needId: reference<NeedId>()
      .notNull()
      .references(() => partNeed.id),
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    partId: reference<PartId>().notNull(),
    thousandths: bigint({ mode: 'number' }).notNull(),
  },
  (t) => [primaryKey({ columns: [t.needId, t.storeId] }), index('stock_hold_shelf').on(t.storeId, t.partId)],
);

/** How stock is kept, for the whole house: one row. */
export const storeSetting = mysqlTable('store_setting', {
  id: int().primaryKey(),
  /** Work that waits for parts is planned all the same. */
  planWaiting: boolean().notNull(),
  /** Parts are held for work that is due within so many days. */
  holdDays: int().notNull(),
  /** Days between two looks at what is to be ordered. */
  reviewDays: int().notNull(),
  /** Minor units; an order above it is approved before it is sent. Null: none is. */
  approvalLimit: bigint({ mode: 'number' }),
  version: int().notNull().default(1),
});

/** What was picked for a need and where it went: what of it is not used once the order is over comes back. */
export const pickLine = mysqlTable(
  'pick_line',
  {
    id: rowId<PickId>(),
    actId: reference<StoreActId>()
      .notNull()
      .references(() => storeAct.id),
    needId: reference<NeedId>()
      .notNull()
      .references(() => partNeed.id),
    orderId: reference<OrderId>().notNull(),
    partId: reference<PartId>().notNull(),
    fromId: reference<StoreId>().notNull(),
    toId: reference<StoreId>().notNull(),
    thousandths: bigint({ mode: 'number' }).notNull(),
    /** Brought back so far. */
    back: bigint({ mode: 'number' }).notNull().default(0),
  },
  (t) => [index('pick_line_need').on(t.needId), index('pick_line_from').on(t.fromId, t.orderId)],
);

/** A count of a store or of a part of it: lines are counted one by one while work goes on, and approved together. */
export const stockCount = mysqlTable(
  'stock_count',
  {
    id: rowId<CountId>(),
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    state: mysqlEnum(['open', 'approved', 'called off']).notNull(),
    /** What of the store is counted, in words. */
    what: varchar({ length: 120 }).notNull(),
    startedBy: reference<PersonId>().notNull(),
    startedAt: instantColumn().notNull(),
    endedBy: reference<PersonId>(),
    endedAt: instantColumn(),
    requestKey: varchar({ length: 60 }).notNull(),
    requestContent: varchar({ length: 64 }).notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('stock_count_request').on(t.requestKey), index('stock_count_store').on(t.storeId, t.id)],
);

export const countLine = mysqlTable(
  'count_line',
  {
    countId: reference<CountId>()
      .notNull()
      .references(() => stockCount.id),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    /** The store while the count is open: a part of it is in one count at a time. */
    openAt: reference<StoreId>(),
    /** Thousandths that should have been there at the instant it was counted; null: it is not counted yet. */
    expected: bigint({ mode: 'number' }),
    counted: bigint({ mode: 'number' }),
    missing: jsonColumn<string[] | null>(),
    found: jsonColumn<string[] | null>(),
    countedBy: reference<PersonId>(),
    countedAt: instantColumn(),
    version: int().notNull().default(1),
  },
  (t) => [
    primaryKey({ columns: [t.countId, t.partId] }),
    uniqueIndex('count_line_open').on(t.openAt, t.partId),
    index('count_line_part').on(t.partId, t.countedAt),
  ],
);
