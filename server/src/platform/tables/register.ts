// Customers, places, assets and their events.
import {
  double,
  foreignKey,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  text,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { ASSET_STATES } from '#api/asset-states.ts';
import type { AssetClassId, AssetId, CustomerId, LocationId, PersonId } from '#core/ids.ts';
import type { Zone } from '#core/time/index.ts';
import { dateColumn, instantColumn, reference, rowId } from './columns.ts';
import { assetClass } from './setup.ts';

export const customer = mysqlTable(
  'customer',
  {
    id: rowId<CustomerId>(),
    name: varchar({ length: 120 }).notNull(),
    serviceAddress: varchar({ length: 300 }),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('customer_name').on(t.name)],
);

export const location = mysqlTable(
  'location',
  {
    id: rowId<LocationId>(),
    parentId: reference<LocationId>(),
    name: varchar({ length: 120 }).notNull(),
    address: varchar({ length: 300 }),
    zone: varchar({ length: 60 }).$type<Zone>(),
    latitude: double(),
    longitude: double(),
    /** Ids from the top down to this node, "/1/5/9/": a subtree is a prefix. */
    path: varchar({ length: 160 }).notNull(),
    /** Names from the top joined by " > ", as imported and shown. */
    fullName: varchar({ length: 760 }).notNull(),
    version: int().notNull().default(1),
  },
  (t) => [
    index('location_parent').on(t.parentId),
    index('location_path').on(t.path),
    index('location_full_name').on(t.fullName),
    index('location_name').on(t.name),
    foreignKey({ columns: [t.parentId], foreignColumns: [t.id], name: 'location_parent_fk' }),
  ],
);

/** Which customers may use a place and everything below it. */
export const locationShare = mysqlTable(
  'location_share',
  {
    locationId: reference<LocationId>()
      .notNull()
      .references(() => location.id),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
  },
  (t) => [primaryKey({ columns: [t.customerId, t.locationId] }), index('location_share_location').on(t.locationId)],
);

export const asset = mysqlTable(
  'asset',
  {
    id: rowId<AssetId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    locationId: reference<LocationId>().references(() => location.id),
    parentId: reference<AssetId>(),
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    maker: varchar({ length: 120 }).notNull(),
    model: varchar({ length: 120 }).notNull(),
    serial: varchar({ length: 120 }).notNull(),
    tag: varchar({ length: 120 }).notNull(),
    /** Serial without dashes and spaces, for callers who leave them out. */
    serialPlain: varchar({ length: 120 }).notNull(),
    owner: mysqlEnum(['customer', 'own fleet']).notNull(),
    state: mysqlEnum(ASSET_STATES).notNull().default('in service'),
    commissioned: dateColumn(),
    warrantyUntil: dateColumn(),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('asset_serial').on(t.maker, t.serial),
    uniqueIndex('asset_tag').on(t.tag),
    index('asset_customer').on(t.customerId, t.tag),
    index('asset_location').on(t.locationId),
    index('asset_class').on(t.classId, t.customerId),
    index('asset_serial_plain').on(t.serialPlain),
    index('asset_parent').on(t.parentId),
    foreignKey({ columns: [t.parentId], foreignColumns: [t.id], name: 'asset_parent_fk' }),
  ],
);

export const assetEvent = mysqlTable(
  'asset_event',
  {
    id: rowId<number>(),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    kind: mysqlEnum(['registered', 'changed', 'retired']).notNull(),
    at: instantColumn().notNull(),
    recordedAt: instantColumn().notNull(),
    personId: reference<PersonId>(),
    text: text().notNull(),
  },
  (t) => [index('asset_event_asset').on(t.assetId, t.at)],
);
