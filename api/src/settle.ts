// Settle on the wire: taxes, other costs of an order, and what an order comes to.
import * as v from 'valibot';
import type { AttachmentId, OrderId, OrderLineId, OtherCostId, TaxId } from '#core/ids.ts';
import { ENTRY_KINDS, HOURS_KINDS, SHEET_STATES } from '#core/labour/index.ts';
import { MANAGERS, RECORDERS } from '#core/people.ts';
import { PAY_STATES, PAY_WAYS, TAX_CATEGORIES } from '#core/settle/index.ts';
import { contract } from './contract.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  minor,
  named,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

const taxIn = v.object({
  name: v.pipe(shortText, v.maxLength(60, 'At most 60 characters.')),
  category: v.picklist(TAX_CATEGORIES),
  /** Percent in hundredths: 2300 is 23 %. */
  hundredths: v.pipe(
    v.number('Write a percentage.'),
    v.integer('At most two decimals.'),
    v.minValue(0),
    v.maxValue(10_000, 'At most 100 %.'),
  ),
  /** What everything without a tax of its own is taxed by; there is one. */
  isStandard: v.boolean(),
});
export type TaxIn = v.InferInput<typeof taxIn>;
const taxOut = v.object({ id: v.number(), version: v.number(), ...taxIn.entries });
export type TaxOut = v.InferOutput<typeof taxOut>;
export const readTaxes = contract({
  method: 'GET',
  path: '/api/taxes',
  summary: 'Taxes',
  room: 'settle',
  may: 'signed in',
  reads: ['settle'],
  answer: v.object({ items: v.array(taxOut) }),
});
export const addTax = contract({
  method: 'POST',
  path: '/api/taxes',
  summary: 'Add a tax',
  room: 'settle',
  may: MANAGERS,
  touches: ['settle'],
  body: taxIn,
  answer: created,
});
export const changeTax = contract({
  method: 'PUT',
  path: '/api/taxes/:id',
  summary: 'Change a tax',
  room: 'settle',
  may: MANAGERS,
  touches: ['settle'],
  params: v.object({ id: idText<TaxId>() }),
  body: v.object({ ...taxIn.entries, version }),
  answer: done,
});

export const costIn = {
  lineId: idOf<OrderLineId>(),
  day: localDateText,
  text: v.pipe(
    v.string(),
    v.trim(),
    v.minLength(1, 'Say what it was for.'),
    v.maxLength(200, 'At most 200 characters.'),
  ),
  cost: minor,
  price: minor,
  taxId: v.optional(v.nullable(idOf<TaxId>()), null),
  /** Why we bear it; left out or empty: it is the customer’s. For the office. */
  oursBecause: v.optional(v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(200, 'At most 200 characters.'))), null),
  /** The photo of its receipt, among the order’s files. */
  receiptId: v.optional(v.nullable(idOf<AttachmentId>()), null),
};
export const addCost = contract({
  method: 'POST',
  path: '/api/orders/:id/costs',
  summary: 'Add another cost to an order: tolls, hire, postage',
  room: 'settle',
  may: RECORDERS,
  touches: ['settle'],
  params: v.object({ id: idText<OrderId>() }),
  body: v.object({ requestKey, ...costIn }),
  answer: created,
});
const costParams = v.object({ id: idText<OtherCostId>() });
export const changeCost = contract({
  method: 'PUT',
  path: '/api/costs/:id',
  summary: 'Change another cost',
  room: 'settle',
  may: RECORDERS,
  touches: ['settle'],
  params: costParams,
  body: v.object({ version, ...costIn }),
  answer: done,
});
export const removeCost = contract({
  method: 'DELETE',
  path: '/api/costs/:id',
  summary: 'Remove another cost',
  room: 'settle',
  may: RECORDERS,
  touches: ['settle'],
  params: costParams,
  answer: done,
});

