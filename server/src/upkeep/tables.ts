// Schedules and visits.
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
  CustomerId,
  AgreementId,
  AssetClassId,
  AssetId,
  CalendarId,
  CoverageLineId,
  DepotId,
  FeedId,
  JobPlanId,
  LocationId,
  LineScheduleId,
  OrderId,
  PatternId,
  PersonId,
  RunId,
  ScheduleId,
  VisitId,
} from '#core/ids.ts';
import { WORKING_DAY_CONVENTIONS, type WorkingDayConvention } from '#core/calendars/index.ts';
import type { LocalDate, Weekday } from '#core/time/index.ts';
import {
  EXCEPTION_LEVELS,
  VISIT_STATES,
  type ExceptionCode,
  type LeadUnit,
  type RunLeft,
  type RunScope,
  type VisitKey,
  type WrittenCadence,
  type WrittenTurn,
  type YearHours,
} from '#core/upkeep/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { calendar } from '../calendars/tables.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';

/** What a schedule is written down with, as its columns. */
export type TermColumns = {
  readonly jobPlanId: JobPlanId;
  readonly cadence: WrittenCadence;
  readonly anchor: LocalDate;
  readonly crew: number;
  readonly technicianId: PersonId | null;
  readonly hours: YearHours | null;
  readonly absorbDays: number | null;
  readonly convention: WorkingDayConvention;
  readonly calendarId: CalendarId | null;
  readonly earlyDays: number;
  readonly lateDays: number;
  readonly leadDays: number;
  readonly leadUnit: LeadUnit;
  readonly weekday: Weekday | null;
  readonly timeOfDay: number | null;
  readonly needsYes: boolean;
  /** In minor units of the agreement’s currency; null: the agreement’s price bears it. */
  readonly visitPrice: number | null;
  readonly reminder: string;
};

/** What schedules of many agreements are made from: everything but the day they count from. */
export const visitPattern = mysqlTable(
  'visit_pattern',
  {
    id: rowId<PatternId>(),
    name: varchar({ length: 120 }).notNull(),
    /** Whose machines it is for; null: every covered one. */
    classId: reference<AssetClassId>(),
    terms: jsonColumn<Omit<TermColumns, 'anchor'>>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('visit_pattern_name').on(t.name)],
);

/** A schedule for whatever a coverage line reaches: each machine that comes under it has one of its own, made from this. */
export const lineSchedule = mysqlTable(
  'line_schedule',
  {
    id: rowId<LineScheduleId>(),
    agreementId: reference<AgreementId>()
      .notNull()
      .references(() => agreement.id),
    /** The first of the line’s kind, over amendments. */
    lineId: reference<CoverageLineId>().notNull(),
    terms: jsonColumn<TermColumns>().notNull(),
  },
  (t) => [index('line_schedule_agreement').on(t.agreementId)],
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
    cadence: jsonColumn<WrittenCadence>().notNull(),
    /** What it counts from: the rule’s start, the first day of phases, what stands for the last service. */
    anchor: dateColumn().notNull(),
    /** What was changed from a visit on. */
    turns: jsonColumn<WrittenTurn[]>().notNull(),
    crew: int().notNull().default(1),
    technicianId: reference<PersonId>(),
    /** Contracted for each agreement year; null: each visit takes what its job plan says. */
    hours: jsonColumn<YearHours | null>(),
    /** Days to a larger visit within which its own are absorbed; null: never. */
    absorbDays: int(),
    convention: mysqlEnum(WORKING_DAY_CONVENTIONS).notNull(),
    calendarId: reference<CalendarId>().references(() => calendar.id),
    earlyDays: int().notNull(),
    lateDays: int().notNull(),
    leadDays: int().notNull(),
    leadUnit: mysqlEnum(['calendar days', 'working days']).notNull(),
    /** Wanted where an open one lies inside the window, 1 Monday to 7 Sunday. */
    weekday: int().$type<Weekday>(),
    /** Wanted, in minutes since midnight at the place. */
    timeOfDay: int(),
    needsYes: boolean().notNull().default(false),
    /** What each visit is billed, in minor units of the agreement’s currency; null: the agreement’s price bears it. */
    visitPrice: bigint({ mode: 'number' }),
    reminder: varchar({ length: 500 }).notNull().default(''),
    /** Where a machine was swapped out or in: the first and last nominal date that is owed by this one; null: as the agreement says. */
    holdsFrom: dateColumn(),
    holdsTo: dateColumn(),
    /** The one it was made from, for as long as its machine is under the line; and when it came and left. */
    lineScheduleId: reference<LineScheduleId>().references(() => lineSchedule.id),
    joinedAt: instantColumn(),
    leftAt: instantColumn(),
    /** The pattern it was made from, and the schedule that took its place when the pattern changed. */
    patternId: reference<PatternId>().references(() => visitPattern.id),
    replacedById: reference<ScheduleId>(),
    version: int().notNull().default(1),
  },
  (t) => [
    index('schedule_agreement').on(t.agreementId),
    index('schedule_asset').on(t.assetId),
    index('schedule_joined').on(t.joinedAt),
    index('schedule_left').on(t.leftAt),
  ],
);

