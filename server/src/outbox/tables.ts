// What leaves the house, and the words it is said in.
import { index, int, mysqlEnum, mysqlTable, primaryKey, text, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { PersonId } from '#core/ids.ts';
import { LANGUAGES, OUT_STATES, WAYS_OUT } from '#core/telling.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';

/** A message that leaves, written in the transaction of what it tells; its key lets it stand once. */
export const outbox = mysqlTable(
  'outbox',
  {
    id: rowId<number>(),
    outKey: varchar({ length: 120 }).notNull(),
    kind: varchar({ length: 40 }).notNull(),
    way: mysqlEnum(WAYS_OUT).notNull(),
    address: varchar({ length: 200 }).notNull(),
    toName: varchar({ length: 120 }).notNull(),
    personId: reference<PersonId>(),
    subject: varchar({ length: 300 }).notNull(),
    body: text().notNull(),
    /** What it is about, such as an agreement. */
    aboutSubject: varchar({ length: 40 }).notNull(),
    aboutId: int({ unsigned: true }).notNull(),
    state: mysqlEnum(OUT_STATES).notNull(),
    problem: varchar({ length: 500 }),
    createdAt: instantColumn().notNull(),
    sentAt: instantColumn(),
    /** The gateway’s word that it took it. */
    receipt: varchar({ length: 200 }),
    /** What it answers, and the messages of its thread before it, by their identifiers without brackets. */
    inReplyTo: varchar({ length: 255 }),
    threadIds: jsonColumn<readonly string[]>().notNull().default([]),
    /** A paper that goes with it, as it is kept. */
    paperSha256: varchar({ length: 64 }),
    paperName: varchar({ length: 200 }),
  },
  (t) => [
    uniqueIndex('outbox_key').on(t.outKey),
    index('outbox_state').on(t.state, t.id),
    index('outbox_about').on(t.aboutSubject, t.aboutId),
  ],
);

/** Words that somebody changed; everything else is said as it comes with its room. */
export const messageTemplate = mysqlTable(
  'message_template',
  {
    kind: varchar({ length: 40 }).notNull(),
    language: mysqlEnum(LANGUAGES).notNull(),
    subject: varchar({ length: 300 }).notNull(),
    body: text().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [primaryKey({ columns: [t.kind, t.language] })],
);

/** Phones that are told things by their browser (Push API, RFC 8030); each by its own address, which says nothing of its owner. */
export const pushPhone = mysqlTable(
  'push_phone',
  {
    /** The SHA-256 of the address. */
    id: varchar({ length: 64 }).primaryKey(),
    personId: reference<PersonId>().notNull(),
    endpoint: text().notNull(),
    /** What a message is locked with, so that only this phone reads it (RFC 8291). */
    p256dh: varchar({ length: 120 }).notNull(),
    auth: varchar({ length: 60 }).notNull(),
    at: instantColumn().notNull(),
  },
  (t) => [index('push_phone_person').on(t.personId)],
);
