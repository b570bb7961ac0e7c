// The register on the wire: customers, places, assets, import and the finder.
import * as v from 'valibot';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { ribbon } from './ribbon.ts';
import { clockOut, visitOut } from './orders.ts';
import { meterOut } from './assets.ts';
import { dateOut, idText, instantNumber, named, pageQuery } from './shapes.ts';
import { ASSET_EVENT_KINDS, ASSET_STATES } from '#core/assets/index.ts';

export const assetRow = v.object({
  id: v.number(),
  tag: v.string(),
  serial: v.string(),
  className: v.string(),
  maker: v.string(),
  model: v.string(),
  customerName: v.string(),
  place: v.string(),
  state: v.picklist(ASSET_STATES),
  coverNow: v.string(),
  ribbon,
});
export type AssetRow = v.InferOutput<typeof assetRow>;
/** What a list of assets can be sorted by: its columns that are held as they are shown. */
export const ASSET_SORTS = ['asset', 'place', 'serial', 'maker', 'customer'] as const;
const sorted = { sort: v.optional(v.picklist(ASSET_SORTS)), down: v.optional(v.literal('1')) };
export const listAssets = contract({
  method: 'GET',
  path: '/api/assets',
  summary: 'Assets with their threads',
  room: 'register',
  may: 'signed in',
  reads: ['register', 'agreements', 'orders', 'upkeep'],
  query: v.object({
    customer: v.optional(idText<CustomerId>()),
    location: v.optional(idText<LocationId>()),
    class: v.optional(idText<AssetClassId>()),
    search: v.optional(v.pipe(v.string(), v.maxLength(80))),
    state: v.optional(v.picklist(ASSET_STATES)),
    ...sorted,
    ...pageQuery,
    /** For lists that are looked at in pieces; bounded, and only without `after`. */
    offset: v.optional(
      v.pipe(
        v.string(),
        v.regex(/^\d{1,7}$/, 'An offset is a whole number.'),
        v.transform(Number),
        v.maxValue(1_000_000),
      ),
    ),
  }),
  answer: v.object({
    items: v.array(assetRow),
    next: v.nullable(v.string()),
    total: v.number(),
    from: dateOut,
    to: dateOut,
    now: instantNumber,
  }),
});

export const assetsCsv = contract({
  method: 'GET',
  path: '/api/assets.csv',
  summary: 'Assets as CSV, filtered and ordered as the list',
  room: 'register',
  may: 'signed in',
  query: v.object({
    customer: v.optional(idText<CustomerId>()),
    location: v.optional(idText<LocationId>()),
    class: v.optional(idText<AssetClassId>()),
    search: v.optional(v.pipe(v.string(), v.maxLength(80))),
    state: v.optional(v.picklist(ASSET_STATES)),
    ...sorted,
  }),
});
export const labelsPdf = contract({
  method: 'GET',
  path: '/api/labels.pdf',
  summary: 'A sheet of labels, each a QR code with tag and link',
  room: 'register',
  may: 'signed in',
  query: v.object({
    customer: v.optional(idText<CustomerId>()),
    location: v.optional(idText<LocationId>()),
    ids: v.optional(v.pipe(v.string(), v.regex(/^\d{1,10}(,\d{1,10}){0,499}$/, 'Ids are numbers parted by commas.'))),
  }),
});

const from = v.nullable(v.object({ value: v.string(), from: v.string() }));
const borne = v.object({ share: v.number(), by: v.nullable(v.string()), discount: v.number() });
export const verdictOut = v.object({
  sentence: v.string(),
  promise: v.string(),
  elements: v.object({ labour: borne, parts: borne, consumables: borne, travel: borne }),
  considered: v.array(
    v.object({ label: v.string(), agreementId: v.nullable(v.number()), taken: v.boolean(), reason: v.string() }),
  ),
});
export type VerdictOut = v.InferOutput<typeof verdictOut>;

