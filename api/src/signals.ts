// Signals on the wire: readings in, alerts and devices out.
import * as v from 'valibot';
import type { AssetId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { idText, instantNumber } from './shapes.ts';

const alertOut = v.object({
  id: v.number(),
  rule: v.string(),
  assetId: v.number(),
  tag: v.string(),
  model: v.string(),
  customer: v.string(),
  place: v.string(),
  /** What it saw, in one line. */
  text: v.string(),
  channel: v.string(),
  startedAt: instantNumber,
  endedAt: v.nullable(instantNumber),
  orderId: v.nullable(v.number()),
  joined: v.boolean(),
});
export type AlertOut = v.InferOutput<typeof alertOut>;
const deviceOut = v.object({
  id: v.number(),
  key: v.string(),
  assetId: v.number(),
  tag: v.string(),
  model: v.string(),
  customer: v.string(),
  channels: v.array(
    v.object({ channel: v.string(), unit: v.nullable(v.string()), value: v.string(), at: instantNumber }),
  ),
  lastAt: v.nullable(instantNumber),
});
export type DeviceOut = v.InferOutput<typeof deviceOut>;
const activeAlerts = v.object({
  now: instantNumber,
  items: v.array(
    v.object({
      id: v.number(),
      text: v.string(),
      tag: v.string(),
      model: v.string(),
      assetId: v.number(),
      startedAt: instantNumber,
      orderId: v.nullable(v.number()),
    }),
  ),
});
export const readActiveAlerts = contract({
  method: 'GET',
  path: '/api/today/alerts',
  summary: 'Alerts that go on, the newest in front',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  answer: activeAlerts,
});
export const readSignals = contract({
  method: 'GET',
  path: '/api/signals',
  summary: 'Alerts and devices',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  answer: v.object({
    alerts: v.array(alertOut),
    activeAlerts: v.number(),
    devices: v.array(deviceOut),
    now: instantNumber,
  }),
});
export const readReadings = contract({
  method: 'GET',
  path: '/api/assets/:id/readings',
  summary: 'The last readings of one channel',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  params: v.object({ id: idText<AssetId>() }),
  query: v.object({ channel: v.pipe(v.string(), v.maxLength(40)) }),
  answer: v.object({
    unit: v.nullable(v.string()),
    points: v.array(v.object({ at: instantNumber, value: v.number() })),
    limits: v.array(v.object({ limit: v.number(), side: v.string() })),
  }),
});
/** The pack is judged by the core, which names the record that is wrong. */
export const postReadings = contract({
  method: 'POST',
  path: '/api/readings',
  summary: 'Post a SenML pack (RFC 8428, in JSON or CBOR) or the table of a data logger (CSV)',
  room: 'signals',
  may: { gatewayOr: WRITERS },
  touches: ['signals'],
  /** Whose readings a table holds that has no column `device`. */
  query: v.object({ device: v.optional(v.pipe(v.string(), v.maxLength(100))) }),
  body: v.pipe(v.unknown(), v.metadata({ description: 'SenML pack (RFC 8428), or a table as CSV' })),
  answer: v.object({
    ...{ taken: v.number(), alreadyHeld: v.number(), alerts: v.number() },
    /** Records that were not taken, the first of them, each with why. */
    setAside: v.array(v.object({ code: v.string(), message: v.string(), field: v.nullable(v.string()) })),
  }),
});
