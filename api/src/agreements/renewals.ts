// Renewals, and what is open when an agreement ends.
import * as v from 'valibot';
import { RENEWAL_MODES } from '#core/agreements/index.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from '../contract.ts';
import { dateOut, longText, named, version } from '../shapes.ts';
import { headerTerms, params } from './terms.ts';

export const listRenewals = contract({
  method: 'GET',
  path: '/api/renewals',
  summary: 'Agreements by the date on which notice is due',
  room: 'agreements',
  may: OFFICE,
  reads: ['agreements', 'register'],
  query: v.object({ days: v.optional(v.pipe(v.string(), v.regex(/^\d{1,3}$/), v.transform(Number))) }),
  answer: v.object({
    items: v.array(
      v.object({
        id: v.number(),
        version: v.number(),
        number: v.string(),
        name: v.string(),
        customer: named,
        stage: v.string(),
        to: dateOut,
        noticeBy: dateOut,
        mode: v.picklist(RENEWAL_MODES),
        months: v.number(),
        decision: v.nullable(v.picklist(['accepted', 'declined'])),
        manager: v.nullable(v.string()),
        currency: v.string(),
        priceMinor: v.nullable(v.number()),
        sentence: v.string(),
      }),
    ),
    today: dateOut,
  }),
});
export const decideRenewal = contract({
  method: 'POST',
  path: '/api/agreements/:id/renewal',
  summary: 'Accept a renewal with its new price, or decline it',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements', 'upkeep'],
  params,
  body: v.variant('decision', [
    v.object({
      decision: v.literal('accepted'),
      version,
      months: headerTerms.renewalMonths,
      /** Change of every price in hundredths of a percent. */
      priceChange: v.pipe(v.number(), v.integer(), v.minValue(-10_000, 'At most 100 % less.'), v.maxValue(100_000)),
      reason: longText,
    }),
    v.object({ decision: v.literal('declined'), version, reason: v.pipe(longText, v.minLength(1, 'Say why.')) }),
  ]),
  answer: v.object({ version: v.number() }),
});

export const openWork = contract({
  method: 'GET',
  path: '/api/agreements/:id/open-work',
  summary: 'Visits and orders that are open under an agreement',
  room: 'agreements',
  may: OFFICE,
  reads: ['agreements', 'register', 'orders', 'upkeep'],
  params,
  answer: v.object({
    orders: v.array(
      v.object({ id: v.number(), title: v.string(), kind: v.string(), stage: v.string(), tag: v.string() }),
    ),
    ordersTotal: v.number(),
    heldVisits: v.number(),
  }),
});
