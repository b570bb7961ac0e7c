// Agreements: header, events, coverage, versions, types, contacts, notices.
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
import type {
  AgreementId,
  AgreementTypeId,
  AmendmentId,
  AssetClassId,
  AssetId,
  ContactId,
  CoverageLineId,
  CustomerId,
  ImportId,
  LocationId,
  NoticeId,
  PersonId,
  ServiceLevelId,
} from '#core/ids.ts';
import type { OrderKind } from '#core/orders/index.ts';
import {
  BILLING_PERIODS,
  BILLING_TIMINGS,
  RENEWAL_MODES,
  type AgreementTypeTerms,
  type Indexation,
} from '#core/agreements/index.ts';
import type { Cause, Discount, LabourHours } from '#core/entitlement/index.ts';
import type { Currency } from '#core/money.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { person } from '../platform/tables.ts';
import { serviceLevel } from '../service-levels/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer, contact } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';

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
    suspendedBilling: boolean().notNull().default(false),
    /** The day it ended before its term did: nothing is billed from the day after. */
    endedOn: dateColumn(),
    /** Work under it is not done before the customer signed for it, or it was said why not. */
    signOff: boolean().notNull().default(false),
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

/** From the day it was suspended to the day it went on; null: it still is. */
export const agreementSuspension = mysqlTable(
  'agreement_suspension',
  {
    id: rowId<number>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    fromDay: dateColumn().notNull(),
    resumedOn: dateColumn(),
  },
  (t) => [index('agreement_suspension_agreement').on(t.agreementId)],
);

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
