// The alerts of an order on the wire: the rules as they were, who was told, and what was read around.
import * as v from 'valibot';
import type { AlertId, OrderId } from '#core/ids.ts';
import { contract } from './contract.ts';
import { idText, instantNumber } from './shapes.ts';

const orderAlert = v.object({
  ...{ id: v.number(), rule: v.string(), assetId: v.number(), tag: v.string(), model: v.string() },
  ...{ channel: v.string(), unit: v.string() },
  /** The rule as it was then, what was seen, and the limits it drew. */
  ...{ said: v.string(), text: v.string() },
  limits: v.array(v.object({ limit: v.number(), side: v.picklist(['above', 'below']) })),
  /** Abnormal since; active from. */
  ...{ since: v.nullable(instantNumber), startedAt: instantNumber, endedAt: v.nullable(instantNumber) },
  withdrawn: v.boolean(),
  told: v.array(v.object({ name: v.string(), at: instantNumber })),
  acknowledged: v.nullable(v.object({ at: instantNumber, by: v.string() })),
});
export type OrderAlert = v.InferOutput<typeof orderAlert>;

export const listOrderAlerts = contract({
  method: 'GET',
  path: '/api/orders/:id/alerts',
  summary: 'The alerts an order was raised from, or that joined it',
  room: 'signals',
  may: 'signed in',
  reads: ['signals', 'orders'],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({ items: v.array(orderAlert) }),
});
export const readAlertCurve = contract({
  method: 'GET',
  path: '/api/alerts/:id/curve',
  summary: 'What was read around an alert: from hours before it until an hour after it ended, or now',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  params: v.object({ id: idText<AlertId>() }),
  answer: v.object({
    now: instantNumber,
    points: v.array(v.object({ at: instantNumber, value: v.number(), low: v.number(), high: v.number() })),
  }),
});
