// Service levels and what they held before.
import { int, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { ServiceLevelId } from '#core/ids.ts';
import type { PauseReason, Pledge, ServiceLevel } from '#core/service-levels/index.ts';
import { dateColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';

export const serviceLevel = mysqlTable(
  'service_level',
  {
    id: rowId<ServiceLevelId>(),
    name: varchar({ length: 120 }).notNull(),
    targets: jsonColumn<ServiceLevel['targets']>().notNull(),
    pauses: jsonColumn<PauseReason[]>().notNull(),
    pledge: jsonColumn<Pledge | null>(),
    /** The first day on which these targets hold; null when they always did. */
    holdsFrom: dateColumn(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('service_level_name').on(t.name)],
);

/** What a service level promised before it was changed: orders raised until that day keep to it. */
export const serviceLevelPast = mysqlTable(
  'service_level_past',
  {
    serviceLevelId: reference<ServiceLevelId>()
      .notNull()
      .references(() => serviceLevel.id),
    heldUntil: dateColumn().notNull(),
    targets: jsonColumn<ServiceLevel['targets']>().notNull(),
    pauses: jsonColumn<PauseReason[]>().notNull(),
    pledge: jsonColumn<Pledge | null>(),
  },
  (t) => [primaryKey({ columns: [t.serviceLevelId, t.heldUntil] })],
);
