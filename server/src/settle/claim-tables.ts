// Claims to makers for work under the warranty of their machines: what is asked back, what came of it, and where claims to them go.
import { bigint, index, int, mysqlEnum, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { ChargeId, ClaimId, IncomingId, MakerId, OrderId, PersonId } from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import { CLAIM_ENTRIES, CLAIM_STATES } from '#core/settle/index.ts';
import { workOrder } from '../orders/tables.ts';
import { dateColumn, instantColumn, reference, rowId } from '../platform/columns.ts';
import { orderCharge } from './document-tables.ts';
import { incomingPayment } from './paid-tables.ts';

const money = () => bigint({ mode: 'number' });

/** Where claims to a maker go. */
export const claimMaker = mysqlTable(
  'claim_maker',
  {
    id: rowId<MakerId>(),
    name: varchar({ length: 120 }).notNull(),
    mail: varchar({ length: 200 }).notNull(),
    /** Days after the work within which they take them; null: no last day is known. */
    days: int(),
    version: int().notNull().default(1),
  },
  (t) => [uniqueIndex('claim_maker_name').on(t.name)],
);

/** Of one approved order and one maker. */
export const claim = mysqlTable(
  'claim',
  {
    id: rowId<ClaimId>(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    state: mysqlEnum(CLAIM_STATES).notNull(),
    maker: varchar({ length: 120 }).notNull(),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    doneOn: dateColumn().notNull(),
    asked: money().notNull(),
    /** Null while they have not answered. */
    accepted: money(),
    theirNumber: varchar({ length: 60 }).notNull().default(''),
    sentOn: dateColumn(),
    /** The paper as it was sent last. */
    paper: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    index('claim_state').on(t.state, t.doneOn, t.id),
    index('claim_maker_state').on(t.maker, t.state, t.doneOn, t.id),
    index('claim_order').on(t.orderId),
  ],
);

export const claimLine = mysqlTable(
  'claim_line',
  {
    claimId: reference<ClaimId>()
      .notNull()
      .references(() => claim.id),
    chargeId: reference<ChargeId>()
      .notNull()
      .references(() => orderCharge.id),
    ...{ borne: money().notNull(), asked: money().notNull(), accepted: money() },
    why: varchar({ length: 200 }).notNull().default(''),
  },
  (t) => [primaryKey({ columns: [t.claimId, t.chargeId] }), uniqueIndex('claim_line_charge').on(t.chargeId)],
);

/** What a claim told the accounts. Appended, never changed: a day that was closed stays. */
export const claimEntry = mysqlTable(
  'claim_entry',
  {
    id: rowId<number>(),
    claimId: reference<ClaimId>()
      .notNull()
      .references(() => claim.id),
    kind: mysqlEnum(CLAIM_ENTRIES).notNull(),
    maker: varchar({ length: 120 }).notNull(),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    minor: money().notNull(),
    /** The payment that it came by. */
    incomingId: reference<IncomingId>().references(() => incomingPayment.id),
    on: dateColumn().notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
  },
  (t) => [
    index('claim_entry_on').on(t.on, t.id),
    index('claim_entry_claim').on(t.claimId, t.id),
    index('claim_entry_incoming').on(t.incomingId),
  ],
);

export const CLAIM_STEPS = ['sent', 'answered', 'closed', 'given up', 'opened again'] as const;
/** What was done with a claim, in words. */
export const claimStep = mysqlTable(
  'claim_step',
  {
    id: rowId<number>(),
    claimId: reference<ClaimId>()
      .notNull()
      .references(() => claim.id),
    what: mysqlEnum(CLAIM_STEPS).notNull(),
    text: varchar({ length: 400 }).notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
  },
  (t) => [index('claim_step_claim').on(t.claimId, t.id)],
);
