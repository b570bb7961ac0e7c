// How stores do: worth, turnover, what nothing is taken of, and how often a van had all that an order needed.
import * as v from 'valibot';
import type { StoreId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { done, idText, instantNumber, named, pageOf, pageQuery } from './shapes.ts';

const storeFigures = v.object({
  store: v.object({ ...named.entries, kind: v.string() }),
  /** Minor units: what lies there, what went out for orders in a year, and what of it nothing was taken of. */
  ...{ value: v.number(), taken: v.number(), deadValue: v.number(), deadParts: v.number(), parts: v.number() },
  /** How often what lies there on average went out in the year, in hundredths; null: nothing lay there. */
  turnover: v.nullable(v.number()),
});
const figures = v.object({
  madeAt: v.nullable(instantNumber),
  stores: v.array(storeFigures),
  /** Needs that nobody holds or bought for yet, and the orders that wait for parts. */
  ...{ openNeeds: v.number(), waiting: v.number() },
  /** Orders done in each month for which parts were used, and how many of them had all from the van, with no second visit. */
  complete: v.array(v.object({ month: v.string(), orders: v.number(), complete: v.number() })),
});
export type StoreFigures = v.InferOutput<typeof figures>;
export const readStoreFigures = contract({
  method: 'GET',
  path: '/api/store-figures',
  summary:
    'How stores do: worth, turnover, what nothing is taken of, orders that wait, and those that had all they needed',
  room: 'stores',
  may: OFFICE,
  reads: ['stores', 'orders'],
  answer: figures,
});
const dead = v.object({
  part: v.object({ ...named.entries, number: v.string(), unit: v.string() }),
  ...{ store: named, onHand: v.number(), value: v.number(), lastMovedAt: v.nullable(instantNumber) },
});
export type DeadStock = v.InferOutput<typeof dead>;
export const readDeadStock = contract({
  method: 'GET',
  path: '/api/store-figures/dead',
  summary: 'What lies in stores though nothing of it was taken in a year, the greatest worth first',
  room: 'stores',
  may: OFFICE,
  reads: ['stores'],
  query: v.object({ store: v.optional(idText<StoreId>()), ...pageQuery }),
  answer: pageOf(dead),
});
export const workOutFigures = contract({
  method: 'POST',
  path: '/api/store-figures',
  summary: 'Work the figures of all stores out now; every night they are anyway',
  room: 'stores',
  may: OFFICE,
  touches: ['jobs'],
  answer: done,
});
