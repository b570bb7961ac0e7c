// The rota on the wire: people's days with their appointments, loose work, who can go, and appointments made, moved and taken out.
import * as v from 'valibot';
import type { AppointmentId, CustomerId, DepotId, LocationId, OrderId, PersonId, SkillId } from '#core/ids.ts';
import { ORDER_KINDS, ORDER_STAGES } from '#core/orders/index.ts';
import { OFFICE } from '#core/people.ts';
import { AGAINST, MOST_HOURS } from '#core/rota/index.ts';
import { PAUSE_REASONS, TARGETS } from '#core/service-levels/index.ts';
import { contract } from './contract.ts';
import {
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  instantText,
  localDateText,
  pageOf,
  pageQuery,
  requestKey,
  version,
} from './shapes.ts';

const position = v.nullable(v.object({ latitude: v.number(), longitude: v.number() }));
const spot = v.object({ key: v.string(), at: position });
const span = v.object({ from: instantNumber, to: instantNumber });
const servedClock = v.object({
  target: v.picklist(TARGETS),
  dueAt: instantNumber,
  /** What of an appointment keeps it. */
  stopsAt: v.picklist(['arrival', 'end']),
});

const onRota = {
  orderId: v.number(),
  title: v.string(),
  kind: v.picklist(ORDER_KINDS),
  stage: v.picklist(ORDER_STAGES),
  priority: v.number(),
  customer: v.string(),
  place: v.string(),
  tag: v.string(),
  machines: v.number(),
  clocks: v.array(servedClock),
  window: v.nullable(span),
};

const rotaPerson = v.object({
  id: v.number(),
  name: v.string(),
  zone: v.string(),
  depotId: v.nullable(v.number()),
  depot: v.nullable(v.string()),
  hasCalendar: v.boolean(),
  van: v.string(),
  start: spot,
  /** Where they were when they last did something today, as far as they allow that to be said, within so many metres. */
  seen: v.nullable(
    v.object({
      ...{ at: instantNumber, orderId: v.nullable(v.number()) },
      ...{ latitude: v.number(), longitude: v.number(), accuracy: v.number() },
    }),
  ),
  skills: v.array(v.object({ skillId: v.number(), until: v.nullable(dateOut) })),
  days: v.array(
    v.object({
      date: dateOut,
      open: v.array(span),
      absences: v.array(v.object({ ...span.entries, why: v.string() })),
      /** Absences asked for and not decided: they keep nobody from being planned. */
      asked: v.array(v.object({ ...span.entries, why: v.string() })),
    }),
  ),
});
export type RotaPerson = v.InferOutput<typeof rotaPerson>;

const rotaAppointment = v.object({
  id: v.number(),
  version: v.number(),
  ...span.entries,
  personIds: v.array(v.number()),
  spot,
  zone: v.string(),
  /** When the customer expects us, as they were told. */
  told: v.nullable(span),
  fixed: v.boolean(),
  sent: v.boolean(),
  overlapReason: v.string(),
  /** So many minutes later, as whoever goes said. */
  late: v.nullable(v.object({ minutes: v.number(), text: v.string() })),
  /** What they said to it as it stands. */
  answers: v.array(v.object({ personId: v.number(), accepted: v.boolean(), text: v.string() })),
  orders: v.array(v.object(onRota)),
});
export type RotaAppointment = v.InferOutput<typeof rotaAppointment>;

const rota = v.object({
  now: instantNumber,
  from: dateOut,
  to: dateOut,
  people: v.array(rotaPerson),
  appointments: v.array(rotaAppointment),
});
export type Rota = v.InferOutput<typeof rota>;

const which = {
  depot: v.optional(idText<DepotId>()),
  skill: v.optional(idText<SkillId>()),
  customer: v.optional(idText<CustomerId>()),
  /** A place with all that lies below it. */
  area: v.optional(idText<LocationId>()),
};

/** As many days as a month view shows, with the weeks around it. */
const MOST_DAYS = 42;
const daysText = v.pipe(
  v.string(),
  v.regex(/^\d{1,2}$/, 'Whole days.'),
  v.transform(Number),
  v.minValue(1, 'At least one day.'),
  v.maxValue(MOST_DAYS, `At most ${MOST_DAYS} days.`),
);

export const readRota = contract({
  method: 'GET',
  path: '/api/rota',
  summary: 'People with their days and appointments',
  room: 'rota',
  may: 'signed in',
  reads: ['rota', 'orders', 'setup', 'register'],
  query: v.object({ from: localDateText, days: v.optional(daysText), ...which }),
  answer: rota,
});