const money = v.nullable(v.number());
export const CHARGED = [
  ...ENTRY_KINDS,
  'call-out',
  'flat travel',
  'kilometres',
  'part',
  'consumable',
  'visit',
  'other',
] as const;
const charge = v.object({
  lineId: v.number(),
  what: v.picklist(CHARGED),
  /** Whose time it is; null: not somebody’s time. */
  person: v.nullable(named),
  craft: v.nullable(v.string()),
  hours: v.nullable(v.picklist(HOURS_KINDS)),
  minutes: v.nullable(v.number()),
  billed: v.nullable(v.number()),
  /** What the part is, or what the other cost was for. */
  text: v.nullable(v.string()),
  /** Who bears a share of it. */
  by: v.nullable(v.string()),
  /** Minor units; null where the reader may not see money. The rate is for an hour. */
  ...{ salesRate: money, cost: money, list: money, borne: money, discount: money, pay: money },
});
export const usedPartOut = v.object({
  id: v.number(),
  version: v.number(),
  lineId: v.number(),
  part: v.object({
    id: v.number(),
    number: v.string(),
    name: v.string(),
    unit: v.string(),
    serialTracked: v.boolean(),
  }),
  thousandths: v.number(),
  serial: v.string(),
  orderId: v.number(),
  /** Where it was taken from; null: from none of our stores. */
  store: v.nullable(v.object({ id: v.number(), name: v.string() })),
  who: v.nullable(v.string()),
  at: instantNumber,
});
export type UsedPartOut = v.InferOutput<typeof usedPartOut>;
export const otherCostOut = v.object({
  id: v.number(),
  version: v.number(),
  lineId: v.number(),
  day: dateOut,
  text: v.string(),
  ...{ cost: money, price: money },
  taxId: v.nullable(v.number()),
  oursBecause: v.nullable(v.string()),
  receiptId: v.nullable(v.number()),
  who: v.nullable(v.string()),
});
export type OtherCostOut = v.InferOutput<typeof otherCostOut>;
/** Amounts in minor units with tax; null where it will be invoiced, or where the reader may not see money. */
const paymentOut = v.object({
  ...{ id: v.number(), way: v.picklist(PAY_WAYS), state: v.picklist(PAY_STATES), amount: money },
  ...{ currency: v.nullable(v.string()), receipt: v.string(), who: v.string(), at: instantNumber },
});
/** Sent again, it asks the terminal for the same payment and takes nothing twice. */
export const takeCard = contract({
  method: 'POST',
  path: '/api/orders/:id/card',
  summary: 'Have the card terminal take what a customer pays on site',
  room: 'settle',
  may: RECORDERS,
  touches: ['settle', 'orders'],
  params: v.object({ id: idText<OrderId>() }),
  body: v.object({ requestKey, amount: minor }),
  answer: v.object({ state: v.picklist(PAY_STATES), receipt: v.string() }),
});
export const readCharges = contract({
  method: 'GET',
  path: '/api/orders/:id/charges',
  summary:
    'What an order comes to: time, travel, parts and other costs by line, who bears them, tax, and what is behind each figure',
  room: 'settle',
  may: 'signed in',
  reads: ['labour', 'orders', 'setup', 'stores', 'settle', 'register', 'offers'],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({
    currency: v.string(),
    card: v.nullable(v.string()),
    internal: v.boolean(),
    charges: v.array(charge),
    /** Of the customer’s amount, as an estimate; null for those who see no money, or while no tax is the standard one. */
    tax: v.nullable(
      v.object({
        rows: v.array(v.object({ name: v.string(), hundredths: v.number(), taxable: v.number(), tax: v.number() })),
        withTax: v.number(),
      }),
    ),
    /** The customer’s amount less cost, for those who may see it. */
    margin: money,
    /** The offer it was accepted by: its amount without tax, and how much more the customer’s amount is; for those who see money. */
    offered: v.nullable(
      v.object({ id: v.number(), withoutTax: v.number(), currency: v.string(), beyond: v.nullable(v.number()) }),
    ),
    /** Whose time has no rate, and since when. */
    withoutRate: v.array(v.object({ person: v.string(), day: dateOut })),
    entries: v.array(
      v.object({
        id: v.number(),
        person: named,
        day: dateOut,
        kind: v.picklist(ENTRY_KINDS),
        lineId: v.number(),
        minutes: v.number(),
        span: v.nullable(v.object({ from: instantNumber, to: instantNumber })),
        text: v.string(),
        state: v.picklist(SHEET_STATES),
      }),
    ),
    parts: v.array(usedPartOut),
    others: v.array(otherCostOut),
    payments: v.array(paymentOut),
  }),
});
export type OrderCharges = v.InferOutput<NonNullable<typeof readCharges.answer>>;
