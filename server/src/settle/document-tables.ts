// What was approved of finished orders, how customers want to be billed, and the documents that were made of both.
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
  BillingRunId,
  ChargeId,
  ContactId,
  CorrectionId,
  CustomerId,
  DocumentId,
  DocumentLineId,
  OrderId,
  OrderLineId,
  PersonId,
  TaxId,
} from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import {
  BEARERS,
  CHARGE_ELEMENTS,
  DOCUMENT_KINDS,
  GROUPINGS,
  RUN_STATES,
  TAX_CATEGORIES,
  type Account,
  type Derivation,
  type Oddity,
  type Party,
  type PayerShare,
  type ReminderLevel,
} from '#core/settle/index.ts';
import { LANGUAGES } from '#core/telling.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { dateColumn, instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { tax } from './tables.ts';

const money = () => bigint({ mode: 'number' });
/** Letters of a line's text, and of why something is off. */
export const LONGEST_TEXT = 300;
export const LONGEST_REASON = 200;
export const LONGEST_BEARER = 160;

/** How the provider bills, one row. */
export const settleSetting = mysqlTable('settle_setting', {
  id: int().primaryKey(),
  /** The first day whose fees are billed here; null: agreements are not billed yet. */
  billsFrom: dateColumn(),
  /** Goodwill above this, in minor units, is approved by a second person; null: never. */
  secondAbove: money(),
  /** Who sends the documents, as they stand on them. */
  seller: jsonColumn<Party | null>(),
  account: varchar({ length: 60 }).notNull().default(''),
  /** After how many days past due customers are reminded, level by level. */
  reminderLevels: jsonColumn<readonly ReminderLevel[] | null>(),
  /** The last day of which the journal never changes any more; null: nothing is closed. */
  closedTo: dateColumn(),
  /** The accounts as the house calls them. */
  accounts: jsonColumn<Partial<Record<Account, string>> | null>(),
  version: int().notNull().default(1),
});

/** How a customer is billed; without a row: order by order, without what is covered. */
export const customerBilling = mysqlTable('customer_billing', {
  customerId: reference<CustomerId>()
    .primaryKey()
    .references(() => customer.id),
  grouping: mysqlEnum(GROUPINGS).notNull(),
  showsCovered: boolean().notNull(),
  needsReference: boolean().notNull(),
  /** The tax of everything they buy; null: as each thing says. */
  taxId: reference<TaxId>().references(() => tax.id),
  address: varchar({ length: 300 }).notNull(),
  country: varchar({ length: 2 }).notNull(),
  taxNumber: varchar({ length: 40 }).notNull(),
  /** Who gets the documents; null: nobody is mailed. */
  contactId: reference<ContactId>(),
  version: int().notNull().default(1),
});

/** A finished order as it is looked through before it is billed; made anew whenever what it comes to may be another. */
export const orderLook = mysqlTable(
  'order_look',
  {
    orderId: reference<OrderId>()
      .primaryKey()
      .references(() => workOrder.id),
    customerId: reference<CustomerId>().notNull(),
    doneOn: dateColumn().notNull(),
    state: mysqlEnum(['to look at', 'second', 'approved', 'settled']).notNull(),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    cost: money().notNull(),
    list: money().notNull(),
    pay: money().notNull(),
    /** What is odd about it; none: it is plain. */
    odd: jsonColumn<Oddity[]>().notNull(),
    isPlain: boolean().notNull(),
    /** Work like it: kind and class of the first machine. */
    like: varchar({ length: 40 }).notNull(),
    /** What it came to, in short: another one, and whoever saw the old one is asked to look again. */
    digest: varchar({ length: 64 }).notNull(),
  },
  (t) => [
    index('order_look_state').on(t.state, t.isPlain, t.doneOn, t.orderId),
    index('order_look_customer').on(t.customerId, t.state, t.doneOn),
    index('order_look_like').on(t.like, t.doneOn, t.cost),
  ],
);

/** Orders of which something changed that they may come to. */
export const orderMark = mysqlTable('order_mark', {
  orderId: reference<OrderId>().primaryKey(),
  marks: int().notNull(),
});

/** What somebody decided about charges before they were approved, in the order in which it was decided. */
export const chargeCorrection = mysqlTable(
  'charge_correction',
  {
    id: rowId<CorrectionId>(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => workOrder.id),
    lineId: reference<OrderLineId>(),
    element: mysqlEnum(CHARGE_ELEMENTS),
    kind: mysqlEnum(['goodwill', 'payers']).notNull(),
    percent: int(),
    minor: money(),
    payers: jsonColumn<PayerShare[] | null>(),
    reason: varchar({ length: 300 }).notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
    requestKey: varchar({ length: 60 }).notNull(),
    requestContent: varchar({ length: 64 }).notNull(),
  },
  (t) => [
    index('charge_correction_order').on(t.orderId, t.id),
    uniqueIndex('charge_correction_request').on(t.requestKey),
  ],
);

