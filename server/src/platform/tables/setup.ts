// People, sessions, audit, and the reference data that other rooms name.
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
import { ROLES } from '#api/shapes.ts';
import type { ClosedDay, ExtraOpenDay, OpeningSpan } from '#core/calendars/index.ts';
import type { AssetClassId, CalendarId, GatewayId, JobPlanId, PersonId, ServiceLevelId } from '#core/ids.ts';
import type { PauseReason, Pledge, ServiceLevel } from '#core/service-levels/index.ts';
import type { Zone } from '#core/time/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from './columns.ts';

export const person = mysqlTable(
  'person',
  {
    id: rowId<PersonId>(),
    email: varchar({ length: 200 }).notNull(),
    name: varchar({ length: 120 }).notNull(),
    role: mysqlEnum(ROLES).notNull(),
    zone: varchar({ length: 60 }).notNull().$type<Zone>(),
    passwordHash: varchar({ length: 200 }).notNull(),
    active: boolean().notNull().default(true),
    createdAt: instantColumn().notNull(),
    version: int({ unsigned: true }).notNull().default(1),
  },
  (t) => [uniqueIndex('person_email').on(t.email), index('person_role').on(t.role, t.name)],
);

/** Tries to sign in since the last good one, by account and address together (hashed). */
export const signInTry = mysqlTable(
  'sign_in_try',
  {
    id: varchar({ length: 64 }).primaryKey(),
    tries: int().notNull(),
    lastAt: instantColumn().notNull(),
  },
  (t) => [index('sign_in_try_last').on(t.lastAt)],
);

export const session = mysqlTable(
  'session',
  {
    id: varchar({ length: 64 }).primaryKey(),
    personId: reference<PersonId>(),
    data: jsonColumn<Record<string, unknown>>().notNull(),
    expiresAt: instantColumn().notNull(),
  },
  (t) => [index('session_expiry').on(t.expiresAt), index('session_person').on(t.personId)],
);

/** Who changed what, when; written in the transaction of the change. */
export const audit = mysqlTable(
  'audit',
  {
    id: bigint({ mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
    subject: varchar({ length: 40 }).notNull(),
    subjectId: int({ unsigned: true }).notNull(),
    text: text().notNull(),
  },
  (t) => [index('audit_subject').on(t.subject, t.subjectId, t.at)],
);

/** Outbox: which views a committed change touches. Servers read it and tell open screens. */
export const change = mysqlTable(
  'change_notice',
  {
    id: bigint({ mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    at: instantColumn().notNull(),
    tags: jsonColumn<string[]>().notNull(),
  },
  (t) => [index('change_notice_at').on(t.at)],
);

export const calendar = mysqlTable(
  'calendar',
  {
    id: rowId<CalendarId>(),
    name: varchar({ length: 120 }).notNull(),
    zone: varchar({ length: 60 }).notNull().$type<Zone>(),
    weekly: jsonColumn<OpeningSpan[][]>().notNull(),
    closed: jsonColumn<ClosedDay[]>().notNull(),
    extraOpen: jsonColumn<ExtraOpenDay[]>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('calendar_name').on(t.name)],
);

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

export type PlannedTask = { readonly text: string; readonly mandatory: boolean };
export const jobPlan = mysqlTable(
  'job_plan',
  {
    id: rowId<JobPlanId>(),
    name: varchar({ length: 120 }).notNull(),
    minutes: int().notNull(),
    tasks: jsonColumn<PlannedTask[]>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('job_plan_name').on(t.name)],
);

export const assetClass = mysqlTable(
  'asset_class',
  { id: rowId<AssetClassId>(), name: varchar({ length: 120 }).notNull(), version: int().notNull().default(1) },
  (t) => [uniqueIndex('asset_class_name').on(t.name)],
);

export const gateway = mysqlTable(
  'gateway',
  {
    id: rowId<GatewayId>(),
    name: varchar({ length: 120 }).notNull(),
    keyHash: varchar({ length: 64 }).notNull(),
    createdAt: instantColumn().notNull(),
    active: boolean().notNull().default(true),
  },
  (t) => [uniqueIndex('gateway_key').on(t.keyHash)],
);
