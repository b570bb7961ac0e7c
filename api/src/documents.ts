// Billing on the wire: runs, and the invoices and credit notes they make.
import * as v from 'valibot';
import type { BillingRunId, CustomerId, DocumentId, OrderId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { DOCUMENT_KINDS, RUN_STATES, TAX_CATEGORIES } from '#core/settle/index.ts';
import { contract } from './contract.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  named,
  requestKey,
  version,
  upTo,
  needed,
} from './shapes.ts';

const runAsk = {
  upTo: localDateText,
  takesOrders: v.boolean(),
  takesFees: v.boolean(),
  customerId: v.nullable(idOf<CustomerId>()),
  orderId: v.nullable(idOf<OrderId>()),
  /** With numbers at once; else as drafts. */
  issues: v.boolean(),
};
const leftOut = v.object({
  ...{ customer: v.string(), customerId: v.number(), orderId: v.nullable(v.number()) },
  ...{ agreementId: v.nullable(v.number()), reason: v.string() },
});
export const previewBilling = contract({
  method: 'POST',
  path: '/api/settle/runs/preview',
  summary: 'What a run would bill up to a day, and what it would leave',
  room: 'settle',
  may: WRITERS,
  reads: ['settle', 'orders', 'agreements', 'register', 'setup', 'upkeep'],
  body: v.object(runAsk),
  answer: v.object({
    ...{ documents: v.number(), lines: v.number(), withoutTax: v.number(), tax: v.number(), withTax: v.number() },
    ...{ silent: v.number(), left: v.number(), currencies: v.array(v.string()) },
    shown: v.array(
      v.object({
        ...{ kind: v.picklist(DOCUMENT_KINDS), customer: named, currency: v.string(), about: v.string() },
        ...{ lines: v.number(), first: v.string(), withoutTax: v.number(), withTax: v.number() },
      }),
    ),
    leftOut: v.array(leftOut),
  }),
});
export type BillingPreview = v.InferOutput<typeof previewBilling.answer & {}>;
export const startBilling = contract({
  method: 'POST',
  path: '/api/settle/runs',
  summary: 'Bill what is approved and what agreements owe, up to a day',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'orders'],
  body: v.object({ requestKey, ...runAsk }),
  answer: created,
});
export const listRuns = contract({
  method: 'GET',
  path: '/api/settle/runs',
  summary: 'Billing runs, the newest first, with what they left',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register', 'setup'],
  answer: v.object({
    items: v.array(
      v.object({
        ...{ id: v.number(), state: v.picklist(RUN_STATES), upTo: dateOut, takesOrders: v.boolean() },
        ...{ takesFees: v.boolean(), issues: v.boolean(), who: v.string(), customer: v.nullable(v.string()) },
        ...{ at: instantNumber, documents: v.number(), withTax: v.number(), left: v.array(leftOut) },
      }),
    ),
  }),
});
export type RunOut = v.InferOutput<typeof listRuns.answer & {}>['items'][number];

