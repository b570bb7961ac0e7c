// Orders: assets, tasks, forms, events and clocks.
import { eq, sql } from 'drizzle-orm';
import {
  bigint,
  boolean,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import type {
  AgreementId,
  AssetId,
  CalendarId,
  ContactId,
  CustomerId,
  DepotId,
  LocationId,
  OrderId,
  OrderLineId,
  PersonId,
  RateCardId,
  VisitId,
} from '#core/ids.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import {
  EXCEPTIONS,
  ORDER_KINDS,
  ORDER_STAGES,
  type FormQuestion,
  type KeptPlan,
  type OrderAct,
} from '#core/orders/index.ts';
import { CAUSES, type Verdict } from '#core/entitlement/index.ts';
import { PAUSE_REASONS, TARGETS, type GivenPromises, type Priority } from '#core/service-levels/index.ts';
import { MISS_CAUSES } from '#core/standing/index.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { person } from '../platform/tables.ts';
import { customer } from '../customers/tables.ts';
import { asset } from '../assets/tables.ts';

/** The decision as taken, kept with the order so that it can be shown again years later. */
export type StoredVerdict = { readonly verdict: Verdict; readonly sentence: string; readonly promise: string };

/** Named, for lists say that they want it. */
export const OPEN_INDEX = 'work_order_open';

export const workOrder = mysqlTable(
  'work_order',
  {
    id: rowId<OrderId>(),
    kind: mysqlEnum(ORDER_KINDS).notNull(),
    stage: mysqlEnum(ORDER_STAGES).notNull(),
    priority: int().notNull().$type<Priority>(),
    title: varchar({ length: 200 }).notNull(),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    agreementId: reference<AgreementId>(),
    zone: varchar({ length: 60 }).notNull().$type<Zone>(),
    startedAt: instantColumn().notNull(),
    plannedFor: dateColumn(),
    technicianId: reference<PersonId>(),
    /** By the name of then; somebody from outside has no other. */
    technician: varchar({ length: 120 }),
    pausedSince: instantColumn(),
    waitingFor: mysqlEnum(PAUSE_REASONS),
    /** The depot whose place it was raised for. */
    depotId: reference<DepotId>(),
    /** The place’s day on which its next promise ends, or its visit is due; null where nothing is, and once it is finished. */
    nextDue: dateColumn(),
    restoredAt: instantColumn(),
    doneAt: instantColumn(),
    minutes: int(),
    /** Who called; null when a machine or a schedule did. */
    callerId: reference<ContactId>(),
    /** Who called and how to reach them, where it was none of the contacts. */
    callerSaid: varchar({ length: 200 }),
    /** Whom to ask for on site. */
    contactId: reference<ContactId>(),
    /** The customer’s own number for it. */
    customerReference: varchar({ length: 80 }).notNull().default(''),
    /** A machine of the own fleet that is rented to nobody: nobody is ever billed for it. */
    internal: boolean().notNull().default(false),
    /** The rate card that held for its customer when it was raised; null: there was none, and the standard one of now holds. */
    rateCardId: reference<RateCardId>(),
    /** The order whose rest it does. */
    followsId: reference<OrderId>(),
    /** When its promise of back in use went on with another order. */
    handedOnAt: instantColumn(),
    /** Who of the house sees to it; null: nobody in particular. */
    inChargeId: reference<PersonId>(),
    /** The day the customer wished for. */
    wishedOn: dateColumn(),
    requestKey: varchar({ length: 60 }),
    /** What was asked with the key, hashed. */
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('work_order_request').on(t.requestKey),
    index('work_order_stage').on(t.stage, t.id),
    index('work_order_customer').on(t.customerId, t.id),
    index('work_order_kind').on(t.kind, t.id),
    index('work_order_agreement').on(t.agreementId, t.stage),
    index('work_order_technician').on(t.technicianId, t.stage),
    index('work_order_follows').on(t.followsId),
    index('work_order_due').on(t.stage, t.nextDue, t.id),
    index('work_order_depot').on(t.depotId, t.startedAt),
    index('work_order_waiting').on(t.waitingFor),
    index('work_order_started').on(t.startedAt),
    index('work_order_goes').on(t.technicianId),
    // All that lists filter and sort by: what is open is looked through without reading its rows.
    index(OPEN_INDEX).on(
      ...[t.stage, t.kind, t.technicianId, t.technician, t.nextDue, t.priority, t.waitingFor, t.startedAt, t.depotId],
    ),
  ],
);

