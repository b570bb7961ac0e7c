// Agreements, coverage lines, maintenance schedules and visits.
import { index, int, mysqlEnum, mysqlTable, text, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import { WORKING_DAY_CONVENTIONS } from '#core/calendars/index.ts';
import type { Cause } from '#core/entitlement/index.ts';
import type {
  AgreementId,
  AssetClassId,
  AssetId,
  CalendarId,
  CoverageLineId,
  CustomerId,
  JobPlanId,
  LocationId,
  OrderId,
  PersonId,
  ScheduleId,
  ServiceLevelId,
  VisitId,
} from '#core/ids.ts';
import type { OrderKind } from '#core/orders/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from './columns.ts';
import { asset, customer, location } from './register.ts';
import { assetClass, calendar, jobPlan, serviceLevel } from './setup.ts';

export const agreement = mysqlTable(
  'agreement',
  {
    id: rowId<AgreementId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    name: varchar({ length: 120 }).notNull(),
    stage: mysqlEnum(['draft', 'in force', 'suspended', 'ended']).notNull().default('draft'),
    termFrom: dateColumn().notNull(),
    termTo: dateColumn(),
    noticeDays: int().notNull().default(0),
    noticeBy: dateColumn(),
    reminder: text().notNull(),
    requestKey: varchar({ length: 60 }),
    version: int().notNull().default(1),
  },
  (t) => [
    index('agreement_customer').on(t.customerId),
    index('agreement_stage').on(t.stage, t.noticeBy),
    uniqueIndex('agreement_request').on(t.requestKey),
  ],
);

export const agreementEvent = mysqlTable(
  'agreement_event',
  {
    id: rowId<number>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
    text: text().notNull(),
  },
  (t) => [index('agreement_event_agreement').on(t.agreementId, t.at)],
);

/** One line reaches one asset, everything below a location, or a class at the customer: exactly one of the three is set. */
export const coverageLine = mysqlTable(
  'coverage_line',
  {
    id: rowId<CoverageLineId>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    assetId: reference<AssetId>().references(() => asset.id),
    locationId: reference<LocationId>().references(() => location.id),
    assetClassId: reference<AssetClassId>().references(() => assetClass.id),
    termFrom: dateColumn().notNull(),
    termTo: dateColumn(),
    labour: int().notNull(),
    parts: int().notNull(),
    travel: int().notNull(),
    serviceLevelId: reference<ServiceLevelId>().references(() => serviceLevel.id),
    kinds: jsonColumn<OrderKind[]>().notNull(),
    excludedCauses: jsonColumn<Cause[]>().notNull(),
  },
  (t) => [
    index('coverage_line_agreement').on(t.agreementId),
    index('coverage_line_asset').on(t.assetId),
    index('coverage_line_location').on(t.locationId),
    index('coverage_line_class').on(t.assetClassId),
  ],
);

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