/** That what an order comes to is right; once for each order. Waits for a second person where goodwill is large. */
export const orderApproval = mysqlTable(
  'order_approval',
  {
    orderId: reference<OrderId>()
      .primaryKey()
      .references(() => workOrder.id),
    state: mysqlEnum(['second', 'approved']).notNull(),
    digest: varchar({ length: 64 }).notNull(),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    ...{ cost: money().notNull(), list: money().notNull(), borne: money().notNull(), discount: money().notNull() },
    ...{ goodwill: money().notNull(), pay: money().notNull() },
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
    secondId: reference<PersonId>(),
    secondAt: instantColumn(),
  },
  (t) => [index('order_approval_state').on(t.state, t.at)],
);

/** A charge as it was approved, with what it was worked out from. */
export const orderCharge = mysqlTable(
  'order_charge',
  {
    id: rowId<ChargeId>(),
    orderId: reference<OrderId>()
      .notNull()
      .references(() => orderApproval.orderId),
    orderLineId: reference<OrderLineId>().notNull(),
    assetId: reference<AssetId>(),
    agreementId: reference<AgreementId>(),
    element: mysqlEnum(CHARGE_ELEMENTS).notNull(),
    text: varchar({ length: LONGEST_TEXT }).notNull(),
    /** Thousandths of a unit of UN/ECE Recommendation 20. */
    quantity: bigint({ mode: 'number' }).notNull(),
    unit: varchar({ length: 6 }).notNull(),
    ...{ cost: money().notNull(), list: money().notNull(), borne: money().notNull(), discount: money().notNull() },
    ...{ goodwill: money().notNull(), pay: money().notNull() },
    bearer: varchar({ length: LONGEST_BEARER }),
    /** Whose cost centre the borne part goes to. */
    bears: mysqlEnum(BEARERS),
    taxCategory: mysqlEnum(TAX_CATEGORIES),
    taxHundredths: int(),
    derivation: jsonColumn<Derivation>().notNull(),
  },
  (t) => [index('order_charge_order').on(t.orderId)],
);

/** Who pays what of a charge, and whether it was billed. `silent`: it costs them nothing and they do not want to see it. */
export const chargePayer = mysqlTable(
  'charge_payer',
  {
    chargeId: reference<ChargeId>()
      .notNull()
      .references(() => orderCharge.id),
    customerId: reference<CustomerId>().notNull(),
    orderId: reference<OrderId>().notNull(),
    doneOn: dateColumn().notNull(),
    minor: money().notNull(),
    state: mysqlEnum(['open', 'billed', 'silent']).notNull(),
    /** How often it was billed and credited to be billed again. */
    times: int().notNull().default(0),
  },
  (t) => [
    primaryKey({ columns: [t.chargeId, t.customerId] }),
    index('charge_payer_open').on(t.state, t.customerId, t.doneOn),
    index('charge_payer_order').on(t.orderId, t.state),
  ],
);

/** The next number of each kind; its lock gives numbers without gaps, in the transaction that issues. */
export const documentSeries = mysqlTable('document_series', {
  kind: mysqlEnum(DOCUMENT_KINDS).primaryKey(),
  prefix: varchar({ length: 12 }).notNull(),
  next: int({ unsigned: true }).notNull(),
});

/** An invoice or credit note. A draft has no number; what was issued never changes. */
export const document = mysqlTable(
  'document',
  {
    id: rowId<DocumentId>(),
    kind: mysqlEnum(DOCUMENT_KINDS).notNull(),
    state: mysqlEnum(['draft', 'issued']).notNull(),
    number: int({ unsigned: true }),
    numberText: varchar({ length: 30 }),
    customerId: reference<CustomerId>()
      .notNull()
      .references(() => customer.id),
    currency: varchar({ length: 3 }).notNull().$type<Currency>(),
    about: varchar({ length: 60 }).notNull(),
    issuedOn: dateColumn(),
    dueOn: dateColumn(),
    ...{ withoutTax: money().notNull(), tax: money().notNull(), withTax: money().notNull() },
    /** By card on site, of what it bills (BT-113). */
    paid: money().notNull().default(0),
    /** What of it is still to be paid; of a credit note below zero, what of it is still theirs. Nothing on drafts. */
    unpaid: money().notNull().default(0),
    /** The day by which that is due, while there is something; else null. */
    openDue: dateColumn(),
    /** The customer’s own number for it. */
    customerReference: varchar({ length: 200 }).notNull(),
    language: mysqlEnum(LANGUAGES).notNull(),
    /** As they stood when it was issued. */
    seller: jsonColumn<Party | null>(),
    buyer: jsonColumn<Party | null>(),
    account: varchar({ length: 60 }).notNull().default(''),
    /** What a credit note takes back, and why. */
    ofId: reference<DocumentId>(),
    reason: varchar({ length: 300 }).notNull().default(''),
    runId: reference<BillingRunId>(),
    personId: reference<PersonId>(),
    madeAt: instantColumn().notNull(),
    issuedAt: instantColumn(),
    /** The paper, once it is drawn. */
    paper: varchar({ length: 64 }),
    requestKey: varchar({ length: 60 }),
    requestContent: varchar({ length: 64 }),
    version: int().notNull().default(1),
  },
  (t) => [
    uniqueIndex('document_number').on(t.kind, t.number),
    uniqueIndex('document_request').on(t.requestKey),
    index('document_state').on(t.state, t.id),
    index('document_customer').on(t.customerId, t.state, t.id),
    index('document_of').on(t.ofId),
    index('document_run').on(t.runId),
    index('document_open').on(t.openDue, t.customerId),
    index('document_open_customer').on(t.customerId, t.openDue),
    index('document_issued').on(t.issuedOn, t.id),
  ],
);