/** What a person decided for one visit that is still to come. */
export const visitChange = mysqlTable(
  'visit_change',
  {
    scheduleId: reference<ScheduleId>()
      .notNull()
      .references(() => schedule.id),
    nominal: dateColumn().notNull(),
    part: int().notNull().default(1),
    added: boolean().notNull().default(false),
    movedTo: dateColumn(),
    /** The day was agreed with the customer. */
    agreed: boolean().notNull().default(false),
    skipped: varchar({ length: 500 }),
    minutes: int(),
    crew: int(),
    technicianId: reference<PersonId>(),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
  },
  (t) => [primaryKey({ columns: [t.scheduleId, t.nominal, t.part] })],
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
    /** The job plan it is raised with: a phase of the year may have its own. */
    jobPlanId: reference<JobPlanId>().notNull(),
    due: dateColumn().notNull(),
    /** The day it was planned for when it was raised. */
    planned: dateColumn().notNull(),
    windowFrom: dateColumn().notNull(),
    windowTo: dateColumn().notNull(),
    state: mysqlEnum(VISIT_STATES).notNull(),
    /** Why it is held, declined, or accepted in spite of an exception. */
    holdReason: text(),
    /** Held until this day; null: until somebody lets it go on. */
    holdUntil: dateColumn(),
    decidedBy: reference<PersonId>(),
    runId: reference<RunId>(),
    orderId: reference<OrderId>(),
    /** The larger visit that does its work. */
    absorbedBy: reference<VisitId>(),
    completedOn: dateColumn(),
    /** Of the order it was raised as: the top of the tree above its machine, and whose technicians come there. */
    siteId: reference<LocationId>(),
    depotId: reference<DepotId>(),
  },
  (t) => [
    uniqueIndex('visit_identity').on(t.scheduleId, t.nominal, t.part),
    index('visit_asset').on(t.assetId, t.due),
    index('visit_agreement').on(t.agreementId, t.windowTo),
    index('visit_window').on(t.state, t.completedOn, t.windowTo),
    index('visit_site').on(t.siteId, t.windowTo),
    // All that standing counts by.
    index('visit_counted').on(
      ...[t.state, t.windowTo, t.windowFrom, t.completedOn, t.assetId, t.agreementId, t.siteId, t.depotId],
    ),
    index('visit_order').on(t.orderId),
    index('visit_absorbed').on(t.absorbedBy),
    index('visit_run').on(t.runId),
  ],
);

/**
 * Every visit still to come, as the rules give it: what runs, ribbons, plans and load read. Worked out beside requests from what
 * schedules stand on, never the truth itself; raising works a visit out once more.
 */
export const plannedVisit = mysqlTable(
  'planned_visit',
  {
    scheduleId: reference<ScheduleId>().notNull(),
    nominal: dateColumn().notNull(),
    part: int().notNull(),
    planned: dateColumn().notNull(),
    /** Its window follows from it by the schedule’s days. */
    due: dateColumn().notNull(),
    raiseOn: dateColumn().notNull(),
    /** The planning that last wrote it. */
    written: int().notNull(),
    /** What follows is null where it is as the schedule and its job plan say. */
    jobPlanId: reference<JobPlanId>(),
    minutes: int(),
    crew: int(),
    technicianId: reference<PersonId>(),
    changed: mysqlEnum(['moved', 'added']),
    /** The place is closed: on the day planned, or in the whole window. */
    closed: mysqlEnum(['day', 'window']),
    /** The larger visit that does its work, by schedule and date. */
    absorbedBy: varchar({ length: 40 }),
    /** The order it is raised with, by the first of its visits: `planned` and `raiseOn` are that order's then. */
    joined: varchar({ length: 40 }),
    ownPlanned: dateColumn(),
    ownRaise: dateColumn(),
  },
  (t) => [
    primaryKey({ columns: [t.scheduleId, t.nominal, t.part] }),
    index('planned_visit_raise').on(t.raiseOn),
    index('planned_visit_planned').on(t.planned, t.scheduleId),
    index('planned_visit_joined').on(t.joined),
  ],
);

