// Agreements on the wire: header, coverage lines, schedules, checklist.
import * as v from 'valibot';
import type {
  AgreementId,
  AssetClassId,
  AssetId,
  CalendarId,
  CoverageLineId,
  CustomerId,
  JobPlanId,
  LocationId,
  ScheduleId,
  ServiceLevelId,
} from '#core/ids.ts';
import { WORKING_DAY_CONVENTIONS } from '#core/calendars/index.ts';
import { CAUSES } from '#core/entitlement/index.ts';
import { ORDER_KINDS } from '#core/orders/index.ts';
import { contract } from './contract.ts';
import { assetRow } from './register.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  longText,
  named,
  pageOf,
  pageQuery,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

const stage = v.picklist(['draft', 'in force', 'suspended', 'ended']);
const params = v.object({ id: idText<AgreementId>() });
const percent = v.pipe(v.number(), v.integer(), v.minValue(0, 'From 0 to 100 %.'), v.maxValue(100, 'From 0 to 100 %.'));
export const shares = v.object({ labour: percent, parts: percent, travel: percent });

const agreementRow = v.object({
  id: v.number(),
  name: v.string(),
  customer: named,
  stage,
  from: dateOut,
  to: v.nullable(dateOut),
  noticeBy: v.nullable(dateOut),
  lines: v.number(),
  schedules: v.number(),
});
export type AgreementRow = v.InferOutput<typeof agreementRow>;
export const listAgreements = contract({
  method: 'GET',
  path: '/api/agreements',
  summary: 'Agreements',
  room: 'agreements',
  query: v.object({ stage: v.optional(stage), customer: v.optional(idText<CustomerId>()), ...pageQuery }),
  answer: v.object({ ...pageOf(agreementRow).entries, total: v.number(), now: instantNumber }),
});

export const agreementsCsv = contract({
  method: 'GET',
  path: '/api/agreements.csv',
  summary: 'Agreements as CSV, filtered as the list',
  room: 'agreements',
  query: v.object({ stage: v.optional(stage), customer: v.optional(idText<CustomerId>()) }),
});

// The term is read by the core, which says what is wrong with it.
const header = {
  name: shortText,
  from: v.pipe(v.string(), v.maxLength(20)),
  to: v.nullable(v.pipe(v.string(), v.maxLength(20))),
  noticeDays: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(730)),
  reminder: longText,
};
export const writeAgreement = contract({
  method: 'POST',
  path: '/api/agreements',
  summary: 'Write a draft agreement',
  room: 'agreements',
  body: v.object({ requestKey, customerId: idOf<CustomerId>(), ...header }),
  answer: created,
});
export const changeAgreement = contract({
  method: 'PUT',
  path: '/api/agreements/:id',
  summary: 'Change a draft’s header',
  room: 'agreements',
  params,
  body: v.object({ version, ...header }),
  answer: v.object({ version: v.number() }),
});

const reachIn = v.variant('kind', [
  v.object({
    kind: v.literal('assets'),
    assetIds: v.pipe(v.array(idOf<AssetId>()), v.minLength(1, 'Pick at least one asset.'), v.maxLength(500)),
  }),
  v.object({ kind: v.literal('location'), locationId: idOf<LocationId>() }),
  v.object({ kind: v.literal('class'), assetClassId: idOf<AssetClassId>() }),
]);
export const addCoverage = contract({
  method: 'POST',
  path: '/api/agreements/:id/coverage',
  summary: 'Add coverage lines',
  room: 'agreements',
  params,
  body: v.object({
    reach: reachIn,
    shares,
    serviceLevelId: v.nullable(idOf<ServiceLevelId>()),
    kinds: v.pipe(v.array(v.picklist(ORDER_KINDS)), v.minLength(1, 'Choose at least one kind of work.')),
    excludedCauses: v.array(v.picklist(CAUSES)),
  }),
  answer: v.object({ added: v.number() }),
});
export const removeCoverage = contract({
  method: 'DELETE',
  path: '/api/agreements/:id/coverage/:line',
  summary: 'Remove a coverage line of a draft',
  room: 'agreements',
  params: v.object({ ...params.entries, line: idText<CoverageLineId>() }),
  answer: done,
});

