// Assets on the wire: registering, changing, life events, swaps, meters, many at once, twins, and lines of past work.
import * as v from 'valibot';
import type { AssetClassId, AssetId, CalendarId, CustomerId, LocationId, MeterId } from '#core/ids.ts';
import { ASSET_STATES } from '#core/assets/index.ts';
import { LOWER_MEANINGS, READING_SOURCES } from '#core/meters.ts';
import { RECORDERS, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import {
  created,
  done,
  idOf,
  idText,
  instantNumber,
  instantText,
  localDateText,
  shortText,
  spread,
  version,
} from './shapes.ts';

const percent = v.pipe(
  v.number('Write a percentage.'),
  v.integer('Write a whole percentage.'),
  v.minValue(0, 'From 0 to 100.'),
  v.maxValue(100, 'From 0 to 100.'),
);
export const OWNERS = ['customer', 'own fleet'] as const;
const params = v.object({ id: idText<AssetId>() });

/** What may be left out stays as it is. */
export const assetIn = v.object({
  version,
  serial: shortText,
  tag: shortText,
  model: shortText,
  state: v.picklist(ASSET_STATES),
  warrantyUntil: v.nullable(localDateText),
  maker: v.optional(shortText),
  classId: v.optional(idOf<AssetClassId>()),
  owner: v.optional(v.picklist(OWNERS)),
  rentedSince: v.optional(v.nullable(localDateText)),
  commissioned: v.optional(v.nullable(localDateText)),
  parentId: v.optional(v.nullable(idOf<AssetId>())),
  warrantyFrom: v.optional(v.nullable(localDateText)),
  warrantyLabour: v.optional(percent),
  warrantyParts: v.optional(percent),
  warrantyTravel: v.optional(percent),
  warrantyVisits: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0, 'From 0 up.'), v.maxValue(100))),
});
export type AssetIn = v.InferInput<typeof assetIn>;
export const changeAsset = contract({
  method: 'PUT',
  path: '/api/assets/:id',
  summary: 'Change an asset',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'upkeep'],
  params,
  body: assetIn,
  answer: v.object({ version: v.number() }),
});

export const newAssetIn = v.object({
  customerId: idOf<CustomerId>(),
  locationId: v.nullable(idOf<LocationId>()),
  classId: idOf<AssetClassId>(),
  maker: shortText,
  model: shortText,
  serial: shortText,
  tag: shortText,
  owner: v.picklist(OWNERS),
  commissioned: v.nullable(localDateText),
});
export const addAsset = contract({
  method: 'POST',
  path: '/api/assets',
  summary: 'Register an asset; warranty terms come from the catalogue',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'agreements'],
  body: newAssetIn,
  answer: created,
});

const place = { locationId: v.nullable(idOf<LocationId>()), parentId: v.nullable(idOf<AssetId>()) };
export const lifeAct = v.variant('kind', [
  v.object({ kind: v.literal('installed'), ...place }),
  v.object({ kind: v.literal('moved'), ...place }),
  v.object({ kind: v.literal('removed') }),
  v.object({ kind: v.literal('scrapped') }),
  v.object({ kind: v.literal('out of service') }),
  v.object({ kind: v.literal('back in service') }),
]);
export const LIFE_KINDS = ['installed', 'moved', 'removed', 'scrapped', 'out of service', 'back in service'] as const;
export type LifeKind = (typeof LIFE_KINDS)[number];
const remark = v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.'));
const lifeIn = v.object({ version, act: lifeAct, on: localDateText, text: remark });
export type LifeIn = v.InferInput<typeof lifeIn>;
export const recordLife = contract({
  method: 'POST',
  path: '/api/assets/:id/life',
  summary: 'Record that an asset was installed, moved, removed, scrapped, or went out of or back into service',
  room: 'register',
  may: RECORDERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: lifeIn,
  answer: v.object({ version: v.number() }),
});
const swapIn = v.object({
  version,
  newAssetId: idOf<AssetId>(),
  oldGoes: v.picklist(['to store', 'scrapped']),
  on: localDateText,
  text: remark,
});
export const swapAsset = contract({
  method: 'POST',
  path: '/api/assets/:id/swap',
  summary: 'Swap an asset: the new one takes its place, parent, coverage and schedules',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: swapIn,
  answer: v.object({ coverageLines: v.number(), schedules: v.number() }),
});
export const previewSwap = contract({
  method: 'POST',
  path: '/api/assets/:id/swap/preview',
  summary: 'What a swap would take over',
  room: 'register',
  may: WRITERS,
  params,
  body: swapIn,
  answer: v.object({
    place: v.string(),
    coverageLines: v.array(v.string()),
    schedules: v.array(v.string()),
    openOrders: v.array(v.string()),
  }),
});

export const meterOut = v.object({
  id: v.number(),
  name: v.string(),
  unit: v.string(),
  total: v.number(),
  last: v.nullable(v.object({ at: instantNumber, value: v.number(), source: v.picklist(READING_SOURCES) })),
  readings: v.array(
    v.object({
      at: instantNumber,
      value: v.number(),
      source: v.picklist(READING_SOURCES),
      anew: v.nullable(v.string()),
      struckOut: v.boolean(),
      who: v.nullable(v.string()),
    }),
  ),
});
export type MeterOut = v.InferOutput<typeof meterOut>;
export const listMeters = contract({
  method: 'GET',
  path: '/api/assets/:id/meters',
  summary: 'Meters of an asset with their newest readings',
  room: 'register',
  may: 'signed in',
  reads: ['register'],
  params,
  answer: v.object({ items: v.array(meterOut) }),
});
export const addMeter = contract({
  method: 'POST',
  path: '/api/assets/:id/meters',
  summary: 'Add a meter to an asset',
  room: 'register',
  may: RECORDERS,
  touches: ['register'],
  params,
  body: v.object({
    name: v.pipe(shortText, v.maxLength(60, 'At most 60 characters.')),
    unit: v.pipe(shortText, v.maxLength(20, 'At most 20 characters.')),
  }),
  answer: created,
});
export const addReading = contract({
  method: 'POST',
  path: '/api/meters/:id/readings',
  summary: 'Record a meter reading',
  room: 'register',
  may: RECORDERS,
  touches: ['register'],
  params: v.object({ id: idText<MeterId>() }),
  body: v.object({
    at: instantText,
    value: v.pipe(v.number('Write a number.')),
    lowerMeans: v.nullable(v.picklist(LOWER_MEANINGS)),
  }),
  answer: done,
});