export const assetPage = v.object({
  id: v.number(),
  version: v.number(),
  tag: v.string(),
  serial: v.string(),
  className: v.string(),
  classId: v.number(),
  maker: v.string(),
  model: v.string(),
  customer: named,
  owner: v.picklist(['customer', 'own fleet']),
  state: v.picklist(ASSET_STATES),
  commissioned: v.nullable(dateOut),
  rentedSince: v.nullable(dateOut),
  warranty: v.object({
    from: v.nullable(dateOut),
    until: v.nullable(dateOut),
    labour: v.number(),
    parts: v.number(),
    travel: v.number(),
    visits: v.number(),
  }),
  parent: v.nullable(v.object({ id: v.number(), tag: v.string() })),
  children: v.array(v.object({ id: v.number(), tag: v.string(), model: v.string() })),
  path: v.array(v.object({ id: v.number(), name: v.string() })),
  address: from,
  zone: from,
  calendar: from,
  accessNote: from,
  deviceKey: v.nullable(v.string()),
  ribbon,
  ribbonFrom: dateOut,
  ribbonTo: dateOut,
  now: instantNumber,
  verdict: verdictOut,
  agreements: v.array(
    v.object({
      id: v.number(),
      number: v.string(),
      name: v.string(),
      stage: v.string(),
      from: dateOut,
      to: v.nullable(dateOut),
    }),
  ),
  orders: v.array(
    v.object({
      id: v.number(),
      kind: v.string(),
      stage: v.string(),
      title: v.string(),
      startedAt: instantNumber,
      doneAt: v.nullable(instantNumber),
      technician: v.nullable(v.string()),
      fault: v.nullable(v.string()),
      labourMinutes: v.nullable(v.number()),
    }),
  ),
  clocks: v.array(clockOut),
  visits: v.array(visitOut),
  events: v.array(
    v.object({
      at: instantNumber,
      kind: v.picklist(ASSET_EVENT_KINDS),
      who: v.nullable(v.string()),
      text: v.string(),
    }),
  ),
  meters: v.array(meterOut),
  /** Lines for the pulse lane: meters, and what its device reports by the hour, with the limits of its alert rules. */
  pulses: v.array(
    v.object({
      label: v.string(),
      points: v.array(v.object({ at: instantNumber, value: v.number() })),
      limits: v.array(v.number()),
    }),
  ),
  customerNotes: v.array(v.string()),
  overSince: v.nullable(dateOut),
  readings: v.array(
    v.object({ channel: v.string(), unit: v.nullable(v.string()), value: v.string(), at: instantNumber }),
  ),
});
export type AssetPage = v.InferOutput<typeof assetPage>;
export const readAsset = contract({
  method: 'GET',
  path: '/api/assets/:id',
  summary: 'One asset with its life',
  room: 'register',
  may: 'signed in',
  reads: ['register', 'agreements', 'orders', 'upkeep', 'signals', 'setup'],
  params: v.object({ id: idText<AssetId>() }),
  answer: assetPage,
});
const remark = v.object({ line: v.number(), column: v.string(), message: v.string() });
const importIn = v.object({ fileName: v.pipe(v.string(), v.maxLength(200)), text: v.string() });
const IMPORT_LIMIT = 12 * 1024 * 1024;
export const importSummary = v.object({
  rows: v.number(),
  customers: v.array(v.string()),
  classes: v.array(v.string()),
  locations: v.number(),
  assets: v.number(),
  alreadyHeld: v.number(),
  updated: v.number(),
  bad: v.array(remark),
  notes: v.array(remark),
  sample: v.array(
    v.object({
      line: v.number(),
      tag: v.string(),
      model: v.string(),
      customer: v.string(),
      place: v.nullable(v.string()),
    }),
  ),
});
export type ImportSummary = v.InferOutput<typeof importSummary>;
export const previewImport = contract({
  method: 'POST',
  path: '/api/register/import/preview',
  summary: 'Dry run of a register file',
  room: 'register',
  may: WRITERS,
  body: importIn,
  bodyLimit: IMPORT_LIMIT,
  answer: importSummary,
});
export const runImport = contract({
  method: 'POST',
  path: '/api/register/import',
  summary: 'Load the good rows of a register file',
  room: 'register',
  may: WRITERS,
  touches: ['register', 'agreements', 'setup'],
  body: importIn,
  bodyLimit: IMPORT_LIMIT,
  answer: importSummary,
});
