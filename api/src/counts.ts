// Counts on the wire: begun for a store or a part of it, counted line by line, their differences approved together.
import * as v from 'valibot';
import type { CountId, PartId, StoreId } from '#core/ids.ts';
import { OFFICE, STOCKERS } from '#core/people.ts';
import { MOST_IN_STORE } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import {
  afterId,
  created,
  done,
  idText,
  instantNumber,
  minor,
  named,
  pageOf,
  pageQuery,
  requestKey,
  version,
} from './shapes.ts';

export const COUNT_STATES = ['open', 'approved', 'called off'] as const;
const countRow = v.object({
  ...{ id: v.number(), store: named, state: v.picklist(COUNT_STATES), what: v.string() },
  ...{ startedBy: v.nullable(v.string()), startedAt: instantNumber, endedAt: v.nullable(instantNumber) },
  /** Lines in all, and those that are counted. */
  ...{ lines: v.number(), counted: v.number() },
});
export type CountRow = v.InferOutput<typeof countRow>;
export const listCounts = contract({
  method: 'GET',
  path: '/api/stock-counts',
  summary: 'Counts, the newest first',
  room: 'stores',
  may: STOCKERS,
  reads: ['stores'],
  query: v.object({ store: v.optional(idText<StoreId>()), ...pageQuery, after: afterId }),
  answer: pageOf(countRow),
});
export const COUNTED = ['all', 'bins', 'cycle'] as const;
export const beginCount = contract({
  method: 'POST',
  path: '/api/stores/:id/counts',
  summary:
    'Begin a count of a store: of all of it, of bins that begin with something, or of what turns over most and was not counted longest',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  params: v.object({ id: idText<StoreId>() }),
  body: v.object({
    requestKey,
    of: v.picklist(COUNTED),
    bins: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(40, 'At most 40 characters.')), ''),
    /** How many parts of a cycle. */
    most: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(500, 'At most 500 at once.')), 20),
  }),
  answer: created,
});

const countLineOut = v.object({
  part: v.object({ ...named.entries, number: v.string(), unit: v.string(), serialTracked: v.boolean() }),
  ...{ bin: v.string(), version: v.number() },
  /** Null: not counted yet. Whoever counts does not see what should be there before. */
  counted: v.nullable(
    v.object({
      ...{ thousandths: v.number(), expected: v.number(), difference: v.number(), by: v.nullable(v.string()) },
      at: instantNumber,
      ...{ missing: v.array(v.string()), found: v.array(v.string()) },
      /** What the difference is worth, in minor units; null for those who see no money, and where nothing says it. */
      value: v.nullable(v.number()),
    }),
  ),
});
export type CountLineOut = v.InferOutput<typeof countLineOut>;
const countPage = v.object({
  ...countRow.entries,
  version: v.number(),
  rows: v.array(countLineOut),
});
export type CountPage = v.InferOutput<typeof countPage>;
const ofCount = v.object({ id: idText<CountId>() });
export const readCount = contract({
  method: 'GET',
  path: '/api/stock-counts/:id',
  summary: 'One count with its lines, by bin',
  room: 'stores',
  may: STOCKERS,
  reads: ['stores'],
  params: ofCount,
  answer: countPage,
});
/** What was found of a part; of one that is kept by serial, which. */
export const countIn = {
  thousandths: v.pipe(
    v.number('Write a quantity.'),
    v.integer('At most three decimals.'),
    v.minValue(0, 'Not below 0.'),
    v.maxValue(MOST_IN_STORE, 'More than any store holds.'),
  ),
  serials: v.optional(
    v.pipe(v.array(v.pipe(v.string(), v.trim(), v.minLength(1), v.maxLength(80))), v.maxLength(500)),
    [],
  ),
};
export const countPart = contract({
  method: 'PUT',
  path: '/api/stock-counts/:id/parts/:part',
  summary: 'How many of a part were found; compared with what should be there at this moment',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  params: v.object({ id: idText<CountId>(), part: idText<PartId>() }),
  body: v.object({ ...countIn, version }),
  answer: done,
});
export const approveCount = contract({
  method: 'POST',
  path: '/api/stock-counts/:id/approve',
  summary:
    'Let the differences of a count stand: stock is as it was counted, lines that were not counted stay as they are',
  room: 'stores',
  may: OFFICE,
  touches: ['stores', 'orders', 'rota'],
  params: ofCount,
  body: v.object({
    version,
    /** What one is worth where neither an average nor a price says it, by part. */
    prices: v.optional(v.pipe(v.array(v.object({ partId: v.number(), price: minor })), v.maxLength(500)), []),
  }),
  answer: done,
});
export const callOffCount = contract({
  method: 'POST',
  path: '/api/stock-counts/:id/call-off',
  summary: 'Call a count off: nothing changes',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  params: ofCount,
  body: v.object({ version }),
  answer: done,
});
