// Stores on the wire: the parts list, and the parts used on orders.
import * as v from 'valibot';
import type { OrderId, OrderLineId, PartId, StoreId, TaxId, UsedPartId } from '#core/ids.ts';
import { OFFICE, RECORDERS, STOCKERS, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import {
  created,
  done,
  idOf,
  idText,
  LARGEST,
  minor,
  pageOf,
  pageQuery,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

export const partIn = v.object({
  number: v.pipe(shortText, v.maxLength(60, 'At most 60 characters.')),
  name: shortText,
  unit: v.pipe(shortText, v.maxLength(20, 'At most 20 characters.')),
  listPrice: minor,
  cost: minor,
  consumable: v.boolean(),
  serialTracked: v.boolean(),
  /** For how many months one that was built in is warranted; 0: nobody promises anything. */
  warrantyMonths: v.optional(
    v.pipe(v.number('Write a number of months.'), v.integer('Whole months.'), v.minValue(0), v.maxValue(600)),
    0,
  ),
  taxId: v.nullable(idOf<TaxId>()),
  retired: v.boolean(),
});
export type PartIn = v.InferInput<typeof partIn>;
const money = v.nullable(v.number());
export const partOut = v.object({
  id: v.number(),
  version: v.number(),
  number: v.string(),
  name: v.string(),
  unit: v.string(),
  /** Minor units; null for those who see no money. */
  listPrice: money,
  cost: money,
  consumable: v.boolean(),
  serialTracked: v.boolean(),
  warrantyMonths: v.number(),
  taxId: v.nullable(v.number()),
  tax: v.nullable(v.string()),
  retired: v.boolean(),
});
export type PartOut = v.InferOutput<typeof partOut>;
const partQuery = v.object({
  /** A part of the number or name, in words. */
  q: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(80))),
  retired: v.optional(v.picklist(['with'])),
});
export const listParts = contract({
  method: 'GET',
  path: '/api/parts',
  summary: 'Parts by a fragment of their number or name, by number',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'settle'],
  query: v.object({ ...partQuery.entries, ...pageQuery }),
  answer: v.object({ ...pageOf(partOut).entries, total: v.number() }),
});
export const partsCsv = contract({
  method: 'GET',
  path: '/api/parts.csv',
  summary: 'The parts list as CSV, filtered as the list; it can be loaded again',
  room: 'stores',
  may: OFFICE,
  query: partQuery,
});
export const addPart = contract({
  method: 'POST',
  path: '/api/parts',
  summary: 'Add a part',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  body: partIn,
  answer: created,
});
export const changePart = contract({
  method: 'PUT',
  path: '/api/parts/:id',
  summary: 'Change a part; what was used keeps the price of then',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  params: v.object({ id: idText<PartId>() }),
  body: v.object({ ...partIn.entries, version }),
  answer: done,
});

const FILE_LIMIT = 4 * 1024 * 1024;
const fileText = v.pipe(v.string(), v.maxLength(FILE_LIMIT, 'At most 4 MB; divide the file.'));
const partsFile = v.object({ text: fileText });
const remark = v.object({ line: v.number(), column: v.string(), message: v.string() });
const partsEffect = v.object({
  added: v.number(),
  changed: v.number(),
  unchanged: v.number(),
  bad: v.array(remark),
  /** How many rows are wrong; the first of them are in `bad`. */
  wrong: v.number(),
  sample: v.array(v.object({ number: v.string(), name: v.string(), what: v.picklist(['added', 'changed']) })),
});
export type PartsEffect = v.InferOutput<typeof partsEffect>;
export const previewParts = contract({
  method: 'POST',
  path: '/api/parts/import/preview',
  summary: 'What a parts list as CSV would add and change; nothing is written',
  room: 'stores',
  may: WRITERS,
  body: partsFile,
  bodyLimit: FILE_LIMIT + 4096,
  answer: partsEffect,
});
export const importParts = contract({
  method: 'POST',
  path: '/api/parts/import',
  summary: 'Load a parts list: parts by their number; refused as a whole while a row is wrong',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  body: partsFile,
  bodyLimit: FILE_LIMIT + 4096,
  answer: partsEffect,
});

