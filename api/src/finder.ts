// The finder on the wire: one field for everything, one shape of hit for every room.
import * as v from 'valibot';
import { contract } from './contract.ts';
import { ribbon } from './ribbon.ts';
import { dateOut, instantNumber } from './shapes.ts';

/** In the order in which they are shown. */
export const FOUND_KINDS = [
  'asset',
  'customer',
  'location',
  'agreement',
  'order',
  'offer',
  'part',
  'document',
  'claim',
] as const;
export type FoundKind = (typeof FOUND_KINDS)[number];

const hit = v.object({
  kind: v.picklist(FOUND_KINDS),
  id: v.number(),
  /** A tag or number, written like serials; empty for none. */
  mark: v.string(),
  title: v.string(),
  /** Where it belongs: its customer, its place, its stage. */
  beside: v.string(),
  /** What it says of itself now, such as its cover; null where there is nothing of the kind. */
  state: v.nullable(v.string()),
  /** The customer it is shown under, where its address needs that. */
  under: v.nullable(v.number()),
  ribbon: v.nullable(ribbon),
  /** What was asked for and is not in the row otherwise: "serial ULF720-Q101". */
  matched: v.string(),
});
export type Hit = v.InferOutput<typeof hit>;
export const found = v.object({ hits: v.array(hit), from: dateOut, to: dateOut, now: instantNumber });
export type Found = v.InferOutput<typeof found>;
export const find = contract({
  method: 'GET',
  path: '/api/find',
  summary: 'Find anything by a fragment',
  room: 'finder',
  may: 'signed in',
  reads: ['register', 'agreements', 'orders', 'offers', 'setup'],
  query: v.object({ q: v.pipe(v.string(), v.trim(), v.minLength(2), v.maxLength(80)) }),
  answer: found,
});
