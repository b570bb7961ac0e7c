// How an order's clocks came to be otherwise act by act, and corrections of what was told.
import * as v from 'valibot';
import type { OrderId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { clockOut } from './orders.ts';
import { dateOut, done, idText, instantNumber, instantText, requestKey } from './shapes.ts';

const clockThen = v.object({
  state: v.picklist(['running', 'paused', 'met', 'missed', 'void']),
  dueAt: v.nullable(instantNumber),
  /** Milliseconds late. */
  over: v.number(),
});
export type ClockThen = v.InferOutput<typeof clockThen>;
const step = v.object({
  id: v.number(),
  text: v.string(),
  who: v.nullable(v.string()),
  /** As it was told first; and as it was corrected, null: taken back. */
  at: instantNumber,
  corrected: v.nullable(v.object({ to: v.nullable(instantNumber) })),
  recordedAt: instantNumber,
  /** Whether its time can be corrected. */
  canCorrect: v.boolean(),
  /** Clocks that the act made otherwise. */
  effects: v.array(
    v.object({
      target: v.picklist(TARGETS),
      tag: v.string(),
      /** Null: there was none before, or there is none any more. */
      before: v.nullable(clockThen),
      after: v.nullable(clockThen),
    }),
  ),
});
export type HistoryStep = v.InferOutput<typeof step>;

const params = v.object({ id: idText<OrderId>() });
export const readClockHistory = contract({
  method: 'GET',
  path: '/api/orders/:id/clock-history',
  summary: 'What each act of an order made of its clocks when it was recorded',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'register', 'setup'],
  params,
  answer: v.object({ now: instantNumber, zone: v.string(), items: v.array(step) }),
});

const correction = {
  eventId: v.pipe(v.number(), v.integer(), v.minValue(1)),
  /** Null: it never happened. */
  to: v.nullable(instantText),
};
export const previewCorrection = contract({
  method: 'POST',
  path: '/api/orders/:id/corrections/preview',
  summary: 'What a correction would make of an order’s clocks, and which closed months it would change',
  room: 'standing',
  may: OFFICE,
  params,
  body: v.object(correction),
  answer: v.object({ clocksBefore: v.array(clockOut), clocksAfter: v.array(clockOut), closedMonths: v.array(dateOut) }),
});
export const correctOrder = contract({
  method: 'POST',
  path: '/api/orders/:id/corrections',
  summary: 'Correct the time of an act that was told, or take it back, with the reason; everything is derived again',
  room: 'standing',
  may: OFFICE,
  touches: ['orders', 'upkeep', 'standing', 'settle', 'rota'],
  params,
  body: v.object({
    requestKey,
    ...correction,
    text: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why it is corrected.'), v.maxLength(400)),
  }),
  answer: done,
});
