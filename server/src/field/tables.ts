// Field: the acts that phones sent, each with what became of it, and the photos they name.
import { boolean, index, mysqlEnum, mysqlTable, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { OrderId, PersonId } from '#core/ids.ts';
import type { Refusal } from '#core/refusal.ts';
import { instantColumn, jsonColumn, reference } from '../platform/columns.ts';
import { fileContent, person } from '../platform/tables.ts';

export const fieldAct = mysqlTable(
  'field_act',
  {
    /** Made on the phone. */
    id: varchar({ length: 60 }).primaryKey(),
    /** The first act that told the same. */
    deed: varchar({ length: 60 }).notNull(),
    /** The deed, once it was taken: it is taken once. */
    takenDeed: varchar({ length: 60 }),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    kind: varchar({ length: 20 }).notNull(),
    orderId: reference<OrderId>(),
    /** When it happened; by the phone's own clock; and when it came here. */
    at: instantColumn().notNull(),
    phoneAt: instantColumn().notNull(),
    receivedAt: instantColumn().notNull(),
    /** The phone's clock could not be believed: it counts as of its receipt. */
    doubtful: boolean().notNull(),
    content: varchar({ length: 64 }).notNull(),
    outcome: mysqlEnum(['taken', 'refused']).notNull(),
    refusals: jsonColumn<readonly Refusal[]>().notNull(),
  },
  (t) => [
    uniqueIndex('field_act_deed').on(t.takenDeed),
    index('field_act_person').on(t.personId, t.receivedAt),
    index('field_act_order').on(t.orderId),
  ],
);

/** A photo under the name that the phone gave it, until an act says whose it is, and after. */
export const fieldPhoto = mysqlTable(
  'field_photo',
  {
    id: varchar({ length: 60 }).primaryKey(),
    personId: reference<PersonId>()
      .notNull()
      .references(() => person.id),
    sha256: varchar({ length: 64 })
      .notNull()
      .references(() => fileContent.sha256),
    at: instantColumn().notNull(),
    /** The order whose work it signs for. */
    signsId: reference<OrderId>(),
  },
  (t) => [index('field_photo_signs').on(t.signsId)],
);
