// Payments on the wire: money that came in, what it is laid on, what customers still owe, and reminders.
import * as v from 'valibot';
import type { AllocationId, CustomerId, DocumentId, IncomingId } from '#core/ids.ts';
import { MANAGERS, OFFICE, WRITERS } from '#core/people.ts';
import { AGES, DOCUMENT_KINDS } from '#core/settle/index.ts';
import { parseCurrency } from '#core/money.ts';
import { contract } from './contract.ts';
import {
  afterId,
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  named,
  needed,
  pageOf,
  requestKey,
  upTo,
  version,
} from './shapes.ts';

const above = v.pipe(
  v.number('Write an amount.'),
  v.integer('Cents at most.'),
  v.minValue(1, 'Above 0.'),
  v.maxValue(1e12, 'Too large an amount.'),
);
const currency = v.pipe(
  v.string(),
  v.check((s) => parseCurrency(s) !== null, 'Three letters, such as EUR.'),
  v.transform((s) => parseCurrency(s) as NonNullable<ReturnType<typeof parseCurrency>>),
);
const parts = v.pipe(
  v.array(v.object({ documentId: idOf<DocumentId>(), minor: above })),
  v.maxLength(200, 'At most 200 invoices at once.'),
);
const reason = needed(200, 'Say why.');

const ageSums = v.object({
  /** By age, as `AGES`: minor units. */
  ages: v.pipe(v.array(v.number()), v.length(AGES.length)),
  /** Credit notes and payments that are laid on nothing, below zero. */
  free: v.number(),
  total: v.number(),
});
const debtor = v.object({
  ...{ customer: named, currency: v.string(), items: v.number(), oldest: v.nullable(dateOut) },
  ...{ level: v.number(), overSince: v.nullable(dateOut), ...ageSums.entries },
});
export type Debtor = v.InferOutput<typeof debtor>;
export const listDebtors = contract({
  method: 'GET',
  path: '/api/settle/open-items',
  summary: 'What customers owe, by age, those with most overdue first',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register'],
  query: v.object({ overdue: v.optional(v.literal('yes')), after: afterId }),
  answer: v.object({
    items: v.array(debtor),
    next: v.nullable(v.string()),
    sums: v.array(v.object({ currency: v.string(), ...ageSums.entries })),
    /** Payments that wait to be laid on what they pay. */
    waiting: v.number(),
  }),
});

const openItem = v.object({
  ...{ id: v.number(), kind: v.picklist(DOCUMENT_KINDS), number: v.string(), currency: v.string(), about: v.string() },
  ...{ issuedOn: dateOut, dueOn: dateOut, withTax: v.number(), unpaid: v.number(), age: v.picklist(AGES) },
  ...{ level: v.number(), remindedOn: v.nullable(dateOut) },
});
export type OpenItemOut = v.InferOutput<typeof openItem>;
const customerParams = v.object({ id: idText<CustomerId>() });
export const readOpenItems = contract({
  method: 'GET',
  path: '/api/customers/:id/open-items',
  summary: 'What one customer owes: open documents, the oldest first, and payments with something left',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register'],
  params: customerParams,
  answer: v.object({
    customer: named,
    overSince: v.nullable(dateOut),
    follows: v.boolean(),
    creditLimit: v.nullable(v.number()),
    creditCurrency: v.string(),
    items: v.array(openItem),
    /** More are open than are listed. */
    more: v.number(),
    payments: v.array(
      v.object({
        ...{ id: v.number(), currency: v.string(), minor: v.number(), left: v.number(), bookedOn: dateOut },
        ...{ text: v.string(), version: v.number() },
      }),
    ),
  }),
});
export type OpenItemsPage = v.InferOutput<typeof readOpenItems.answer & {}>;

