// Agreements, coverage lines, maintenance schedules and visits.
import {
  bigint,
  boolean,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  text,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import {
  BILLING_PERIODS,
  BILLING_TIMINGS,
  RENEWAL_MODES,
  type AgreementTypeTerms,
  type Indexation,
} from '#core/agreements/index.ts';
import { WORKING_DAY_CONVENTIONS } from '#core/calendars/index.ts';
import {
  ALLOWANCE_PERIODS,
  ALLOWANCE_UNITS,
  type Cause,
  type Discount,
  type LabourHours,
} from '#core/entitlement/index.ts';
import type {
  AgreementId,
  AgreementTypeId,
  AllowanceId,
  AmendmentId,
  AssetClassId,
  AssetId,
  CalendarId,
  ContactId,
  CoverageLineId,
  CustomerId,
  ImportId,
  JobPlanId,
  LocationId,
  NoticeId,
  OrderId,
  PersonId,
  ScheduleId,
  ServiceLevelId,
  VisitId,
} from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import type { OrderKind } from '#core/orders/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from './columns.ts';
import { asset, contact, customer, location } from './register.ts';
import { assetClass, calendar, jobPlan, person, serviceLevel } from './setup.ts';

export const agreement = mysqlTable(
  'agreement',
  {
    id: rowId<AgreementId>(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    /** By the provider’s scheme, or given by hand. */
    number: varchar({ length: 40 }).notNull(),
    name: varchar({ length: 120 }).notNull(),
    stage: mysqlEnum(['draft', 'in force', 'suspended', 'ended']).notNull().default('draft'),
    termFrom: dateColumn().notNull(),
    termTo: dateColumn(),
    noticeDays: int().notNull().default(0),
    noticeBy: dateColumn(),
    reminder: text().notNull(),
    renewalMode: mysqlEnum(RENEWAL_MODES).notNull().default('to be renegotiated'),
    renewalMonths: int().notNull().default(12),
    /** What was decided about the end of the present term. */
    renewalDecision: mysqlEnum(['accepted', 'declined']),
    managerId: reference<PersonId>().references(() => person.id),
    costCentre: varchar({ length: 40 }).notNull().default(''),
    currency: varchar({ length: 3 }).notNull().default('EUR').$type<Currency>(),
    /** Price of the whole for a full billing period, in minor units; null where lines have their own or none is agreed. */
    priceMinor: bigint({ mode: 'number' }),
    billingPer: mysqlEnum(BILLING_PERIODS).notNull().default('month'),
    billingTiming: mysqlEnum(BILLING_TIMINGS).notNull().default('in advance'),
    indexation: jsonColumn<Indexation | null>(),
    /** What goes on while it is suspended. */
    suspendedCover: boolean().notNull().default(false),
    suspendedVisits: boolean().notNull().default(false),
    requestKey: varchar({ length: 60 }),
    /** What was asked with the key, hashed. */
    requestContent: varchar({ length: 64 }),
    importId: reference<ImportId>(),
    /** The type it began from, whose terms its first lines are offered. */
    typeId: reference<AgreementTypeId>(),
    version: int().notNull().default(1),
  },
  (t) => [
    index('agreement_customer').on(t.customerId),
    index('agreement_stage').on(t.stage, t.noticeBy),
    uniqueIndex('agreement_request').on(t.requestKey),
    uniqueIndex('agreement_number').on(t.number),
    index('agreement_import').on(t.importId),
  ],
);

/** The provider’s scheme of numbers, one row; its lock makes new numbers follow each other. */
export const agreementNumbering = mysqlTable('agreement_numbering', {
  id: int().primaryKey(),
  pattern: varchar({ length: 30 }).notNull(),
  next: int({ unsigned: true }).notNull(),
  version: int().notNull().default(1),
});

/** What an account manager is told before an agreement renews by itself: once for each notice date, until it is seen. */
export const agreementNotice = mysqlTable(
  'agreement_notice',
  {
    id: rowId<NoticeId>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    noticeBy: dateColumn().notNull(),
    text: varchar({ length: 300 }).notNull(),
    at: instantColumn().notNull(),
    seenAt: instantColumn(),
  },
  (t) => [
    uniqueIndex('agreement_notice_date').on(t.agreementId, t.noticeBy),
    index('agreement_notice_person').on(t.personId, t.seenAt),
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

/** One line reaches one asset, everything below a location, a class at the customer or the own fleet there: exactly one of the four is set. Lines in force are never changed: an amendment ends one and begins another. */
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
    ownFleet: boolean().notNull().default(false),
    labour: int().notNull(),
    parts: int().notNull(),
    consumables: int().notNull().default(0),
    travel: int().notNull(),
    serviceLevelId: reference<ServiceLevelId>().references(() => serviceLevel.id),
    kinds: jsonColumn<OrderKind[]>().notNull(),
    excludedCauses: jsonColumn<Cause[]>().notNull(),
    /** Null stands for none in the four below. */
    excludedParts: jsonColumn<string[] | null>(),
    discounts: jsonColumn<Discount[] | null>(),
    hours: jsonColumn<LabourHours | null>(),
    priceMinor: bigint({ mode: 'number' }),
    /** The line this one goes on from after an amendment; null for the first of its kind. */
    rootId: reference<CoverageLineId>(),
    /** The amendment that brought this line, and the one that ended it. */
    amendmentId: reference<AmendmentId>(),
    endedById: reference<AmendmentId>(),
  },
  (t) => [
    index('coverage_line_agreement').on(t.agreementId),
    index('coverage_line_asset').on(t.assetId),
    index('coverage_line_location').on(t.locationId),
    index('coverage_line_class').on(t.assetClassId),
  ],
);

/** A change that holds from a day on; the header as it stood from then is kept with it. Number 0 is the agreement as first put in force. */
export const agreementAmendment = mysqlTable(
  'agreement_amendment',
  {
    id: rowId<AmendmentId>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    number: int().notNull(),
    holdsFrom: dateColumn().notNull(),
    reason: text().notNull(),
    /** The header in words, for people to compare. */
    header: jsonColumn<Readonly<Record<string, string>>>().notNull(),
    /** Price of the whole from that day on, in minor units. */
    priceMinor: bigint({ mode: 'number' }),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
  },
  (t) => [uniqueIndex('agreement_amendment_number').on(t.agreementId, t.number)],
);

/** A counted right of an agreement: hours in minutes, visits and call-outs one by one. */
export const allowance = mysqlTable(
  'allowance',
  {
    id: rowId<AllowanceId>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    unit: mysqlEnum(ALLOWANCE_UNITS).notNull(),
    amount: int().notNull(),
    period: mysqlEnum(ALLOWANCE_PERIODS).notNull(),
    carriesOver: boolean().notNull().default(false),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('allowance_unit').on(t.agreementId, t.unit)],
);

/** What an order took from an allowance, or from the free visits of an asset’s warranty; given back when the order is called off. */
export const allowanceDraw = mysqlTable(
  'allowance_draw',
  {
    id: rowId<number>(),
    allowanceId: reference<AllowanceId>().references(() => allowance.id),
    warrantyAssetId: reference<AssetId>().references(() => asset.id),
    orderId: reference<OrderId>().notNull(),
    drawnOn: dateColumn().notNull(),
    amount: int().notNull(),
    at: instantColumn().notNull(),
    returnedAt: instantColumn(),
  },
  (t) => [
    uniqueIndex('allowance_draw_once').on(t.orderId, t.allowanceId),
    uniqueIndex('allowance_draw_warranty_once').on(t.orderId, t.warrantyAssetId),
    index('allowance_draw_allowance').on(t.allowanceId, t.drawnOn),
    index('allowance_draw_warranty').on(t.warrantyAssetId, t.drawnOn),
  ],
);

/** The provider’s own kinds of agreement: what a new one is filled with, all of it still to be changed. */
export const agreementType = mysqlTable(
  'agreement_type',
  {
    id: rowId<AgreementTypeId>(),
    name: varchar({ length: 120 }).notNull(),
    terms: jsonColumn<AgreementTypeTerms>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('agreement_type_name').on(t.name)],
);

export const agreementContact = mysqlTable(
  'agreement_contact',
  {
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    contactId: reference<ContactId>()
      .notNull()
      .references(() => contact.id),
  },
  (t) => [primaryKey({ columns: [t.agreementId, t.contactId] }), index('agreement_contact_contact').on(t.contactId)],
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
