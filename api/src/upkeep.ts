// The upkeep run on the wire.
import * as v from 'valibot';
import type { AgreementId, CustomerId, DepotId, Id, LocationId, RunId, ScheduleId } from '#core/ids.ts';
import { MANAGERS, OFFICE, WRITERS } from '#core/people.ts';
import { EXCEPTION_CODES, EXCEPTION_LEVELS } from '#core/upkeep/index.ts';
import { contract, type Thing } from './contract.ts';
import { dateOut, done, idOf, idText, instantNumber, localDateText, longText, pageOf, pageQuery } from './shapes.ts';

const visitKey = v.object({
  scheduleId: idOf<ScheduleId>(),
  nominal: localDateText,
  part: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1)), 1),
});
const level = v.picklist(EXCEPTION_LEVELS);
const exceptionCode = v.picklist(EXCEPTION_CODES);

const proposal = v.object({
  scheduleId: v.number(),
  nominal: dateOut,
  /** A running number where visits are counted from the last service; else 1. */
  part: v.number(),
  due: dateOut,
  /** The day it is to be done: the due date, until a person chose another. */
  planned: dateOut,
  windowFrom: dateOut,
  windowTo: dateOut,
  raise: dateOut,
  changed: v.nullable(v.picklist(['moved', 'added'])),
  assetId: v.number(),
  tag: v.string(),
  model: v.string(),
  customer: v.string(),
  place: v.string(),
  agreementId: v.number(),
  agreement: v.string(),
  jobPlan: v.string(),
  minutes: v.number(),
  crew: v.number(),
  rule: v.string(),
  /** What it waits for: nothing, a decision, or somebody who lets it go on. */
  standing: v.picklist(['ready', 'to decide', 'held']),
  state: v.picklist(['proposed', 'held']),
  /** Somebody let it go on in spite of what speaks against it. */
  accepted: v.boolean(),
  holdReason: v.nullable(v.string()),
  holdUntil: v.nullable(dateOut),
  exceptions: v.array(v.object({ code: exceptionCode, level, text: v.string() })),
  /** The first order that is open for the same machine. */
  openOrderId: v.nullable(v.number()),
  /** What the agreement wants said whenever something is raised from it; empty for nothing. */
  reminder: v.string(),
  /** How many other visits the same order is raised for, on the same day. */
  joins: v.number(),
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
  /** It yields nothing since the last run only. */
  isNew: v.boolean(),
});
export type YieldlessSchedule = v.InferOutput<typeof nothing>;

const idQuery = <T extends Id<string>>() => v.optional(idText<T>());
/** What a run looks at; nothing said: everything. */
export const scopeQuery = {
  customer: idQuery<CustomerId>(),
  agreement: idQuery<AgreementId>(),
  place: idQuery<LocationId>(),
  depot: idQuery<DepotId>(),
  month: v.optional(v.pipe(v.string(), v.regex(/^\d{4}-(0[1-9]|1[0-2])$/, 'Write the month as 2026-12.'))),
};
const scopeIn = v.object({
  customerId: v.optional(idOf<CustomerId>()),
  agreementId: v.optional(idOf<AgreementId>()),
  locationId: v.optional(idOf<LocationId>()),
  depotId: v.optional(idOf<DepotId>()),
  month: scopeQuery.month,
});

