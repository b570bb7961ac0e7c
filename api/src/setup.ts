// Reference data: calendars, service levels, job plans, asset classes, alert rules, devices and gateways.
import * as v from 'valibot';
import type {
  AssetId,
  CalendarId,
  ClassFormId,
  GatewayId,
  JobPlanId,
  PartId,
  ServiceLevelId,
  SkillId,
  PersonId,
} from '#core/ids.ts';
import { PAUSE_REASONS } from '#core/service-levels/index.ts';
import { ADMINISTRATORS, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  LARGEST,
  localDateText,
  named,
  shortText,
  version,
} from './shapes.ts';

const span = v.object({ from: v.number(), to: v.number() });
const namedDay = { date: v.string(), name: v.pipe(v.string(), v.maxLength(120)) };
/** A public holiday unless it is said to be none. */
const closedDay = v.object({ ...namedDay, holiday: v.exactOptional(v.boolean()) });
const extraDay = v.object({ ...namedDay, spans: v.pipe(v.array(span), v.readonly()) });
export const calendarIn = v.object({
  name: v.pipe(v.string(), v.maxLength(120)),
  zone: v.pipe(v.string(), v.maxLength(60)),
  weekly: v.array(v.pipe(v.array(span), v.maxLength(12))),
  closed: v.pipe(v.array(closedDay), v.maxLength(2000)),
  extraOpen: v.pipe(v.array(extraDay), v.maxLength(500)),
});
const calendarOut = v.object({
  id: v.number(),
  version: v.number(),
  ...calendarIn.entries,
  /** Up to which days it was otherwise, the newest first. */
  heldUntil: v.array(dateOut),
});
export type CalendarIn = v.InferInput<typeof calendarIn>;
export type CalendarOut = v.InferOutput<typeof calendarOut>;

const targetPromise = v.variant('measure', [
  v.object({
    measure: v.literal('elapsed'),
    minutes: v.pipe(
      v.number(),
      v.integer(),
      v.minValue(1, 'At least one minute.'),
      v.maxValue(525_600, 'At most a year.'),
    ),
  }),
  v.object({
    measure: v.literal('working'),
    minutes: v.pipe(
      v.number(),
      v.integer(),
      v.minValue(1, 'At least one minute.'),
      v.maxValue(525_600, 'At most a year.'),
    ),
    calendarId: idOf<CalendarId>(),
  }),
]);
const promises = v.object({
  response: v.optional(targetPromise),
  arrival: v.optional(targetPromise),
  workaround: v.optional(targetPromise),
  restoration: v.optional(targetPromise),
});
const hundredths = v.pipe(v.number('Write a number.'), v.integer('At most two decimals.'));
const pledge = v.object({
  warnPercent: v.pipe(v.number('Write a number.'), v.integer('Write a whole percentage.')),
  /** Left out: nobody is warned. */
  warnings: v.optional(
    v.pipe(
      v.array(
        v.object({
          percent: v.pipe(v.number('Write a number.'), v.integer('Write a whole percentage.')),
          inCharge: v.boolean(),
          technician: v.boolean(),
          people: v.pipe(v.array(idOf<PersonId>()), v.maxLength(20, 'At most 20 people.'), v.readonly()),
        }),
      ),
      v.maxLength(10, 'At most 10 warnings.'),
      v.readonly(),
    ),
    [],
  ),
  upkeep: v.optional(v.nullable(v.object({ target: hundredths })), null),
  availability: v.nullable(v.object({ target: hundredths, calendarId: v.nullable(idOf<CalendarId>()) })),
  tiers: v.pipe(
    v.array(v.object({ below: hundredths, credit: hundredths })),
    v.maxLength(10, 'At most 10 tiers.'),
    v.readonly(),
  ),
  cap: v.nullable(hundredths),
});
export const serviceLevelIn = v.object({
  name: shortText,
  pauses: v.array(v.picklist(PAUSE_REASONS)),
  targets: v.pipe(
    v.object({
      ...{ 1: v.optional(promises), 2: v.optional(promises), 3: v.optional(promises), 4: v.optional(promises) },
      ...{ 5: v.optional(promises), 6: v.optional(promises), 7: v.optional(promises), 8: v.optional(promises) },
      9: v.optional(promises),
    }),
    v.check(
      (t) => Object.values(t).some((p) => p && Object.keys(p).length > 0),
      'Give at least one priority a target.',
    ),
  ),
  /** Left out: a warning at a quarter, no availability, no credits. */
  pledge: v.optional(v.nullable(pledge)),
});
const serviceLevelOut = v.object({
  id: v.number(),
  version: v.number(),
  name: v.string(),
  pauses: v.array(v.picklist(PAUSE_REASONS)),
  targets: v.record(v.string(), promises),
  pledge: v.nullable(pledge),
  holdsFrom: v.nullable(dateOut),
  /** What it promised before, the newest first. */
  past: v.array(
    v.object({
      heldUntil: dateOut,
      pauses: v.array(v.picklist(PAUSE_REASONS)),
      targets: v.record(v.string(), promises),
    }),
  ),
});
export type ServiceLevelIn = v.InferInput<typeof serviceLevelIn>;
export type ServiceLevelOut = v.InferOutput<typeof serviceLevelOut>;

