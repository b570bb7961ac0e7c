// Stock on the wire: stores, what lies in them, and what people do to it.
import * as v from 'valibot';
import type { DepotId, PartId, PersonId, StoreId } from '#core/ids.ts';
import { MANAGERS, STOCKERS, WRITERS } from '#core/people.ts';
import { MOST_IN_STORE, MOVE_KINDS, STORE_KINDS } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import {
  afterId,
  created,
  dateOut,
  done,
  idOf,
  idText,
  minor,
  named,
  pageOf,
  pageQuery,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

const storeIn = {
  name: v.pipe(shortText, v.maxLength(80, 'At most 80 characters.')),
  kind: v.picklist(STORE_KINDS),
  depotId: idOf<DepotId>(),
  /** Whose van it is; nobody's of any other store. */
  personId: v.nullable(idOf<PersonId>()),
  retired: v.boolean(),
};
const storeBody = v.object(storeIn);
export type StoreIn = v.InferInput<typeof storeBody>;
const storeOut = v.object({
  ...{ id: v.number(), version: v.number(), name: v.string(), kind: v.picklist(STORE_KINDS) },
  ...{ depot: named, person: v.nullable(named), retired: v.boolean() },
  /** How many parts lie there, and what they are worth in minor units; null for those who see no money. */
  ...{ parts: v.number(), value: v.nullable(v.number()) },
});
export type StoreOut = v.InferOutput<typeof storeOut>;

export const listStores = contract({
  method: 'GET',
  path: '/api/stores',
  summary: 'Stores with how much lies in them',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'setup'],
  answer: v.object({ items: v.array(storeOut) }),
});
export const addStore = contract({
  method: 'POST',
  path: '/api/stores',
  summary: 'Add a store',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  body: storeBody,
  answer: created,
});
export const changeStore = contract({
  method: 'PUT',
  path: '/api/stores/:id',
  summary: 'Change a store; one in which something lies stays in use',
  room: 'stores',
  may: WRITERS,
  touches: ['stores'],
  params: v.object({ id: idText<StoreId>() }),
  body: v.object({ ...storeIn, version }),
  answer: done,
});

const counted = {
  /** Thousandths of a unit. */
  ...{ onHand: v.number(), reserved: v.number(), free: v.number() },
  ...{ bin: v.string(), minimum: v.nullable(v.number()), maximum: v.nullable(v.number()), version: v.number() },
  /** Minor units: of one, moving, and of all; null for those who see no money. */
  ...{ average: v.nullable(v.number()), value: v.nullable(v.number()) },
};
const shelfOut = v.object({
  ...{ partId: v.number(), number: v.string(), name: v.string(), unit: v.string(), serialTracked: v.boolean() },
  ...counted,
});
export type ShelfOut = v.InferOutput<typeof shelfOut>;
export const readShelves = contract({
  method: 'GET',
  path: '/api/stores/:id/shelves',
  summary: 'What lies in a store, by number of the part',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  params: v.object({ id: idText<StoreId>() }),
  query: v.object({
    q: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(80))),
    /** Only those below their minimum. */
    below: v.optional(v.picklist(['minimum'])),
    ...pageQuery,
  }),
  answer: v.object({ ...pageOf(shelfOut).entries, total: v.number() }),
});

const quantity = v.pipe(
  v.number('Write a quantity.'),
  v.integer('At most three decimals.'),
  v.minValue(0, 'Not below 0.'),
  v.maxValue(MOST_IN_STORE, 'More than any store holds.'),
);
export const setShelf = contract({
  method: 'PUT',
  path: '/api/stores/:id/shelves/:part',
  summary: 'Say where a part lies in a store, and between what and what it is kept',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  params: v.object({ id: idText<StoreId>(), part: idText<PartId>() }),
  body: v.object({
    version: v.pipe(v.number(), v.integer(), v.minValue(0)),
    bin: v.pipe(v.string(), v.trim(), v.maxLength(40, 'At most 40 characters.')),
    minimum: v.nullable(quantity),
    maximum: v.nullable(quantity),
  }),
  answer: done,
});