const paymentRow = v.object({
  ...{ id: v.number(), state: v.picklist(['open', 'laid', 'aside']), customer: v.nullable(named) },
  ...{ minor: v.number(), left: v.number(), currency: v.string(), bookedOn: dateOut, payer: v.string() },
  ...{ text: v.string(), isTyped: v.boolean(), version: v.number() },
});
export type PaymentRow = v.InferOutput<typeof paymentRow>;
export const listPayments = contract({
  method: 'GET',
  path: '/api/settle/payments',
  summary: 'Payments that came in, the newest first',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register'],
  query: v.object({
    state: v.optional(v.picklist(['open', 'laid', 'aside'])),
    customer: v.optional(idText<CustomerId>()),
    after: v.optional(v.string()),
  }),
  answer: pageOf(paymentRow),
});
const paymentParams = v.object({ id: idText<IncomingId>() });
const laidOn = v.object({
  ...{ id: v.number(), documentId: v.number(), number: v.string(), minor: v.number(), on: dateOut, who: v.string() },
  undone: v.nullable(v.object({ on: dateOut, because: v.string() })),
});
export const readPayment = contract({
  method: 'GET',
  path: '/api/settle/payments/:id',
  summary: 'A payment with what it is laid on, and what it may be for',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register'],
  params: paymentParams,
  answer: v.object({
    ...paymentRow.entries,
    ...{ payerAccount: v.string(), asideBecause: v.nullable(v.string()), who: v.string(), at: instantNumber },
    file: v.nullable(v.string()),
    laid: v.array(laidOn),
    /** What claims to makers it paid. */
    claims: v.array(v.object({ id: v.number(), maker: v.string(), minor: v.number() })),
    proposal: v.object({
      customer: v.nullable(named),
      because: v.string(),
      parts: v.array(v.object({ documentId: v.number(), number: v.string(), minor: v.number() })),
    }),
  }),
});
export type PaymentPage = v.InferOutput<typeof readPayment.answer & {}>;

export const typePayment = contract({
  method: 'POST',
  path: '/api/settle/payments',
  summary: 'Type a payment that came in, and lay it on what it pays',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'register'],
  body: v.object({
    requestKey,
    customerId: idOf<CustomerId>(),
    minor: above,
    currency,
    bookedOn: localDateText,
    text: upTo(500),
    parts,
  }),
  answer: created,
});
export const layPayment = contract({
  method: 'POST',
  path: '/api/settle/payments/:id/lay',
  summary: 'Lay what is left of a payment on invoices, and say who paid',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'register'],
  params: paymentParams,
  body: v.object({ version, customerId: idOf<CustomerId>(), parts }),
  answer: done,
});
export const setAsidePayment = contract({
  method: 'POST',
  path: '/api/settle/payments/:id/aside',
  summary: 'Set a payment aside: it pays nothing that was billed here',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'register'],
  params: paymentParams,
  body: v.object({ version, reason }),
  answer: done,
});
export const takeBackAside = contract({
  method: 'POST',
  path: '/api/settle/payments/:id/back',
  summary: 'A payment that was set aside waits to be laid again',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'register'],
  params: paymentParams,
  body: v.object({ version }),
  answer: done,
});
export const layCredit = contract({
  method: 'POST',
  path: '/api/settle/documents/:id/lay',
  summary: 'Lay what is left of a credit note on invoices',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'register'],
  params: v.object({ id: idText<DocumentId>() }),
  body: v.object({ requestKey, parts: v.pipe(parts, v.minLength(1, 'Say on what.')) }),
  answer: done,
});
export const writeOff = contract({
  method: 'POST',
  path: '/api/settle/documents/:id/write-off',
  summary: 'Ask no more for what is open of an invoice, or a part of it',
  room: 'settle',
  may: MANAGERS,
  touches: ['settle', 'register'],
  params: v.object({ id: idText<DocumentId>() }),
  body: v.object({ requestKey, minor: above, reason }),
  answer: done,
});
export const takeBackLaid = contract({
  method: 'POST',
  path: '/api/settle/allocations/:id/take-back',
  summary: 'What was laid on the wrong invoice, or written off, is taken back',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'register'],
  params: v.object({ id: idText<AllocationId>() }),
  body: v.object({ reason }),
  answer: done,
});

