// Purchasing on the wire: what is to be bought, purchase orders, and what is delivered on them.
import * as v from 'valibot';
import type { NeedId, PartId, PurchaseId, PurchaseLineId, StoreId, SupplierId } from '#core/ids.ts';
import { MANAGERS, OFFICE, STOCKERS } from '#core/people.ts';
import { MOST_IN_STORE, PURCHASE_STAGES, STORE_KINDS } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import { above0, text } from './suppliers.ts';
import {
  afterId,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  minor,
  named,
  pageOf,
  pageQuery,
  requestKey,
  version,
} from './shapes.ts';

/** As it stands on its paper. */
export const purchaseNumber = (id: number): string => `PO-${10_000 + id}`;

const toBuyOut = v.object({
  part: v.object({ ...named.entries, number: v.string(), unit: v.string() }),
  store: named,
  /** Thousandths: open for orders and not bought yet, to be ordered by the projection, and both in whole packs. */
  ...{ forNeeds: v.number(), toReorder: v.number(), propose: v.number() },
  /** The first day on which it is needed; null: nobody said. */
  day: v.nullable(dateOut),
  needs: v.array(
    v.object({ needId: v.number(), orderId: v.number(), thousandths: v.number(), day: v.nullable(dateOut) }),
  ),
  /** Of whom; null: nobody has it. */
  supplier: v.nullable(named),
  offers: v.array(
    v.object({ supplier: named, unitPrice: v.nullable(v.number()), pack: v.number(), leadDays: v.number() }),
  ),
});
export type ToBuyOut = v.InferOutput<typeof toBuyOut>;
export const readToBuy = contract({
  method: 'GET',
  path: '/api/purchases/to-buy',
  summary: 'What is to be bought: what orders wait for and what runs low, by part and store, the most urgent first',
  room: 'stores',
  may: STOCKERS,
  reads: ['stores', 'orders'],
  query: v.object({ supplier: v.optional(idText<SupplierId>()), store: v.optional(idText<StoreId>()), ...pageQuery }),
  answer: v.object({ ...pageOf(toBuyOut).entries, total: v.number() }),
});
export const buy = contract({
  method: 'POST',
  path: '/api/purchases',
  summary:
    'Make purchase orders of what is to be bought, one for each supplier and store; added to a draft that is there',
  room: 'stores',
  may: OFFICE,
  touches: ['stores', 'orders'],
  body: v.object({
    requestKey,
    lines: v.pipe(
      v.array(
        v.object({
          ...{ partId: idOf<PartId>(), storeId: idOf<StoreId>(), supplierId: idOf<SupplierId>(), thousandths: above0 },
          needs: v.optional(
            v.pipe(v.array(v.object({ needId: idOf<NeedId>(), thousandths: above0 })), v.maxLength(500)),
            [],
          ),
        }),
      ),
      v.minLength(1, 'Choose what is to be bought.'),
      v.maxLength(500, 'At most 500 at once.'),
    ),
  }),
  answer: v.object({ ids: v.array(v.number()) }),
});

const lowOut = v.object({
  part: v.object({ ...named.entries, number: v.string(), unit: v.string() }),
  store: v.object({ ...named.entries, kind: v.picklist(STORE_KINDS) }),
  /** Thousandths of a unit. */
  ...{ free: v.number(), minimum: v.number(), maximum: v.number(), needed: v.number(), coming: v.number() },
  ...{ propose: v.number(), belowOn: dateOut, leadDays: v.number() },
  /** What is free at the end of each day, from `fromDay` on. */
  ...{ fromDay: dateOut, curve: v.array(v.number()) },
  supplier: v.nullable(v.object({ ...named.entries, unitPrice: v.nullable(v.number()) })),
});
export type LowOut = v.InferOutput<typeof lowOut>;
export const readLow = contract({
  method: 'GET',
  path: '/api/stores/low',
  summary: 'What runs low, as it was last worked out: which day, why, and how many to order; the first day first',
  room: 'stores',
  may: STOCKERS,
  reads: ['stores'],
  query: v.object({ store: v.optional(idText<StoreId>()), kind: v.optional(v.picklist(STORE_KINDS)), ...pageQuery }),
  answer: v.object({ ...pageOf(lowOut).entries, total: v.number(), madeAt: v.nullable(instantNumber) }),
});
export const lookForLow = contract({
  method: 'POST',
  path: '/api/stores/low',
  summary: 'Look through all stores for what runs low, beside requests',
  room: 'stores',
  may: STOCKERS,
  touches: ['jobs'],
  answer: done,
});

