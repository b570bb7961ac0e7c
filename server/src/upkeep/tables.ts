// Schedules and visits.
import { index, int, mysqlEnum, mysqlTable, text, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type {
  CustomerId,
  AgreementId,
  AssetId,
  CalendarId,
  JobPlanId,
  OrderId,
  ScheduleId,
  VisitId,
} from '#core/ids.ts';
import { WORKING_DAY_CONVENTIONS } from '#core/calendars/index.ts';
import { dateColumn, reference, rowId } from '../platform/columns.ts';
import { calendar } from '../calendars/tables.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';

export const schedule = mysqlTable(
  'schedule',
  {
    id: rowId<ScheduleId>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    jobPlanId: reference<JobPlanId>()
      .notNull()
      .references(() => jobPlan.id),
    rule: varchar({ length: 400 }).notNull(),
    anchor: dateColumn().notNull(),
    convention: mysqlEnum(WORKING_DAY_CONVENTIONS).notNull(),
    calendarId: reference<CalendarId>().references(() => calendar.id),
    earlyDays: int().notNull(),
    lateDays: int().notNull(),
    leadDays: int().notNull(),
    leadUnit: mysqlEnum(['calendar days', 'working days']).notNull(),
    /** Where a machine was swapped out or in: the first and last nominal date that is owed by this one; null: as the agreement says. */
    holdsFrom: dateColumn(),
    holdsTo: dateColumn(),
  },
  (t) => [index('schedule_agreement').on(t.agreementId), index('schedule_asset').on(t.assetId)],
);

/** A visit is identified by schedule, nominal date and part: the unique key that makes raising exactly once. */
export const visit = mysqlTable(
  'visit',
  {
    id: rowId<VisitId>(),
    scheduleId: reference<ScheduleId>()
      .notNull()
      .references(() => schedule.id),
    nominal: dateColumn().notNull(),
    part: int().notNull().default(1),
    assetId: reference<AssetId>().notNull(),
    agreementId: reference<AgreementId>().notNull(),
    due: dateColumn().notNull(),
    windowFrom: dateColumn().notNull(),
    windowTo: dateColumn().notNull(),
    state: mysqlEnum(['held', 'raised', 'declined', 'absorbed', 'called off']).notNull(),
    holdReason: text(),
    claim: varchar({ length: 40 }),
    orderId: reference<OrderId>(),
    completedOn: dateColumn(),
  },
  (t) => [
    uniqueIndex('visit_identity').on(t.scheduleId, t.nominal, t.part),
    index('visit_asset').on(t.assetId, t.due),
    index('visit_agreement').on(t.agreementId, t.windowTo),
    index('visit_window').on(t.state, t.completedOn, t.windowTo),
    index('visit_claim').on(t.claim),
    index('visit_order').on(t.orderId),
  ],
);

/** What a schedule would raise on a day, and when it next does; worked out beside requests, never the truth itself. */
export const outlook = mysqlTable(
  'outlook',
  {
    scheduleId: int({ unsigned: true }).primaryKey().$type<ScheduleId>(),
    /** Whose agreement it is, where something needs action. */
    customerId: int({ unsigned: true }).$type<CustomerId>(),
    asOf: dateColumn().notNull(),
    toRaise: int().notNull(),
    held: int().notNull(),
    nextRaise: dateColumn(),
    careReason: varchar({ length: 500 }),
  },
  // Of most schedules there is nothing to say: each question reads only those of which there is.
  (t) => [
    index('outlook_to_raise').on(t.toRaise),
    index('outlook_held').on(t.held),
    index('outlook_next').on(t.nextRaise, t.asOf),
    index('outlook_care').on(t.careReason, t.customerId),
  ],
);
