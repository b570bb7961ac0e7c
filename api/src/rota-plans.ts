// Planning by the house on the wire: a rota proposed for a day or a week, what it changes, and which parts of it are accepted.
import * as v from 'valibot';
import type { DepotId, OrderId, RotaPlanId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { COUNTS, PLAN_RULE_NAMES } from '#core/rota/index.ts';
import { contract } from './contract.ts';
import { created, dateOut, idOf, idText, instantNumber, localDateText, named, requestKey } from './shapes.ts';

const MOST_DAYS = 7;
const MOST_ORDERS = 200;
/** So many parts are accepted at once; a week of a whole house is accepted day by day. */
export const MOST_ACCEPTED = 200;

export const proposePlan = contract({
  method: 'POST',
  path: '/api/rota/plans',
  summary: 'Let a rota be proposed for some days: worked out beside requests, nothing is changed',
  room: 'rota',
  may: OFFICE,
  touches: ['rota'],
  body: v.object({
    requestKey,
    from: localDateText,
    days: v.pipe(v.number(), v.integer(), v.minValue(1, 'At least one day.'), v.maxValue(MOST_DAYS, 'At most a week.')),
    depotId: v.nullable(idOf<DepotId>()),
    orders: v.nullable(
      v.pipe(
        v.array(idOf<OrderId>()),
        v.minLength(1, 'Choose an order.'),
        v.maxLength(MOST_ORDERS, `At most ${MOST_ORDERS} orders.`),
      ),
    ),
    moves: v.boolean(),
    movesTold: v.boolean(),
    rules: v.picklist(PLAN_RULE_NAMES),
  }),
  answer: created,
});

const cost = v.object(
  Object.fromEntries(COUNTS.map((c) => [c, v.number()])) as Record<(typeof COUNTS)[number], v.NumberSchema<undefined>>,
);
const where = { person: named, from: instantNumber, to: instantNumber };
const item = v.object({
  key: v.number(),
  ...where,
  /** Who goes along with the one who leads. */
  others: v.array(named),
  titles: v.array(v.string()),
  orderIds: v.array(v.number()),
  appointmentId: v.nullable(v.number()),
  was: v.nullable(v.object(where)),
  missed: v.boolean(),
  accepted: v.boolean(),
});
export type PlanItemOut = v.InferOutput<typeof item>;
const plan = v.object({
  id: v.number(),
  state: v.picklist(['working', 'ready', 'failed']),
  progress: v.number(),
  problem: v.nullable(v.string()),
  from: dateOut,
  days: v.number(),
  rules: v.picklist(PLAN_RULE_NAMES),
  result: v.nullable(
    v.object({
      planned: v.object({ before: v.number(), after: v.number() }),
      before: cost,
      after: cost,
      items: v.array(item),
      left: v.array(v.object({ orderId: v.number(), title: v.string(), why: v.string() })),
      load: v.array(v.object({ person: named, before: v.number(), after: v.number() })),
    }),
  ),
});
export type PlanOut = v.InferOutput<typeof plan>;
export const readPlan = contract({
  method: 'GET',
  path: '/api/rota/plans/:id',
  summary: 'A proposed rota: how far it is, and what it would change',
  room: 'rota',
  may: OFFICE,
  reads: ['rota', 'setup'],
  params: v.object({ id: idText<RotaPlanId>() }),
  answer: plan,
});

export const acceptPlan = contract({
  method: 'POST',
  path: '/api/rota/plans/:id/acceptance',
  summary: 'Accept parts of a proposed rota; what changed meanwhile is not done and named',
  room: 'rota',
  may: OFFICE,
  touches: ['rota', 'orders', 'upkeep'],
  params: v.object({ id: idText<RotaPlanId>() }),
  body: v.object({
    keys: v.pipe(
      v.array(v.pipe(v.number(), v.integer(), v.minValue(0))),
      v.minLength(1, 'Choose what to accept.'),
      v.maxLength(MOST_ACCEPTED, `At most ${MOST_ACCEPTED} at a time; accept it day by day.`),
    ),
  }),
  answer: v.object({
    accepted: v.number(),
    refused: v.array(v.object({ key: v.number(), why: v.string() })),
  }),
});
