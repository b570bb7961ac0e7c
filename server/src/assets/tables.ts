// Assets: where they stood, what happened, meters and readings, files.
import {
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
import { FILE_SUBJECTS } from '#api/files.ts';
import type { AssetClassId, AssetId, AttachmentId, CustomerId, ImportId, LocationId, PersonId } from '#core/ids.ts';
import { ASSET_EVENT_KINDS, ASSET_STATES, type AssetFact } from '#core/assets/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { fileContent } from '../platform/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';

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
    /** Since when a machine of the own fleet stands at its customer. */
    rentedSince: dateColumn(),
    warrantyFrom: dateColumn(),
    warrantyUntil: dateColumn(),
    warrantyLabour: int().notNull().default(100),
    warrantyParts: int().notNull().default(100),
    warrantyTravel: int().notNull().default(100),
    warrantyVisits: int().notNull().default(0),
    importId: reference<ImportId>(),
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
    index('asset_import').on(t.importId),
    index('asset_model').on(t.maker, t.model),
    index('asset_warranty').on(t.warrantyUntil),
    foreignKey({ columns: [t.parentId], foreignColumns: [t.id], name: 'asset_parent_fk' }),
  ],
);

/** Where an asset stood, and for whom, until a day (that day excluded); where it stands since the last of them is its own row. */
export const assetPastStay = mysqlTable(
  'asset_past_stay',
  {
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    until: dateColumn().notNull(),
    locationId: reference<LocationId>().references(() => location.id),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.until] }), index('asset_past_stay_location').on(t.locationId)],
);

export const assetEvent = mysqlTable(
  'asset_event',
  {
    id: rowId<number>(),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    kind: mysqlEnum(ASSET_EVENT_KINDS).notNull(),
    at: instantColumn().notNull(),
    recordedAt: instantColumn().notNull(),
    personId: reference<PersonId>(),
    text: text().notNull(),
    /** What follows for the asset’s row; null where nothing does. */
    fact: jsonColumn<AssetFact<AssetId, LocationId, CustomerId> | null>(),
  },
  (t) => [index('asset_event_asset').on(t.assetId, t.at)],
);

export const attachment = mysqlTable(
  'attachment',
  {
    id: rowId<AttachmentId>(),
    subject: mysqlEnum(FILE_SUBJECTS).notNull(),
    subjectId: int({ unsigned: true }).notNull(),
    name: varchar({ length: 200 }).notNull(),
    sha256: varchar({ length: 64 })
      .notNull()
      .references(() => fileContent.sha256),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
  },
  (t) => [
    uniqueIndex('attachment_subject').on(t.subject, t.subjectId, t.name),
    index('attachment_content').on(t.sha256),
  ],
);