const money = v.nullable(v.number());
const purchaseRow = v.object({
  ...{ id: v.number(), supplier: named, store: named, stage: v.picklist(PURCHASE_STAGES), lines: v.number() },
  /** Minor units; null for those who see no money. */
  total: money,
  ...{
    createdAt: instantNumber,
    sentAt: v.nullable(instantNumber),
    promisedOn: v.nullable(dateOut),
    late: v.boolean(),
  },
  needsApproval: v.boolean(),
});
export type PurchaseRow = v.InferOutput<typeof purchaseRow>;
export const listPurchases = contract({
  method: 'GET',
  path: '/api/purchases',
  summary: 'Purchase orders, the newest first',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  query: v.object({
    show: v.optional(v.picklist(['open', 'all']), 'open'),
    supplier: v.optional(idText<SupplierId>()),
    ...pageQuery,
    after: afterId,
  }),
  answer: pageOf(purchaseRow),
});

const purchaseLineOut = v.object({
  ...{ id: v.number(), version: v.number(), thousandths: v.number(), received: v.number(), refused: v.number() },
  part: v.object({ ...named.entries, number: v.string(), unit: v.string(), serialTracked: v.boolean() }),
  /** How the supplier calls it. */
  theirNumber: v.string(),
  ...{ toCome: v.number(), unitPrice: money, amount: money, promisedOn: v.nullable(dateOut) },
  ...{ short: v.nullable(v.string()), variance: money },
  for: v.array(v.object({ needId: v.number(), orderId: v.number(), thousandths: v.number() })),
});
const delivery = v.object({
  ...{ at: instantNumber, by: v.nullable(v.string()), text: v.string() },
  parts: v.array(v.object({ number: v.string(), thousandths: v.number() })),
});
const purchasePage = v.object({
  ...{ id: v.number(), version: v.number(), stage: v.picklist(PURCHASE_STAGES), note: v.string(), store: named },
  supplier: v.object({ ...named.entries, email: v.string(), leadDays: v.number() }),
  ...{ createdBy: v.nullable(v.string()), createdAt: instantNumber },
  approved: v.nullable(v.object({ by: v.nullable(v.string()), at: instantNumber })),
  sent: v.nullable(v.object({ at: instantNumber, to: v.string() })),
  ...{ lines: v.array(purchaseLineOut), total: money, needsApproval: v.boolean() },
  deliveries: v.array(delivery),
});
export type PurchasePage = v.InferOutput<typeof purchasePage>;
const ofPurchase = v.object({ id: idText<PurchaseId>() });
export const readPurchase = contract({
  method: 'GET',
  path: '/api/purchases/:id',
  summary: 'One purchase order with its lines, for whom each is, and what came',
  room: 'stores',
  may: 'signed in',
  reads: ['stores'],
  params: ofPurchase,
  answer: purchasePage,
});
export const purchasePaper = contract({
  method: 'GET',
  path: '/api/purchases/:id.pdf',
  summary: 'A purchase order to print',
  room: 'stores',
  may: OFFICE,
  params: ofPurchase,
});
export const setPurchaseLine = contract({
  method: 'PUT',
  path: '/api/purchases/:id/parts/:part',
  summary:
    'Change a line of a purchase order: quantity while it is a draft, price and promised day as confirmed; 0 takes it off',
  room: 'stores',
  may: OFFICE,
  touches: ['stores', 'orders', 'rota'],
  params: v.object({ id: idText<PurchaseId>(), part: idText<PartId>() }),
  body: v.object({
    thousandths: v.pipe(v.number('Write a quantity.'), v.integer(), v.minValue(0), v.maxValue(MOST_IN_STORE)),
    unitPrice: v.nullable(minor),
    promisedOn: v.nullable(localDateText),
    /** Of the line as it was seen; 0 for a part that was not on it. */
    version: v.pipe(v.number(), v.integer(), v.minValue(0)),
  }),
  answer: done,
});
const acted = { room: 'stores', touches: ['stores', 'orders', 'rota'], params: ofPurchase, answer: done } as const;
export const approvePurchase = contract({
  method: 'POST',
  path: '/api/purchases/:id/approve',
  summary: 'Approve a purchase order as it stands',
  may: MANAGERS,
  body: v.object({ version }),
  ...acted,
});
export const sendPurchase = contract({
  method: 'POST',
  path: '/api/purchases/:id/send',
  summary: 'Send a purchase order by mail to its supplier, or note that it was handed over on paper',
  may: OFFICE,
  body: v.object({ version, byMail: v.boolean() }),
  ...acted,
});
export const callOffPurchase = contract({
  method: 'POST',
  path: '/api/purchases/:id/call-off',
  summary: 'Call a purchase order off of which nothing came yet',
  may: OFFICE,
  body: v.object({ version, reason: v.pipe(text(200), v.minLength(1, 'Say why.')) }),
  ...acted,
});
export const closeShort = contract({
  method: 'POST',
  path: '/api/purchases/:id/parts/:part/short',
  summary: 'The rest of a line does not come any more, with why',
  room: 'stores',
  may: OFFICE,
  touches: ['stores', 'orders', 'rota'],
  params: v.object({ id: idText<PurchaseId>(), part: idText<PartId>() }),
  body: v.object({ version, reason: v.pipe(text(200), v.minLength(1, 'Say why.')) }),
  answer: done,
});
export const setInvoiced = contract({
  method: 'PUT',
  path: '/api/purchases/:id/parts/:part/invoiced',
  summary: 'What one was invoiced at: the difference of what was received goes to variance',
  room: 'stores',
  may: OFFICE,
  touches: ['stores'],
  params: v.object({ id: idText<PurchaseId>(), part: idText<PartId>() }),
  body: v.object({ version, unitPrice: minor }),
  answer: done,
});