export const jobPlanIn = v.object({
  name: shortText,
  // Zero is kept and reported by the run, never silently left out.
  minutes: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(10_080)),
  tasks: v.pipe(v.array(v.object({ text: shortText, mandatory: v.boolean() })), v.maxLength(60)),
  /** What whoever does it must be able to do. */
  skillId: v.optional(v.nullable(idOf<SkillId>()), null),
  /** More than that one; hours are counted to the first. */
  alsoSkillIds: v.optional(v.pipe(v.array(idOf<SkillId>()), v.maxLength(10, 'At most ten skills more.')), []),
  /** Forms it asks for where the machine is of their class, beside those for the kind of work. */
  formIds: v.optional(v.pipe(v.array(idOf<ClassFormId>()), v.maxLength(20, 'At most 20 forms.')), []),
  /** How many people it takes. */
  crew: v.optional(
    v.pipe(v.number('Write a number of people.'), v.integer(), v.minValue(1, 'At least one.'), v.maxValue(20)),
    1,
  ),
  /** What whoever does it must read first. */
  safetyNote: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.')), ''),
  /** Parts it takes, in thousandths of a unit. */
  parts: v.optional(
    v.pipe(
      v.array(
        v.object({
          partId: idOf<PartId>(),
          thousandths: v.pipe(
            v.number('Write a quantity.'),
            v.integer(),
            v.minValue(1, 'More than nothing.'),
            v.maxValue(LARGEST),
          ),
        }),
      ),
      v.maxLength(40, 'At most 40 parts.'),
      v.check((all) => new Set(all.map((p) => p.partId)).size === all.length, 'A part stands there twice.'),
    ),
    [],
  ),
  /** Smaller ones whose work it does: a visit of it may absorb theirs. */
  includes: v.optional(v.pipe(v.array(idOf<JobPlanId>()), v.maxLength(50, 'At most 50 job plans.')), []),
});
const jobPlanOut = v.object({
  id: v.number(),
  version: v.number(),
  ...jobPlanIn.entries,
  parts: v.array(
    v.object({
      ...{ partId: v.number(), number: v.string(), name: v.string(), unit: v.string(), thousandths: v.number() },
    }),
  ),
});
export type JobPlanIn = v.InferInput<typeof jobPlanIn>;
export type JobPlanOut = v.InferOutput<typeof jobPlanOut>;

export const reference = v.object({
  today: dateOut,
  zone: v.string(),
  /** What the priorities mean, the first in front. */
  priorities: v.array(v.string()),
  calendars: v.array(calendarOut),
  serviceLevels: v.array(serviceLevelOut),
  jobPlans: v.array(jobPlanOut),
  classes: v.array(named),
  depots: v.array(named),
  skills: v.array(named),
  crafts: v.array(named),
  technicians: v.array(named),
  /** Who may be warned of a promise, and take an order in hand. */
  people: v.array(named),
  /** Who may look after an agreement. */
  managers: v.array(named),
});
export type Reference = v.InferOutput<typeof reference>;

