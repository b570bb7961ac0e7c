// A maintenance schedule's series on the wire: its visits, and changing one of them or it and all later ones.
import * as v from 'valibot';
import type { JobPlanId, PersonId, ScheduleId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { ruleText, scheduleTerms } from './cadence.ts';
import { contract } from './contract.ts';
import { dateOut, idOf, idText, localDateText, longText, named, spread, version } from './shapes.ts';

const params = v.object({ id: idText<ScheduleId>() });

const seriesVisit = v.object({
  nominal: dateOut,
  part: v.number(),
  planned: dateOut,
  due: dateOut,
  windowFrom: dateOut,
  windowTo: dateOut,
  raise: v.nullable(dateOut),
  minutes: v.nullable(v.number()),
  crew: v.nullable(v.number()),
  /** How it differs from what the rule says, in words; null where it does not. */
  changed: v.nullable(v.string()),
  /** How many other visits the same order is raised for, on the same day. */
  joins: v.number(),
  state: v.picklist(['to come', 'left out', 'raised', 'done', 'declined', 'absorbed', 'called off']),
  orderId: v.nullable(v.number()),
});
export type SeriesVisit = v.InferOutput<typeof seriesVisit>;
export const scheduleSeries = v.object({
  id: v.number(),
  version: v.number(),
  asset: v.object({ id: v.number(), tag: v.string(), model: v.string() }),
  agreement: named,
  customer: v.string(),
  /** The agreement’s, in which a visit may have its price. */
  currency: v.string(),
  jobPlan: v.string(),
  sentence: v.string(),
  /** Whether single visits and all from one on can be changed: where they follow a rule over dates. */
  isSeries: v.boolean(),
  /** Whether its rule can still be written anew: the agreement is a draft. */
  isDraft: v.boolean(),
  /** Of one that follows a coverage line: how many do with it. */
  ofLine: v.nullable(v.number()),
  terms: v.object(scheduleTerms),
  /** By which it goes where it has none of its own. */
  placeCalendarId: v.nullable(v.number()),
  term: v.object({ from: dateOut, to: v.nullable(dateOut) }),
  today: dateOut,
  /** What was changed from a visit on. */
  turns: v.array(v.object({ from: dateOut, text: v.string() })),
  visits: v.array(seriesVisit),
  /** Why no visit is to come. */
  nothing: v.nullable(v.string()),
});
export type ScheduleSeries = v.InferOutput<typeof scheduleSeries>;
export const readSeries = contract({
  method: 'GET',
  path: '/api/schedules/:id',
  summary: 'The visits of a schedule: done, raised, and those of the coming year',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'agreements', 'register', 'orders', 'setup', 'outlook'],
  params,
  answer: scheduleSeries,
});

const work = {
  minutes: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1, 'At least one minute.'), v.maxValue(100_000))),
  crew: v.optional(v.pipe(v.number(), v.integer(), v.minValue(1, 'At least one person.'), v.maxValue(20))),
  technicianId: v.optional(v.nullable(idOf<PersonId>())),
};
const reason = v.pipe(longText, v.minLength(1, 'Say why.'));
const weekday = v.picklist([1, 2, 3, 4, 5, 6, 7]);
const fromHereOn = v.variant('kind', [
  v.object({ kind: v.literal('rule'), from: localDateText, rule: ruleText }),
  v.object({ kind: v.literal('weekday'), from: localDateText, now: weekday }),
  v.object({ kind: v.literal('work'), from: localDateText, ...work }),
  v.object({ kind: v.literal('ends'), from: localDateText, reason }),
]);
export const seriesChange = v.variant('kind', [
  v.object({ kind: v.literal('move'), nominal: localDateText, to: localDateText, agreed: v.boolean() }),
  v.object({ kind: v.literal('skip'), nominal: localDateText, reason }),
  v.object({ kind: v.literal('add'), on: localDateText }),
  v.object({ kind: v.literal('work'), nominal: localDateText, change: v.object(work) }),
  v.object({ kind: v.literal('revert'), nominal: localDateText }),
  v.object({ kind: v.literal('from here on'), turn: fromHereOn }),
]);
const changedSeries = v.object({
  version: v.number(),
  /** Changes of later visits that no longer apply. */
  lapsed: v.array(dateOut),
});
export const changeSeries = contract({
  method: 'POST',
  path: '/api/schedules/:id/changes',
  summary: 'Change one visit of a schedule, or it and all later ones',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'agreements'],
  params,
  body: v.object({ version, change: seriesChange }),
  answer: changedSeries,
});

export const changeSchedule = contract({
  method: 'PUT',
  path: '/api/schedules/:id',
  summary: 'Change a schedule’s terms; the rule only of a draft',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'agreements'],
  params,
  body: v.object({
    version,
    /** Of one that follows a coverage line: of all of the line. */
    wholeLine: v.optional(v.boolean(), false),
    ...scheduleTerms,
  }),
  answer: v.object({ version: v.number() }),
});

export const readTook = contract({
  method: 'GET',
  path: '/api/upkeep/took',
  summary: 'What past visits of a job plan took, in minutes of labour',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'orders'],
  query: v.object({ jobPlan: idText<JobPlanId>() }),
  answer: v.object({ took: spread }),
});
