// Customers, places, assets and their events.
import {
  bigint,
  boolean,
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
import { ASSET_EVENT_KINDS, ASSET_STATES, READING_SOURCES, WAYS_TO_TELL } from '#core/register/index.ts';
import type {
  AssetClassId,
  AssetId,
  AssetModelId,
  CalendarId,
  ClassFormId,
  ContactId,
  CustomerId,
  CustomerNoteId,
  ImportId,
  JobPlanId,
  LocationId,
  MeterId,
  MeterReadingId,
  PersonId,
} from '#core/ids.ts';
import type { FormQuestion, OrderKind } from '#core/orders/index.ts';
import type { Zone } from '#core/time/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from './columns.ts';
import { assetClass, calendar, jobPlan, person } from './setup.ts';

export const customer = mysqlTable(
  'customer',
  {
    id: rowId<CustomerId>(),
    name: varchar({ length: 120 }).notNull(),
    serviceAddress: varchar({ length: 300 }),
    /** Credit terms: days to pay and the most that may be open, in minor units; `overSince` while they are broken. */
    creditDays: int(),
    creditLimit: bigint({ mode: 'number' }),
    creditCurrency: varchar({ length: 3 }).notNull().default('EUR'),
    overSince: dateColumn(),
    importId: reference<ImportId>(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('customer_name').on(t.name), index('customer_import').on(t.importId)],
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
    calendarId: reference<CalendarId>().references(() => calendar.id),
    accessNote: varchar({ length: 1000 }),
    retiredOn: dateColumn(),
    /** Ids from the top down to this node, "/1/5/9/": a subtree is a prefix. */
    path: varchar({ length: 160 }).notNull(),
    /** Names from the top joined by " > ", as imported and shown. */
    fullName: varchar({ length: 760 }).notNull(),
    importId: reference<ImportId>(),
    version: int().notNull().default(1),
  },
  (t) => [
    index('location_parent').on(t.parentId),
    index('location_path').on(t.path),
    index('location_full_name').on(t.fullName),
    index('location_name').on(t.name),
    index('location_import').on(t.importId),
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
  },
  (t) => [index('asset_event_asset').on(t.assetId, t.at)],
);

/** Somebody at the customer, and how they want to be told. */
export const contact = mysqlTable(
  'contact',
  {
    id: rowId<ContactId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    name: varchar({ length: 120 }).notNull(),
    role: varchar({ length: 120 }),
    email: varchar({ length: 200 }),
    phone: varchar({ length: 60 }),
    preferred: mysqlEnum(WAYS_TO_TELL).notNull(),
    importId: reference<ImportId>(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('contact_customer').on(t.customerId, t.name), index('contact_import').on(t.importId)],
);

/** What to know about a customer; `popsUp` shows it whenever an order is raised. */
export const customerNote = mysqlTable(
  'customer_note',
  {
    id: rowId<CustomerNoteId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    text: varchar({ length: 1000 }).notNull(),
    popsUp: boolean().notNull(),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
  },
  (t) => [index('customer_note_customer').on(t.customerId)],
);

/** Technicians a customer wants or does not want to see. */
export const technicianWish = mysqlTable(
  'technician_wish',
  {
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    wish: mysqlEnum(['preferred', 'blocked']).notNull(),
  },
  (t) => [primaryKey({ columns: [t.customerId, t.personId] })],
);

/** The catalogue: what a maker’s model is, and the warranty it comes with. An asset belongs to it by maker and model. */
export const assetModel = mysqlTable(
  'asset_model',
  {
    id: rowId<AssetModelId>(),
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    maker: varchar({ length: 120 }).notNull(),
    name: varchar({ length: 120 }).notNull(),
    warrantyMonths: int().notNull().default(0),
    warrantyLabour: int().notNull().default(100),
    warrantyParts: int().notNull().default(100),
    warrantyTravel: int().notNull().default(100),
    warrantyVisits: int().notNull().default(0),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('asset_model_name').on(t.maker, t.name), index('asset_model_class').on(t.classId)],
);

export const classJobPlan = mysqlTable(
  'asset_class_job_plan',
  {
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    jobPlanId: reference<JobPlanId>()
      .notNull()
      .references(() => jobPlan.id),
  },
  (t) => [primaryKey({ columns: [t.classId, t.jobPlanId] })],
);

/** The meters machines of a class have; `channel` names the device channel that counts the same. */
export const classMeter = mysqlTable(
  'asset_class_meter',
  {
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    name: varchar({ length: 60 }).notNull(),
    unit: varchar({ length: 20 }).notNull(),
    channel: varchar({ length: 60 }),
  },
  (t) => [primaryKey({ columns: [t.classId, t.name] })],
);

/** A form of a class: asked on orders of these kinds, each order with the questions as they stood when it was raised. */
export const classForm = mysqlTable(
  'asset_class_form',
  {
    id: rowId<ClassFormId>(),
    classId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    name: varchar({ length: 120 }).notNull(),
    kinds: jsonColumn<OrderKind[]>().notNull(),
    questions: jsonColumn<FormQuestion[]>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('asset_class_form_name').on(t.classId, t.name)],
);

export const meter = mysqlTable(
  'meter',
  {
    id: rowId<MeterId>(),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    name: varchar({ length: 60 }).notNull(),
    unit: varchar({ length: 20 }).notNull(),
    channel: varchar({ length: 60 }),
    importId: reference<ImportId>(),
  },
  (t) => [uniqueIndex('meter_asset').on(t.assetId, t.name), index('meter_import').on(t.importId)],
);

/** Readings are never changed: a wrong one is struck out and stays. */
export const meterReading = mysqlTable(
  'meter_reading',
  {
    id: rowId<MeterReadingId>(),
    meterId: reference<MeterId>()
      .notNull()
      .references(() => meter.id),
    at: instantColumn().notNull(),
    value: double().notNull(),
    source: mysqlEnum(READING_SOURCES).notNull(),
    /** Begins the counter anew: the meter was replaced or reset. */
    anew: mysqlEnum(['meter replaced', 'meter reset']),
    struckOut: boolean().notNull().default(false),
    personId: reference<PersonId>(),
    importId: reference<ImportId>(),
  },
  (t) => [index('meter_reading_meter').on(t.meterId, t.at), index('meter_reading_import').on(t.importId)],
);