const days = v.pipe(v.number(), v.integer(), v.minValue(0, 'Not negative.'), v.maxValue(180, 'At most 180 days.'));
export const scheduleIn = v.object({
  assetIds: v.union([
    v.literal('all covered'),
    v.pipe(v.array(idOf<AssetId>()), v.minLength(1, 'Pick at least one asset.'), v.maxLength(500)),
  ]),
  jobPlanId: idOf<JobPlanId>(),
  rule: v.pipe(v.string(), v.maxLength(400)),
  anchor: localDateText,
  convention: v.picklist(WORKING_DAY_CONVENTIONS),
  calendarId: v.nullable(idOf<CalendarId>()),
  earlyDays: days,
  lateDays: days,
  lead: days,
  leadUnit: v.picklist(['calendar days', 'working days']),
});
export const addSchedules = contract({
  method: 'POST',
  path: '/api/agreements/:id/schedules',
  summary: 'Add maintenance schedules',
  room: 'agreements',
  params,
  body: scheduleIn,
  answer: v.object({ added: v.number() }),
});
export const removeSchedule = contract({
  method: 'DELETE',
  path: '/api/agreements/:id/schedules/:schedule',
  summary: 'Remove a schedule of a draft',
  room: 'agreements',
  params: v.object({ ...params.entries, schedule: idText<ScheduleId>() }),
  answer: done,
});
export const putInForce = contract({
  method: 'POST',
  path: '/api/agreements/:id/in-force',
  summary: 'Put a draft in force',
  room: 'agreements',
  params,
  body: v.object({ version }),
  answer: v.object({ version: v.number() }),
});
export const moveStage = contract({
  method: 'POST',
  path: '/api/agreements/:id/stage',
  summary: 'Suspend, resume or end an agreement',
  room: 'agreements',
  params,
  body: v.object({
    version,
    to: v.picklist(['suspended', 'in force', 'ended']),
    reason: v.pipe(longText, v.minLength(1, 'Say why.')),
  }),
  answer: v.object({ version: v.number() }),
});

export const agreementPage = v.object({
  id: v.number(),
  version: v.number(),
  name: v.string(),
  customer: named,
  stage,
  from: dateOut,
  to: v.nullable(dateOut),
  noticeDays: v.number(),
  noticeBy: v.nullable(dateOut),
  reminder: v.string(),
  lines: v.array(
    v.object({
      id: v.number(),
      label: v.string(),
      reach: v.picklist(['asset', 'location', 'class']),
      shares,
      serviceLevel: v.nullable(named),
      kinds: v.array(v.picklist(ORDER_KINDS)),
      excludedCauses: v.array(v.picklist(CAUSES)),
      assetsReached: v.number(),
    }),
  ),
  schedules: v.array(
    v.object({
      id: v.number(),
      assetId: v.number(),
      tag: v.string(),
      jobPlan: v.string(),
      minutes: v.number(),
      sentence: v.string(),
      rule: v.string(),
      anchor: dateOut,
      window: v.string(),
      lead: v.string(),
      next: v.nullable(dateOut),
    }),
  ),
  checklist: v.array(v.object({ subject: v.string(), satisfied: v.boolean(), text: v.string() })),
  events: v.array(v.object({ at: instantNumber, who: v.nullable(v.string()), text: v.string() })),
  assets: v.array(assetRow),
  assetsTotal: v.number(),
  ribbonFrom: dateOut,
  ribbonTo: dateOut,
  now: instantNumber,
});
export type AgreementPage = v.InferOutput<typeof agreementPage>;
export const readAgreement = contract({
  method: 'GET',
  path: '/api/agreements/:id',
  summary: 'One agreement',
  room: 'agreements',
  params,
  answer: agreementPage,
});