const serial = v.pipe(
  v.string(),
  v.trim(),
  v.minLength(1, 'Write the serial.'),
  v.maxLength(80, 'At most 80 characters.'),
);
const came = v.pipe(
  v.number('Write a quantity.'),
  v.integer('At most three decimals.'),
  v.minValue(0),
  v.maxValue(MOST_IN_STORE),
);
export const receivePurchase = contract({
  method: 'POST',
  path: '/api/purchases/:id/deliveries',
  summary: 'What came on a purchase order, in whole or part, with what is wrong or broken; says for whom it is',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores', 'orders', 'rota'],
  params: ofPurchase,
  body: v.object({
    ...{ requestKey, text: text(200) },
    /** Taken although it is more than was ordered. */
    more: v.optional(v.boolean(), false),
    lines: v.pipe(
      v.array(
        v.object({
          lineId: idOf<PurchaseLineId>(),
          thousandths: came,
          /** Wrong or broken: goes back with whoever brought it, and is still to come. */
          refused: v.optional(came, 0),
          why: v.optional(text(200), ''),
          serials: v.optional(v.pipe(v.array(serial), v.maxLength(500, 'At most 500 at once.')), []),
        }),
      ),
      v.minLength(1, 'Say what came.'),
      v.maxLength(500, 'At most 500 at once.'),
    ),
  }),
  answer: v.object({
    id: v.number(),
    for: v.array(v.object({ orderId: v.number(), number: v.string(), name: v.string(), thousandths: v.number() })),
  }),
});
