// Crafts, rate cards, time entries with what they come to by line and hours kind, and time sheets.
import { sql } from 'drizzle-orm';
import { boolean, index, int, mysqlEnum, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { CraftId, OrderId, OrderLineId, PersonId, RateCardId, TimeEntryId } from '#core/ids.ts';
import { ENTRY_KINDS, HOURS_KINDS, SHEET_STATES, type RateCard } from '#core/labour/index.ts';
import type { Currency } from '#core/money.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { customer } from '../customers/tables.ts';
import { orderLine } from '../orders/tables.ts';
import { person } from '../platform/tables.ts';

export const craft = mysqlTable(
  'craft',
  { id: rowId<CraftId>(), name: varchar({ length: 120 }).notNull(), version: int().notNull().default(1) },
  (t) => [uniqueIndex('craft_name').on(t.name)],
);

export const rateCard = mysqlTable(
  'rate_card',
  {
    id: rowId<RateCardId>(),
    name: varchar({ length: 120 }).notNull(),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    /** True on one card at most, null on the others: the index holds that. */
    isStandard: boolean(),
    card: jsonColumn<Omit<RateCard, 'name' | 'currency'>>().notNull(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('rate_card_name').on(t.name), uniqueIndex('rate_card_standard').on(t.isStandard)],
);

/** The card that holds for a customer: the one agreed with them, else the standard one; null while there is none. */
export const heldCardId = sql<RateCardId | null>`coalesce(${customer.rateCardId}, (select ${rateCard.id} from ${rateCard} where ${rateCard.isStandard} = true))`;

/** What a person was entered for: a span of time or a plain sum. Below zero it takes another entry back. */
export const timeEntry = mysqlTable(
  'time_entry',
  {
    id: rowId<TimeEntryId>(),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    day: dateColumn().notNull(),
    kind: mysqlEnum(ENTRY_KINDS).notNull(),
    fromAt: instantColumn(),
    toAt: instantColumn(),
    minutes: int().notNull(),
    /** Of a plain sum, where it was stated. */
    hours: mysqlEnum(HOURS_KINDS),
    /** Of travel; below zero where another entry is taken back. */
    kilometres: int().notNull().default(0),
    text: varchar({ length: 500 }).notNull().default(''),
    overlapReason: varchar({ length: 500 }),
    /** The approved entry that this one takes back, and why. */
    countersId: reference<TimeEntryId>(),
    reason: varchar({ length: 500 }),
    enteredBy: reference<PersonId>().notNull(),
    enteredAt: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    index('time_entry_person').on(t.personId, t.day),
    uniqueIndex('time_entry_counters').on(t.countersId),
    uniqueIndex('time_entry_request').on(t.requestKey),
  ],
);

/** The lines an entry was for, in the order they were named, with their shares. */
export const timeEntryLine = mysqlTable(
  'time_entry_line',
  {
    entryId: reference<TimeEntryId>()
      .notNull()
      .references(() => timeEntry.id),
    position: int().notNull(),
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    share: int().notNull(),
    /** What of the kilometres falls to it. */
    kilometres: int().notNull().default(0),
  },
  (t) => [primaryKey({ columns: [t.entryId, t.position] }), index('time_entry_line_line').on(t.orderLineId)],
);

/** What of an entry falls to a line, by the person's day and hours kind: follows from the entry by the rules of its day. */
export const timePiece = mysqlTable(
  'time_piece',
  {
    id: rowId<number>(),
    entryId: reference<TimeEntryId>()
      .notNull()
      .references(() => timeEntry.id),
    orderId: reference<OrderId>().notNull(),
    orderLineId: reference<OrderLineId>().notNull(),
    personId: reference<PersonId>().notNull(),
    craftId: reference<CraftId>(),
    kind: mysqlEnum(ENTRY_KINDS).notNull(),
    hours: mysqlEnum(HOURS_KINDS).notNull(),
    day: dateColumn().notNull(),
    minutes: int().notNull(),
  },
  (t) => [
    index('time_piece_entry').on(t.entryId),
    index('time_piece_order').on(t.orderId),
    index('time_piece_person').on(t.personId, t.day),
    index('time_piece_day').on(t.day),
  ],
);

/** A person's ISO week, by its Monday; one without a row is open. */
export const timeSheet = mysqlTable(
  'time_sheet',
  {
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    week: dateColumn().notNull(),
    state: mysqlEnum(SHEET_STATES).notNull(),
    reason: varchar({ length: 500 }),
    by: reference<PersonId>(),
    at: instantColumn(),
  },
  (t) => [primaryKey({ columns: [t.personId, t.week] }), index('time_sheet_week').on(t.week)],
);

/** Time that runs: one of a person at a time, until it is stopped and becomes an entry. */
export const runningTime = mysqlTable(
  'running_time',
  {
    personId: reference<PersonId>()
      .primaryKey()
      .references(() => person.id),
    orderId: reference<OrderId>().notNull(),
    orderLineId: reference<OrderLineId>()
      .notNull()
      .references(() => orderLine.id),
    kind: mysqlEnum(ENTRY_KINDS).notNull(),
    startedAt: instantColumn().notNull(),
  },
  (t) => [index('running_time_order').on(t.orderId)],
);
