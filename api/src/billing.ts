// Billing on the wire: finished orders looked through and approved, how customers are billed, runs, and the documents they make.
import * as v from 'valibot';
import type { BillingRunId, ContactId, CorrectionId, CustomerId, DocumentId, OrderId, TaxId } from '#core/ids.ts';
import { MANAGERS, OFFICE, WRITERS } from '#core/people.ts';
import {
  CHARGE_ELEMENTS,
  DOCUMENT_KINDS,
  GROUPINGS,
  ODDITIES,
  RUN_STATES,
  TAX_CATEGORIES,
} from '#core/settle/index.ts';
import { contract } from './contract.ts';
import { CHARGED } from './settle.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  minor,
  named,
  requestKey,
  version,
} from './shapes.ts';

const text = (most: number) => v.pipe(v.string(), v.trim(), v.maxLength(most, `At most ${most} characters.`));
const needed = (most: number, what: string) => v.pipe(text(most), v.minLength(1, what));
const percent = v.pipe(
  v.number(),
  v.integer('A whole percentage.'),
  v.minValue(1, 'At least 1 %.'),
  v.maxValue(100, 'At most 100 %.'),
);
const country = v.pipe(
  v.string(),
  v.trim(),
  v.toUpperCase(),
  v.regex(/^([A-Z]{2})?$/, 'Two letters, such as PT; empty where it is not known.'),
);
const party = v.object({
  name: needed(120, 'Write the name that stands on documents.'),
  address: needed(300, 'Write the address that stands on documents.'),
  country: v.pipe(country, v.minLength(2, 'Two letters, such as PT.')),
  taxNumber: text(40),
});

const settings = {
  billsFrom: v.nullable(localDateText),
  secondAbove: v.nullable(minor),
  seller: v.nullable(party),
  account: text(60),
};
export const readSettleSettings = contract({
  method: 'GET',
  path: '/api/settle/settings',
  summary: 'How the house bills',
  room: 'settle',
  may: OFFICE,
  reads: ['settle'],
  answer: v.object({
    ...{
      billsFrom: v.nullable(dateOut),
      secondAbove: v.nullable(v.number()),
      account: v.string(),
      version: v.number(),
    },
    seller: v.nullable(v.object({ name: v.string(), address: v.string(), country: v.string(), taxNumber: v.string() })),
  }),
});
export const changeSettleSettings = contract({
  method: 'PUT',
  path: '/api/settle/settings',
  summary: 'Change how the house bills',
  room: 'settle',
  may: MANAGERS,
  touches: ['settle'],
  body: v.object({ version: v.pipe(v.number(), v.integer(), v.minValue(0)), ...settings }),
  answer: done,
});

const customerParams = v.object({ id: idText<CustomerId>() });
export const readCustomerBilling = contract({
  method: 'GET',
  path: '/api/customers/:id/billing',
  summary: 'How a customer is billed',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'register'],
  params: customerParams,
  answer: v.object({
    ...{ grouping: v.picklist(GROUPINGS), showsCovered: v.boolean(), needsReference: v.boolean() },
    ...{ taxId: v.nullable(v.number()), address: v.string(), country: v.string(), taxNumber: v.string() },
    ...{ contactId: v.nullable(v.number()), version: v.number() },
  }),
});
export const changeCustomerBilling = contract({
  method: 'PUT',
  path: '/api/customers/:id/billing',
  summary: 'Change how a customer is billed',
  room: 'settle',
  may: WRITERS,
  touches: ['settle'],
  params: customerParams,
  body: v.object({
    version: v.pipe(v.number(), v.integer(), v.minValue(0)),
    ...{ grouping: v.picklist(GROUPINGS), showsCovered: v.boolean(), needsReference: v.boolean() },
    ...{ taxId: v.nullable(idOf<TaxId>()), address: text(300), country, taxNumber: text(40) },
    contactId: v.nullable(idOf<ContactId>()),
  }),
  answer: done,
});

const LOOK_STATES = ['to look at', 'second', 'approved', 'settled'] as const;
const look = v.object({
  ...{ orderId: v.number(), kind: v.string(), title: v.string(), customer: named, doneOn: dateOut },
  ...{ state: v.picklist(LOOK_STATES), currency: v.string(), cost: v.nullable(v.number()), list: v.number() },
  ...{ pay: v.number(), odd: v.array(v.picklist(ODDITIES)), digest: v.string() },
});
export type Look = v.InferOutput<typeof look>;
export const listLooks = contract({
  method: 'GET',
  path: '/api/settle/orders',
  summary: 'Finished orders to look through before they are billed, plain ones apart',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'orders', 'register'],
  query: v.object({
    state: v.optional(v.picklist(LOOK_STATES), 'to look at'),
    only: v.optional(v.picklist(['odd', 'plain'])),
    odd: v.optional(v.picklist(ODDITIES)),
    customer: v.optional(idText<CustomerId>()),
    after: v.optional(v.string()),
  }),
  answer: v.object({
    items: v.array(look),
    next: v.nullable(v.string()),
    /** All that wait, in words of the tabs: up to 1,000 are counted. */
    counts: v.object({ odd: v.number(), plain: v.number(), second: v.number(), approved: v.number() }),
    billsFrom: v.nullable(dateOut),
  }),
});