const shelvesEffect = v.object({
  /** Parts whose bin, minimum or maximum changes; parts counted, and those that differ. */
  ...{ kept: v.number(), counted: v.number(), differing: v.number(), unchanged: v.number() },
  /** Minor units by which the store is worth more, or less, afterwards; null for those who see no money. */
  worth: v.nullable(v.number()),
  ...{ bad: v.array(remark), wrong: v.number() },
  sample: v.array(v.object({ number: v.string(), name: v.string(), says: v.string() })),
});
export type ShelvesEffect = v.InferOutput<typeof shelvesEffect>;
const storeParams = v.object({ id: idText<StoreId>() });
export const shelvesCsv = contract({
  method: 'GET',
  path: '/api/stores/:id/shelves.csv',
  summary: 'What lies in a store as CSV; bins, minimum, maximum and what was counted can be loaded again',
  room: 'stores',
  may: STOCKERS,
  params: storeParams,
});
export const previewShelves = contract({
  method: 'POST',
  path: '/api/stores/:id/shelves/import/preview',
  summary: 'What a list of a store as CSV would change and count; nothing is written',
  room: 'stores',
  may: STOCKERS,
  params: storeParams,
  body: v.object({ text: fileText }),
  bodyLimit: FILE_LIMIT + 4096,
  answer: shelvesEffect,
});
export const importShelves = contract({
  method: 'POST',
  path: '/api/stores/:id/shelves/import',
  summary: 'Load a list of a store: bins, minimum and maximum, and what was counted, as counts of now',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores', 'orders', 'rota'],
  params: storeParams,
  body: v.object({
    ...{ requestKey, text: fileText },
    /** Rows that are wrong are left out instead of refusing the file: as many as were seen. */
    without: v.pipe(v.number(), v.integer(), v.minValue(0)),
  }),
  bodyLimit: FILE_LIMIT + 4096,
  answer: shelvesEffect,
});
export const storeLabels = contract({
  method: 'GET',
  path: '/api/parts/labels.pdf',
  summary: 'Labels of parts as PDF: of those named, or of what a store keeps, by its bins',
  room: 'stores',
  may: STOCKERS,
  query: v.object({
    ids: v.optional(v.pipe(v.string(), v.regex(/^\d{1,10}(,\d{1,10}){0,199}$/, 'Ids with commas, at most 200.'))),
    store: v.optional(idText<StoreId>()),
  }),
});

export const useIn = {
  lineId: idOf<OrderLineId>(),
  /** Whole thousandths of a unit. */
  thousandths: v.pipe(
    v.number('Write a quantity.'),
    v.integer('At most three decimals.'),
    v.minValue(-LARGEST),
    v.maxValue(LARGEST),
  ),
  serial: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(80, 'At most 80 characters.')), ''),
  /** The store it was taken from; null: from none of ours. */
  storeId: v.optional(v.nullable(idOf<StoreId>()), null),
};
export const usePart = contract({
  method: 'POST',
  path: '/api/orders/:id/parts',
  summary: 'Say that a part was used on an order, at its price of now',
  room: 'stores',
  may: RECORDERS,
  touches: ['stores'],
  params: v.object({ id: idText<OrderId>() }),
  body: v.object({ requestKey, partId: idOf<PartId>(), ...useIn }),
  answer: created,
});
export const usePlanned = contract({
  method: 'POST',
  path: '/api/orders/:id/planned-parts',
  summary: 'Say that the parts its job plans foresee were used, as far as they were not yet',
  room: 'stores',
  may: RECORDERS,
  touches: ['stores'],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({
    booked: v.number(),
    /** Parts kept by serial, or not offered any more: each is entered by itself. */
    left: v.array(v.string()),
  }),
});
const usedParams = v.object({ id: idText<UsedPartId>() });
export const changeUse = contract({
  method: 'PUT',
  path: '/api/used-parts/:id',
  summary: 'Change how much of a part was used, for which machine, or its serial',
  room: 'stores',
  may: RECORDERS,
  touches: ['stores'],
  params: usedParams,
  body: v.object({ version, ...useIn }),
  answer: done,
});
export const removeUse = contract({
  method: 'DELETE',
  path: '/api/used-parts/:id',
  summary: 'Take back that a part was used',
  room: 'stores',
  may: RECORDERS,
  touches: ['stores'],
  params: usedParams,
  answer: done,
});
