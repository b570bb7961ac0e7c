// The coverage of an agreement, machine by machine.
import * as v from 'valibot';
import { OFFICE } from '#core/people.ts';
import { contract } from '../contract.ts';
import { assetRow } from '../register.ts';
import { dateOut, localDateText, pageQuery } from '../shapes.ts';
import { shares, params } from './terms.ts';

const matrixShow = v.picklist(['all', 'no cover', 'covered twice']);
export const matrixPage = v.object({
  items: v.array(
    v.object({
      ...assetRow.entries,
      lineIds: v.array(v.number()),
      shares: v.nullable(shares),
      serviceLevel: v.nullable(v.string()),
      reach: v.nullable(v.string()),
      others: v.array(v.string()),
    }),
  ),
  next: v.nullable(v.string()),
  counts: v.object({ all: v.number(), covered: v.number(), without: v.number(), twice: v.number() }),
  on: dateOut,
  from: dateOut,
  to: dateOut,
});
export type MatrixPage = v.InferOutput<typeof matrixPage>;
export const readMatrix = contract({
  method: 'GET',
  path: '/api/agreements/:id/matrix',
  summary: 'The customer’s machines, what each is given by this agreement and by others on a day',
  room: 'agreements',
  may: 'signed in',
  reads: ['agreements', 'register', 'orders', 'upkeep', 'setup'],
  params,
  query: v.object({ on: v.optional(localDateText), show: v.optional(matrixShow), ...pageQuery }),
  answer: matrixPage,
});

export const coverageCsv = contract({
  method: 'GET',
  path: '/api/agreements/:id/coverage.csv',
  summary: 'The coverage schedule: every machine covered, with what it is given',
  room: 'agreements',
  may: OFFICE,
  params,
  query: v.object({ on: v.optional(localDateText) }),
});
