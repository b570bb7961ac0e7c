// Visit patterns on the wire: what schedules of many agreements are made from, applied by agreement type, changed with a choice of who follows.
import * as v from 'valibot';
import type { AgreementId, AgreementTypeId, AssetClassId, PatternId, ScheduleId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { scheduleTerms } from './cadence.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  localDateText,
  named,
  pageOf,
  pageQuery,
  shortText,
  version,
} from './shapes.ts';

const { anchor: _, ...terms } = scheduleTerms;
export const patternIn = v.object({
  name: v.pipe(shortText, v.minLength(1, 'Give the pattern a name.')),
  /** Whose machines it is for; null: every covered one. */
  classId: v.nullable(idOf<AssetClassId>()),
  ...terms,
});
export type PatternIn = v.InferInput<typeof patternIn>;
const patternOut = v.object({
  id: v.number(),
  version: v.number(),
  class: v.nullable(named),
  sentence: v.string(),
  jobPlan: v.string(),
  /** Schedules made from it that hold, and how many of them are as it says now. */
  schedules: v.number(),
  following: v.number(),
  pattern: patternIn,
});
export type PatternOut = v.InferOutput<typeof patternOut>;
const params = v.object({ id: idText<PatternId>() });
export const listPatterns = contract({
  method: 'GET',
  path: '/api/patterns',
  summary: 'Visit patterns and how many schedules follow them',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'agreements', 'setup'],
  answer: v.object({ items: v.array(patternOut) }),
});
export const addPattern = contract({
  method: 'POST',
  path: '/api/patterns',
  summary: 'Add a visit pattern',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  body: patternIn,
  answer: created,
});
export const changePattern = contract({
  method: 'PUT',
  path: '/api/patterns/:id',
  summary: 'Change a visit pattern; schedules follow where somebody says so',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  params,
  body: v.object({ version, ...patternIn.entries }),
  answer: v.object({ version: v.number() }),
});
export const removePattern = contract({
  method: 'DELETE',
  path: '/api/patterns/:id',
  summary: 'Remove a visit pattern that no schedule is made from',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep'],
  params,
  answer: done,
});

const candidate = v.object({
  agreementId: v.number(),
  number: v.string(),
  customer: v.string(),
  stage: v.picklist(['draft', 'in force', 'suspended']),
  /** Covered machines that have no schedule of the pattern yet. */
  machines: v.number(),
});
export type Candidate = v.InferOutput<typeof candidate>;
export const readCandidates = contract({
  method: 'GET',
  path: '/api/patterns/:id/candidates',
  summary: 'Agreements of a type with machines that a pattern could be applied to',
  room: 'upkeep',
  may: WRITERS,
  reads: ['upkeep', 'agreements', 'register'],
  params,
  query: v.object({ type: v.optional(idText<AgreementTypeId>()) }),
  answer: v.object({ items: v.array(candidate) }),
});
export const applyPattern = contract({
  method: 'POST',
  path: '/api/patterns/:id/apply',
  summary: 'Make schedules from a pattern under agreements',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'agreements'],
  params,
  body: v.object({
    agreementIds: v.pipe(
      v.array(idOf<AgreementId>()),
      v.minLength(1, 'Choose at least one agreement.'),
      v.maxLength(200, 'At most 200 agreements at once.'),
    ),
  }),
  answer: v.object({ added: v.number() }),
});

const follower = v.object({
  scheduleId: v.number(),
  tag: v.string(),
  customer: v.string(),
  agreement: v.string(),
  /** From which day another rule would hold; null: its terms are changed where it stands. */
  from: v.nullable(dateOut),
  /** Days of the coming year, as it is and as it would be. */
  before: v.array(dateOut),
  after: v.array(dateOut),
});
export type Follower = v.InferOutput<typeof follower>;
export const readFollowers = contract({
  method: 'GET',
  path: '/api/patterns/:id/followers',
  summary: 'Schedules made from a pattern that are otherwise than it says, with their visits before and after',
  room: 'upkeep',
  may: WRITERS,
  reads: ['upkeep', 'agreements', 'register'],
  params,
  query: v.object({ from: localDateText, ...pageQuery }),
  answer: v.object({ ...pageOf(follower).entries, total: v.number() }),
});
export const followPattern = contract({
  method: 'POST',
  path: '/api/patterns/:id/follow',
  summary: 'Let schedules follow their pattern from a day on',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'agreements'],
  params,
  body: v.object({
    version,
    from: localDateText,
    scheduleIds: v.pipe(
      v.array(idOf<ScheduleId>()),
      v.minLength(1, 'Choose at least one schedule.'),
      v.maxLength(5000),
    ),
  }),
  answer: v.object({ followed: v.number() }),
});
