// Signals on the wire: readings in, alerts and devices out.
import * as v from 'valibot';
import type { AlertId, AlertRuleId, AlertShelfId, AssetId, DeviceId, LocationId, UnknownDeviceId } from '#core/ids.ts';
import { ALERT_ANSWERERS, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { created, done, idOf, idText, instantNumber, pageOf, pageQuery } from './shapes.ts';

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
  priority: v.number(),
  /** From when people are told; null: something holds it back. */
  toldAt: v.nullable(instantNumber),
  heldBy: v.nullable(v.picklist(['shelved', 'suppressed', 'part'])),
  acknowledged: v.nullable(v.object({ at: instantNumber, by: v.string() })),
  /** While it lasts nobody is told of the rule's alerts of this machine. */
  shelf: v.nullable(v.object({ id: v.number(), until: instantNumber, reason: v.string(), by: v.string() })),
  withdrawn: v.boolean(),
  /** Part of a flood of its place. */
  flooded: v.boolean(),
  /** It starts again and again. */
  chatters: v.boolean(),
  /** Why no order was raised. */
  noOrder: v.nullable(v.string()),
  /** It goes on, and somebody is to decide whether an order is raised. */
  asks: v.boolean(),
});
export type AlertOut = v.InferOutput<typeof alertOut>;

/** What of the alerts is listed. */
export const ALERT_LISTS = ['to answer', 'active', 'held back', 'no order', 'all'] as const;
export type AlertList = (typeof ALERT_LISTS)[number];
export const listAlerts = contract({
  method: 'GET',
  path: '/api/alerts',
  summary: 'The journal of alerts, the newest first',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  query: v.object({
    ...pageQuery,
    list: v.optional(v.picklist(ALERT_LISTS)),
    search: v.optional(v.pipe(v.string(), v.maxLength(80))),
    rule: v.optional(idText<AlertRuleId>()),
    asset: v.optional(idText<AssetId>()),
  }),
  answer: v.object({
    ...pageOf(alertOut).entries,
    now: instantNumber,
    counts: v.object({ toAnswer: v.number(), active: v.number(), heldBack: v.number(), noOrder: v.number() }),
  }),
});
const alertParams = v.object({ id: idText<AlertId>() });
export const acknowledgeAlerts = contract({
  method: 'POST',
  path: '/api/alerts/acknowledge',
  summary: 'Acknowledge alerts, with every earlier one of their rules and machines',
  room: 'signals',
  may: ALERT_ANSWERERS,
  touches: ['signals'],
  body: v.object({ alertIds: v.pipe(v.array(idOf<AlertId>()), v.minLength(1), v.maxLength(200)) }),
  answer: v.object({ acknowledged: v.number() }),
});
export const MOST_SHELF_HOURS = 24 * 7;
export const shelveAlert = contract({
  method: 'POST',
  path: '/api/alerts/:id/shelf',
  summary: 'Shelve an alert: nobody is told of that rule and machine until an end',
  room: 'signals',
  may: ALERT_ANSWERERS,
  touches: ['signals'],
  params: alertParams,
  body: v.object({
    hours: v.pipe(
      v.number(),
      v.integer('Whole hours.'),
      v.minValue(1, 'One hour at least.'),
      v.maxValue(MOST_SHELF_HOURS, 'A week at most: what is wrong for longer is a rule to be changed.'),
    ),
    reason: v.pipe(v.string(), v.trim(), v.minLength(3, 'Say why, for whoever asks later.'), v.maxLength(300)),
  }),
  answer: created,
});
export const endShelf = contract({
  method: 'POST',
  path: '/api/alert-shelves/:id/end',
  summary: 'Take an alert off its shelf before its end',
  room: 'signals',
  may: ALERT_ANSWERERS,
  touches: ['signals'],
  params: v.object({ id: idText<AlertShelfId>() }),
  answer: done,
});
export const raiseForAlert = contract({
  method: 'POST',
  path: '/api/alerts/:id/order',
  summary: 'Raise the order of an alert that asks first, or could raise none',
  room: 'signals',
  may: WRITERS,
  touches: ['signals', 'orders'],
  params: alertParams,
  answer: created,
});

const unknownOut = v.object({
  ...{ id: v.number(), key: v.string(), firstAt: instantNumber, lastAt: instantNumber, records: v.number() },
  ...{ channels: v.string(), refused: v.boolean() },
});
export type UnknownOut = v.InferOutput<typeof unknownOut>;
export const listUnknownDevices = contract({
  method: 'GET',
  path: '/api/unknown-devices',
  summary: 'Devices that report and are tied to no machine, heard last first',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  query: v.object({ ...pageQuery, refused: v.optional(v.literal('1')) }),
  answer: pageOf(unknownOut),
});
export const refuseDevice = contract({
  method: 'POST',
  path: '/api/unknown-devices/:id/refuse',
  summary: 'Refuse a device that nobody knows, or hear of it again',
  room: 'signals',
  may: WRITERS,
  touches: ['signals'],
  params: v.object({ id: idText<UnknownDeviceId>() }),
  body: v.object({ refused: v.boolean() }),
  answer: done,
});
export const moveDevice = contract({
  method: 'POST',
  path: '/api/devices/:id/move',
  summary: 'Move a device to another machine from a time on',
  room: 'signals',
  may: WRITERS,
  touches: ['signals', 'register'],
  params: v.object({ id: idText<DeviceId>() }),
  body: v.object({ assetId: idOf<AssetId>(), from: instantNumber }),
  answer: done,
});

