// What technicians ask for their vans, answered by whoever keeps the stores.
import * as v from 'valibot';
import type { StoreId, VanAskId } from '#core/ids.ts';
import { STOCKERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { done, idOf, idText, instantNumber, named, requestKey } from './shapes.ts';
import { movedLine } from './stock.ts';

const { partId: _, ...amount } = movedLine;

const vanAskOut = v.object({
  ...{ id: v.number(), van: named, who: v.string(), at: instantNumber, thousandths: v.number(), text: v.string() },
  part: v.object({
    ...{ id: v.number(), number: v.string(), name: v.string(), unit: v.string(), serialTracked: v.boolean() },
  }),
  /** Stores with some of it free, the most first. */
  from: v.array(v.object({ ...named.entries, free: v.number() })),
});
export type VanAskOut = v.InferOutput<typeof vanAskOut>;
export const listVanAsks = contract({
  method: 'GET',
  path: '/api/stock/van-asks',
  summary: 'Parts that technicians ask for their vans, the oldest first',
  room: 'stores',
  may: STOCKERS,
  reads: ['stores'],
  answer: v.object({ items: v.array(vanAskOut), more: v.boolean() }),
});
export const sendVanAsk = contract({
  method: 'POST',
  path: '/api/stock/van-asks/:id/send',
  summary: 'Carry what was asked for into the van',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  params: v.object({ id: idText<VanAskId>() }),
  body: v.object({ requestKey, fromId: idOf<StoreId>(), ...amount }),
  answer: done,
});
export const declineVanAsk = contract({
  method: 'POST',
  path: '/api/stock/van-asks/:id/decline',
  summary: 'Say why a part does not go into the van',
  room: 'stores',
  may: STOCKERS,
  touches: ['stores'],
  params: v.object({ id: idText<VanAskId>() }),
  body: v.object({
    text: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why not.'), v.maxLength(200, 'At most 200 characters.')),
  }),
  answer: done,
});
