// Depots and skills on the wire: where technicians start from, and how many hours of upkeep they have in a week.
import * as v from 'valibot';
import type { DepotId, SkillId } from '#core/ids.ts';
import { WRITERS } from '#core/people.ts';
import { PLAN_RULE_NAMES } from '#core/rota/index.ts';
import { contract } from './contract.ts';
import { position } from './places.ts';
import { created, done, idOf, idText, shortText, version } from './shapes.ts';

const capacity = v.object({
  skillId: idOf<SkillId>(),
  weeklyMinutes: v.pipe(
    v.number('Hours of a week, or nothing.'),
    v.integer(),
    v.minValue(1, 'More than no hours; leave it empty for none.'),
    v.maxValue(600_000, 'At most 10,000 hours.'),
  ),
});
export const depotIn = v.object({
  name: shortText,
  ...position,
  capacity: v.pipe(v.array(capacity), v.maxLength(200)),
  planRules: v.optional(v.picklist(PLAN_RULE_NAMES), 'promises first'),
});
const depotOut = v.object({ id: v.number(), version: v.number(), ...depotIn.entries });
const skillOut = v.object({ id: v.number(), version: v.number(), name: v.string(), jobPlans: v.array(v.string()) });
export type DepotIn = v.InferInput<typeof depotIn>;
export type DepotOut = v.InferOutput<typeof depotOut>;
export type SkillOut = v.InferOutput<typeof skillOut>;

export const readDepots = contract({
  method: 'GET',
  path: '/api/depots',
  summary: 'Depots with their weekly hours by skill, and skills',
  room: 'setup',
  may: 'signed in',
  reads: ['setup'],
  answer: v.object({ depots: v.array(depotOut), skills: v.array(skillOut) }),
});
export const addDepot = contract({
  method: 'POST',
  path: '/api/depots',
  summary: 'Add a depot',
  room: 'setup',
  may: WRITERS,
  touches: ['setup', 'upkeep'],
  body: depotIn,
  answer: created,
});
export const changeDepot = contract({
  method: 'PUT',
  path: '/api/depots/:id',
  summary: 'Change a depot',
  room: 'setup',
  may: WRITERS,
  touches: ['setup', 'upkeep'],
  params: v.object({ id: idText<DepotId>() }),
  body: v.object({ version, ...depotIn.entries }),
  answer: done,
});
export const skillIn = v.object({ name: shortText });
export const addSkill = contract({
  method: 'POST',
  path: '/api/skills',
  summary: 'Add a skill',
  room: 'setup',
  may: WRITERS,
  touches: ['setup'],
  body: skillIn,
  answer: created,
});
export const changeSkill = contract({
  method: 'PUT',
  path: '/api/skills/:id',
  summary: 'Change a skill',
  room: 'setup',
  may: WRITERS,
  touches: ['setup', 'upkeep'],
  params: v.object({ id: idText<SkillId>() }),
  body: v.object({ version, ...skillIn.entries }),
  answer: done,
});
