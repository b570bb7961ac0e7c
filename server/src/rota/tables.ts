// Rota: who goes from where with which skills, when they are away, who goes with whom, and appointments.
import {
  boolean,
  double,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import type {
  AbsenceId,
  AppointmentId,
  CrewId,
  DepotId,
  ImportId,
  LocationId,
  OrderId,
  PersonId,
  RotaPlanId,
  SkillId,
} from '#core/ids.ts';
import { ABSENCE_KINDS, ABSENCE_STATES, type Cost, type PlanRules, type TravelRules } from '#core/rota/index.ts';
import type { Instant, LocalDate, Zone } from '#core/time/index.ts';
import { depot, skill } from '../depots/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { person } from '../platform/tables.ts';

export const STARTS_FROM = ['depot', 'home'] as const;

/** What is known of a technician beside who they are: one row for each that was entered. */
export const technician = mysqlTable(
  'technician',
  {
    personId: reference<PersonId>()
      .primaryKey()
      .references(() => person.id),
    depotId: reference<DepotId>().references(() => depot.id),
    startsFrom: mysqlEnum(STARTS_FROM).notNull().default('depot'),
    /** Where they live: an address for people, a position for travel. */
    home: varchar({ length: 300 }).notNull().default(''),
    latitude: double(),
    longitude: double(),
    van: varchar({ length: 60 }).notNull().default(''),
    /** Languages they speak, as tags such as pt. */
    speaks: jsonColumn<string[]>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [index('technician_depot').on(t.depotId)],
);

/** What a person may do; `until` is the last date on which it holds. */
export const personSkill = mysqlTable(
  'person_skill',
  {
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    skillId: reference<SkillId>()
      .notNull()
      .references(() => skill.id),
    until: dateColumn(),
  },
  (t) => [primaryKey({ columns: [t.personId, t.skillId] }), index('person_skill_until').on(t.until)],
);

export const absence = mysqlTable(
  'absence',
  {
    id: rowId<AbsenceId>(),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    kind: mysqlEnum(ABSENCE_KINDS).notNull(),
    state: mysqlEnum(ABSENCE_STATES).notNull(),
    fromAt: instantColumn().notNull(),
    toAt: instantColumn().notNull(),
    text: varchar({ length: 500 }).notNull().default(''),
    askedBy: reference<PersonId>().notNull(),
    decidedBy: reference<PersonId>(),
    decidedText: varchar({ length: 500 }).notNull().default(''),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    importId: reference<ImportId>(),
    version: int().notNull().default(1),
  },
  (t) => [
    index('absence_person').on(t.personId, t.toAt),
    index('absence_until').on(t.toAt),
    index('absence_state').on(t.state),
    uniqueIndex('absence_request').on(t.requestKey),
    index('absence_import').on(t.importId),
  ],
);

/** What somebody measured between two spots, by the keys by which travel knows them. */
export const travelTime = mysqlTable(
  'travel_time',
  {
    id: rowId<number>(),
    fromSpot: varchar({ length: 40 }).notNull(),
    toSpot: varchar({ length: 40 }).notNull(),
    minutes: int().notNull(),
    importId: reference<ImportId>(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('travel_time_way').on(t.fromSpot, t.toSpot), index('travel_time_import').on(t.importId)],
);

/** How travel is reckoned in this house: one row. */
export const travelSetting = mysqlTable('travel_setting', {
  id: int().primaryKey(),
  /** Null: as everywhere. */
  rules: jsonColumn<TravelRules | null>(),
  /** Another one whenever anything of travel changed: whoever holds what was read by it knows whether it holds. */
  stamp: varchar({ length: 36 }).notNull(),
  version: int().notNull().default(1),
});

/** People who go together, for a day or from a day on. */
export const crew = mysqlTable(
  'crew',
  {
    id: rowId<CrewId>(),
    name: varchar({ length: 120 }).notNull(),
    fromDay: dateColumn().notNull(),
    /** The last day; null: lasting. */
    toDay: dateColumn(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('crew_name').on(t.name, t.fromDay)],
);

export const crewMember = mysqlTable(
  'crew_member',
  {
    crewId: reference<CrewId>()
      .notNull()
      .references(() => crew.id),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    /** 0 leads. */
    position: int().notNull(),
  },
  (t) => [primaryKey({ columns: [t.crewId, t.personId] }), index('crew_member_person').on(t.personId)],
);

/** One time at a place. */
export const appointment = mysqlTable(
  'appointment',
  {
    id: rowId<AppointmentId>(),
    locationId: reference<LocationId>().references(() => location.id),
    /** Of the place: what the customer was told is said in it. */
    zone: varchar({ length: 60 }).notNull().$type<Zone>(),
    fromAt: instantColumn().notNull(),
    toAt: instantColumn().notNull(),
    /** When the customer expects us, as they were told or asked for; null: nothing was said. */
    toldFrom: instantColumn(),
    toldTo: instantColumn(),
    /** A time agreed with the customer: it moves only when asked to. */
    fixed: boolean().notNull().default(false),
    /** Why somebody is in two places at once. */
    overlapReason: varchar({ length: 500 }).notNull().default(''),
    /** When the technicians were sent it, as it was then. */
    sentAt: instantColumn(),
    /** By how many minutes whoever goes said they come later, when, and why. */
    lateMinutes: int(),
    lateAt: instantColumn(),
    lateText: varchar({ length: 200 }).notNull().default(''),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    index('appointment_from').on(t.fromAt),
    index('appointment_to').on(t.toAt),
    uniqueIndex('appointment_request').on(t.requestKey),
  ],
);

export const appointmentPerson = mysqlTable(
  'appointment_person',
  {
    appointmentId: reference<AppointmentId>()
      .notNull()
      .references(() => appointment.id),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    /** 0 leads. */
    position: int().notNull(),
  },
  (t) => [primaryKey({ columns: [t.appointmentId, t.personId] }), index('appointment_person_person').on(t.personId)],
);

/** What whoever goes said to an appointment as it stood: moved since, it asks again. */
export const appointmentAnswer = mysqlTable(
  'appointment_answer',
  {
    appointmentId: reference<AppointmentId>()
      .notNull()
      .references(() => appointment.id),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    /** Of the appointment as it was answered. */
    version: int().notNull(),
    accepted: boolean().notNull(),
    /** Why not. */
    text: varchar({ length: 200 }).notNull(),
    at: instantColumn().notNull(),
  },
  (t) => [primaryKey({ columns: [t.appointmentId, t.personId] })],
);

export const appointmentOrder = mysqlTable(
  'appointment_order',
  {
    appointmentId: reference<AppointmentId>()
      .notNull()
      .references(() => appointment.id),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
  },
  (t) => [primaryKey({ columns: [t.appointmentId, t.orderId] }), index('appointment_order_order').on(t.orderId)],
);

/**
 * The steps of five minutes that a person is taken for. Its key makes two appointments at once impossible: each takes the lap 0 of its
 * steps; one that overlaps by intent, with a reason, takes a lap of its own where 0 is taken.
 */
export const rotaStep = mysqlTable(
  'rota_step',
  {
    personId: reference<PersonId>().notNull(),
    /** Since 1970, in steps. */
    step: int().notNull(),
    lap: int({ unsigned: true }).notNull(),
    appointmentId: reference<AppointmentId>()
      .notNull()
      .references(() => appointment.id),
  },
  (t) => [
    primaryKey({ columns: [t.personId, t.step, t.lap] }),
    index('rota_step_appointment').on(t.appointmentId),
    index('rota_step_step').on(t.step),
  ],
);

/** What a plan was asked for. */
export type PlanAsk = {
  readonly from: LocalDate;
  readonly days: number;
  readonly depotId: DepotId | null;
  /** Only these are put in; null: whatever is ready and due. */
  readonly orders: readonly OrderId[] | null;
  /** What is planned already may move. */
  readonly moves: boolean;
  /** So may what customers were told of. */
  readonly movesTold: boolean;
  readonly rules: PlanRules;
};
type Where = { readonly personId: PersonId; readonly from: Instant; readonly to: Instant };
export type PlanItem = Where & {
  readonly key: number;
  /** Who goes along; nobody in plans of before several were placed together. */
  readonly others?: readonly PersonId[];
  readonly orders: readonly OrderId[];
  readonly titles: readonly string[];
  /** Moves what stands, as it stood when it was planned; null: it was loose. */
  readonly moves: { readonly id: AppointmentId; readonly version: number; readonly was: Where } | null;
  /** Promises that are missed all the same. */
  readonly missed: boolean;
};
export type PlanResult = {
  readonly items: readonly PlanItem[];
  readonly left: readonly { readonly orderId: OrderId; readonly title: string; readonly why: string }[];
  /** How many pieces of work are planned. */
  readonly planned: { readonly before: number; readonly after: number };
  readonly before: Cost;
  readonly after: Cost;
  /** Minutes of work of each person, before and after. */
  readonly load: readonly { readonly personId: PersonId; readonly before: number; readonly after: number }[];
};

/** A rota that was proposed, until somebody accepts parts of it. */
export const rotaPlan = mysqlTable(
  'rota_plan',
  {
    id: rowId<RotaPlanId>(),
    personId: reference<PersonId>().notNull(),
    state: mysqlEnum(['working', 'ready', 'failed']).notNull(),
    /** In percent. */
    progress: int().notNull().default(0),
    ask: jsonColumn<PlanAsk>().notNull(),
    result: jsonColumn<PlanResult | null>(),
    /** Which items were accepted. */
    accepted: jsonColumn<number[]>().notNull(),
    problem: varchar({ length: 500 }),
    createdAt: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
  },
  (t) => [uniqueIndex('rota_plan_request').on(t.requestKey), index('rota_plan_created').on(t.createdAt)],
);

/** What somebody allowed of where they are, each time they said; the last holds. */
export const positionConsent = mysqlTable(
  'position_consent',
  {
    id: rowId<number>(),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    allowed: boolean().notNull(),
    at: instantColumn().notNull(),
    recordedAt: instantColumn().notNull(),
  },
  (t) => [index('position_consent_person').on(t.personId, t.id)],
);

/** Where somebody was when they did something, as their phone said. */
export const saidPosition = mysqlTable(
  'said_position',
  {
    /** The deed it was said with. */
    deed: varchar({ length: 60 }).primaryKey(),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    orderId: reference<OrderId>(),
    at: instantColumn().notNull(),
    latitude: double().notNull(),
    longitude: double().notNull(),
    accuracyM: int().notNull(),
  },
  (t) => [index('said_position_person').on(t.personId, t.at)],
);