export const documentLine = mysqlTable(
  'document_line',
  {
    id: rowId<DocumentLineId>(),
    documentId: reference<DocumentId>()
      .notNull()
      .references(() => document.id),
    position: int().notNull(),
    /** What may be billed once only; null on credit notes over what was issued. */
    sourceKey: varchar({ length: 80 }),
    orderId: reference<OrderId>(),
    agreementId: reference<AgreementId>(),
    assetId: reference<AssetId>(),
    chargeId: reference<ChargeId>(),
    day: dateColumn().notNull(),
    text: varchar({ length: LONGEST_TEXT }).notNull(),
    quantity: bigint({ mode: 'number' }).notNull(),
    unit: varchar({ length: 6 }).notNull(),
    ...{ list: money().notNull(), off: money().notNull(), net: money().notNull() },
    offBecause: varchar({ length: LONGEST_REASON }).notNull(),
    taxCategory: mysqlEnum(TAX_CATEGORIES).notNull(),
    taxHundredths: int().notNull(),
    /** The line and period of an agreement’s fee. */
    feeKey: varchar({ length: 30 }),
    feeFrom: dateColumn(),
    feeTo: dateColumn(),
    /** The line that a credit note takes back, and whether it is billed again. */
    ofLineId: reference<DocumentLineId>(),
    again: boolean().notNull().default(false),
  },
  (t) => [
    uniqueIndex('document_line_source').on(t.sourceKey),
    index('document_line_document').on(t.documentId, t.position),
    index('document_line_order').on(t.orderId),
    index('document_line_fee').on(t.agreementId, t.feeFrom),
    index('document_line_of').on(t.ofLineId),
  ],
);

/** Tax of a document by category and rate, also where it is nothing. */
export const documentTax = mysqlTable(
  'document_tax',
  {
    documentId: reference<DocumentId>()
      .notNull()
      .references(() => document.id),
    category: mysqlEnum(TAX_CATEGORIES).notNull(),
    hundredths: int().notNull(),
    taxable: money().notNull(),
    tax: money().notNull(),
  },
  (t) => [primaryKey({ columns: [t.documentId, t.category, t.hundredths] })],
);

/** What of a document was paid on site before, order by order: it stands on one document. */
export const documentPaid = mysqlTable(
  'document_paid',
  {
    documentId: reference<DocumentId>()
      .notNull()
      .references(() => document.id),
    orderId: reference<OrderId>().notNull(),
    minor: money().notNull(),
  },
  (t) => [primaryKey({ columns: [t.documentId, t.orderId] }), index('document_paid_order').on(t.orderId)],
);

/** One pass over everything that is to be billed up to a day, customer by customer. */
export const billingRun = mysqlTable(
  'billing_run',
  {
    id: rowId<BillingRunId>(),
    state: mysqlEnum(RUN_STATES).notNull(),
    upTo: dateColumn().notNull(),
    takesOrders: boolean().notNull(),
    takesFees: boolean().notNull(),
    /** Null: every customer. */
    customerId: reference<CustomerId>(),
    /** Whether documents get their numbers at once; else they are drafts. */
    issues: boolean().notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
    /** How far it is: the last customer that was billed, and what came of it so far. */
    lastId: reference<CustomerId>().notNull(),
    documents: int().notNull().default(0),
    withTax: money().notNull().default(0),
    endedAt: instantColumn(),
    requestKey: varchar({ length: 60 }).notNull(),
    requestContent: varchar({ length: 64 }).notNull(),
  },
  (t) => [uniqueIndex('billing_run_request').on(t.requestKey), index('billing_run_at').on(t.at)],
);

/** What a run left unbilled, each with its reason. */
export const billingRunLeft = mysqlTable(
  'billing_run_left',
  {
    id: rowId<number>(),
    runId: reference<BillingRunId>()
      .notNull()
      .references(() => billingRun.id),
    customerId: reference<CustomerId>().notNull(),
    orderId: reference<OrderId>(),
    agreementId: reference<AgreementId>(),
    reason: varchar({ length: 300 }).notNull(),
  },
  (t) => [index('billing_run_left_run').on(t.runId, t.id)],
);
