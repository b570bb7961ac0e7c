// Work orders, their clocks and visits on the wire.
import * as v from 'valibot';
import type { OrderId, PersonId } from '#core/ids.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import { LINE_OUTCOMES, ORDER_KINDS, ORDER_STAGES } from '#core/orders/index.ts';
import { PAUSE_REASONS, TARGETS } from '#core/service-levels/index.ts';
import { OUT_STATES, WAYS_OUT } from '#core/telling.ts';
import { RECORDERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { formAnswer, formQuestion } from './forms.ts';
import {
  dateOut,
  idOf,
  idText,
  instantNumber,
  instantText,
  localDateText,
  longText,
  named,
  requestKey,
} from './shapes.ts';

export const clockOut = v.object({
  orderId: v.number(),
  assetId: v.number(),
  tag: v.string(),
  target: v.picklist(TARGETS),
  state: v.picklist(['running', 'paused', 'met', 'missed', 'void']),
  promisedMinutes: v.number(),
  warnPercent: v.number(),
  measure: v.string(),
  startedAt: instantNumber,
  dueAt: v.nullable(instantNumber),
  stoppedAt: v.nullable(instantNumber),
  /** Milliseconds in the clock's own measure: left while running or paused, over once missed. */
  left: v.nullable(v.number()),
  over: v.nullable(v.number()),
  note: v.nullable(v.string()),
  zone: v.string(),
});
export type ClockOut = v.InferOutput<typeof clockOut>;

export const visitOut = v.object({
  scheduleId: v.number(),
  label: v.string(),
  nominal: dateOut,
  due: dateOut,
  windowFrom: dateOut,
  windowTo: dateOut,
  completedOn: v.nullable(dateOut),
  state: v.picklist(['planned', 'in window', 'outside window', 'not done', 'declined', 'held']),
  orderId: v.nullable(v.number()),
});
export type VisitOut = v.InferOutput<typeof visitOut>;

export const orderRow = v.object({
  id: v.number(),
  kind: v.picklist(ORDER_KINDS),
  stage: v.picklist(ORDER_STAGES),
  priority: v.number(),
  title: v.string(),
  customer: v.string(),
  place: v.string(),
  /** Of its first machine; empty where it is for a place. */
  tag: v.string(),
  assetId: v.nullable(v.number()),
  /** How many machines it is for; the first one is named. */
  machines: v.number(),
  technician: v.nullable(v.string()),
  plannedFor: v.nullable(dateOut),
  startedAt: instantNumber,
  due: v.nullable(dateOut),
  /** The day its next promise ends or its visit is due; null where nothing is, and once it is finished. */
  nextDue: v.nullable(dateOut),
  waitingFor: v.nullable(v.picklist(PAUSE_REASONS)),
  nextClock: v.nullable(clockOut),
});
export type OrderRow = v.InferOutput<typeof orderRow>;
const eventOut = v.object({
  id: v.number(),
  kind: v.string(),
  text: v.string(),
  at: instantNumber,
  recordedAt: instantNumber,
  who: v.nullable(v.string()),
});
const person = v.object({ name: v.string(), phone: v.nullable(v.string()), email: v.nullable(v.string()) });
const linked = v.object({ id: v.number(), title: v.string(), stage: v.picklist(ORDER_STAGES) });
const found = v.object({
  symptom: v.nullable(v.string()),
  fault: v.nullable(v.string()),
  cause: v.nullable(v.string()),
  remedy: v.nullable(v.string()),
});
export const orderPage = v.object({
  id: v.number(),
  version: v.number(),
  kind: v.picklist(ORDER_KINDS),
  stage: v.picklist(ORDER_STAGES),
  priority: v.number(),
  title: v.string(),
  customer: named,
  address: v.nullable(v.object({ value: v.string(), from: v.string() })),
  zone: v.string(),
  ...{ technicianId: v.nullable(v.number()), technician: v.nullable(v.string()) },
  /** Who of the house sees to it; null: nobody in particular. */
  inCharge: v.nullable(named),
  plannedFor: v.nullable(dateOut),
  ...{ startedAt: instantNumber, pausedSince: v.nullable(instantNumber), minutes: v.nullable(v.number()) },
  /** Minutes of work entered for it so far; null: none. */
  worked: v.nullable(v.number()),
  caller: v.nullable(person),
  callerSaid: v.nullable(v.string()),
  /** Whom to ask for on site. */
  contact: v.nullable(v.object({ id: v.number(), ...person.entries })),
  customerReference: v.string(),
  wishedOn: v.nullable(dateOut),
  internal: v.boolean(),
  follows: v.nullable(linked),
  followedBy: v.array(linked),
  accessNote: v.nullable(v.string()),
  /** What is to be read before anything is done: of the customer. */
  notes: v.array(v.string()),
  /** What is missing before it is done. */
  missing: v.array(
    v.object({
      what: v.picklist(['task', 'form', 'findings', 'sign-off', 'running time']),
      lineId: v.nullable(v.number()),
      id: v.nullable(v.number()),
      text: v.string(),
    }),
  ),
  /** Who signed for the work, in words; null: nobody said yet. */
  signed: v.nullable(v.string()),
  /** What the work took, as told when it was done; costs in minor units, for those who see prices. */
  took: v.nullable(
    v.object({
      fault: v.nullable(v.string()),
      labourMinutes: v.nullable(v.number()),
      partsCost: v.nullable(v.number()),
      otherCost: v.nullable(v.number()),
    }),
  ),
  lines: v.array(
    v.object({
      id: v.number(),
      /** Null: the place itself, while no machine is known. */
      assetId: v.nullable(v.number()),
      tag: v.string(),
      serial: v.string(),
      model: v.string(),
      className: v.string(),
      place: v.string(),
      minutes: v.nullable(v.number()),
      /** Why it was left undone. */
      left: v.nullable(v.string()),
      /** It is no part of the order any more. */
      off: v.boolean(),
      finishedAt: v.nullable(instantNumber),
      restoredAt: v.nullable(instantNumber),
      /** The order it goes on with. */
      handedOn: v.nullable(v.number()),
      cause: v.nullable(v.picklist(CAUSES)),
      /** The job plan it is done by, as it held when it was raised. */
      plan: v.nullable(
        v.object({
          ...{ name: v.string(), version: v.number(), minutes: v.number(), crew: v.number() },
          ...{ skills: v.array(v.string()), safety: v.string() },
          parts: v.array(
            v.object({
              ...{
                partId: v.number(),
                number: v.string(),
                name: v.string(),
                unit: v.string(),
                thousandths: v.number(),
              },
            }),
          ),
        }),
      ),
      found,
      /** In which words its class says them. */
      words: v.object({
        symptom: v.array(v.string()),
        fault: v.array(v.string()),
        cause: v.array(v.string()),
        remedy: v.array(v.string()),
      }),
      /** Decisions that held before and were taken again, the latest first. */
      former: v.array(
        v.object({ until: instantNumber, tag: v.nullable(v.string()), sentence: v.string(), promise: v.string() }),
      ),
      /** Who bears it, as decided when the order was raised. */
      verdict: v.nullable(
        v.object({
          sentence: v.string(),
          promise: v.string(),
          considered: v.array(
            v.object({
              label: v.string(),
              agreementId: v.nullable(v.number()),
              taken: v.boolean(),
              reason: v.string(),
            }),
          ),
        }),
      ),
      visit: v.nullable(
        v.object({
          agreementId: v.number(),
          agreement: v.string(),
          due: dateOut,
          windowFrom: dateOut,
          windowTo: dateOut,
          completedOn: v.nullable(dateOut),
          /** What it is billed by itself, as it was agreed when it was raised: minor units and their currency. */
          price: v.nullable(v.object({ minor: v.number(), currency: v.string() })),
          /** Why the agreement that promised the visit does not bear it. */
          beyond: v.nullable(v.string()),
        }),
      ),
    }),
  ),
  tasks: v.array(
    v.object({
      id: v.number(),
      lineId: v.number(),
      text: v.string(),
      mandatory: v.boolean(),
      outcome: v.nullable(v.picklist(['done', 'left'])),
    }),
  ),
  forms: v.array(
    v.object({
      id: v.number(),
      lineId: v.number(),
      name: v.string(),
      mandatory: v.boolean(),
      questions: v.array(formQuestion),
      answers: v.nullable(v.array(formAnswer)),
    }),
  ),
  events: v.array(eventOut),
  clocks: v.array(clockOut),
  offered: v.array(v.string()),
  pauses: v.array(v.object({ reason: v.picklist(PAUSE_REASONS), counts: v.boolean() })),
  reminders: v.array(v.string()),
  now: instantNumber,
});
export type OrderPage = v.InferOutput<typeof orderPage>;
export const readOrder = contract({
  method: 'GET',
  path: '/api/orders/:id',
  summary: 'One work order',
  room: 'orders',
  may: 'signed in',
  reads: ['orders', 'register', 'setup', 'labour'],
  params: v.object({ id: idText<OrderId>() }),
  answer: orderPage,
});

export const readTold = contract({
  method: 'GET',
  path: '/api/orders/:id/told',
  summary: 'What people outside were told of an order, the latest first',
  room: 'orders',
  may: 'signed in',
  reads: ['outbox', 'orders'],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({
    items: v.array(
      v.object({
        ...{ id: v.number(), kind: v.string(), way: v.picklist(WAYS_OUT), to: v.string(), subject: v.string() },
        ...{ state: v.picklist(OUT_STATES), at: instantNumber, sentAt: v.nullable(instantNumber) },
      }),
    ),
  }),
});
export type Told = v.InferOutput<NonNullable<typeof readTold.answer>>['items'][number];

/** Said again and again while the page is open. */
export const beHere = contract({
  method: 'POST',
  path: '/api/orders/:id/here',
  summary: 'Say that one has an order open, and hear who else has',
  room: 'orders',
  may: 'signed in',
  // Heard by the next to say so, who says it every few seconds.
  touches: [],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({ others: v.array(named) }),
});

const nearPromise = v.object({
  clock: clockOut,
  order: orderRow,
  /** What of the time line counts for it. */
  open: v.array(v.object({ from: instantNumber, to: instantNumber })),
});
export type NearPromise = v.InferOutput<typeof nearPromise>;
const promises = v.object({
  now: instantNumber,
  axisFrom: instantNumber,
  axisTo: instantNumber,
  promises: v.array(nearPromise),
  counts: v.object({ missed: v.number(), short: v.number(), enough: v.number(), paused: v.number() }),
  morePromises: v.number(),
});
export type Promises = v.InferOutput<typeof promises>;
export const readPromises = contract({
  method: 'GET',
  path: '/api/today/promises',
  summary: 'The promises that run, the one that ends first in front',
  room: 'orders',
  may: 'signed in',
  reads: ['orders', 'register', 'setup'],
  answer: promises,
});

const amount = v.nullable(
  v.pipe(v.number('Write a number.'), v.integer(), v.minValue(0, 'From 0 up.'), v.maxValue(100_000_000)),
);
const effort = v.object({
  fault: v.nullable(
    v.pipe(
      v.string(),
      v.trim(),
      v.maxLength(120, 'At most 120 characters.'),
      v.transform((s) => s.toLowerCase() || null),
    ),
  ),
  labourMinutes: amount,
  partsCost: amount,
  otherCost: amount,
});
const finding = v.nullable(
  v.pipe(
    v.string(),
    v.trim(),
    v.maxLength(120, 'At most 120 characters.'),
    v.transform((s) => s || null),
  ),
);
export const actIn = v.variant('kind', [
  v.object({ kind: v.literal('planned'), technicianId: idOf<PersonId>(), date: localDateText }),
  v.object({ kind: v.literal('sent') }),
  v.object({
    kind: v.literal('told'),
    /** One of ours; null: somebody from outside, by name. */
    technicianId: v.optional(v.nullable(idOf<PersonId>()), null),
    technician: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(120, 'At most 120 characters.')), ''),
  }),
  v.object({ kind: v.literal('arrived') }),
  v.object({ kind: v.literal('paused'), reason: v.picklist(PAUSE_REASONS), text: longText }),
  v.object({ kind: v.literal('resumed') }),
  v.object({ kind: v.literal('task'), taskId: v.number(), outcome: v.picklist(['done', 'left']), text: longText }),
  v.object({
    kind: v.literal('line'),
    lineId: v.number(),
    outcome: v.picklist(LINE_OUTCOMES),
    text: v.pipe(longText, v.maxLength(500, 'At most 500 characters.')),
  }),
  v.object({ kind: v.literal('form'), formId: v.number(), answers: v.pipe(v.array(formAnswer), v.maxLength(60)) }),
  v.object({
    kind: v.literal('found'),
    lineId: v.number(),
    ...{ symptom: finding, fault: finding, cause: finding, remedy: finding },
  }),
  v.object({
    kind: v.literal('signed'),
    /** Empty: nobody signed, and `text` says why. */
    by: v.pipe(v.string(), v.trim(), v.maxLength(120, 'At most 120 characters.')),
    function: v.pipe(v.string(), v.trim(), v.maxLength(120, 'At most 120 characters.')),
    text: v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.')),
  }),
  v.object({ kind: v.literal('restored'), lineId: v.exactOptional(v.nullable(v.number())) }),
  v.object({ kind: v.literal('worked around'), lineId: v.exactOptional(v.nullable(v.number())), text: longText }),
  v.object({
    kind: v.literal('done'),
    text: longText,
    effort: v.exactOptional(effort),
    /** Why it is done although something is missing; for managers. */
    anyway: v.exactOptional(v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.'))),
  }),
  v.object({ kind: v.literal('called off'), text: longText }),
  v.object({ kind: v.literal('note'), text: v.pipe(longText, v.minLength(1, 'Write the note.')) }),
]);
export type ActIn = v.InferInput<typeof actIn>;
export const recordAct = contract({
  method: 'POST',
  path: '/api/orders/:id/events',
  summary: 'Record what happened on an order',
  room: 'orders',
  may: RECORDERS,
  touches: ['upkeep', 'orders', 'rota'],
  params: v.object({ id: idText<OrderId>() }),
  body: v.object({ requestKey, at: instantText, act: actIn }),
  answer: v.object({ stage: v.picklist(ORDER_STAGES) }),
});
