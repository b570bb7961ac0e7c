// Tables of the foundations: people, sessions, tries to sign in, audit, notices of change, gateways’ keys, jobs, the finder’s index.
import {
  bigint,
  boolean,
  customType,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  text,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import { FOUND_KINDS } from '#api/finder.ts';
import type { TableLook } from '#api/house.ts';
import { JOB_STATES } from '#core/jobs.ts';
import { ROLES } from '#core/people.ts';
import { LANGUAGES, WAYS_OUT } from '#core/telling.ts';
import type { CalendarId, CraftId, GatewayId, PersonId } from '#core/ids.ts';
import type { Zone } from '#core/time/index.ts';
import { instantColumn, jsonColumn, reference, rowId } from './columns.ts';

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
    phone: varchar({ length: 60 }),
    /** How they want to be told of things, and in which language. */
    prefers: mysqlEnum(WAYS_OUT).notNull().default('mail'),
    language: mysqlEnum(LANGUAGES).notNull().default('en'),
    /** What their hour is sold and costed as, and the calendar they work by. */
    craftId: reference<CraftId>(),
    calendarId: reference<CalendarId>(),
    /** On site they may show customers what work comes to, and take their card. */
    showsPrice: boolean().notNull().default(false),
    version: int({ unsigned: true }).notNull().default(1),
  },
  (t) => [uniqueIndex('person_email').on(t.email), index('person_role').on(t.role, t.name)],
);

/** How somebody likes a table: columns, widths, sorting. */
export const tableLook = mysqlTable(
  'table_look',
  {
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    name: varchar({ length: 40 }).notNull(),
    look: jsonColumn<TableLook>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.personId, t.name] })],
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
/** One thing that a change wrote. */
export type ChangedSubject = { readonly subject: string; readonly id: number };

export const change = mysqlTable(
  'change_notice',
  {
    id: bigint({ mode: 'number', unsigned: true }).autoincrement().primaryKey(),
    at: instantColumn().notNull(),
    tags: jsonColumn<string[]>().notNull(),
    /** What was written; null: it is not known, so anything may be. */
    subjects: jsonColumn<ChangedSubject[] | null>(),
  },
  (t) => [index('change_notice_at').on(t.at)],
);

export const gateway = mysqlTable(
  'gateway',
  {
    id: rowId<GatewayId>(),
    name: varchar({ length: 120 }).notNull(),
    keyHash: varchar({ length: 64 }).notNull(),
    /** The key before it was changed: it works until whoever posts has the new one, or this. */
    ...{ formerHash: varchar({ length: 64 }), formerUntil: instantColumn() },
    createdAt: instantColumn().notNull(),
    active: boolean().notNull().default(true),
  },
  (t) => [uniqueIndex('gateway_key').on(t.keyHash), index('gateway_former').on(t.formerHash)],
);

/** What is done beside requests. The same kind and key stand once. */
export const job = mysqlTable(
  'job',
  {
    id: rowId<number>(),
    kind: varchar({ length: 40 }).notNull(),
    jobKey: varchar({ length: 120 }),
    ask: jsonColumn<Record<string, unknown>>().notNull(),
    state: mysqlEnum(JOB_STATES).notNull(),
    dueAt: instantColumn().notNull(),
    /** Failed tries so far. */
    tries: int().notNull().default(0),
    leaseUntil: instantColumn(),
    fence: int().notNull().default(0),
    /** How far it is, or what came of it. */
    progress: varchar({ length: 200 }),
    problem: varchar({ length: 500 }),
    createdAt: instantColumn().notNull(),
    startedAt: instantColumn(),
    endedAt: instantColumn(),
  },
  (t) => [
    uniqueIndex('job_kind_key').on(t.kind, t.jobKey),
    index('job_state_due').on(t.state, t.dueAt),
    index('job_kind_state').on(t.kind, t.state),
    index('job_ended').on(t.endedAt),
  ],
);

/** Words come without case and accents already: they are compared letter by letter. */
const exactText = (length: number) =>
  customType<{ data: string; driverData: string }>({
    dataType: () => `varchar(${length}) character set utf8mb4 collate utf8mb4_bin`,
  })();

export const findWord = mysqlTable('find_word', { id: rowId<number>(), word: exactText(40).notNull() }, (t) => [
  uniqueIndex('find_word_word').on(t.word),
]);

export const findGram = mysqlTable(
  'find_gram',
  { gram: exactText(3).notNull(), wordId: reference<number>().notNull() },
  (t) => [primaryKey({ columns: [t.gram, t.wordId] })],
);

export const findPosting = mysqlTable(
  'find_posting',
  {
    wordId: reference<number>().notNull(),
    kind: mysqlEnum(FOUND_KINDS).notNull(),
    subjectId: int({ unsigned: true }).notNull(),
  },
  (t) => [
    primaryKey({ columns: [t.wordId, t.kind, t.subjectId] }),
    index('find_posting_subject').on(t.kind, t.subjectId, t.wordId),
  ],
);

const chunkColumn = customType<{ data: Buffer; driverData: Buffer }>({ dataType: () => 'mediumblob' });

/** What files hold, once for each content, in chunks. */
export const fileContent = mysqlTable('file_content', {
  sha256: varchar({ length: 64 }).primaryKey(),
  bytes: int({ unsigned: true }).notNull(),
  mediaType: varchar({ length: 80 }).notNull(),
});

export const fileChunk = mysqlTable(
  'file_chunk',
  {
    sha256: varchar({ length: 64 })
      .notNull()
      .references(() => fileContent.sha256),
    part: int().notNull(),
    data: chunkColumn().notNull(),
  },
  (t) => [primaryKey({ columns: [t.sha256, t.part] })],
);
