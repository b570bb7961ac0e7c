// Meters of assets and their readings.
import { boolean, double, index, mysqlEnum, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { AssetId, ImportId, MeterId, MeterReadingId, PersonId } from '#core/ids.ts';
import { READING_SOURCES } from '#core/meters.ts';
import { instantColumn, reference, rowId } from '../platform/columns.ts';
import { asset } from '../assets/tables.ts';

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
    /** The count at which its counter begins at 0 by itself; null: it does not. */
    wrapsAt: double(),
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
