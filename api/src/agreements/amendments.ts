// Changing what an agreement gives: its draft at once, an agreement in force from a day on, and comparing two days.
import * as v from 'valibot';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from '../contract.ts';
import { done, localDateText, longText, minor, version } from '../shapes.ts';
import { lineChange, headerTerms, params } from './terms.ts';

export const changeLines = contract({
  method: 'PUT',
  path: '/api/agreements/:id/coverage',
  summary: 'Change the coverage of a draft',
  room: 'agreements',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: v.object({ changes: v.pipe(v.array(lineChange), v.minLength(1, 'Change something.'), v.maxLength(50)) }),
  answer: done,
});

const amendment = v.object({
  from: v.pipe(v.string(), v.maxLength(20)),
  reason: v.pipe(longText, v.minLength(1, 'Say what is amended and why.')),
  changes: v.pipe(v.array(lineChange), v.maxLength(50)),
  priceMinor: v.optional(v.nullable(minor)),
  to: v.optional(v.nullable(v.pipe(v.string(), v.maxLength(20)))),
  noticeDays: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(730))),
  renewalMode: v.optional(headerTerms.renewalMode),
  renewalMonths: v.optional(headerTerms.renewalMonths),
});
const fieldChange = v.object({ name: v.string(), before: v.nullable(v.string()), after: v.nullable(v.string()) });
const comparison = v.object({
  header: v.array(fieldChange),
  lines: v.array(
    v.object({ label: v.string(), change: v.picklist(['added', 'removed', 'changed']), fields: v.array(fieldChange) }),
  ),
});
export type Comparison = v.InferOutput<typeof comparison>;
export const previewAmendment = contract({
  method: 'POST',
  path: '/api/agreements/:id/amendments/preview',
  summary: 'What an amendment would change; nothing is written',
  room: 'agreements',
  may: WRITERS,
  reads: ['agreements', 'register'],
  params,
  body: amendment,
  answer: v.object({
    warnings: v.array(v.string()),
    comparison,
    covers: v.array(v.object({ assetId: v.number(), tag: v.string(), before: v.string(), after: v.string() })),
    coversTotal: v.number(),
  }),
});
const amendmentIn = v.object({ version, ...amendment.entries });
export type AmendmentIn = v.InferInput<typeof amendmentIn>;
export const amend = contract({
  method: 'POST',
  path: '/api/agreements/:id/amendments',
  summary: 'Amend an agreement from a date on',
  room: 'agreements',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: amendmentIn,
  answer: v.object({ version: v.number() }),
});
export const compareVersions = contract({
  method: 'GET',
  path: '/api/agreements/:id/compare',
  summary: 'Two versions of an agreement, by the days on which they held',
  room: 'agreements',
  may: OFFICE,
  reads: ['agreements'],
  params,
  query: v.object({ a: localDateText, b: localDateText }),
  answer: comparison,
});
