// Questions about cover: for one machine, for many, and for the whole register.
import * as v from 'valibot';
import { CAUSES } from '#core/entitlement/index.ts';
import type { AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { ORDER_KINDS } from '#core/orders/index.ts';
import { PRIORITIES } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import { verdictOut } from './register.ts';
import { idText, instantText, localDateText, named } from './shapes.ts';

/** When, and about what kind of work. */
const asked = {
  at: instantText,
  kind: v.picklist(ORDER_KINDS),
  cause: v.picklist(CAUSES),
  priority: v.optional(v.pipe(v.string(), v.transform(Number), v.picklist(PRIORITIES))),
  part: v.optional(v.pipe(v.string(), v.maxLength(120))),
};
export const askCover = contract({
  method: 'GET',
  path: '/api/cover',
  summary: 'The cover verdict for an asset at any instant',
  room: 'entitlement',
  may: 'signed in',
  reads: ['agreements', 'register', 'orders'],
  query: v.object({ asset: idText<AssetId>(), ...asked }),
  answer: verdictOut,
});
export const askMany = contract({
  method: 'GET',
  path: '/api/cover/many',
  summary: 'The cover verdicts for all machines at a place or of a customer, those with the same answer together',
  room: 'entitlement',
  may: 'signed in',
  reads: ['agreements', 'register', 'orders'],
  query: v.object({
    location: v.optional(idText<LocationId>()),
    customer: v.optional(idText<CustomerId>()),
    ...asked,
  }),
  answer: v.object({
    asked: v.number(),
    answers: v.array(
      v.object({
        verdict: verdictOut,
        machines: v.array(v.object({ id: v.number(), tag: v.string(), model: v.string(), place: v.string() })),
      }),
    ),
  }),
});

export const COVER_QUESTIONS = ['no cover', 'covered twice', 'warranty ends'] as const;
const coverQuestion = {
  question: v.picklist(COVER_QUESTIONS),
  on: localDateText,
  /** For warranties: how many days from the day asked about. */
  days: v.optional(v.pipe(v.string(), v.regex(/^\d{1,3}$/), v.transform(Number))),
  customer: v.optional(idText<CustomerId>()),
};
export const askAllCsv = contract({
  method: 'GET',
  path: '/api/cover/all.csv',
  summary: 'All machines that answer to a question about cover, as CSV',
  room: 'entitlement',
  may: 'signed in',
  query: v.object(coverQuestion),
});
export const askAll = contract({
  method: 'GET',
  path: '/api/cover/all',
  summary:
    'Which machines have no cover on a day, are covered twice, or lose their warranty without an agreement to follow',
  room: 'entitlement',
  may: 'signed in',
  reads: ['agreements', 'register'],
  query: v.object({
    ...coverQuestion,
    offset: v.optional(v.pipe(v.string(), v.regex(/^\d{1,7}$/), v.transform(Number))),
  }),
  answer: v.object({
    items: v.array(
      v.object({
        id: v.number(),
        tag: v.string(),
        model: v.string(),
        className: v.string(),
        customer: named,
        place: v.string(),
        answer: v.string(),
      }),
    ),
    total: v.number(),
    asked: v.number(),
  }),
});
