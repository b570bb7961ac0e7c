// The forecast on the wire: promises that break as the rota stands, upkeep that closes unplanned, and work against hours.
import * as v from 'valibot';
import type { DepotId, SkillId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { dateOut, idText, instantNumber } from './shapes.ts';

const atRisk = v.object({
  orderId: v.number(),
  title: v.string(),
  customer: v.string(),
  place: v.string(),
  priority: v.number(),
  zone: v.string(),
  target: v.picklist(TARGETS),
  dueAt: instantNumber,
  /** Null: nobody is planned. */
  expectedAt: v.nullable(instantNumber),
  minutes: v.number(),
  cause: v.string(),
  /** Somebody is at work on it. */
  isThere: v.boolean(),
  appointmentId: v.nullable(v.number()),
  /** Who would keep it; null: nobody, or it was not looked for. */
  remedy: v.nullable(
    v.object({
      ...{ personId: v.number(), name: v.string(), from: instantNumber, to: instantNumber },
      margin: v.number(),
    }),
  ),
});
export type AtRisk = v.InferOutput<typeof atRisk>;
const forecast = v.object({
  now: instantNumber,
  atRisk: v.array(atRisk),
  closing: v.array(
    v.object({
      ...{ orderId: v.number(), title: v.string(), customer: v.string(), place: v.string() },
      closesAt: instantNumber,
    }),
  ),
  /** Minutes there are, planned, and loose by when they are due. */
  weeks: v.array(v.object({ from: dateOut, capacity: v.number(), planned: v.number(), loose: v.number() })),
});
export type Forecast = v.InferOutput<typeof forecast>;
export const readForecast = contract({
  method: 'GET',
  path: '/api/rota/forecast',
  summary:
    'Which promises break as the rota stands and what would keep them, upkeep that closes unplanned, work against hours',
  room: 'rota',
  may: OFFICE,
  reads: ['rota', 'orders', 'setup', 'register', 'upkeep'],
  query: v.object({
    depot: v.optional(idText<DepotId>()),
    /** The weeks alone: of who may do it, and what asks for it. */
    skill: v.optional(idText<SkillId>()),
    /** Risks alone, without what would keep them, for whoever looks in passing. */
    only: v.optional(v.literal('risks')),
  }),
  answer: forecast,
});
