// Agreements on the wire: header, coverage lines, schedules, checklist.
import * as v from 'valibot';
import type {
  AgreementId,
  AgreementTypeId,
  AssetId,
  CoverageLineId,
  ContactId,
  CustomerId,
  ScheduleId,
} from '#core/ids.ts';
import { CONTRACT_HEADINGS } from '#core/agreements/index.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { scheduleTerms } from '../cadence.ts';
import { contract } from '../contract.ts';
import { assetRow } from '../register.ts';
import { allowanceOut } from './rights.ts';
import { headerTerms, lineTerms } from './terms.ts';
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
} from '../shapes.ts';

const stage = v.picklist(['draft', 'in force', 'suspended', 'ended']);
const params = v.object({ id: idText<AgreementId>() });

const agreementRow = v.object({
  number: v.string(),
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
export const AGREEMENT_SORTS = ['number', 'name', 'customer', 'stage', 'from', 'ends', 'notice'] as const;
const sorted = { sort: v.optional(v.picklist(AGREEMENT_SORTS)), down: v.optional(v.literal('1')) };
export const listAgreements = contract({
  method: 'GET',
  path: '/api/agreements',
  summary: 'Agreements',
  room: 'agreements',
  may: 'signed in',
  reads: ['agreements', 'register'],
  query: v.object({
    stage: v.optional(stage),
    customer: v.optional(idText<CustomerId>()),
    ...pageQuery,
    ...sorted,
  }),
  answer: v.object({ ...pageOf(agreementRow).entries, total: v.number(), now: instantNumber }),
});

export const agreementsCsv = contract({
  method: 'GET',
  path: '/api/agreements.csv',
  summary: 'Agreements as CSV, filtered as the list',
  room: 'agreements',
  may: OFFICE,
  query: v.object({ stage: v.optional(stage), customer: v.optional(idText<CustomerId>()), ...sorted }),
});

// The term is read by the core, which says what is wrong with it.
const header = {
  /** Empty: the next one by the provider’s scheme. */
  number: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(40, 'At most 40 characters.'))),
  name: shortText,
  from: v.pipe(v.string(), v.maxLength(20)),
  to: v.nullable(v.pipe(v.string(), v.maxLength(20))),
  noticeDays: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(730)),
  reminder: longText,
  contactIds: v.optional(v.pipe(v.array(idOf<ContactId>()), v.maxLength(20, 'At most 20 contacts.')), []),
  ...v.partial(v.object(headerTerms)).entries,
};
const headerBody = v.object(header);
export type AgreementHeader = v.InferInput<typeof headerBody>;
export const writeAgreement = contract({
  method: 'POST',
  path: '/api/agreements',
  summary: 'Write a draft agreement',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements'],
  body: v.object({
    requestKey,
    customerId: idOf<CustomerId>(),
    /** Fills in the counted rights of a type, or coverage, schedules and counted rights of another agreement. */
    typeId: v.optional(v.nullable(idOf<AgreementTypeId>())),
    copyOf: v.optional(v.nullable(idOf<AgreementId>())),
    ...header,
  }),
  answer: created,
});
export const changeAgreement = contract({
  method: 'PUT',
  path: '/api/agreements/:id',
  summary: 'Change a draft’s header',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements'],
  params,
  body: v.object({ version, ...header }),
  answer: v.object({ version: v.number() }),
});

export const scheduleIn = v.object({
  assetIds: v.union([
    v.literal('all covered'),
    v.pipe(v.array(idOf<AssetId>()), v.minLength(1, 'Pick at least one asset.'), v.maxLength(500)),
    /** Whatever the coverage line reaches, now and later. */
    v.object({ lineId: idOf<CoverageLineId>() }),
  ]),
  ...scheduleTerms,
});
export type ScheduleIn = v.InferInput<typeof scheduleIn>;
export const addSchedules = contract({
  method: 'POST',
  path: '/api/agreements/:id/schedules',
  summary: 'Add maintenance schedules; under an agreement in force they hold from today',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements', 'upkeep'],
  params,
  body: scheduleIn,
  answer: v.object({ added: v.number() }),
});
export const removeSchedule = contract({
  method: 'DELETE',
  path: '/api/agreements/:id/schedules/:schedule',
  summary: 'Remove a schedule of a draft',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements', 'upkeep'],
  params: v.object({ ...params.entries, schedule: idText<ScheduleId>() }),
  answer: done,
});
export const putInForce = contract({
  method: 'POST',
  path: '/api/agreements/:id/in-force',
  summary: 'Put a draft in force',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements', 'upkeep'],
  params,
  body: v.object({ version }),
  answer: v.object({ version: v.number() }),
});
export const moveStage = contract({
  method: 'POST',
  path: '/api/agreements/:id/stage',
  summary: 'Suspend, resume or end an agreement',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements', 'upkeep'],
  params,
  body: v.object({
    version,
    to: v.picklist(['suspended', 'in force', 'ended']),
    /** When it ends: what becomes of orders that are open under it. */
    openOrders: v.optional(v.picklist(['keep', 'call off']), 'keep'),
    reason: v.pipe(longText, v.minLength(1, 'Say why.')),
  }),
  answer: v.object({ version: v.number() }),
});

export const agreementPage = v.object({
  number: v.string(),
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
  /** What holds today, by name, and what else will from which day. */
  head: v.object({
    today: v.record(v.string(), v.string()),
    machines: v.number(),
    coming: v.array(
      v.object({
        from: dateOut,
        changes: v.array(v.object({ name: v.string(), before: v.string(), after: v.string() })),
      }),
    ),
  }),
  /** The type it began from; its terms are offered to new lines. */
  typeId: v.nullable(v.number()),
  ...v.object(headerTerms).entries,
  manager: v.nullable(named),
  contacts: v.array(v.object({ ...named.entries, role: v.nullable(v.string()), phone: v.nullable(v.string()) })),
  renewal: v.string(),
  renewalDecision: v.nullable(v.picklist(['accepted', 'declined'])),
  allowances: v.array(allowanceOut),
  /** The day the lines and the header are shown for. */
  on: dateOut,
  amendments: v.array(
    v.object({
      number: v.number(),
      from: dateOut,
      reason: v.string(),
      at: instantNumber,
      who: v.nullable(v.string()),
    }),
  ),
  lines: v.array(
    v.object({
      id: v.number(),
      label: v.string(),
      reach: v.picklist(['asset', 'location', 'class', 'own fleet']),
      terms: lineTerms,
      serviceLevel: v.nullable(named),
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
  checklist: v.array(
    v.object({
      heading: v.picklist(CONTRACT_HEADINGS),
      subject: v.string(),
      satisfied: v.boolean(),
      blocks: v.boolean(),
      text: v.string(),
    }),
  ),
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
  may: 'signed in',
  reads: ['agreements', 'register', 'orders', 'upkeep', 'setup'],
  params,
  /** As it held on a day; today without one. */
  query: v.object({ on: v.optional(localDateText) }),
  answer: agreementPage,
});
