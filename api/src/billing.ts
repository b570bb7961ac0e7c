// Billing on the wire: finished orders looked through and approved, how customers are billed, runs, and the documents they make.
import * as v from 'valibot';
import type { ContactId, CorrectionId, CustomerId, OrderId, TaxId } from '#core/ids.ts';
import { MANAGERS, OFFICE, WRITERS } from '#core/people.ts';
import { CHARGE_ELEMENTS, DOCUMENT_KINDS, GROUPINGS, ODDITIES } from '#core/settle/index.ts';
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
  upTo,
  needed,
} from './shapes.ts';

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
  taxNumber: upTo(40),
});

const settings = {
  billsFrom: v.nullable(localDateText),
  secondAbove: v.nullable(minor),
  seller: v.nullable(party),
  account: upTo(60),
  /** Days past due after which customers are over their credit terms; null: that is set by hand. */
  graceDays: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(365, 'At most 365 days.'))),
  reminderLevels: v.array(v.object({ days: v.number(), wait: v.number() })),
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
      graceDays: v.nullable(v.number()),
      reminderLevels: v.array(v.object({ days: v.number(), wait: v.number() })),
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
  touches: ['settle', 'register'],
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
    ...{ taxId: v.nullable(idOf<TaxId>()), address: upTo(300), country, taxNumber: upTo(40) },
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
  /** Which appointment it belongs to, where the order is billed by appointment. */
  coming: v.nullable(v.object({ nth: v.number(), on: localDateText })),
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
    /** Whether another cause would decide anything again; of visits of a schedule it would not. */
    hasCause: v.boolean(),
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

export const readSettleToday = contract({
  method: 'GET',
  path: '/api/settle/today',
  summary: 'What waits for a decision in Settle',
  room: 'settle',
  may: OFFICE,
  reads: ['settle'],
  answer: v.object({
    /** Up to 1,000 of each are counted. */
    ...{ odd: v.number(), second: v.number(), payments: v.number(), claims: v.number(), answered: v.number() },
    /** The claim to send whose time runs out first; null: none has a last day. */
    soonest: v.nullable(v.object({ id: v.number(), maker: v.string(), by: dateOut })),
  }),
});