const orderParams = v.object({ id: idText<OrderId>() });
const settledCharge = v.object({
  ...{ lineId: v.number(), machine: v.nullable(v.string()), element: v.picklist(CHARGE_ELEMENTS) },
  ...{ what: v.picklist(CHARGED), text: v.string(), bearer: v.nullable(v.string()), cost: v.nullable(v.number()) },
  ...{ list: v.number(), borne: v.number(), discount: v.number(), goodwill: v.number(), pay: v.number() },
  payers: v.array(v.object({ customer: named, minor: v.number(), state: v.nullable(v.string()) })),
  reasons: v.array(v.string()),
});
export const readLook = contract({
  method: 'GET',
  path: '/api/settle/orders/:id',
  summary: 'What a finished order comes to, who bears and pays it, what is odd, and where it is billed',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'orders', 'register', 'labour', 'stores', 'setup'],
  params: orderParams,
  answer: v.object({
    ...{ orderId: v.number(), title: v.string(), customer: named, doneOn: dateOut, state: v.picklist(LOOK_STATES) },
    ...{ currency: v.string(), reference: v.string(), odd: v.array(v.picklist(ODDITIES)), digest: v.string() },
    sentences: v.array(v.string()),
    charges: v.array(settledCharge),
    total: v.object({
      ...{ cost: v.nullable(v.number()), list: v.number(), borne: v.number(), discount: v.number() },
      ...{ goodwill: v.number(), pay: v.number(), margin: v.nullable(v.number()) },
    }),
    corrections: v.array(
      v.object({
        ...{ id: v.number(), kind: v.picklist(['goodwill', 'payers']), percent: v.nullable(v.number()) },
        ...{ minor: v.nullable(v.number()), lineId: v.nullable(v.number()), element: v.nullable(v.string()) },
        payers: v.array(v.object({ customer: named, percent: v.number() })),
        ...{ reason: v.string(), who: v.string(), at: instantNumber },
      }),
    ),
    approval: v.nullable(
      v.object({
        who: v.string(),
        at: instantNumber,
        second: v.nullable(v.object({ who: v.string(), at: instantNumber })),
      }),
    ),
    documents: v.array(
      v.object({
        id: v.number(),
        kind: v.picklist(DOCUMENT_KINDS),
        number: v.nullable(v.string()),
        withTax: v.number(),
      }),
    ),
  }),
});
export type LookPage = v.InferOutput<typeof readLook.answer & {}>;

export const approveOrders = contract({
  method: 'POST',
  path: '/api/settle/approvals',
  summary: 'Approve what finished orders come to, each as it was seen; those that may not be are named',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'orders'],
  body: v.object({
    orders: v.pipe(
      v.array(v.object({ id: idOf<OrderId>(), digest: v.nullable(v.pipe(v.string(), v.maxLength(64))) })),
      v.minLength(1, 'Tick at least one.'),
      v.maxLength(100, 'At most 100 at once.'),
      v.check((all) => new Set(all.map((o) => o.id)).size === all.length, 'An order is named twice.'),
    ),
  }),
  answer: v.object({
    approved: v.number(),
    left: v.array(v.object({ orderId: v.number(), reason: v.string() })),
  }),
});
export const approveSecond = contract({
  method: 'POST',
  path: '/api/settle/orders/:id/second',
  summary: 'Approve as the second person, where goodwill is large',
  room: 'settle',
  may: MANAGERS,
  touches: ['settle', 'orders'],
  params: orderParams,
  answer: done,
});
export const withdrawApproval = contract({
  method: 'DELETE',
  path: '/api/settle/orders/:id/approval',
  summary: 'Take an approval back, while nothing of it is on a document',
  room: 'settle',
  may: WRITERS,
  touches: ['settle', 'orders'],
  params: orderParams,
  answer: done,
});

const off = v.union(
  [v.strictObject({ percent }), v.strictObject({ minor: v.pipe(minor, v.minValue(1, 'Above 0.')) })],
  'A percentage from 1 to 100, or an amount above 0.',
);
export const addCorrection = contract({
  method: 'POST',
  path: '/api/settle/orders/:id/corrections',
  summary: 'Give goodwill, or say who else pays, with the reason',
  room: 'settle',
  may: WRITERS,
  touches: ['settle'],
  params: orderParams,
  body: v.pipe(
    v.object({
      requestKey,
      lineId: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1))),
      element: v.nullable(v.picklist(CHARGE_ELEMENTS)),
      reason: needed(300, 'Say why.'),
      goodwill: v.nullable(off),
      payers: v.pipe(
        v.array(v.object({ customerId: idOf<CustomerId>(), percent })),
        v.maxLength(10, 'At most 10 payers.'),
      ),
    }),
    v.forward(
      v.check(
        ({ goodwill, payers }) => (goodwill === null) !== (payers.length === 0),
        'Give goodwill, or say who pays; one of them.',
      ),
      ['goodwill'],
    ),
  ),
  answer: created,
});
export const removeCorrection = contract({
  method: 'DELETE',
  path: '/api/settle/orders/:id/corrections/:correction',
  summary: 'Take a correction back',
  room: 'settle',
  may: WRITERS,
  touches: ['settle'],
  params: v.object({ id: idText<OrderId>(), correction: idText<CorrectionId>() }),
  answer: done,
});

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
  ...{ credited: v.number(), version: v.number() },
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
    number: v.optional(text(30)),
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