const saidOfAppointment = v.object({
  ...{ id: v.number(), from: instantNumber, zone: v.string(), title: v.string(), who: v.string(), text: v.string() },
  /** Null: they do not take it. */
  late: v.nullable(v.number()),
});
export type SaidOfAppointment = v.InferOutput<typeof saidOfAppointment>;
export const readSaid = contract({
  method: 'GET',
  path: '/api/rota/said',
  summary: 'Appointments of today and after that somebody does not take, or comes later to',
  room: 'rota',
  may: OFFICE,
  reads: ['rota', 'orders'],
  answer: v.object({ items: v.array(saidOfAppointment), more: v.boolean() }),
});

const looseOrder = v.object({
  ...onRota,
  spot,
  zone: v.string(),
  minutes: v.number(),
  /** Where the minutes are from: a job plan, what like work took, or nothing. */
  minutesBy: v.picklist(['plan', 'past work', 'assumed']),
  crew: v.number(),
  skills: v.array(v.string()),
  waitingFor: v.nullable(v.picklist(PAUSE_REASONS)),
  /** When the parts it waits for are all promised to be here; null: it waits for none, or nobody promised them. */
  partsOn: v.nullable(dateOut),
  wishedOn: v.nullable(dateOut),
  /** Minutes on the way for whoever has the shortest; null: no way is known. */
  nearest: v.nullable(v.number()),
  /** When whoever is nearest must leave at the latest; null: nothing was promised and no window ends. */
  latestStart: v.nullable(instantNumber),
  /** An appointment went by and the work was not begun. */
  wentBy: v.boolean(),
});
export type LooseOrder = v.InferOutput<typeof looseOrder>;

/** Ready: nothing is waited for and its time has not gone by; late: its time has. */
export const LOOSE_SHOWS = ['ready', 'late', 'waiting', 'all'] as const;
export const readLoose = contract({
  method: 'GET',
  path: '/api/rota/loose',
  summary: 'Work that nobody is planned for, what is due first in front',
  room: 'rota',
  may: 'signed in',
  reads: ['rota', 'orders', 'setup', 'register'],
  query: v.object({
    ...which,
    show: v.optional(v.picklist(LOOSE_SHOWS)),
    kind: v.optional(v.picklist(ORDER_KINDS)),
    ...pageQuery,
  }),
  answer: v.object({ ...pageOf(looseOrder).entries, ready: v.number(), late: v.number(), waiting: v.number() }),
});

const against = v.object({ what: v.picklist(AGAINST), binds: v.boolean(), text: v.string() });

/** What an order asks, so that every screen can look at any time by itself with the same rule. */
const orderWork = v.object({
  ...onRota,
  zone: v.string(),
  crew: v.number(),
  minutesBy: v.picklist(['plan', 'past work', 'assumed']),
  work: v.object({
    spot,
    minutes: v.number(),
    skills: v.array(v.object({ skillId: v.number(), name: v.string() })),
    blocked: v.array(v.number()),
    window: v.nullable(span),
    site: v.nullable(v.array(span)),
    lacks: v.nullable(v.string()),
  }),
});
export type OrderWorkOut = v.InferOutput<typeof orderWork>;
export const readWork = contract({
  method: 'GET',
  path: '/api/rota/orders/:id',
  summary: 'What an order asks of whoever goes',
  room: 'rota',
  may: 'signed in',
  reads: ['rota', 'orders', 'setup', 'register'],
  params: v.object({ id: idText<OrderId>() }),
  query: v.object({ from: localDateText, days: v.optional(daysText) }),
  answer: orderWork,
});

const candidate = v.object({
  personId: v.number(),
  name: v.string(),
  depot: v.nullable(v.string()),
  ...span.entries,
  /** Minutes until the promise ends, on arrival; null: nothing was promised. */
  margin: v.nullable(v.number()),
  addedTravel: v.number(),
  /** How long the way there is, in words. */
  travel: v.string(),
  reasons: v.array(v.string()),
});
export type Candidate = v.InferOutput<typeof candidate>;
const candidates = v.object({
  now: instantNumber,
  zone: v.string(),
  title: v.string(),
  minutes: v.number(),
  crew: v.number(),
  can: v.array(candidate),
  cannot: v.array(
    v.object({ personId: v.number(), name: v.string(), depot: v.nullable(v.string()), reasons: v.array(against) }),
  ),
});
export type CandidatesOut = v.InferOutput<typeof candidates>;
const minutesText = v.pipe(
  v.string(),
  v.regex(/^\d{1,4}$/, 'Whole minutes.'),
  v.transform(Number),
  v.minValue(5, 'At least five minutes.'),
  v.maxValue(MOST_HOURS * 60, `At most ${MOST_HOURS} hours.`),
);
export const readCandidates = contract({
  method: 'GET',
  path: '/api/rota/candidates/:id',
  summary: 'Who can go for an order, whom to ask first in front, and who cannot and why',
  room: 'rota',
  may: OFFICE,
  reads: ['rota', 'orders', 'setup', 'register'],
  params: v.object({ id: idText<OrderId>() }),
  query: v.object({
    /** Looked at from this day on; today without. */
    from: v.optional(localDateText),
    days: v.optional(daysText),
    minutes: v.optional(minutesText),
  }),
  answer: candidates,
});