export const readReference = contract({
  method: 'GET',
  path: '/api/reference',
  summary: 'Calendars, service levels, job plans, classes',
  room: 'setup',
  may: 'signed in',
  reads: ['setup'],
  answer: reference,
});
export const addCalendar = contract({
  method: 'POST',
  path: '/api/calendars',
  summary: 'Add a calendar',
  room: 'setup',
  may: WRITERS,
  touches: ['setup'],
  body: calendarIn,
  answer: created,
});
export const changeCalendar = contract({
  method: 'PUT',
  path: '/api/calendars/:id',
  summary: 'Change a calendar',
  room: 'setup',
  may: WRITERS,
  touches: ['upkeep', 'orders', 'setup'],
  params: v.object({ id: idText<CalendarId>() }),
  /** `holdsFrom`: the first day on which it is so; without one nothing of what is over may change. */
  body: v.object({ version, ...calendarIn.entries, holdsFrom: v.optional(v.nullable(localDateText)) }),
  answer: done,
});
export const proposeHolidays = contract({
  method: 'GET',
  path: '/api/holidays',
  summary: 'Public holidays proposed for a calendar',
  room: 'setup',
  may: WRITERS,
  query: v.object({
    country: v.pipe(v.string(), v.regex(/^[A-Z]{2}$/)),
    region: v.optional(v.pipe(v.string(), v.regex(/^[A-Za-z0-9-]{0,12}$/))),
    from: v.pipe(v.string(), v.regex(/^20\d\d$/), v.transform(Number)),
    to: v.pipe(v.string(), v.regex(/^20\d\d$/), v.transform(Number)),
  }),
  answer: v.object({ days: v.array(closedDay), regions: v.array(v.object({ code: v.string(), name: v.string() })) }),
});
export const addServiceLevel = contract({
  method: 'POST',
  path: '/api/service-levels',
  summary: 'Add a service level',
  room: 'setup',
  may: WRITERS,
  touches: ['setup'],
  body: serviceLevelIn,
  answer: created,
});
export const changeServiceLevel = contract({
  method: 'PUT',
  path: '/api/service-levels/:id',
  summary: 'Change what a service level promises from a day on; orders before it keep what they were promised',
  room: 'setup',
  may: WRITERS,
  touches: ['register', 'agreements', 'setup'],
  params: v.object({ id: idText<ServiceLevelId>() }),
  body: v.object({ version, holdsFrom: localDateText, ...serviceLevelIn.entries }),
  answer: done,
});
export const addJobPlan = contract({
  method: 'POST',
  path: '/api/job-plans',
  summary: 'Add a job plan',
  room: 'setup',
  may: WRITERS,
  touches: ['setup'],
  body: jobPlanIn,
  answer: created,
});
export const changeJobPlan = contract({
  method: 'PUT',
  path: '/api/job-plans/:id',
  summary: 'Change a job plan',
  room: 'setup',
  may: WRITERS,
  touches: ['upkeep', 'setup'],
  params: v.object({ id: idText<JobPlanId>() }),
  body: v.object({ version, ...jobPlanIn.entries }),
  answer: done,
});
const deviceKey = v.pipe(
  v.string(),
  v.trim(),
  v.regex(
    /^[A-Za-z0-9][A-Za-z0-9\-:._]{2,99}$/,
    'A device key is letters, digits, - : . _ such as urn:dev:os:stavok-q0412.',
  ),
);
export const addDevice = contract({
  method: 'POST',
  path: '/api/devices',
  summary: 'Register the device of an asset',
  room: 'signals',
  may: WRITERS,
  touches: ['register', 'signals', 'setup'],
  body: v.object({ assetId: idOf<AssetId>(), key: deviceKey }),
  answer: created,
});
export const addGateway = contract({
  method: 'POST',
  path: '/api/gateways',
  summary: 'Create a key for a gateway that posts readings',
  room: 'signals',
  may: ADMINISTRATORS,
  touches: ['setup'],
  body: v.object({ name: shortText }),
  answer: v.object({ id: v.number(), key: v.string() }),
});
/** After a gateway got a new key its former one works for so many days. */
export const FORMER_KEY_DAYS = 7;
export const rotateGateway = contract({
  method: 'POST',
  path: '/api/gateways/:id/rotate',
  summary: 'Give a gateway a new key; its former one works for a week more',
  room: 'signals',
  may: ADMINISTRATORS,
  touches: ['setup'],
  params: v.object({ id: idText<GatewayId>() }),
  answer: v.object({ id: v.number(), key: v.string() }),
});
export const gatewayOut = v.object({
  ...{ id: v.number(), name: v.string(), createdAt: instantNumber, active: v.boolean() },
  /** Until when the key before works too; null: it does not. */
  formerUntil: v.nullable(instantNumber),
});
export type GatewayOut = v.InferOutput<typeof gatewayOut>;
export const listGateways = contract({
  method: 'GET',
  path: '/api/gateways',
  summary: 'Gateways and whether their keys still work',
  room: 'signals',
  may: ADMINISTRATORS,
  reads: ['setup'],
  answer: v.object({ items: v.array(gatewayOut) }),
});
export const revokeGateway = contract({
  method: 'DELETE',
  path: '/api/gateways/:id',
  summary: 'Revoke the key of a gateway; its readings are refused from then on',
  room: 'signals',
  may: ADMINISTRATORS,
  touches: ['setup'],
  params: v.object({ id: idText<GatewayId>() }),
  answer: done,
});