export const BANK_FILE_LIMIT = 8 * 1024 * 1024;
const fileIn = {
  name: needed(160, 'Name the file.'),
  text: v.pipe(
    v.string(),
    v.minLength(1, 'The file is empty.'),
    v.maxLength(BANK_FILE_LIMIT, 'At most 8 MB; divide it.'),
  ),
};
const bankRemark = v.object({ line: v.number(), column: v.string(), message: v.string() });
export const previewBank = contract({
  method: 'POST',
  path: '/api/settle/bank-files/preview',
  summary: 'What a bank’s statement (camt.053) or list (CSV) would bring',
  room: 'settle',
  may: WRITERS,
  reads: ['settle', 'register'],
  body: v.object(fileIn),
  bodyLimit: BANK_FILE_LIMIT + 65_536,
  answer: v.object({
    /** In short what it would do: another one, and it is to be looked at again. */
    ...{ seen: v.string(), account: v.string(), entries: v.number(), known: v.number(), laid: v.number() },
    sums: v.array(v.object({ currency: v.string(), minor: v.number() })),
    shown: v.array(
      v.object({
        ...{ line: v.number(), bookedOn: dateOut, minor: v.number(), currency: v.string(), payer: v.string() },
        ...{ text: v.string(), isKnown: v.boolean(), isCertain: v.boolean(), because: v.string() },
      }),
    ),
    /** How many are no payments to us and how many cannot be read; the first of them follow. */
    ...{ passedOver: v.number(), wrong: v.number() },
    ...{ passed: v.array(bankRemark), bad: v.array(bankRemark) },
    /** What speaks against the file as a whole. */
    doubts: v.array(v.string()),
  }),
});
export type BankPreview = v.InferOutput<typeof previewBank.answer & {}>;
export const loadBank = contract({
  method: 'POST',
  path: '/api/settle/bank-files',
  summary: 'Load a bank’s statement or list: new payments, of which the certain ones are laid on what they name',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'register'],
  body: v.object({
    requestKey,
    ...fileIn,
    seen: upTo(64),
    /** Rows that cannot be read are left out, as many as were seen. */
    without: v.pipe(v.number(), v.integer(), v.minValue(0)),
  }),
  bodyLimit: BANK_FILE_LIMIT + 65_536,
  answer: created,
});

const remindAsk = v.object({ customerIds: v.pipe(v.array(idOf<CustomerId>()), v.maxLength(200)) });
export const previewReminders = contract({
  method: 'POST',
  path: '/api/settle/reminders/preview',
  summary: 'Who would be reminded today, of what and by which level; everybody who is due without customers',
  room: 'settle',
  may: WRITERS,
  reads: ['settle', 'register'],
  body: remindAsk,
  answer: v.object({
    /** More are due than are shown; they come when these are sent. */
    more: v.number(),
    items: v.array(
      v.object({
        customer: named,
        /** Who is mailed; empty: nobody is named, it is only kept that they were reminded. */
        ...{ to: v.string(), level: v.number(), currency: v.string(), unpaid: v.number(), seen: v.string() },
        documents: v.array(
          v.object({ id: v.number(), number: v.string(), dueOn: dateOut, unpaid: v.number(), level: v.number() }),
        ),
      }),
    ),
  }),
});
export type ReminderPreview = v.InferOutput<typeof previewReminders.answer & {}>;
export const sendReminders = contract({
  method: 'POST',
  path: '/api/settle/reminders',
  summary: 'Remind customers, each of what was seen',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'outbox'],
  body: v.object({
    customers: v.pipe(
      v.array(v.object({ id: idOf<CustomerId>(), currency, seen: upTo(64) })),
      v.minLength(1, 'Choose whom to remind.'),
      v.maxLength(200, 'At most 200 at once.'),
    ),
  }),
  answer: v.object({ sent: v.number(), left: v.array(v.object({ customer: named, reason: v.string() })) }),
});