export const orderLine = mysqlTable(
  'order_line',
  {
    id: rowId<OrderLineId>(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    /** Null: the place itself, while no machine is known. */
    assetId: reference<AssetId>().references(() => asset.id),
    /** Named where there is no machine; a machine’s own place is known by it. */
    locationId: reference<LocationId>(),
    /** Where its machine stood, or the place itself, when it was decided on; what was counted there stays there. */
    placeId: reference<LocationId>(),
    /** The top of the tree above that, as it was then. */
    siteId: reference<LocationId>(),
    /** When it was added to an order that was there before. */
    since: instantColumn(),
    /** The visit it was raised for. One that was left undone may be raised again, on another order. */
    visitId: reference<VisitId>(),
    /** How long the work at its machine is expected to take. */
    minutes: int(),
    /** The job plan it is done by, as it held when it was raised. */
    plan: jsonColumn<KeptPlan | null>(),
    /** What the visit is billed, in minor units of the agreement’s currency, as it was agreed when it was raised. */
    visitPrice: bigint({ mode: 'number' }),
    verdict: jsonColumn<StoredVerdict | null>(),
    promises: jsonColumn<GivenPromises>().notNull(),
    /** The cause that its cover was decided by; null on orders from before it was kept. */
    coverCause: mysqlEnum(CAUSES),
    /** A repair of it is not done before its cause and remedy are said. */
    asksFindings: boolean().notNull().default(false),
    symptom: varchar({ length: 120 }),
    /** What was wrong, in a word or two; with the effort it took, for whoever quotes the next one like it. */
    fault: varchar({ length: 120 }),
    causeFound: varchar({ length: 120 }),
    remedy: varchar({ length: 120 }),
    /** It was taken off: named by mistake, no part of the work. */
    off: boolean().notNull().default(false),
    labourMinutes: int(),
    partsCost: bigint({ mode: 'number' }),
    otherCost: bigint({ mode: 'number' }),
  },
  (t) => [
    index('order_line_order').on(t.orderId),
    index('order_line_asset').on(t.assetId, t.orderId),
    index('order_line_location').on(t.locationId, t.orderId),
    index('order_line_place').on(t.placeId),
    index('order_line_site').on(t.siteId),
  ],
);

/** A decision on a line that was taken again: what had held until then. */
export const formerDecision = mysqlTable(
  'former_decision',
  {
    id: rowId<number>(),
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    assetId: reference<AssetId>(),
    coverCause: mysqlEnum(CAUSES),
    verdict: jsonColumn<StoredVerdict | null>(),
    promises: jsonColumn<GivenPromises>().notNull(),
    until: instantColumn().notNull(),
  },
  (t) => [index('former_decision_line').on(t.orderLineId)],
);

export const orderTask = mysqlTable(
  'order_task',
  {
    id: rowId<number>(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    orderLineId: reference<OrderLineId>().notNull(),
    position: int().notNull(),
    text: varchar({ length: 200 }).notNull(),
    mandatory: int().notNull(),
  },
  (t) => [index('order_task_order').on(t.orderId, t.position)],
);

/** A form of the asset’s class as it stood when the order was raised. */
export const orderForm = mysqlTable(
  'order_form',
  {
    id: rowId<number>(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    position: int().notNull(),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    name: varchar({ length: 120 }).notNull(),
    questions: jsonColumn<FormQuestion[]>().notNull(),
  },
  (t) => [index('order_form_order').on(t.orderId, t.position)],
);

export const orderEvent = mysqlTable(
  'order_event',
  {
    id: bigint({ mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    at: instantColumn().notNull(),
    recordedAt: instantColumn().notNull(),
    personId: reference<PersonId>(),
    act: jsonColumn<OrderAct>().notNull(),
    requestKey: varchar({ length: 60 }),
    /** What was asked with the key, hashed. */
    requestContent: varchar({ length: 64 }),
    /** Told by the phone of somebody who stood there. */
    onSite: boolean().notNull().default(false),
  },
  (t) => [
    index('order_event_order').on(t.orderId, t.at),
    uniqueIndex('order_event_request').on(t.orderId, t.requestKey),
  ],
);

/** Decisions on orders that something spoke against, by the event that took them; derived from the events in the same transaction. */
export const orderException = mysqlTable(
  'order_exception',
  {
    eventId: bigint({ mode: 'number', unsigned: true })
      .primaryKey()
      .references(() => orderEvent.id),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    kind: mysqlEnum(EXCEPTIONS).notNull(),
    at: instantColumn().notNull(),
    /** Who decided; null: nobody of ours. */
    personId: reference<PersonId>(),
  },
  (t) => [
    index('order_exception_order').on(t.orderId),
    index('order_exception_at').on(t.at, t.eventId),
    index('order_exception_kind').on(t.kind, t.at),
    index('order_exception_person').on(t.personId, t.at),
  ],
);

/** How a finished order went; derived from its events in the transaction that ends it. */
export const orderCourse = mysqlTable(
  'order_course',
  {
    orderId: reference<OrderId>()
      .primaryKey()
      .references(() => workOrder.id),
    doneOn: dateColumn().notNull(),
    kind: mysqlEnum(ORDER_KINDS).notNull(),
    depotId: reference<DepotId>(),
    technicianId: reference<PersonId>(),
    toldMinutes: int(),
    sentMinutes: int(),
    inTime: boolean(),
    atFirstGo: boolean().notNull(),
  },
  // All that figures are made of, by the month.
  (t) => [
    index('order_course_done').on(
      ...[t.doneOn, t.depotId, t.technicianId, t.kind, t.inTime, t.atFirstGo, t.toldMinutes, t.sentMinutes],
    ),
    index('order_course_technician').on(t.technicianId, t.doneOn),
  ],
);

/** Derived from the order's events in the same transaction; can be rebuilt from them with the same result. */
export const clock = mysqlTable(
  'clock',
  {
    id: rowId<number>(),
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    orderId: reference<OrderId>().notNull(),
    assetId: reference<AssetId>().notNull(),
    customerId: reference<CustomerId>().notNull(),
    agreementId: reference<AgreementId>(),
    zone: varchar({ length: 60 }).notNull().$type<Zone>(),
    target: mysqlEnum(TARGETS).notNull(),
    state: mysqlEnum(['running', 'paused', 'met', 'missed', 'void']).notNull(),
    promisedMinutes: int().notNull(),
    /** It runs short once this share of the promise is left. */
    warnPercent: int().notNull().default(25),
    calendarId: reference<CalendarId>(),
    startedAt: instantColumn().notNull(),
    dueAt: instantColumn(),
    stoppedAt: instantColumn(),
    leftMs: bigint({ mode: 'number' }),
    /** Lateness of a missed one up to `lateFrom`, from where it grows on; null there while it stands still or has ended. */
    lateMs: bigint({ mode: 'number' }),
    lateFrom: instantColumn(),
    note: varchar({ length: 200 }),
    /** From when a running one has so little left that it runs short. */
    shortAt: instantColumn(),
    /** When somebody is warned of a running one, by how many percent are left; the earliest first. */
    warnSteps: jsonColumn<{ percent: number; at: Instant }[] | null>(),
    warnAt: instantColumn(),
    /** The place’s own day on which it falls due: the one it counts on. */
    dueOn: dateColumn(),
    siteId: reference<LocationId>(),
    depotId: reference<DepotId>(),
    priority: int().notNull().default(1).$type<Priority>(),
    /** Why it was missed; null: it was not, or it is still open. */
    missCause: mysqlEnum(MISS_CAUSES),
    /** By which rules it was derived: earlier ones are derived again at the next start. */
    derivation: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('clock_line_target').on(t.orderLineId, t.target),
    index('clock_order').on(t.orderId),
    index('clock_open').on(t.state, t.dueAt),
    index('clock_asset').on(t.assetId, t.dueOn),
    index('clock_agreement').on(t.agreementId, t.dueOn),
    index('clock_customer').on(t.customerId, t.dueOn),
    index('clock_site').on(t.siteId, t.dueOn),
    // All that standing counts by: looked through without reading rows.
    index('clock_counted').on(
      ...[t.state, t.dueOn, t.dueAt, t.assetId, t.agreementId, t.customerId, t.siteId, t.depotId],
      ...[t.missCause, t.target, t.priority],
    ),
    index('clock_derivation').on(t.derivation),
    index('clock_warn').on(t.state, t.warnAt),
  ],
);

/** Who was warned of a promise, once for each step of its service level and each length it was promised with. */
export const clockWarning = mysqlTable(
  'clock_warning',
  {
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    target: mysqlEnum(TARGETS).notNull(),
    promisedMinutes: int().notNull(),
    percent: int().notNull(),
    orderId: reference<OrderId>().notNull(),
    at: instantColumn().notNull(),
    /** Nobody: a later step was told in its place. */
    told: jsonColumn<PersonId[]>().notNull(),
    acknowledgedAt: instantColumn(),
    acknowledgedBy: reference<PersonId>(),
  },
  (t) => [
    primaryKey({ columns: [t.orderLineId, t.target, t.promisedMinutes, t.percent] }),
    index('clock_warning_order').on(t.orderId),
  ],
);

/** Who goes: by the name they have now, or the one that was written down. Wants `person` joined by the order's technician. */
export const technicianName = sql<string | null>`coalesce(${person.name}, ${workOrder.technician})`;
export const isTechnician = eq(person.id, workOrder.technicianId);

/** Where a line is to be worked on: where its machine stands, or the place itself. Wants `asset` joined. */
export const lineLocation = sql<LocationId | null>`coalesce(${asset.locationId}, ${orderLine.locationId})`.mapWith(
  orderLine.locationId,
);
