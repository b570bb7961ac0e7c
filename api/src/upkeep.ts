// The upkeep run on the wire.
import * as v from 'valibot';
import type { ScheduleId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract, type Thing } from './contract.ts';
import { dateOut, done, idOf, localDateText, longText } from './shapes.ts';

const visitKey = v.object({ scheduleId: idOf<ScheduleId>(), nominal: localDateText });
const proposal = v.object({
  scheduleId: v.number(),
  nominal: dateOut,
  due: dateOut,
  windowFrom: dateOut,
  windowTo: dateOut,
  raise: dateOut,
  assetId: v.number(),
  tag: v.string(),
  model: v.string(),
  customer: v.string(),
  place: v.string(),
  agreementId: v.number(),
  agreement: v.string(),
  jobPlan: v.string(),
  minutes: v.number(),
  rule: v.string(),
  state: v.picklist(['proposed', 'held']),
  holdReason: v.nullable(v.string()),
  remark: v.nullable(v.string()),
  /** Beyond the counted right: "6th of 5: chargeable". */
  beyond: v.nullable(v.string()),
  /** What the agreement wants said whenever something is raised from it; empty for nothing. */
  reminder: v.string(),
});
export type Proposal = v.InferOutput<typeof proposal>;
const nothing = v.object({
  scheduleId: v.number(),
  agreementId: v.number(),
  agreement: v.string(),
  assetId: v.number(),
  tag: v.string(),
  model: v.string(),
  customer: v.string(),
  jobPlan: v.string(),
  kind: v.picklist(['needs action', 'waits']),
  code: v.string(),
  reason: v.string(),
});
export type YieldlessSchedule = v.InferOutput<typeof nothing>;

export const PROPOSALS_SHOWN = 500;
export const upkeepRun = v.object({
  today: dateOut,
  to: dateOut,
  proposals: v.array(proposal),
  nothing: v.array(nothing),
  counts: v.object({
    schedules: v.number(),
    proposed: v.number(),
    held: v.number(),
    /** Of the proposed ones, those beyond a counted right. */
    beyond: v.number(),
    needsAction: v.number(),
    waits: v.number(),
  }),
});
export type UpkeepRun = v.InferOutput<typeof upkeepRun>;
export const previewRun = contract({
  method: 'GET',
  path: '/api/upkeep',
  summary: 'What an upkeep run to a date would raise',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'agreements', 'register', 'setup'],
  query: v.object({ to: localDateText }),
  answer: upkeepRun,
});
export const holdVisits = contract({
  method: 'POST',
  path: '/api/upkeep/hold',
  summary: 'Hold visits back with a reason',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  body: v.object({
    visits: v.pipe(v.array(visitKey), v.minLength(1), v.maxLength(500)),
    to: localDateText,
    reason: v.pipe(longText, v.minLength(1, 'Say why the visit is held back.')),
  }),
  answer: v.object({ held: v.number() }),
});
export const releaseVisits = contract({
  method: 'POST',
  path: '/api/upkeep/release',
  summary: 'Let held visits go on',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  body: v.object({ visits: v.pipe(v.array(visitKey), v.minLength(1), v.maxLength(500)) }),
  answer: done,
});
export const commitRun = contract({
  method: 'POST',
  path: '/api/upkeep/commit',
  summary: 'Raise the proposed visits that are not held',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'orders'],
  body: v.object({ to: localDateText, only: v.nullable(v.pipe(v.array(visitKey), v.maxLength(5000))) }),
  answer: v.object({
    raised: v.number(),
    alreadyRaised: v.number(),
    held: v.number(),
    firstOrderId: v.nullable(v.number()),
  }),
});

/** Touched when the outlook of schedules was worked out anew. */
export const outlookRead = ['outlook'] as const satisfies readonly Thing[];

const dueNow = v.object({
  today: dateOut,
  proposed: v.number(),
  held: v.number(),
  needsAction: v.number(),
  reasons: v.array(v.object({ text: v.string(), count: v.number() })),
  visitsEnding: v.array(
    v.object({
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
    }),
  ),
});
export type DueNow = v.InferOutput<typeof dueNow>;
export const readDue = contract({
  method: 'GET',
  path: '/api/today/upkeep',
  summary: 'Visits to raise, schedules that yield nothing, and visits whose window ends soon',
  room: 'upkeep',
  may: 'signed in',
  reads: ['upkeep', 'orders', ...outlookRead],
  answer: dueNow,
});