/** Of each schedule: when it next raises a visit, or why it yields none, and since when. */
export const scheduleOutlook = mysqlTable(
  'schedule_outlook',
  {
    scheduleId: int({ unsigned: true }).primaryKey().$type<ScheduleId>(),
    agreementId: reference<AgreementId>().notNull(),
    customerId: reference<CustomerId>().notNull(),
    kind: mysqlEnum(['needs action', 'waits']),
    code: varchar({ length: 40 }),
    reason: varchar({ length: 500 }),
    /** When it began to yield nothing for this. */
    since: instantColumn(),
    nextRaise: dateColumn(),
    nextDue: dateColumn(),
    /** Whose technicians go there, as the place inherits it. */
    depotId: reference<DepotId>(),
    /** Of the visits planned: as long as it is the same, nothing is written. Null: some were raised since. */
    digest: varchar({ length: 40 }),
  },
  (t) => [index('schedule_outlook_kind').on(t.kind, t.since), index('schedule_outlook_next').on(t.nextRaise)],
);

/** Proposals of a run to a day, by what they wait for. */
export type DayCounts = { readonly ready: number; readonly toDecide: number; readonly held: number };
/** With schedules that yield nothing until somebody acts, and why most of them do; a plan of an earlier version left none of it. */
export type DayOutlook = DayCounts & {
  readonly needsAction?: number;
  readonly reasons?: readonly { readonly customerId: CustomerId; readonly reason: string; readonly count: number }[];
};

/** How far the plan is: for which day, to which day, and up to which notice of a change. */
export const planState = mysqlTable('plan_state', {
  id: int().primaryKey(),
  asOf: dateColumn(),
  horizon: dateColumn(),
  changeId: bigint({ mode: 'number', unsigned: true }).notNull(),
  /** Notices near the last one that are planned for: ids are given out before commit. */
  seen: jsonColumn<number[]>().notNull(),
  /** What a run to that day would find, for Today. */
  counts: jsonColumn<DayOutlook | null>(),
  fence: int().notNull(),
  busyUntil: instantColumn(),
  plannedAt: instantColumn(),
});

/** A secret address at which a calendar reads the visits of a customer, a place or a technician. Only its hash is kept. */
export const calendarFeed = mysqlTable(
  'calendar_feed',
  {
    id: rowId<FeedId>(),
    secretHash: varchar({ length: 64 }).notNull(),
    kind: mysqlEnum(['customer', 'place', 'technician']).notNull(),
    ofId: int({ unsigned: true }).notNull(),
    personId: reference<PersonId>(),
    at: instantColumn().notNull(),
    readAt: instantColumn(),
    revokedAt: instantColumn(),
    requestKey: varchar({ length: 60 }).notNull(),
  },
  (t) => [uniqueIndex('calendar_feed_secret').on(t.secretHash), uniqueIndex('calendar_feed_request').on(t.requestKey)],
);

/** What an exception of a run means in this house. */
export const upkeepSetting = mysqlTable('upkeep_setting', {
  exception: varchar({ length: 40 }).primaryKey().$type<ExceptionCode>(),
  level: mysqlEnum(EXCEPTION_LEVELS).notNull(),
});

/** One raising of visits, by a person or at night; whoever carries it out holds its lease. */
export const upkeepRun = mysqlTable(
  'upkeep_run',
  {
    id: rowId<RunId>(),
    at: instantColumn().notNull(),
    personId: reference<PersonId>(),
    today: dateColumn().notNull(),
    runTo: dateColumn().notNull(),
    scope: jsonColumn<RunScope>().notNull(),
    only: jsonColumn<VisitKey[] | null>(),
    /** The planning its person had seen. */
    seen: int(),
    state: mysqlEnum(['raising', 'done']).notNull(),
    wanted: int().notNull().default(0),
    raised: int().notNull().default(0),
    /** Visits it left alone, with the reason. */
    left: jsonColumn<RunLeft[]>().notNull(),
    leftCount: int().notNull().default(0),
    fence: int().notNull().default(0),
    leaseUntil: instantColumn(),
    endedAt: instantColumn(),
  },
  (t) => [index('upkeep_run_state').on(t.state, t.leaseUntil), index('upkeep_run_at').on(t.at)],
);
