// Stores on the wire: the parts list, and the parts used on orders.
import * as v from 'valibot';
import type { OrderId, OrderLineId, PartId, StoreId, TaxId, UsedPartId } from '#core/ids.ts';
import { OFFICE, RECORDERS, WRITERS } from '#core/people.ts';
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

const FILE_LIMIT = 2 * 1024 * 1024;
const partsFile = v.object({ text: v.pipe(v.string(), v.maxLength(FILE_LIMIT, 'At most 2 MB; divide the file.')) });
const partsEffect = v.object({
  added: v.number(),
  changed: v.number(),
  unchanged: v.number(),
  bad: v.array(v.object({ line: v.number(), column: v.string(), message: v.string() })),
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

const use = {
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
  body: v.object({ requestKey, partId: idOf<PartId>(), ...use }),
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
  body: v.object({ version, ...use }),
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
