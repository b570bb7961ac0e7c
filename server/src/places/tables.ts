// Places and who shares them.
import { double, foreignKey, index, int, mysqlTable, primaryKey, varchar } from 'drizzle-orm/mysql-core';
import type { CalendarId, CustomerId, DepotId, ImportId, LocationId } from '#core/ids.ts';
import type { Zone } from '#core/time/index.ts';
import { dateColumn, reference, rowId } from '../platform/columns.ts';
import { calendar } from '../calendars/tables.ts';
import { customer } from '../customers/tables.ts';
import { depot } from '../depots/tables.ts';

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
    /** Whose technicians come here. */
    depotId: reference<DepotId>().references(() => depot.id),
    /** Visits below that fall due within so many days of the first make one order; 0: none; null: as above. */
    joinDays: int(),
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
    index('location_join').on(t.joinDays),
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