const people = v.pipe(
  v.array(idOf<PersonId>()),
  v.minLength(1, 'Choose who goes.'),
  v.maxLength(20, 'At most 20 people.'),
);
const minutes = v.optional(
  v.nullable(
    v.pipe(
      v.number('Write minutes.'),
      v.integer('Whole minutes.'),
      v.minValue(5, 'At least five minutes.'),
      v.maxValue(MOST_HOURS * 60, `At most ${MOST_HOURS} hours; plan a return for the rest.`),
    ),
  ),
  null,
);
const reason = v.optional(v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.')), '');
const when = {
  people,
  from: instantText,
  /** Null: as its orders say. */
  minutes,
  /** A window or somebody’s open time may be broken. */
  anyway: v.optional(v.boolean(), false),
  /** Why somebody is in two places at once. */
  overlapReason: reason,
};
const told = v.optional(
  v.nullable(
    v.pipe(
      v.object({ from: instantText, to: instantText }),
      v.check((s) => s.to > s.from, 'The window ends before it begins; give a later end.'),
    ),
  ),
  null,
);
const booked = v.object({ id: v.number(), version: v.number() });
const planned = ['rota', 'orders', 'upkeep'] as const;

export const bookAppointment = contract({
  method: 'POST',
  path: '/api/rota/appointments',
  summary: 'Plan an appointment: who goes, when and for how long',
  room: 'rota',
  may: OFFICE,
  touches: planned,
  body: v.object({
    requestKey,
    orders: v.pipe(v.array(idOf<OrderId>()), v.minLength(1, 'Choose an order.'), v.maxLength(50, 'At most 50 orders.')),
    ...when,
    told,
    fixed: v.optional(v.boolean(), false),
  }),
  answer: booked,
});
export const moveAppointment = contract({
  method: 'PUT',
  path: '/api/rota/appointments/:id',
  summary: 'Move an appointment: another time, length or crew',
  room: 'rota',
  may: OFFICE,
  touches: planned,
  params: v.object({ id: idText<AppointmentId>() }),
  body: v.object({ version, ...when }),
  answer: booked,
});
export const tellAppointment = contract({
  method: 'PUT',
  path: '/api/rota/appointments/:id/told',
  summary: 'Say when the customer expects us, and whether the time is fixed',
  room: 'rota',
  may: OFFICE,
  touches: ['rota'],
  params: v.object({ id: idText<AppointmentId>() }),
  body: v.object({ version, told, fixed: v.optional(v.boolean(), false) }),
  answer: booked,
});
export const takeOutAppointment = contract({
  method: 'POST',
  path: '/api/rota/appointments/:id/out',
  summary: 'Take an appointment out of the rota; its orders are to be planned anew',
  room: 'rota',
  may: OFFICE,
  touches: planned,
  params: v.object({ id: idText<AppointmentId>() }),
  body: v.object({ version, text: reason }),
  answer: done,
});
export const replacePerson = contract({
  method: 'POST',
  path: '/api/rota/replace',
  summary: 'Put somebody else into all appointments of a person on a day, at one go',
  room: 'rota',
  may: OFFICE,
  touches: planned,
  body: v.object({
    person: idOf<PersonId>(),
    by: idOf<PersonId>(),
    date: localDateText,
    /** Looked at only: what it would break. */
    look: v.optional(v.boolean(), false),
    anyway: v.optional(v.boolean(), false),
  }),
  answer: v.object({
    items: v.array(
      v.object({
        appointmentId: v.number(),
        ...span.entries,
        titles: v.array(v.string()),
        against: v.array(against),
        /** It was, or would be, moved over; else it stays where it is. */
        moves: v.boolean(),
      }),
    ),
  }),
});
export type Replaced = v.InferOutput<NonNullable<typeof replacePerson.answer>>;
export const sendDay = contract({
  method: 'POST',
  path: '/api/rota/send',
  summary: 'Send people the work of a day, and tell customers who comes and when',
  room: 'rota',
  may: OFFICE,
  touches: ['rota', 'orders', 'outbox'],
  body: v.object({
    date: localDateText,
    people: v.pipe(v.array(idOf<PersonId>()), v.minLength(1, 'Choose whom.'), v.maxLength(200)),
  }),
  answer: v.object({ sent: v.number(), already: v.number(), told: v.number() }),
});
