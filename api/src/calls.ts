// Calls on the wire: what a caller asks for, what is known while they speak, and the order that comes of it.
import * as v from 'valibot';
import type { AssetId, ContactId, CustomerId, JobPlanId, LocationId, OrderId, OrderLineId } from '#core/ids.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import { ORDER_TELLINGS, OVER_TERMS } from '#core/orders/index.ts';
import { PRIORITIES } from '#core/service-levels/index.ts';
import { MANAGERS, OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { clockOut, orderRow } from './orders.ts';
import {
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  instantText,
  localDateText,
  longText,
  named,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

export const MOST_MACHINES = 40;
/** What is raised by hand; visits come of schedules. */
export const CALLED_KINDS = ['repair', 'inspection', 'installation'] as const;

const few = (most: number) => v.pipe(v.string(), v.trim(), v.maxLength(most, `At most ${most} characters.`));
const reason = v.optional(few(200));
const cause = v.picklist(CAUSES);
const priority = v.picklist(PRIORITIES, 'Choose a priority.');

export const callIn = v.object({
  kind: v.optional(v.picklist(CALLED_KINDS), 'repair'),
  /** The machines it is about; none: the place itself, of a customer. */
  assetIds: v.pipe(v.array(idOf<AssetId>()), v.maxLength(MOST_MACHINES, `At most ${MOST_MACHINES} machines.`)),
  locationId: v.optional(v.nullable(idOf<LocationId>())),
  customerId: v.optional(v.nullable(idOf<CustomerId>())),
  priority,
  cause,
  /** Its tasks, parts and duration are each machine’s. */
  jobPlanId: v.optional(v.nullable(idOf<JobPlanId>())),
  receivedAt: instantText,
  title: shortText,
  /** In the words of the class. */
  symptom: v.optional(v.nullable(few(120))),
  /** Who called, of the customer’s contacts; or in words, with how to reach them. */
  callerId: v.optional(v.nullable(idOf<ContactId>())),
  callerSaid: v.optional(few(200)),
  /** Whom to ask for on site. */
  contactId: v.optional(v.nullable(idOf<ContactId>())),
  customerReference: v.optional(few(80)),
  wishedOn: v.optional(v.nullable(localDateText)),
  /** Why it is raised although the customer is over their credit terms. */
  overTermsReason: reason,
  /** Why a call of more than 30 days ago is told only now. */
  lateReason: reason,
});
export const raiseOrder = contract({
  method: 'POST',
  path: '/api/orders',
  summary: 'Raise an order from a call: for machines, or for a place',
  room: 'orders',
  may: OFFICE,
  touches: ['orders'],
  body: v.object({ requestKey, ...callIn.entries }),
  answer: v.object({ id: v.number() }),
});

const considered = v.array(
  v.object({ label: v.string(), agreementId: v.nullable(v.number()), taken: v.boolean(), reason: v.string() }),
);
const callAsk = v.object({ ...callIn.entries, title: v.optional(v.string()) });
export type CallAsk = v.InferInput<typeof callAsk>;
const lineKnown = v.object({
  assetId: v.nullable(v.number()),
  tag: v.nullable(v.string()),
  model: v.string(),
  place: v.string(),
  sentence: v.string(),
  promise: v.string(),
  considered,
  clocks: v.array(clockOut),
  /** What is left of counted rights that this would draw from. */
  allowances: v.array(v.string()),
});
export const previewOrder = contract({
  method: 'POST',
  path: '/api/orders/preview',
  summary:
    'What an order would be entitled to, how fast we promised to be, and what is known of the machines and the place',
  room: 'orders',
  may: OFFICE,
  body: callAsk,
  answer: v.object({
    customer: named,
    zone: v.string(),
    lines: v.array(lineKnown),
    /** Of the own fleet, rented to nobody: nobody is billed. */
    internal: v.boolean(),
    /** What the agreements that cover it want said whenever something is raised. */
    reminders: v.array(v.string()),
    notes: v.array(v.string()),
    address: v.nullable(v.string()),
    accessNote: v.nullable(v.string()),
    credit: v.nullable(v.object({ overSince: dateOut, policy: v.picklist(OVER_TERMS), mayRaise: v.boolean() })),
    contacts: v.array(
      v.object({ id: v.number(), name: v.string(), role: v.nullable(v.string()), phone: v.nullable(v.string()) }),
    ),
    symptoms: v.array(v.string()),
    /** Open orders of the same machines, then of the same place. */
    open: v.array(v.object({ order: orderRow, same: v.picklist(['machine', 'place']) })),
    lastHere: v.array(
      v.object({
        orderId: v.number(),
        title: v.string(),
        tag: v.string(),
        technician: v.nullable(v.string()),
        doneAt: instantNumber,
        remedy: v.nullable(v.string()),
        text: v.string(),
      }),
    ),
    /** Somebody pays for it, or for a part of it. */
    chargeable: v.boolean(),
  }),
});
export type CallKnown = v.InferOutput<NonNullable<typeof previewOrder.answer>>;

/** A call about something that is on an order already becomes a note of it, with who called. */
export const joinOrder = contract({
  method: 'POST',
  path: '/api/orders/:id/calls',
  summary: 'Add a call to an order that is open for the same machine or place',
  room: 'orders',
  may: OFFICE,
  touches: ['orders'],
  params: v.object({ id: idText<OrderId>() }),
  body: v.object({
    requestKey,
    receivedAt: instantText,
    text: v.pipe(longText, v.minLength(1, 'Write what was said.')),
  }),
  answer: done,
});

const orderParams = v.object({ id: idText<OrderId>() });
const changeAsk = v.object({
  priority: v.optional(v.nullable(priority)),
  /** Lines whose machine or cause turned out to be another. */
  lines: v.optional(
    v.pipe(
      v.array(
        v.object({
          lineId: idOf<OrderLineId>(),
          assetId: v.optional(v.nullable(idOf<AssetId>())),
          cause: v.optional(v.nullable(cause)),
        }),
      ),
      v.maxLength(MOST_MACHINES),
    ),
    [],
  ),
});
const decidedAgain = v.object({
  lines: v.array(
    v.object({
      lineId: v.number(),
      before: v.object({ tag: v.nullable(v.string()), sentence: v.string(), promise: v.string() }),
      after: v.object({ tag: v.nullable(v.string()), sentence: v.string(), promise: v.string(), considered }),
    }),
  ),
  clocksBefore: v.array(clockOut),
  clocksAfter: v.array(clockOut),
});
export type DecidedAgain = v.InferOutput<typeof decidedAgain>;
export const previewChange = contract({
  method: 'POST',
  path: '/api/orders/:id/changes/preview',
  summary: 'What another priority, machine or cause would make of an order’s cover and clocks',
  room: 'orders',
  may: OFFICE,
  params: orderParams,
  body: changeAsk,
  answer: decidedAgain,
});
export const changeOrder = contract({
  method: 'POST',
  path: '/api/orders/:id/changes',
  summary: 'Change an order’s priority, or a line’s machine or cause: decided again from its start',
  room: 'orders',
  may: OFFICE,
  touches: ['orders'],
  params: orderParams,
  body: v.object({ requestKey, ...changeAsk.entries, text: v.pipe(few(500), v.minLength(1, 'Say why.')) }),
  answer: done,
});

export const addLine = contract({
  method: 'POST',
  path: '/api/orders/:id/lines',
  summary: 'Add a machine to an open order; its own promises run from now',
  room: 'orders',
  may: OFFICE,
  touches: ['orders'],
  params: orderParams,
  body: v.object({
    requestKey,
    assetId: idOf<AssetId>(),
    cause: v.optional(cause, 'unknown'),
    text: v.optional(few(500), ''),
  }),
  answer: v.object({ id: v.number() }),
});

export const followUp = contract({
  method: 'POST',
  path: '/api/orders/:id/follow-up',
  summary: 'Raise an order for what was left, linked both ways',
  room: 'orders',
  may: OFFICE,
  touches: ['orders', 'upkeep'],
  params: orderParams,
  body: v.object({
    requestKey,
    lineIds: v.pipe(
      v.array(idOf<OrderLineId>()),
      v.minLength(1, 'Choose what is left to do.'),
      v.maxLength(MOST_MACHINES),
    ),
    reason: v.pipe(few(500), v.minLength(1, 'Say what is left, and why.')),
    parts: v.optional(few(500), ''),
    wishedOn: v.optional(v.nullable(localDateText)),
  }),
  answer: v.object({ id: v.number() }),
});

/** One field at a time is changed from what was read: another one changed meanwhile stands beside it. */
const from = <S extends v.GenericSchema>(shape: S) => v.optional(v.object({ from: shape, to: shape }));
export const changeHead = contract({
  method: 'PUT',
  path: '/api/orders/:id/head',
  summary:
    'Change an order’s title, contact on site, the customer’s own number or the wished day, each from what was read',
  room: 'orders',
  may: OFFICE,
  touches: ['orders'],
  params: orderParams,
  body: v.object({
    title: from(shortText),
    contactId: from(v.nullable(idOf<ContactId>())),
    customerReference: from(few(80)),
    wishedOn: from(v.nullable(localDateText)),
  }),
  answer: done,
});

export const readOrderSettings = contract({
  method: 'GET',
  path: '/api/order-settings',
  summary: 'How orders are raised',
  room: 'setup',
  may: OFFICE,
  reads: ['setup'],
  answer: v.object({
    overTerms: v.picklist(OVER_TERMS),
    /** What people outside are told of which stage. */
    tells: v.array(v.picklist(ORDER_TELLINGS)),
    /** What the priorities mean, the first in front. */
    priorities: v.array(v.string()),
    version: v.number(),
  }),
});
export const changeOrderSettings = contract({
  method: 'PUT',
  path: '/api/order-settings',
  summary: 'Change how orders are raised',
  room: 'setup',
  may: MANAGERS,
  touches: ['setup', 'orders'],
  /** Left out: as it is. */
  body: v.object({
    overTerms: v.picklist(OVER_TERMS),
    tells: v.optional(v.array(v.picklist(ORDER_TELLINGS))),
    priorities: v.optional(v.pipe(v.array(v.pipe(v.string(), v.trim(), v.maxLength(80))), v.maxLength(20))),
    version,
  }),
  answer: done,
});
