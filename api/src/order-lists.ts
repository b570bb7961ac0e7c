// Lists of orders on the wire: their filters, views under a name, and one act on many.
import * as v from 'valibot';
import type { CustomerId, DepotId, OrderId, OrderViewId, PersonId } from '#core/ids.ts';
import { EXCEPTIONS, ORDER_KINDS, ORDER_STAGES } from '#core/orders/index.ts';
import { OFFICE } from '#core/people.ts';
import { PAUSE_REASONS } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { orderRow } from './orders.ts';
import {
  created,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  named,
  pageOf,
  pageQuery,
  requestKey,
  shortText,
} from './shapes.ts';

export const ORDER_SORTS = ['newest', 'due', 'oldest'] as const;
export type OrderSort = (typeof ORDER_SORTS)[number];
export const DUES = ['late', 'today', 'week'] as const;
const stages = v.pipe(
  v.string(),
  v.transform((text) => text.split(',')),
  v.array(v.picklist(ORDER_STAGES, 'A stage such as planned.')),
  v.maxLength(ORDER_STAGES.length),
);
/** Every filter stands in the address, so that a list can be sent to a colleague. */
const orderFilter = {
  show: v.optional(v.picklist(['open', 'finished', 'all'])),
  /** Instead of `show`: named stages, with commas between. */
  stage: v.optional(stages),
  kind: v.optional(v.picklist(ORDER_KINDS)),
  customer: v.optional(idText<CustomerId>()),
  depot: v.optional(idText<DepotId>()),
  technician: v.optional(v.union([v.literal('none'), idText<PersonId>()])),
  /** What it waits for; `any`: anything. */
  waiting: v.optional(v.picklist(['any', ...PAUSE_REASONS])),
  priority: v.optional(v.pipe(v.string(), v.regex(/^[1-9]$/, 'A priority is 1 to 9.'), v.transform(Number))),
  /** Raised more than so many days ago. */
  older: v.optional(v.pipe(v.string(), v.regex(/^\d{1,4}$/, 'Write a number of days.'), v.transform(Number))),
  due: v.optional(v.picklist(DUES)),
  /** Those somebody decided to go on with although something spoke against it. */
  exception: v.optional(v.picklist(['yes'])),
};
export const listOrders = contract({
  method: 'GET',
  path: '/api/orders',
  summary: 'Work orders by stage, depot, what they wait for, age, due, customer and technician',
  room: 'orders',
  may: 'signed in',
  reads: ['orders', 'register', 'setup'],
  query: v.object({ ...orderFilter, sort: v.optional(v.picklist(ORDER_SORTS)), ...pageQuery }),
  answer: v.object({
    ...pageOf(orderRow).entries,
    /** Counted up to 1,000; `more` where there are more. */
    total: v.number(),
    more: v.boolean(),
  }),
});

export const ordersCsv = contract({
  method: 'GET',
  path: '/api/orders.csv',
  summary: 'Work orders as CSV, filtered and sorted as the list',
  room: 'orders',
  may: 'signed in',
  query: v.object({ ...orderFilter, sort: v.optional(v.picklist(ORDER_SORTS)) }),
});

const exceptionFilter = {
  kind: v.optional(v.picklist(EXCEPTIONS)),
  /** Who decided. */
  who: v.optional(idText<PersonId>()),
  depot: v.optional(idText<DepotId>()),
  from: v.optional(localDateText),
  to: v.optional(localDateText),
};
const orderException = v.object({
  id: v.number(),
  at: instantNumber,
  kind: v.picklist(EXCEPTIONS),
  /** What was done, and why. */
  text: v.string(),
  who: v.nullable(named),
  order: v.object({ id: v.number(), title: v.string(), stage: v.picklist(ORDER_STAGES) }),
  customer: v.string(),
});
export type OrderException = v.InferOutput<typeof orderException>;
export const listExceptions = contract({
  method: 'GET',
  path: '/api/order-exceptions',
  summary: 'Decisions on orders that something spoke against, with who took them, the newest first',
  room: 'orders',
  may: OFFICE,
  reads: ['orders', 'register', 'setup'],
  query: v.object({ ...exceptionFilter, ...pageQuery }),
  answer: pageOf(orderException),
});
export const exceptionsCsv = contract({
  method: 'GET',
  path: '/api/order-exceptions.csv',
  summary: 'The same as CSV',
  room: 'orders',
  may: OFFICE,
  query: v.object(exceptionFilter),
});

const viewIn = v.object({
  name: v.pipe(shortText, v.maxLength(80, 'At most 80 characters.')),
  query: v.pipe(v.string(), v.maxLength(500), v.regex(/^[\w=&%.,+ -]*$/, 'The filters as they stand in the address.')),
  shared: v.boolean(),
});
export const listViews = contract({
  method: 'GET',
  path: '/api/order-views',
  summary: 'Named filters of the list of orders: one’s own, and those others share',
  room: 'orders',
  may: 'signed in',
  reads: ['looks'],
  answer: v.object({
    items: v.array(v.object({ id: v.number(), ...viewIn.entries, own: v.boolean(), who: v.string() })),
  }),
});
export type OrderView = v.InferOutput<NonNullable<typeof listViews.answer>>['items'][number];
export const keepView = contract({
  method: 'POST',
  path: '/api/order-views',
  summary: 'Keep filters under a name; the same name of one’s own is replaced',
  room: 'orders',
  may: 'signed in',
  touches: ['looks'],
  body: viewIn,
  answer: created,
});
export const removeView = contract({
  method: 'DELETE',
  path: '/api/order-views/:id',
  summary: 'Remove a view of one’s own',
  room: 'orders',
  may: 'signed in',
  touches: ['looks'],
  params: v.object({ id: idText<OrderViewId>() }),
  answer: done,
});

export const MOST_AT_ONCE = 200;
const bulkAct = v.variant('kind', [
  v.object({ kind: v.literal('planned'), technicianId: idOf<PersonId>(), date: localDateText }),
  v.object({ kind: v.literal('sent') }),
  v.object({
    kind: v.literal('called off'),
    text: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why the orders are called off.'), v.maxLength(500)),
  }),
  v.object({
    kind: v.literal('note'),
    text: v.pipe(v.string(), v.trim(), v.minLength(1, 'Write the note.'), v.maxLength(500)),
  }),
]);
const bulk = {
  ids: v.pipe(
    v.array(idOf<OrderId>()),
    v.minLength(1, 'Tick the orders first.'),
    v.maxLength(MOST_AT_ONCE, `At most ${MOST_AT_ONCE} orders at once.`),
  ),
  act: bulkAct,
};
const bulkEffect = v.object({
  done: v.number(),
  refused: v.array(v.object({ id: v.number(), title: v.string(), reason: v.string() })),
});
export type BulkEffect = v.InferOutput<typeof bulkEffect>;
export const previewBulk = contract({
  method: 'POST',
  path: '/api/orders/bulk/preview',
  summary: 'What one act would do to many orders: how many take it, which refuse it and why; nothing is written',
  room: 'orders',
  may: OFFICE,
  body: v.object(bulk),
  answer: bulkEffect,
});
export const actOnMany = contract({
  method: 'POST',
  path: '/api/orders/bulk',
  summary: 'Record one act on many orders; those that refuse it stay as they are and are named',
  room: 'orders',
  may: OFFICE,
  touches: ['orders', 'upkeep'],
  body: v.object({ requestKey, ...bulk }),
  answer: bulkEffect,
});