/** Schedules that yield nothing, shown with the run itself. */
export const NOTHING_SHOWN = 100;
export const PROPOSALS_SHOWN = 200;
export const upkeepRun = v.object({
  today: dateOut,
  to: dateOut,
  /** Which planning is shown: what changes after it is not raised unseen. */
  seen: v.number(),
  proposals: v.array(proposal),
  next: v.nullable(v.string()),
  nothing: v.array(nothing),
  /** Machines that came under a coverage line that is kept, or left it, since the last run. */
  moved: v.array(
    v.object({
      scheduleId: v.number(),
      assetId: v.number(),
      tag: v.string(),
      customer: v.string(),
      agreementId: v.number(),
      agreement: v.string(),
      jobPlan: v.string(),
      what: v.picklist(['came', 'left']),
      on: dateOut,
    }),
  ),
  counts: v.object({
    schedules: v.number(),
    proposed: v.number(),
    ready: v.number(),
    toDecide: v.number(),
    held: v.number(),
    exceptions: v.array(v.object({ code: exceptionCode, level, count: v.number() })),
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
  reads: ['upkeep', 'agreements', 'register', 'orders', 'setup', 'outlook'],
  query: v.object({
    to: localDateText,
    ...scopeQuery,
    shown: v.optional(v.picklist(['to decide', 'ready', 'held'])),
    exception: v.optional(exceptionCode),
    ...pageQuery,
  }),
  answer: upkeepRun,
});

const nothingPage = pageOf(nothing);
export type NothingPage = v.InferOutput<typeof nothingPage>;
export const readNothing = contract({
  method: 'GET',
  path: '/api/upkeep/nothing',
  summary: 'Every schedule that yields nothing in a run to a date, with the reason',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'agreements', 'register', 'setup', 'outlook'],
  query: v.object({ to: localDateText, ...scopeQuery, ...pageQuery }),
  answer: nothingPage,
});

const keys = v.pipe(v.array(visitKey), v.minLength(1), v.maxLength(500));
const why = (text: string) => v.pipe(longText, v.minLength(1, text));
export const decideVisits = contract({
  method: 'POST',
  path: '/api/upkeep/decide',
  summary: 'Hold visits back, decline them, or let them go on in spite of an exception',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  body: v.object({
    visits: keys,
    to: localDateText,
    decision: v.variant('kind', [
      v.object({
        kind: v.literal('held'),
        reason: why('Say why the visit is held back.'),
        until: v.nullable(localDateText),
      }),
      v.object({ kind: v.literal('declined'), reason: why('Say why the visit is not done.') }),
      v.object({ kind: v.literal('accepted'), reason: longText }),
    ]),
  }),
  answer: v.object({ decided: v.number() }),
});
export const releaseVisits = contract({
  method: 'POST',
  path: '/api/upkeep/release',
  summary: 'Take back that visits are held or let go on',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  body: v.object({ visits: keys }),
  answer: done,
});

const ran = v.object({
  id: v.number(),
  at: instantNumber,
  /** Null: by itself, at night. */
  who: v.nullable(v.string()),
  to: dateOut,
  scope: v.string(),
  state: v.picklist(['raising', 'done']),
  wanted: v.number(),
  raised: v.number(),
  leftCount: v.number(),
  /** Those left alone, with the reason; the first of them. */
  left: v.array(
    v.object({ scheduleId: v.number(), nominal: dateOut, tag: v.string(), jobPlan: v.string(), reason: v.string() }),
  ),
  firstOrderId: v.nullable(v.number()),
});
export type Ran = v.InferOutput<typeof ran>;
export const commitRun = contract({
  method: 'POST',
  path: '/api/upkeep/commit',
  summary: 'Raise the proposed visits that nothing speaks against; answers at once or with how far it is',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'orders'],
  body: v.object({
    to: localDateText,
    scope: v.optional(scopeIn, {}),
    only: v.nullable(v.pipe(v.array(visitKey), v.maxLength(5000))),
    seen: v.optional(v.nullable(v.number()), null),
  }),
  answer: ran,
});
export const readRun = contract({
  method: 'GET',
  path: '/api/upkeep/runs/:id',
  summary: 'How far a run is, and what came of it',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'orders'],
  params: v.object({ id: idText<RunId>() }),
  answer: ran,
});
export const listRuns = contract({
  method: 'GET',
  path: '/api/upkeep/runs',
  summary: 'The last runs',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'orders'],
  answer: v.object({ items: v.array(ran) }),
});

export const readUpkeepSettings = contract({
  method: 'GET',
  path: '/api/upkeep/settings',
  summary: 'What each exception of a run means in this house',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep'],
  answer: v.object({ items: v.array(v.object({ exception: exceptionCode, name: v.string(), level })) }),
});
export const setUpkeepSetting = contract({
  method: 'PUT',
  path: '/api/upkeep/settings',
  summary: 'Set what an exception of a run means',
  room: 'upkeep',
  may: MANAGERS,
  touches: ['upkeep'],
  body: v.object({ exception: exceptionCode, level }),
  answer: done,
});

/** Touched when schedules were planned anew. */
export const outlookRead = ['outlook'] as const satisfies readonly Thing[];

const dueNow = v.object({
  today: dateOut,
  proposed: v.number(),
  /** Of the proposed ones, those that wait for a decision. */
  toDecide: v.number(),
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
