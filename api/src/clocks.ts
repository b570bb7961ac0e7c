// Clocks at work on the wire: every promise that runs or stands still, by margin, in groups as wanted; who sees to it, and who was warned.
import * as v from 'valibot';
import type { OrderId, PersonId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { contract, type Answer } from './contract.ts';
import { clockOut } from './orders.ts';
import { done, idOf, idText, instantNumber, longText, named, pageQuery, requestKey } from './shapes.ts';

export const CLOCKS_BY = [
  'agreement',
  'customer',
  'depot',
  'technician',
  'in hand',
  'target',
  'priority',
  'wait',
] as const;
export type ClocksBy = (typeof CLOCKS_BY)[number];
export const MARGINS_SHOWN = ['missed', 'short', 'enough', 'paused'] as const;
export type MarginShown = (typeof MARGINS_SHOWN)[number];

const counts = v.object({ missed: v.number(), short: v.number(), enough: v.number(), paused: v.number() });
/** Who was told how much was left; nobody where a later step was told in its place. */
const warning = v.object({
  percent: v.number(),
  at: instantNumber,
  told: v.array(v.string()),
  acknowledged: v.nullable(v.object({ at: instantNumber, by: v.string() })),
});
const clockAtWork = v.object({
  clock: clockOut,
  margin: v.picklist(MARGINS_SHOWN),
  ...{ title: v.string(), priority: v.number(), stage: v.string(), customer: v.string(), place: v.string() },
  technician: v.nullable(v.string()),
  inCharge: v.nullable(named),
  /** Since when it stands still, while it does. */
  pausedSince: v.nullable(instantNumber),
  warnings: v.array(warning),
});
export type ClockAtWork = v.InferOutput<typeof clockAtWork>;
const clocksAtWork = v.object({
  now: instantNumber,
  counts,
  /** The one whose first clock is due next in front. */
  groups: v.array(
    v.object({ key: v.string(), name: v.string(), firstDue: v.nullable(instantNumber), ...counts.entries }),
  ),
  items: v.array(clockAtWork),
  next: v.nullable(v.string()),
});
export type ClocksAtWork = v.InferOutput<typeof clocksAtWork>;

export const readClocksAtWork = contract({
  method: 'GET',
  path: '/api/clocks',
  summary:
    'Every promise that runs or stands still, the one due next in front; in groups, with who sees to it and who was warned',
  room: 'orders',
  may: OFFICE,
  reads: ['orders', 'register', 'agreements', 'setup'],
  query: v.object({
    by: v.optional(v.picklist(CLOCKS_BY)),
    /** One group alone: its key. */
    of: v.optional(v.pipe(v.string(), v.maxLength(120))),
    margin: v.optional(v.picklist(MARGINS_SHOWN)),
    /** What the reader has in hand. */
    mine: v.optional(v.literal('yes')),
    /** Warned of, and nobody said that they see to it. */
    unseen: v.optional(v.literal('yes')),
    ...pageQuery,
  }),
  answer: clocksAtWork,
});
export const readWarnings = contract({
  method: 'GET',
  path: '/api/orders/:id/warnings',
  summary: 'Who was warned of an order’s promises, and who sees to it',
  room: 'orders',
  may: 'signed in',
  reads: ['orders', 'register', 'setup'],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({
    items: v.array(v.object({ ...warning.entries, target: v.picklist(TARGETS), tag: v.string() })),
    /** Whether the reader may say that they see to what nobody answered yet: who was warned, and the office. */
    mayAnswer: v.boolean(),
    now: instantNumber,
  }),
});
export type WarningsTold = Answer<typeof readWarnings>;
export const acknowledgeWarnings = contract({
  method: 'POST',
  path: '/api/orders/:id/warnings/acknowledge',
  summary: 'Say of what was warned of an order’s promises that it is seen to; for who was warned, and the office',
  room: 'orders',
  may: 'signed in',
  touches: ['orders'],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({ acknowledged: v.number() }),
});
export const handOver = contract({
  method: 'POST',
  path: '/api/orders/:id/hand-over',
  summary: 'Give an order into the hands of somebody of the house',
  room: 'orders',
  may: OFFICE,
  touches: ['orders'],
  params: v.object({ id: idText<OrderId>() }),
  body: v.object({ personId: idOf<PersonId>(), text: longText, requestKey }),
  answer: done,
});