export const FIGURE_DAYS = [1, 7, 30, 90] as const;
const alertFigures = v.object({
  now: instantNumber,
  alerts: v.number(),
  perHour: v.number(),
  /** The most in any ten minutes, and the share of ten minutes with more than ten. */
  ...{ mostInTenMinutes: v.number(), floodShare: v.number() },
  /** Going on for more than a day. */
  ...{ standing: v.number(), chattering: v.number(), withdrawn: v.number(), heldBack: v.number() },
  /** Seconds from being told to being acknowledged, half of them at most. */
  toAnswerSeconds: v.nullable(v.number()),
  /** Of those people were told of: with an order, and whose order found a fault. */
  ...{ told: v.number(), ordered: v.number(), settledOrders: v.number(), faults: v.number() },
  top: v.array(
    v.object({
      ...{ ruleId: v.number(), rule: v.string(), assetId: v.number(), tag: v.string(), model: v.string() },
      ...{ alerts: v.number(), seconds: v.number(), chatters: v.boolean() },
    }),
  ),
  days: v.array(v.object({ day: v.string(), alerts: v.number() })),
});
export type AlertFigures = v.InferOutput<typeof alertFigures>;
export const readAlertFigures = contract({
  method: 'GET',
  path: '/api/alert-figures',
  summary: 'How alerts behave over some days: how many, how long, which rules and machines most, and what came of them',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  query: v.object({ days: v.pipe(v.string(), v.regex(/^(1|7|30|90)$/, '1, 7, 30 or 90 days.'), v.transform(Number)) }),
  answer: alertFigures,
});

const watchedChannel = v.object({
  ...{ channel: v.string(), unit: v.nullable(v.string()), value: v.nullable(v.number()), word: v.nullable(v.string()) },
  at: instantNumber,
  /** Against an hour before. */
  trend: v.nullable(v.picklist(['rising', 'steady', 'falling'])),
  low: v.nullable(v.number()),
  high: v.nullable(v.number()),
  alert: v.nullable(v.object({ id: v.number(), rule: v.string(), acknowledged: v.boolean(), held: v.boolean() })),
});
const watchedMachine = v.object({
  ...{ assetId: v.number(), tag: v.string(), model: v.string(), where: v.string() },
  ...{ lastAt: v.nullable(instantNumber), outOfService: v.boolean() },
  channels: v.array(watchedChannel),
});
export type WatchedMachineOut = v.InferOutput<typeof watchedMachine>;
export const readWatch = contract({
  method: 'GET',
  path: '/api/watch',
  summary: 'Places whose machines report, and the machines of one of them at a glance',
  room: 'signals',
  may: 'signed in',
  reads: ['signals', 'register', 'orders'],
  query: v.object({ place: v.optional(idText<LocationId>()) }),
  answer: v.object({
    now: instantNumber,
    places: v.array(
      v.object({
        ...{
          id: v.number(),
          name: v.string(),
          customer: v.string(),
          machines: v.number(),
          silent: v.number(),
          active: v.number(),
        },
      }),
    ),
    place: v.nullable(v.object({ id: v.number(), name: v.string(), customer: v.string() })),
    machines: v.array(watchedMachine),
  }),
});
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
export const listDevices = contract({
  method: 'GET',
  path: '/api/devices',
  summary: 'Devices, the longest silent first, with what each of their channels said last',
  room: 'signals',
  may: 'signed in',
  reads: ['signals'],
  query: v.object({ ...pageQuery, search: v.optional(v.pipe(v.string(), v.maxLength(80))) }),
  answer: v.object({ ...pageOf(deviceOut).entries, now: instantNumber }),
});
export const readReadings = contract({
  method: 'GET',
  path: '/api/assets/:id/readings',
  summary: 'The curve of one channel over the last days',
  room: 'signals',
  may: 'signed in',
  reads: ['signals', 'register'],
  params: v.object({ id: idText<AssetId>() }),
  query: v.object({
    channel: v.pipe(v.string(), v.maxLength(40)),
    days: v.optional(
      v.pipe(
        v.string(),
        v.regex(/^\d{1,4}$/, 'Whole days.'),
        v.transform(Number),
        v.minValue(1),
        v.maxValue(3660, 'Ten years at most.'),
      ),
    ),
  }),
  answer: v.object({
    unit: v.nullable(v.string()),
    /** The mean of each part of the span, with the least and the most of it. */
    points: v.array(v.object({ at: instantNumber, value: v.number(), low: v.number(), high: v.number() })),
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
