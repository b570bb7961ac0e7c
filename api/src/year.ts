// The year of upkeep on the wire: visits of a customer, place or agreement, to look at and to print; and calendar feeds.
import * as v from 'valibot';
import type { FeedId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { dateOut, done, idText, instantNumber, named, requestKey } from './shapes.ts';
import { scopeQuery } from './upkeep.ts';

const yearVisit = v.object({
  planned: dateOut,
  windowFrom: dateOut,
  windowTo: dateOut,
  state: v.picklist(['to come', 'raised', 'in window', 'outside window', 'not done']),
  orderId: v.nullable(v.number()),
});
export type YearVisit = v.InferOutput<typeof yearVisit>;
const yearRow = v.object({
  scheduleId: v.number(),
  assetId: v.number(),
  tag: v.string(),
  model: v.string(),
  place: v.string(),
  agreement: v.string(),
  jobPlan: v.string(),
  visits: v.array(yearVisit),
});
export type YearRow = v.InferOutput<typeof yearRow>;
export const yearPlan = v.object({
  title: v.string(),
  year: v.number(),
  today: dateOut,
  rows: v.array(yearRow),
  /** Visits in all. */
  visits: v.number(),
  /** What those with a price of their own come to, by currency. */
  prices: v.array(v.object({ currency: v.string(), minor: v.number() })),
});
export type YearPlan = v.InferOutput<typeof yearPlan>;
const { customer, agreement, place } = scopeQuery;
const query = v.object({
  year: v.pipe(v.string(), v.regex(/^20\d\d$/, 'Write the year as 2027.'), v.transform(Number)),
  ...{ customer, agreement, place },
});
export const readYear = contract({
  method: 'GET',
  path: '/api/upkeep/year',
  summary: 'The visits of a customer, place or agreement in a year',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'agreements', 'register', 'orders', 'setup'],
  query,
  answer: yearPlan,
});
export const yearPdf = contract({
  method: 'GET',
  path: '/api/upkeep/year.pdf',
  summary: 'The same to print',
  room: 'upkeep',
  may: OFFICE,
  query,
});

export const FEED_KINDS = ['customer', 'place', 'technician'] as const;
const feedOut = v.object({
  id: v.number(),
  kind: v.picklist(FEED_KINDS),
  of: named,
  by: v.nullable(v.string()),
  at: instantNumber,
  /** When a calendar last asked for it. */
  readAt: v.nullable(instantNumber),
  works: v.boolean(),
});
export type FeedOut = v.InferOutput<typeof feedOut>;
export const listFeeds = contract({
  method: 'GET',
  path: '/api/feeds',
  summary: 'Calendar feeds and whether their addresses still work',
  room: 'upkeep',
  may: WRITERS,
  reads: ['upkeep', 'register', 'setup'],
  answer: v.object({ items: v.array(feedOut) }),
});
export const addFeed = contract({
  method: 'POST',
  path: '/api/feeds',
  summary: 'Make a secret address at which a calendar reads visits',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  body: v.object({
    requestKey,
    kind: v.picklist(FEED_KINDS),
    of: v.pipe(v.number('Choose whose visits.'), v.integer(), v.minValue(1)),
  }),
  /** The address below that of the server, told this once. */
  answer: v.object({ id: v.number(), path: v.string() }),
});
export const revokeFeed = contract({
  method: 'DELETE',
  path: '/api/feeds/:id',
  summary: 'Revoke the address of a feed; calendars find nothing there from then on',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  params: v.object({ id: idText<FeedId>() }),
  answer: done,
});
export const readFeed = contract({
  method: 'GET',
  path: '/api/calendar/:secret',
  summary: 'Visits as an iCalendar feed; the address itself is the key',
  room: 'upkeep',
  may: 'anybody',
  params: v.object({ secret: v.pipe(v.string(), v.maxLength(80)) }),
});
