// Mail on the wire: what came in, who sent it, and what is made of it.
import * as v from 'valibot';
import type { ContactId, CustomerId, MailId, OrderId } from '#core/ids.ts';
import { MAIL_STATES } from '#core/mail/index.ts';
import { OFFICE } from '#core/people.ts';
import { LANGUAGES, OUT_STATES } from '#core/telling.ts';
import { callIn } from './calls.ts';
import { contract } from './contract.ts';
import {
  afterId,
  created,
  done,
  idOf,
  idText,
  instantNumber,
  longText,
  named,
  pageQuery,
  requestKey,
  shortText,
} from './shapes.ts';

const nobody = v.nullable(named);
const mailRow = v.object({
  id: v.number(),
  fromName: v.string(),
  fromAddress: v.string(),
  subject: v.string(),
  /** The beginning of what was written. */
  start: v.string(),
  receivedAt: instantNumber,
  state: v.picklist(MAIL_STATES),
  isRead: v.boolean(),
  customer: nobody,
  orderId: v.nullable(v.number()),
});
export type MailRow = v.InferOutput<typeof mailRow>;

export const listMail = contract({
  method: 'GET',
  path: '/api/mail',
  summary: 'Mail that came in, the newest first',
  room: 'mailbox',
  may: OFFICE,
  reads: ['mail', 'register'],
  query: v.object({ state: v.optional(v.picklist(MAIL_STATES)), after: afterId, limit: pageQuery.limit }),
  answer: v.object({ items: v.array(mailRow), next: v.nullable(v.string()), now: instantNumber }),
});

const params = v.object({ id: idText<MailId>() });
const mailPage = v.object({
  ...mailRow.entries,
  sentAt: v.nullable(instantNumber),
  /** What its writer wrote, and what they answered. */
  own: v.string(),
  quoted: v.string(),
  isAutomatic: v.boolean(),
  problem: v.nullable(v.string()),
  contact: nobody,
  /** Of a sender who is nobody we know: what the message says of them. */
  proposed: v.nullable(v.object({ name: v.string(), email: v.string(), phone: v.nullable(v.string()) })),
  notKept: v.array(v.object({ name: v.string(), bytes: v.number(), why: v.string() })),
  putAwayReason: v.nullable(v.string()),
  who: v.nullable(v.string()),
  /** Machines of the customer whose tag or serial the message names. */
  machines: v.array(v.object({ id: v.number(), tag: v.string(), model: v.string(), customer: v.string() })),
  /** Orders of the customer that are open, the one it most likely belongs to first. */
  open: v.array(v.object({ id: v.number(), title: v.string(), tag: v.string(), likely: v.boolean() })),
  answers: v.array(
    v.object({
      id: v.number(),
      subject: v.string(),
      body: v.string(),
      state: v.picklist(OUT_STATES),
      at: instantNumber,
    }),
  ),
});
export type MailPage = v.InferOutput<typeof mailPage>;
export const readMail = contract({
  method: 'GET',
  path: '/api/mail/:id',
  summary: 'A message that came in, with what it may be about',
  room: 'mailbox',
  may: OFFICE,
  reads: ['mail', 'register', 'orders', 'outbox'],
  params,
  answer: mailPage,
});

export const raiseFromMail = contract({
  method: 'POST',
  path: '/api/mail/:id/orders',
  summary: 'Raise an order from a message: its words and files go with it, and what is told of it goes into its thread',
  room: 'mailbox',
  may: OFFICE,
  touches: ['mail', 'orders', 'register'],
  params,
  body: v.object({ requestKey, ...callIn.entries }),
  answer: created,
});

export const joinFromMail = contract({
  method: 'POST',
  path: '/api/mail/:id/join',
  summary: 'Add a message to an order: its words as a note, with its files',
  room: 'mailbox',
  may: OFFICE,
  touches: ['mail', 'orders', 'register'],
  params,
  body: v.object({ orderId: idOf<OrderId>() }),
  answer: done,
});

export const putMailAway = contract({
  method: 'POST',
  path: '/api/mail/:id/away',
  summary: 'Put a message away, saying why; or have it looked at again',
  room: 'mailbox',
  may: OFFICE,
  touches: ['mail'],
  params,
  /** No reason: it is to be looked at again. */
  body: v.object({
    reason: v.nullable(
      v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(300, 'At most 300 characters.')),
    ),
  }),
  answer: done,
});

export const nameSender = contract({
  method: 'POST',
  path: '/api/mail/:id/sender',
  summary: 'Make a contact of who sent a message; their other messages are theirs too',
  room: 'mailbox',
  may: OFFICE,
  touches: ['mail', 'register'],
  params,
  body: v.object({
    customerId: idOf<CustomerId>(),
    /** One of their contacts, whose address it becomes; none: somebody new. */
    contactId: v.optional(v.nullable(idOf<ContactId>())),
    name: shortText,
    phone: v.optional(v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(60, 'At most 60 characters.')))),
    language: v.optional(v.picklist(LANGUAGES)),
  }),
  answer: v.object({ contactId: v.number() }),
});

export const answerMail = contract({
  method: 'POST',
  path: '/api/mail/:id/answers',
  summary: 'Answer a message, in its thread',
  room: 'mailbox',
  may: OFFICE,
  touches: ['mail', 'outbox'],
  params,
  body: v.object({ requestKey, text: v.pipe(longText, v.minLength(1, 'Write the answer.')) }),
  answer: done,
});
