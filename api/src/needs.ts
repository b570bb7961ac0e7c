// Needs on the wire: the parts that an order asks for, what is held of them and where, what is open and on its way.
import * as v from 'valibot';
import type { NeedId, OrderId, OrderLineId, PartId, StoreId } from '#core/ids.ts';
import { OFFICE, RECORDERS, STOCKERS } from '#core/people.ts';
import { MOST_IN_STORE } from '#core/stores/index.ts';
import { contract } from './contract.ts';
import { dateOut, done, idOf, idText, named, version } from './shapes.ts';

const needOut = v.object({
  ...{ id: v.number(), version: v.number(), lineId: v.number(), tag: v.nullable(v.string()) },
  part: v.object({ ...named.entries, number: v.string(), unit: v.string(), serialTracked: v.boolean() }),
  /** Thousandths of a unit. */
  ...{ wanted: v.number(), used: v.number(), held: v.number(), open: v.number() },
  /** Where it is held. */
  holds: v.array(v.object({ store: named, kind: v.string(), bin: v.string(), thousandths: v.number() })),
  /** What is free elsewhere, the nearest first: by itself nothing is taken from there. Kilometres in a straight line; null: not known. */
  free: v.array(v.object({ store: named, kind: v.string(), thousandths: v.number(), km: v.nullable(v.number()) })),
  /** What may be taken instead of what is open, where some of that is free. */
  instead: v.array(v.object({ ...named.entries, number: v.string(), free: v.number() })),
  /** What was bought for it and is to come. */
  ordered: v.array(v.object({ purchaseId: v.number(), thousandths: v.number(), promisedOn: v.nullable(dateOut) })),
  /** Why it was not picked, or not all of it. */
  notPicked: v.nullable(v.string()),
  /** Why the work is planned without what is open, and who decided so. */
  anyway: v.nullable(v.object({ reason: v.string(), by: v.nullable(v.string()) })),
});
export type NeedOut = v.InferOutput<typeof needOut>;

export const readNeeds = contract({
  method: 'GET',
  path: '/api/orders/:id/needs',
  summary: 'The parts an order needs: held, used, open, and where more of them is free',
  room: 'stores',
  may: 'signed in',
  reads: ['stores', 'orders'],
  params: v.object({ id: idText<OrderId>() }),
  answer: v.object({ needs: v.array(needOut), over: v.boolean() }),
});

const thousandths = v.pipe(
  v.number('Write a quantity.'),
  v.integer('At most three decimals.'),
  v.minValue(0, 'Not below 0.'),
  v.maxValue(MOST_IN_STORE, 'More than any store holds.'),
);
export const setNeed = contract({
  method: 'PUT',
  path: '/api/orders/:id/needs',
  summary: 'Say how much of a part the work at a machine needs; 0 for none of it',
  room: 'stores',
  may: RECORDERS,
  touches: ['stores', 'orders', 'rota'],
  params: v.object({ id: idText<OrderId>() }),
  body: v.object({
    lineId: idOf<OrderLineId>(),
    partId: idOf<PartId>(),
    thousandths,
    /** Of the need as it was seen; 0 where there was none. */
    version: v.pipe(v.number(), v.integer(), v.minValue(0)),
  }),
  answer: done,
});
export const holdForNeed = contract({
  method: 'PUT',
  path: '/api/needs/:id/holds/:store',
  summary: 'Hold so much for a need at a store that somebody chose, another technician’s van as well; 0 lets go of it',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores', 'orders', 'rota'],
  params: v.object({ id: idText<NeedId>(), store: idText<StoreId>() }),
  body: v.object({ thousandths, version }),
  answer: done,
});
export const takeInstead = contract({
  method: 'PUT',
  path: '/api/needs/:id/instead',
  summary: 'Need a part that stands in for one instead of what of it is open',
  room: 'stores',
  may: RECORDERS,
  touches: ['stores', 'orders', 'rota'],
  params: v.object({ id: idText<NeedId>() }),
  body: v.object({ partId: idOf<PartId>(), version }),
  answer: done,
});
export const goAnyway = contract({
  method: 'PUT',
  path: '/api/needs/:id/anyway',
  summary: 'Plan the work without what is open of a need, with why; an empty reason takes that back',
  room: 'stores',
  may: OFFICE,
  touches: ['stores', 'orders', 'rota'],
  params: v.object({ id: idText<NeedId>() }),
  body: v.object({ reason: v.pipe(v.string(), v.trim(), v.maxLength(200, 'At most 200 characters.')), version }),
  answer: done,
});
