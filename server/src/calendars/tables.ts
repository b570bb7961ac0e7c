// Calendars.
import { int, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { ClosedDay, ExtraOpenDay, OpeningSpan, PastOpening } from '#core/calendars/index.ts';
import type { CalendarId } from '#core/ids.ts';
import type { Zone } from '#core/time/index.ts';
import { jsonColumn, rowId } from '../platform/columns.ts';

export const calendar = mysqlTable(
  'calendar',
  {
    id: rowId<CalendarId>(),
    name: varchar({ length: 120 }).notNull(),
    zone: varchar({ length: 60 }).notNull().$type<Zone>(),
    weekly: jsonColumn<OpeningSpan[][]>().notNull(),
    closed: jsonColumn<ClosedDay[]>().notNull(),
    extraOpen: jsonColumn<ExtraOpenDay[]>().notNull(),
    /** What it was up to some day each, so that what was promised before keeps to it. */
    past: jsonColumn<PastOpening[] | null>(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('calendar_name').on(t.name)],
);