const documentParams = v.object({ id: idText<DocumentId>() });
const row = v.object({
  ...{ id: v.number(), kind: v.picklist(DOCUMENT_KINDS), state: v.picklist(['draft', 'issued']) },
  ...{ number: v.nullable(v.string()), customer: named, currency: v.string(), about: v.string() },
  ...{ issuedOn: v.nullable(dateOut), dueOn: v.nullable(dateOut), withoutTax: v.number(), withTax: v.number() },
  ...{ credited: v.number(), unpaid: v.number(), version: v.number() },
});
export type DocumentRow = v.InferOutput<typeof row>;
export const listDocuments = contract({
  method: 'GET',
  path: '/api/settle/documents',
  summary: 'Invoices and credit notes, the newest first',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register'],
  query: v.object({
    state: v.optional(v.picklist(['draft', 'issued'])),
    kind: v.optional(v.picklist(DOCUMENT_KINDS)),
    customer: v.optional(idText<CustomerId>()),
    run: v.optional(idText<BillingRunId>()),
    number: v.optional(upTo(30)),
    after: v.optional(v.string()),
  }),
  answer: v.object({ items: v.array(row), next: v.nullable(v.string()) }),
});
const partyOut = v.object({ name: v.string(), address: v.string(), country: v.string(), taxNumber: v.string() });
export const readDocument = contract({
  method: 'GET',
  path: '/api/settle/documents/:id',
  summary: 'An invoice or credit note with its lines, taxes and credit notes',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register', 'orders', 'agreements'],
  params: documentParams,
  answer: v.object({
    ...row.entries,
    /** Paid on site before, and what is left to pay. */
    ...{ paid: v.number(), left: v.number() },
    ...{ tax: v.number(), reference: v.string(), language: v.string(), reason: v.string(), account: v.string() },
    ...{ seller: v.nullable(partyOut), buyer: v.nullable(partyOut), hasPaper: v.boolean() },
    /** What paid it: payments, credit notes, and what is not asked for any more; of a credit note, what it was laid on. */
    laid: v.array(
      v.object({
        ...{ id: v.number(), kind: v.picklist(['payment', 'credit note', 'written off']), minor: v.number() },
        ...{ on: dateOut, who: v.string(), reason: v.string(), paymentId: v.nullable(v.number()) },
        document: v.nullable(v.object({ id: v.number(), number: v.nullable(v.string()) })),
        undone: v.nullable(v.object({ on: dateOut, because: v.string() })),
      }),
    ),
    reminders: v.array(v.object({ level: v.number(), on: dateOut, who: v.string(), sentTo: v.string() })),
    of: v.nullable(v.object({ id: v.number(), number: v.nullable(v.string()) })),
    notes: v.array(v.object({ id: v.number(), number: v.nullable(v.string()), withTax: v.number() })),
    lines: v.array(
      v.object({
        ...{ id: v.number(), position: v.number(), orderId: v.nullable(v.number()), order: v.nullable(v.string()) },
        ...{ agreementId: v.nullable(v.number()), agreement: v.nullable(v.string()), day: dateOut, text: v.string() },
        ...{ quantity: v.number(), unit: v.string(), list: v.number(), off: v.number(), offBecause: v.string() },
        ...{ net: v.number(), credited: v.number(), category: v.picklist(TAX_CATEGORIES), hundredths: v.number() },
      }),
    ),
    taxes: v.array(
      v.object({
        ...{ category: v.picklist(TAX_CATEGORIES), hundredths: v.number(), taxable: v.number(), tax: v.number() },
      }),
    ),
  }),
});
export type DocumentPage = v.InferOutput<typeof readDocument.answer & {}>;
export const issueDocument = contract({
  method: 'POST',
  path: '/api/settle/documents/:id/issue',
  summary: 'Issue a draft: it gets its number and never changes again',
  room: 'settle',
  may: WRITERS,
  touches: ['settle'],
  params: documentParams,
  body: v.object({ version }),
  answer: done,
});
export const discardDocument = contract({
  method: 'POST',
  path: '/api/settle/documents/:id/discard',
  summary: 'Give a draft up; what was on it waits to be billed again',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'orders'],
  params: documentParams,
  body: v.object({ version }),
  answer: done,
});
export const creditDocument = contract({
  method: 'POST',
  path: '/api/settle/documents/:id/credit',
  summary: 'Write a credit note over an invoice, in full or in part',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'orders'],
  params: documentParams,
  body: v.object({
    requestKey,
    reason: needed(300, 'Say why it is credited.'),
    again: v.boolean(),
    lines: v.pipe(
      v.array(
        v.object({
          lineId: v.pipe(v.number(), v.integer()),
          minor: v.pipe(v.number(), v.integer('No fractions of cents.')),
        }),
      ),
      v.minLength(1, 'Say what is credited.'),
      v.maxLength(2000),
    ),
  }),
  answer: created,
});
/** As PDF or UBL 2.1; drafts are marked as such. */
export const documentFile = contract({
  method: 'GET',
  path: '/api/settle/documents/:id/file',
  summary: 'An invoice or credit note as PDF or as UBL 2.1',
  room: 'settle',
  may: OFFICE,
  params: documentParams,
  query: v.object({ as: v.picklist(['pdf', 'ubl']) }),
});
