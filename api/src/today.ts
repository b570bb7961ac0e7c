// Today on the wire: what needs somebody now.
import * as v from 'valibot';
import { contract, type Thing } from './contract.ts';
import { clockOut, orderRow } from './orders.ts';
import { dateOut, instantNumber } from './shapes.ts';

/** Touched when the outlook of schedules was worked out anew. */
export const outlookRead = ['outlook'] as const satisfies readonly Thing[];

const promise = v.object({
  clock: clockOut,
  order: v.object(orderRow.entries),
  open: v.array(v.object({ from: instantNumber, to: instantNumber })),
});
export type TodayPromise = v.InferOutput<typeof promise>;
const visitEnding = v.object({
  orderId: v.number(),
  tag: v.string(),
  model: v.string(),
  customer: v.string(),
  place: v.string(),
  label: v.string(),
  due: dateOut,
  windowTo: dateOut,
  stage: v.string(),
  late: v.boolean(),
});
export const today = v.object({
  now: instantNumber,
  today: dateOut,
  axisFrom: instantNumber,
  axisTo: instantNumber,
  promises: v.array(promise),
  counts: v.object({ missed: v.number(), short: v.number(), enough: v.number(), paused: v.number() }),
  morePromises: v.number(),
  upkeep: v.object({
    to: dateOut,
    proposed: v.number(),
    held: v.number(),
    needsCare: v.number(),
    reasons: v.array(v.object({ text: v.string(), count: v.number() })),
  }),
  visitsEnding: v.array(visitEnding),
  /** What one was told about one’s own agreements. */
  ownNotices: v.array(
    v.object({
      id: v.number(),
      agreementId: v.number(),
      number: v.string(),
      name: v.string(),
      customer: v.string(),
      text: v.string(),
    }),
  ),
  notices: v.array(
    v.object({
      agreementId: v.number(),
      number: v.string(),
      name: v.string(),
      customer: v.string(),
      noticeBy: dateOut,
    }),
  ),
  alerts: v.array(
    v.object({
      id: v.number(),
      text: v.string(),
      tag: v.string(),
      model: v.string(),
      assetId: v.number(),
      startedAt: instantNumber,
      orderId: v.nullable(v.number()),
    }),
  ),
});
export type Today = v.InferOutput<typeof today>;
export const readToday = contract({
  method: 'GET',
  path: '/api/today',
  summary: 'What needs somebody now',
  room: 'today',
  may: 'signed in',
  reads: ['orders', 'upkeep', 'agreements', 'signals', ...outlookRead],
  answer: today,
});
