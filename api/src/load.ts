// The load of upkeep on the wire: hours by week, depot and skill; what may be moved to even it out; and moving it.
import * as v from 'valibot';
import type { ScheduleId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { dateOut, idOf, localDateText } from './shapes.ts';
import { scopeQuery } from './upkeep.ts';

export const LOAD_WEEKS = 52;

const loadRow = v.object({
  depot: v.nullable(v.object({ id: v.number(), name: v.string() })),
  skill: v.nullable(v.object({ id: v.number(), name: v.string() })),
  /** Minutes of upkeep in a week; null: none are said. */
  capacity: v.nullable(v.number()),
  /** Minutes of each week: planned, and raised but not done. What is overdue stands in the first. */
  planned: v.array(v.number()),
  raised: v.array(v.number()),
});
export type LoadRow = v.InferOutput<typeof loadRow>;
export const load = v.object({
  /** The Monday of the first week. */
  from: dateOut,
  rows: v.array(loadRow),
});
export type Load = v.InferOutput<typeof load>;
export const readLoad = contract({
  method: 'GET',
  path: '/api/upkeep/load',
  summary: 'Planned hours of the coming year by week, depot and skill',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'agreements', 'register', 'orders', 'setup'],
  query: v.object(scopeQuery),
  answer: load,
});

const levelVisit = v.object({
  scheduleId: v.number(),
  nominal: dateOut,
  part: v.number(),
  tag: v.string(),
  customer: v.string(),
  jobPlan: v.string(),
  planned: dateOut,
  minutes: v.number(),
  /** By number from 0: what is evened out together, and its depot. */
  group: v.number(),
  depotId: v.nullable(v.number()),
  skillId: v.nullable(v.number()),
  depot: v.number(),
  site: v.nullable(v.number()),
  /** Days it may lie on: a first one, and for each from it on whether it may. Empty: it stays. */
  from: dateOut,
  days: v.string(),
});
export type LevelVisit = v.InferOutput<typeof levelVisit>;
const at = v.object({ latitude: v.number(), longitude: v.number() });
export const levelling = v.object({
  from: dateOut,
  visits: v.array(levelVisit),
  sites: v.array(v.object({ name: v.string(), ...at.entries })),
  depots: v.array(v.object({ name: v.string(), position: v.nullable(at) })),
  groups: v.number(),
  /** Raised and not done: minutes by week and group. */
  fixed: v.array(v.object({ week: dateOut, group: v.number(), minutes: v.number() })),
});
export type Levelling = v.InferOutput<typeof levelling>;
export const readLevelling = contract({
  method: 'GET',
  path: '/api/upkeep/levelling',
  summary: 'Visits of the coming year with the days they may be moved to',
  room: 'upkeep',
  may: WRITERS,
  reads: ['upkeep', 'agreements', 'register', 'orders', 'setup'],
  query: v.object(scopeQuery),
  answer: levelling,
});

const move = v.object({
  scheduleId: idOf<ScheduleId>(),
  nominal: localDateText,
  /** The day it was planned for when it was looked at. */
  was: localDateText,
  to: localDateText,
});
export type LevelMove = v.InferInput<typeof move>;
export const moveVisits = contract({
  method: 'POST',
  path: '/api/upkeep/moves',
  summary: 'Move visits inside their windows',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'agreements'],
  body: v.object({
    moves: v.pipe(v.array(move), v.minLength(1, 'Choose at least one visit.'), v.maxLength(10_000)),
  }),
  answer: v.object({
    moved: v.number(),
    /** What was left where it is, and why. */
    left: v.array(v.object({ scheduleId: v.number(), nominal: dateOut, reason: v.string() })),
  }),
});