const bulkChange = v.variant('kind', [
  v.object({ kind: v.literal('class'), classId: idOf<AssetClassId>() }),
  v.object({ kind: v.literal('owner'), owner: v.picklist(OWNERS) }),
  v.object({ kind: v.literal('place'), locationId: idOf<LocationId>() }),
  v.object({ kind: v.literal('calendar of their places'), calendarId: v.nullable(idOf<CalendarId>()) }),
  v.object({
    kind: v.literal('retire'),
    reason: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(500)),
  }),
]);
export type BulkChange = v.InferInput<typeof bulkChange>;
const bulkIn = v.object({
  ids: v.pipe(
    v.array(idOf<AssetId>()),
    v.minLength(1, 'Tick at least one asset.'),
    v.maxLength(2000, 'At most 2,000 at once.'),
  ),
  change: bulkChange,
});
export const bulkEffect = v.object({
  will: v.number(),
  unchanged: v.number(),
  refused: v.array(v.object({ tag: v.string(), reason: v.string() })),
  /** What the change means beyond the assets: places whose calendar changes, schedules that stop. */
  remarks: v.array(v.string()),
});
export type BulkEffect = v.InferOutput<typeof bulkEffect>;
export const previewBulk = contract({
  method: 'POST',
  path: '/api/assets/bulk/preview',
  summary: 'What changing many assets at once would do',
  room: 'register',
  may: WRITERS,
  body: bulkIn,
  answer: bulkEffect,
});
export const changeMany = contract({
  method: 'POST',
  path: '/api/assets/bulk',
  summary: 'Change many assets at once',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  body: bulkIn,
  answer: bulkEffect,
});

const twin = v.object({
  id: v.number(),
  tag: v.string(),
  serial: v.string(),
  maker: v.string(),
  model: v.string(),
  place: v.string(),
  state: v.picklist(ASSET_STATES),
  orders: v.number(),
});
export const listTwins = contract({
  method: 'GET',
  path: '/api/twins',
  summary: 'Assets of a customer that may be one machine registered twice',
  room: 'register',
  may: WRITERS,
  reads: ['register'],
  query: v.object({ customer: idText<CustomerId>() }),
  answer: v.object({ items: v.array(v.object({ a: twin, b: twin, because: v.string(), sameCustomer: v.boolean() })) }),
});
export const mergeAssets = contract({
  method: 'POST',
  path: '/api/assets/merge',
  summary: 'Merge two registrations of one machine: orders, visits, readings and cover go to the kept one',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep', 'orders', 'signals'],
  body: v.object({ keptId: idOf<AssetId>(), goneId: idOf<AssetId>() }),
  answer: done,
});

const historyQuery = v.object({
  class: v.optional(idText<AssetClassId>()),
  model: v.optional(v.pipe(v.string(), v.maxLength(120))),
  fault: v.optional(v.pipe(v.string(), v.maxLength(120))),
  words: v.optional(v.pipe(v.string(), v.maxLength(120))),
});
export const historyCsv = contract({
  method: 'GET',
  path: '/api/history.csv',
  summary: 'The lines of past repairs that fit, as CSV',
  room: 'register',
  may: 'signed in',
  query: historyQuery,
});
export const searchHistory = contract({
  method: 'GET',
  path: '/api/history',
  summary: 'Lines of past repairs by model, class, fault or words, with the spread of effort and cost',
  room: 'register',
  may: 'signed in',
  reads: ['orders', 'setup'],
  query: historyQuery,
  answer: v.object({
    total: v.number(),
    items: v.array(
      v.object({
        orderId: v.number(),
        title: v.string(),
        fault: v.nullable(v.string()),
        assetId: v.number(),
        tag: v.string(),
        model: v.string(),
        customer: v.string(),
        doneAt: instantNumber,
        technician: v.nullable(v.string()),
        labourMinutes: v.nullable(v.number()),
        partsCost: v.nullable(v.number()),
        otherCost: v.nullable(v.number()),
      }),
    ),
    /** Minutes, and minor units of EUR. */
    spreads: v.object({ labourMinutes: spread, partsCost: spread, otherCost: spread }),
    faults: v.array(v.object({ fault: v.string(), count: v.number() })),
  }),
});
export type History = v.InferOutput<NonNullable<typeof searchHistory.answer>>;

export const readScan = contract({
  method: 'GET',
  path: '/api/scan',
  summary: 'The asset, or the part or unit of one, whose tag, number, serial or label a scanned code holds',
  room: 'register',
  may: 'signed in',
  query: v.object({ code: v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(300)) }),
  answer: v.object({
    assetId: v.nullable(v.number()),
    /** A part of the parts list, with the serial where it is a unit of one. */
    part: v.nullable(v.object({ id: v.number(), serial: v.nullable(v.string()) })),
    read: v.string(),
  }),
});
export type Scanned = v.InferOutput<NonNullable<typeof readScan.answer>>;
