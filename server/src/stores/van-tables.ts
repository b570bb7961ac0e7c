// Vans: what others put into them, and what is asked for them.
import { bigint, index, mysqlEnum, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { PartId, PersonId, StoreActId, StoreId, VanAskId } from '#core/ids.ts';
import { ASK_STATES } from '#core/stores/index.ts';
import { instantColumn, reference, rowId } from '../platform/columns.ts';
import { part, store, storeAct } from './tables.ts';

/** What was put into a van by somebody else, until whose van it is has seen that it is there. */
export const vanArrival = mysqlTable(
  'van_arrival',
  {
    actId: reference<StoreActId>()
      .notNull()
      .references(() => storeAct.id),
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    at: instantColumn().notNull(),
    receivedAt: instantColumn(),
  },
  (t) => [primaryKey({ columns: [t.storeId, t.actId] }), index('van_arrival_open').on(t.storeId, t.receivedAt)],
);

/** A part that somebody asks for, for their van and no order. */
export const vanAsk = mysqlTable(
  'van_ask',
  {
    id: rowId<VanAskId>(),
    storeId: reference<StoreId>()
      .notNull()
      .references(() => store.id),
    personId: reference<PersonId>().notNull(),
    partId: reference<PartId>()
      .notNull()
      .references(() => part.id),
    thousandths: bigint({ mode: 'number' }).notNull(),
    text: varchar({ length: 200 }).notNull(),
    at: instantColumn().notNull(),
    state: mysqlEnum(ASK_STATES).notNull(),
    /** Why not, or what was sent instead of all. */
    answer: varchar({ length: 200 }).notNull().default(''),
    answeredAt: instantColumn(),
    requestKey: varchar({ length: 60 }).notNull(),
  },
  (t) => [
    index('van_ask_state').on(t.state, t.id),
    index('van_ask_person').on(t.personId, t.at),
    uniqueIndex('van_ask_request').on(t.requestKey),
  ],
);
