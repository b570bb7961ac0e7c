// The register on the wire: customers, places, assets, import and the finder.
import * as v from 'valibot';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { contract } from './contract.ts';
import { ribbon } from './ribbon.ts';
import { clockOut, visitOut } from './orders.ts';
import {
  dateOut,
  idText,
  instantNumber,
  localDateText,
  named,
  pageOf,
  pageQuery,
  shortText,
  version,
} from './shapes.ts';
import { ASSET_STATES } from '#core/register/index.ts';

const customerRow = v.object({
  id: v.number(),
  name: v.string(),
  serviceAddress: v.nullable(v.string()),
  assets: v.number(),
});
export const listCustomers = contract({
  method: 'GET',
  path: '/api/customers',
  summary: 'Customers by name',
  room: 'register',
  query: v.object({ ...pageQuery }),
  answer: pageOf(customerRow),
});

const treeNode = v.object({
  id: v.number(),
  parentId: v.nullable(v.number()),
  name: v.string(),
  zone: v.nullable(v.string()),
  address: v.nullable(v.string()),
  assets: v.number(),
  version: v.number(),
});
export type TreeNode = v.InferOutput<typeof treeNode>;
export const readTree = contract({
  method: 'GET',
  path: '/api/customers/:id/tree',
  summary: 'The places of a customer',
  room: 'register',
  params: v.object({ id: idText<CustomerId>() }),
  answer: v.object({ customer: named, nodes: v.array(treeNode), withoutPlace: v.number() }),
});

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
export const listAssets = contract({
  method: 'GET',
  path: '/api/assets',
  summary: 'Assets with their threads',
  room: 'register',
  query: v.object({
    customer: v.optional(idText<CustomerId>()),
    location: v.optional(idText<LocationId>()),
    class: v.optional(idText<AssetClassId>()),
    search: v.optional(v.pipe(v.string(), v.maxLength(80))),
    ...pageQuery,
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

const from = v.nullable(v.object({ value: v.string(), from: v.string() }));
export const verdictOut = v.object({
  sentence: v.string(),
  promise: v.string(),
  elements: v.object({
    labour: v.object({ share: v.number(), by: v.nullable(v.string()) }),
    parts: v.object({ share: v.number(), by: v.nullable(v.string()) }),
    travel: v.object({ share: v.number(), by: v.nullable(v.string()) }),
  }),
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
  warrantyUntil: v.nullable(dateOut),
  parent: v.nullable(v.object({ id: v.number(), tag: v.string() })),
  children: v.array(v.object({ id: v.number(), tag: v.string(), model: v.string() })),
  path: v.array(v.object({ id: v.number(), name: v.string() })),
  address: from,
  zone: from,
  deviceKey: v.nullable(v.string()),
  ribbon,
  ribbonFrom: dateOut,
  ribbonTo: dateOut,
  now: instantNumber,
  verdict: verdictOut,
  agreements: v.array(
    v.object({ id: v.number(), name: v.string(), stage: v.string(), from: dateOut, to: v.nullable(dateOut) }),
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
    }),
  ),
  clocks: v.array(clockOut),
  visits: v.array(visitOut),
  events: v.array(v.object({ at: instantNumber, who: v.nullable(v.string()), text: v.string() })),
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
  params: v.object({ id: idText<AssetId>() }),
  answer: assetPage,
});
export const assetIn = v.object({
  version,
  serial: shortText,
  tag: shortText,
  model: shortText,
  state: v.picklist(ASSET_STATES),
  warrantyUntil: v.nullable(localDateText),
});
export const changeAsset = contract({
  method: 'PUT',
  path: '/api/assets/:id',
  summary: 'Change an asset',
  room: 'register',
  params: v.object({ id: idText<AssetId>() }),
  body: assetIn,
  answer: v.object({ version: v.number() }),
});
export const changeLocation = contract({
  method: 'PUT',
  path: '/api/locations/:id',
  summary: 'Change a place',
  room: 'register',
  params: v.object({ id: idText<LocationId>() }),
  body: v.object({
    version,
    name: shortText,
    address: v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(300))),
    zone: v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(60))),
  }),
  answer: v.object({ version: v.number() }),
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
  body: importIn,
  bodyLimit: IMPORT_LIMIT,
  answer: importSummary,
});
export const runImport = contract({
  method: 'POST',
  path: '/api/register/import',
  summary: 'Load the good rows of a register file',
  room: 'register',
  body: importIn,
  bodyLimit: IMPORT_LIMIT,
  answer: importSummary,
});

export const found = v.object({
  assets: v.array(
    v.object({
      id: v.number(),
      tag: v.string(),
      serial: v.string(),
      model: v.string(),
      className: v.string(),
      customer: v.string(),
      place: v.string(),
      coverNow: v.string(),
      ribbon,
    }),
  ),
  customers: v.array(named),
  locations: v.array(
    v.object({ id: v.number(), name: v.string(), customerId: v.nullable(v.number()), path: v.string() }),
  ),
  agreements: v.array(v.object({ id: v.number(), name: v.string(), customer: v.string(), stage: v.string() })),
  orders: v.array(v.object({ id: v.number(), title: v.string(), customer: v.string(), stage: v.string() })),
  from: dateOut,
  to: dateOut,
  now: instantNumber,
});
export type Found = v.InferOutput<typeof found>;
export const find = contract({
  method: 'GET',
  path: '/api/find',
  summary: 'Find anything by a fragment',
  room: 'register',
  query: v.object({ q: v.pipe(v.string(), v.trim(), v.minLength(2), v.maxLength(80)) }),
  answer: found,
});
