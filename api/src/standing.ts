// Standing on the wire.
import * as v from 'valibot';
import type { CustomerId, Id, LocationId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { contract, type Answer } from './contract.ts';
import { clockOut, visitOut } from './orders.ts';
import { MISS_CAUSES } from '#core/standing/index.ts';
import { TARGETS } from '#core/service-levels/index.ts';
import { dateOut, idText, instantNumber, localDateText, pageQuery } from './shapes.ts';

export const figures = {
  ...{ met: v.number(), missed: v.number(), attainment: v.nullable(v.number()) },
  ...{ owed: v.number(), inWindow: v.number(), declined: v.number(), compliance: v.nullable(v.number()) },
};
const row = v.object({
  id: v.number(),
  label: v.string(),
  detail: v.string(),
  customer: v.string(),
  ...figures,
  /** Below which a credit is owed, in hundredths of a percent, as the agreement says; null where nothing is agreed. */
  agreed: v.nullable(v.number()),
});
export type StandingRow = v.InferOutput<typeof row>;
const period = { from: localDateText, to: localDateText };
/** What standing is told by; a site is the top of the tree of places. */
export const STANDING_BY = ['agreement', 'customer', 'site', 'depot', 'asset'] as const;
export type StandingBy = (typeof STANDING_BY)[number];
const by = v.picklist(STANDING_BY);
/** Of a place below a site too, what is amiss is told. */
const DETAIL_BY = [...STANDING_BY, 'place'] as const;
export type DetailBy = (typeof DETAIL_BY)[number];
const toldAfter = v.optional(
  v.pipe(v.string(), v.regex(/^\d{1,10}-\d{1,10}$/, 'Ask for the next page with the `next` of the page before.')),
);
export const readStanding = contract({
  method: 'GET',
  path: '/api/standing',
  summary: 'Standing over a period, for each agreement, customer, site, depot or asset: what needs explaining first',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  query: v.object({ ...period, by, customer: v.optional(idText<CustomerId>()), ...pageQuery, after: toldAfter }),
  answer: v.object({
    items: v.array(row),
    next: v.nullable(v.string()),
    from: dateOut,
    to: dateOut,
    now: instantNumber,
  }),
});
export const readStandingTotal = contract({
  method: 'GET',
  path: '/api/standing/total',
  summary: 'Standing over a period in all, or of one customer, and over the period before, which is as long',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  query: v.object({ ...period, customer: v.optional(idText<CustomerId>()) }),
  answer: v.object({
    total: v.object(figures),
    before: v.object({ from: dateOut, to: dateOut, ...figures }),
  }),
});
export const readStandingBefore = contract({
  method: 'GET',
  path: '/api/standing/before',
  summary: 'Attainment in the period before, which is as long, of those on a page',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  query: v.object({
    ...{ ...period, by },
    /** At most a page of them, with commas between. */
    ids: v.optional(v.pipe(v.string(), v.regex(/^(\d{1,10}(,\d{1,10}){0,199})?$/, 'Name up to 200 by their ids.')), ''),
  }),
  answer: v.object({
    /** By id; null: no promise fell due. */
    attainment: v.record(v.string(), v.nullable(v.number())),
  }),
});
export const course = {
  months: v.array(v.object({ month: dateOut, isClosed: v.boolean(), ...figures })),
  causes: v.array(
    v.object({
      /** Null: still open, and past due. */
      cause: v.nullable(v.picklist(MISS_CAUSES)),
      target: v.picklist(TARGETS),
      priority: v.number(),
      missed: v.number(),
    }),
  ),
};
const subject = { by: v.picklist(['all', ...STANDING_BY]), id: v.optional(idText<Id<string>>()) };
const placed = { id: v.number(), name: v.string() };
export const readStandingPlaces = contract({
  method: 'GET',
  path: '/api/standing/places/:id',
  summary:
    'Standing of a place over a period: each place directly below it with everything beneath, and the place itself',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  params: v.object({ id: idText<LocationId>() }),
  query: v.object(period),
  answer: v.object({
    ...placed,
    /** From the site down. */
    above: v.array(v.object(placed)),
    /** With most held against us first. */
    rows: v.array(v.object({ ...placed, ...figures })),
    /** So many below are not told, of those with least. */
    more: v.number(),
    /** At the place and at none below it. */
    here: v.object(figures),
    /** Of a site: counted there, at places that are elsewhere now. */
    moved: v.nullable(v.object(figures)),
    total: v.object(figures),
    now: instantNumber,
  }),
});
export type StandingPlaces = Answer<typeof readStandingPlaces>;
export const readStandingCourse = contract({
  method: 'GET',
  path: '/api/standing/course',
  summary: 'How standing went month by month up to a period’s end, and why promises were missed in the period',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  query: v.object({ ...period, ...subject }),
  answer: v.object(course),
});
export type StandingCourse = Answer<typeof readStandingCourse>;
export const pledge = v.object({
  serviceLevel: v.string(),
  /** Of the promises this service level gave; null when none fell due. */
  attainment: v.nullable(v.number()),
  /** Thresholds, credits and the cap are hundredths of a percent; amounts are minor units. */
  tiers: v.array(v.object({ below: v.number(), credit: v.number() })),
  cap: v.nullable(v.number()),
  credit: v.number(),
  /** To the end of a period that goes on; null: it is over, or no credit is agreed. */
  forecast: v.nullable(
    v.object({
      /** Promises still to fall due by the pace so far. */
      toCome: v.number(),
      /** The nearest tier that is not reached, and how many more misses reach it; null: not even all of them. */
      next: v.nullable(v.object({ below: v.number(), credit: v.number(), misses: v.nullable(v.number()) })),
    }),
  ),
  fee: v.number(),
  amount: v.number(),
  currency: v.string(),
  /** Visits of the agreement done in their windows against what is agreed, in hundredths of a percent. */
  upkeep: v.nullable(v.object({ target: v.number(), share: v.nullable(v.number()) })),
  availability: v.nullable(
    v.object({
      target: v.number(),
      share: v.nullable(v.number()),
      downMinutes: v.number(),
      machines: v.number(),
      measure: v.string(),
      /** When machines were down, the longest first; `to` null: still. Minutes are of service time. */
      downtime: v.array(
        v.object({
          ...{ tag: v.string(), orderId: v.number(), from: instantNumber, to: v.nullable(instantNumber) },
          downMinutes: v.number(),
        }),
      ),
    }),
  ),
});
export type PledgeOut = v.InferOutput<typeof pledge>;
/** So many promises and visits that are amiss are shown at most. */
export const AMISS_SHOWN = 100;
export const standingDetail = contract({
  method: 'GET',
  path: '/api/standing/detail',
  summary: 'The clocks and visits behind a figure',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  query: v.object({ ...period, by: v.picklist(DETAIL_BY), id: idText<Id<string>>() }),
  answer: v.object({
    clocks: v.array(clockOut),
    visits: v.array(visitOut),
    /** Only what is amiss, the newest; of agreements and assets everything is told. */
    onlyAmiss: v.boolean(),
    pledges: v.array(pledge),
  }),
});
export const standingCsv = contract({
  method: 'GET',
  path: '/api/standing.csv',
  summary: 'Standing as CSV, exactly as shown',
  room: 'standing',
  may: OFFICE,
  query: v.object({ ...period, by, customer: v.optional(idText<CustomerId>()) }),
});
export const statementPaper = contract({
  method: 'GET',
  path: '/api/standing/statement.pdf',
  summary:
    'A customer’s statement of a period on paper: every promise, visit, pledge and credit with its reason; never costs',
  room: 'standing',
  may: OFFICE,
  query: v.object({ ...period, customer: idText<CustomerId>() }),
});
export const statementCsv = contract({
  method: 'GET',
  path: '/api/standing/statement.csv',
  summary: 'The promises of a customer’s statement as CSV, each with all that it follows from',
  room: 'standing',
  may: OFFICE,
  query: v.object({ ...period, customer: idText<CustomerId>() }),
});
export const statementData = contract({
  method: 'GET',
  path: '/api/standing/statement.json',
  summary: 'Every promise of a customer that fell due in a period, with all that is needed to work each out again',
  room: 'standing',
  may: OFFICE,
  query: v.object({ ...period, customer: idText<CustomerId>() }),
});
