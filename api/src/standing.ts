// Standing on the wire.
import * as v from 'valibot';
import type { AgreementId, AssetId, CustomerId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { clockOut, visitOut } from './orders.ts';
import { afterId, dateOut, idText, instantNumber, localDateText, pageQuery } from './shapes.ts';

const row = v.object({
  id: v.number(),
  label: v.string(),
  detail: v.string(),
  customer: v.string(),
  met: v.number(),
  missed: v.number(),
  attainment: v.nullable(v.number()),
  owed: v.number(),
  inWindow: v.number(),
  declined: v.number(),
  compliance: v.nullable(v.number()),
});
export type StandingRow = v.InferOutput<typeof row>;
const period = { from: localDateText, to: localDateText };
const by = v.picklist(['agreement', 'asset']);
export const readStanding = contract({
  method: 'GET',
  path: '/api/standing',
  summary: 'Standing of agreements or assets over a period',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  query: v.object({ ...period, by, ...pageQuery, after: afterId }),
  answer: v.object({
    items: v.array(row),
    next: v.nullable(v.string()),
    total: v.object({
      met: v.number(),
      missed: v.number(),
      attainment: v.nullable(v.number()),
      owed: v.number(),
      inWindow: v.number(),
      compliance: v.nullable(v.number()),
    }),
    from: dateOut,
    to: dateOut,
    now: instantNumber,
  }),
});
const pledge = v.object({
  serviceLevel: v.string(),
  /** Of the promises this service level gave; null when none fell due. */
  attainment: v.nullable(v.number()),
  /** Thresholds, credits and the cap are hundredths of a percent; amounts are minor units. */
  tiers: v.array(v.object({ below: v.number(), credit: v.number() })),
  cap: v.nullable(v.number()),
  credit: v.number(),
  fee: v.number(),
  amount: v.number(),
  currency: v.string(),
  availability: v.nullable(
    v.object({
      target: v.number(),
      share: v.nullable(v.number()),
      downMinutes: v.number(),
      machines: v.number(),
      measure: v.string(),
    }),
  ),
});
export type PledgeOut = v.InferOutput<typeof pledge>;
export const standingDetail = contract({
  method: 'GET',
  path: '/api/standing/detail',
  summary: 'The clocks and visits behind a figure',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register'],
  query: v.object({ ...period, agreement: v.optional(idText<AgreementId>()), asset: v.optional(idText<AssetId>()) }),
  answer: v.object({ clocks: v.array(clockOut), visits: v.array(visitOut), pledges: v.array(pledge) }),
});
export const standingCsv = contract({
  method: 'GET',
  path: '/api/standing.csv',
  summary: 'Standing as CSV, exactly as shown',
  room: 'standing',
  may: OFFICE,
  query: v.object({ ...period, by }),
});
export const statementData = contract({
  method: 'GET',
  path: '/api/standing/statement.json',
  summary: 'Every promise of a customer that fell due in a period, with all that is needed to work each out again',
  room: 'standing',
  may: OFFICE,
  query: v.object({ ...period, customer: idText<CustomerId>() }),
});