const inStore = v.object({
  ...{ store: named, kind: v.picklist(STORE_KINDS), depot: named, person: v.nullable(named) },
  ...counted,
});
const serialOut = v.object({ serial: v.string(), store: named });
const partStock = v.object({
  part: v.object({
    ...{ id: v.number(), number: v.string(), name: v.string(), unit: v.string(), serialTracked: v.boolean() },
    retired: v.boolean(),
  }),
  stores: v.array(inStore),
  /** What is to come on purchase orders, the first day first. */
  ordered: v.array(
    v.object({
      ...{ purchaseId: v.number(), store: named, supplier: named, thousandths: v.number() },
      ...{ promisedOn: v.nullable(dateOut), sent: v.boolean() },
    }),
  ),
  /** Units that are in a store, by their serials. */
  serials: v.array(serialOut),
});
export type PartStock = v.InferOutput<typeof partStock>;
export const readPartStock = contract({
  method: 'GET',
  path: '/api/parts/:id/stock',
  summary: 'Where a part is: on hand, held and free in each store',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'setup'],
  params: v.object({ id: idText<PartId>() }),
  answer: partStock,
});

const moveOut = v.object({
  ...{ id: v.number(), at: v.number(), kind: v.picklist(MOVE_KINDS), store: named, by: v.nullable(v.string()) },
  ...{ thousandths: v.number(), money: v.nullable(v.number()), serials: v.array(v.string()), text: v.string() },
  orderId: v.nullable(v.number()),
});
export type MoveOut = v.InferOutput<typeof moveOut>;
export const readMoves = contract({
  method: 'GET',
  path: '/api/parts/:id/moves',
  summary: 'Moves of a part, the newest first',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  params: v.object({ id: idText<PartId>() }),
  query: v.object({ store: v.optional(idText<StoreId>()), ...pageQuery, after: afterId }),
  answer: pageOf(moveOut),
});

const MOST_LINES = 200;
export const movedLine = {
  partId: idOf<PartId>(),
  thousandths: quantity,
  /** One for each unit of what is kept by serial; none of other parts. */
  serials: v.optional(
    v.pipe(
      v.array(
        v.pipe(v.string(), v.trim(), v.minLength(1, 'Write the serial.'), v.maxLength(80, 'At most 80 characters.')),
      ),
      v.maxLength(500, 'At most 500 at once.'),
    ),
    [],
  ),
};
const linesOf = <E extends v.ObjectEntries>(entries: E) =>
  v.pipe(
    v.array(v.object(entries)),
    v.minLength(1, 'Name a part.'),
    v.maxLength(MOST_LINES, `At most ${MOST_LINES} lines.`),
  );
export const movedLines = linesOf(movedLine);
export const storeText = v.pipe(v.string(), v.trim(), v.maxLength(200, 'At most 200 characters.'));

export const receiveStock = contract({
  method: 'POST',
  path: '/api/stock/receipts',
  summary: 'Take parts into a store, at the price paid for one; without one, at the last that was paid',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  body: v.object({
    ...{ requestKey, storeId: idOf<StoreId>(), text: storeText },
    lines: linesOf({ ...movedLine, unitPrice: v.nullable(minor) }),
  }),
  answer: created,
});
export const transferStock = contract({
  method: 'POST',
  path: '/api/stock/transfers',
  summary: 'Carry parts from one store to another',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  body: v.object({
    ...{ requestKey, fromId: idOf<StoreId>(), toId: idOf<StoreId>(), text: storeText },
    lines: movedLines,
  }),
  answer: created,
});
export const scrapStock = contract({
  method: 'POST',
  path: '/api/stock/scraps',
  summary: 'Throw parts of a store away, with why',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  body: v.object({
    ...{ requestKey, storeId: idOf<StoreId>() },
    text: v.pipe(storeText, v.minLength(1, 'Say why.')),
    lines: movedLines,
  }),
  answer: created,
});

const storeSettings = {
  planWaiting: v.boolean(),
  holdDays: v.pipe(v.number('Write a number of days.'), v.integer(), v.minValue(0), v.maxValue(365, 'At most a year.')),
  reviewDays: v.pipe(
    v.number('Write a number of days.'),
    v.integer(),
    v.minValue(0),
    v.maxValue(90, 'At most 90 days.'),
  ),
  approvalLimit: v.nullable(minor),
};
export const readStoreSettings = contract({
  method: 'GET',
  path: '/api/store-settings',
  summary: 'How stock is kept: how far ahead parts are held, and whether work that waits for them is planned',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  answer: v.object({ ...storeSettings, version: v.number() }),
});
export const keepStoreSettings = contract({
  method: 'PUT',
  path: '/api/store-settings',
  summary: 'Change how stock is kept',
  room: 'stores',
  may: MANAGERS,
  touches: ['stores', 'rota'],
  body: v.object({ ...storeSettings, version }),
  answer: done,
});
