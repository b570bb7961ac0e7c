// Months of standing on the wire: closed by a person, and what turned out otherwise since.
import * as v from 'valibot';
import { MANAGERS, OFFICE } from '#core/people.ts';
import { COUNTED_AS } from '#core/standing/index.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { dateOut, done, instantNumber, localDateText } from './shapes.ts';

const standingMonth = v.object({
  /** Its first day. */
  month: dateOut,
  closedAt: v.nullable(instantNumber),
  closedBy: v.nullable(v.string()),
  reason: v.string(),
  met: v.number(),
  missed: v.number(),
  owed: v.number(),
  inWindow: v.number(),
  /** What was found to count otherwise since it was closed. */
  adjustments: v.number(),
});
export type StandingMonthOut = v.InferOutput<typeof standingMonth>;

export const readStandingMonths = contract({
  method: 'GET',
  path: '/api/standing/months',
  summary: 'Months of standing, the newest first: which are closed, by whom, and which is to be closed next',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'standing', 'setup'],
  answer: v.object({
    months: v.array(standingMonth),
    /** The month that is closed next, and why it cannot be yet; null: nothing was promised so far. */
    next: v.nullable(v.object({ month: dateOut, whyNot: v.nullable(v.string()), open: v.number() })),
  }),
});

const adjustment = v.object({
  id: v.number(),
  month: dateOut,
  foundAt: instantNumber,
  thing: v.picklist([...TARGETS, 'visit']),
  before: v.nullable(v.picklist(COUNTED_AS)),
  after: v.nullable(v.picklist(COUNTED_AS)),
  orderId: v.nullable(v.number()),
  tag: v.string(),
  agreement: v.nullable(v.string()),
  customer: v.string(),
});
export type AdjustmentOut = v.InferOutput<typeof adjustment>;

export const readAdjustments = contract({
  method: 'GET',
  path: '/api/standing/adjustments',
  summary: 'What was found in a period to count otherwise than when its month was closed',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'standing', 'register', 'agreements'],
  query: v.object({ from: localDateText, to: localDateText }),
  answer: v.object({ items: v.array(adjustment), isCut: v.boolean() }),
});

export const closeStandingMonth = contract({
  method: 'POST',
  path: '/api/standing/months/close',
  summary: 'Close a month: its figures stay as they are, later corrections are told beside them',
  room: 'standing',
  may: MANAGERS,
  touches: ['standing'],
  body: v.object({
    month: v.pipe(
      localDateText,
      v.check((day) => day.endsWith('-01'), 'Name a month by its first day.'),
    ),
    reason: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(400)), ''),
  }),
  answer: done,
});
