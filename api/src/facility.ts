// A whole place on the wire: its machines, what their classes suggest and what is scheduled, and many schedules set at once.
import * as v from 'valibot';
import type { AgreementId, AssetId, LocationId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { scheduleTerms } from './cadence.ts';
import { contract } from './contract.ts';
import { dateOut, idOf, idText, named } from './shapes.ts';

/** Machines of a place that are shown, and schedules that are set, in one go. */
export const MACHINES_AT_ONCE = 300;

const cell = v.object({
  jobPlanId: v.number(),
  scheduleId: v.number(),
  agreementId: v.number(),
  sentence: v.string(),
  nextDue: v.nullable(dateOut),
});
const machine = v.object({
  assetId: v.number(),
  tag: v.string(),
  model: v.string(),
  className: v.string(),
  customerId: v.number(),
  /** Within the place. */
  place: v.string(),
  /** Agreements that cover it and are not over. */
  agreementIds: v.array(v.number()),
  /** Job plans its class suggests. */
  suggested: v.array(v.number()),
  schedules: v.array(cell),
});
export type FacilityMachine = v.InferOutput<typeof machine>;
const facility = v.object({
  place: v.object({ id: v.number(), name: v.string() }),
  /** Within how many days its visits make one order, and which place says so. */
  join: v.nullable(v.object({ days: v.number(), from: v.string() })),
  today: dateOut,
  agreements: v.array(
    v.object({ id: v.number(), number: v.string(), name: v.string(), stage: v.string(), customer: named }),
  ),
  machines: v.array(machine),
});
export type Facility = v.InferOutput<typeof facility>;
export const readFacility = contract({
  method: 'GET',
  path: '/api/upkeep/facility',
  summary: 'Every machine of a place with what its class suggests and what is scheduled',
  room: 'upkeep',
  may: OFFICE,
  reads: ['upkeep', 'agreements', 'register', 'setup', 'outlook'],
  query: v.object({ place: idText<LocationId>() }),
  answer: facility,
});

const set = v.object({
  agreementId: idOf<AgreementId>(),
  assetIds: v.pipe(
    v.array(idOf<AssetId>()),
    v.minLength(1, 'Tick at least one machine.'),
    v.maxLength(MACHINES_AT_ONCE),
  ),
  ...scheduleTerms,
});
const sets = v.object({
  placeId: idOf<LocationId>(),
  sets: v.pipe(v.array(set), v.minLength(1, 'Tick what is to be scheduled.'), v.maxLength(100)),
});
export type FacilitySets = v.InferInput<typeof sets>;

const month = v.object({ month: v.string(), visits: v.number(), orders: v.number(), minutes: v.number() });
const outcome = v.object({
  schedules: v.number(),
  /** In the coming year, with the orders they make where the place joins them. */
  visits: v.number(),
  orders: v.number(),
  months: v.array(month),
  /** Those that yield no visit, with the reason. */
  nothing: v.array(v.object({ tag: v.string(), jobPlanId: v.number(), reason: v.string() })),
});
export type FacilityOutcome = v.InferOutput<typeof outcome>;
export const previewFacility = contract({
  method: 'POST',
  path: '/api/upkeep/facility/preview',
  summary: 'What schedules of a place would come to, without making them',
  room: 'upkeep',
  may: WRITERS,
  body: sets,
  answer: outcome,
});
export const setFacility = contract({
  method: 'POST',
  path: '/api/upkeep/facility',
  summary: 'Make the schedules of a place; under an agreement in force they hold from today',
  room: 'upkeep',
  may: WRITERS,
  touches: ['upkeep', 'agreements'],
  body: sets,
  answer: v.object({ added: v.number() }),
});
