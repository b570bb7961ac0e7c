// People of the rota on the wire: where they start from, what they may do and until when, when they are away, who goes together.
import * as v from 'valibot';
import type { AbsenceId, CrewId, DepotId, PersonId, SkillId } from '#core/ids.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { ABSENCE_KINDS, ABSENCE_STATES } from '#core/rota/index.ts';
import { contract } from './contract.ts';
import { position } from './places.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  instantText,
  localDateText,
  named,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

const language = v.pipe(v.string(), v.trim(), v.regex(/^[a-z]{2,3}$/, 'Two or three letters, such as pt.'));
const heldSkill = v.object({
  skillId: idOf<SkillId>(),
  /** The last day on which it holds; null: without end. */
  until: v.nullable(localDateText),
});
const technicianIn = v.object({
  depotId: v.nullable(idOf<DepotId>()),
  startsFrom: v.picklist(['depot', 'home']),
  home: v.pipe(v.string(), v.trim(), v.maxLength(300, 'At most 300 characters.')),
  ...position,
  van: v.pipe(v.string(), v.trim(), v.maxLength(60, 'At most 60 characters.')),
  speaks: v.pipe(v.array(language), v.maxLength(20, 'At most 20 languages.')),
  skills: v.pipe(v.array(heldSkill), v.maxLength(100, 'At most 100 skills.')),
});
export type TechnicianIn = v.InferInput<typeof technicianIn>;

const technicianOut = v.object({
  id: v.number(),
  name: v.string(),
  zone: v.string(),
  phone: v.nullable(v.string()),
  craft: v.nullable(v.string()),
  calendar: v.nullable(v.string()),
  version: v.number(),
  depotId: v.nullable(v.number()),
  depot: v.nullable(v.string()),
  startsFrom: v.picklist(['depot', 'home']),
  home: v.string(),
  latitude: v.nullable(v.number()),
  longitude: v.nullable(v.number()),
  van: v.string(),
  speaks: v.array(v.string()),
  skills: v.array(
    v.object({
      skillId: v.number(),
      name: v.string(),
      until: v.nullable(dateOut),
      /** It lapses within the next weeks, or has. */
      state: v.picklist(['holds', 'lapses soon', 'lapsed']),
    }),
  ),
  /** Why nobody can plan them yet; empty: they can be planned. */
  lacks: v.array(v.string()),
});
export type TechnicianOut = v.InferOutput<typeof technicianOut>;
export const readTechnicians = contract({
  method: 'GET',
  path: '/api/rota/people',
  summary: 'Technicians with what the rota knows of them',
  room: 'rota',
  may: OFFICE,
  reads: ['rota', 'setup', 'labour'],
  answer: v.object({ items: v.array(technicianOut) }),
});
export const keepTechnician = contract({
  method: 'PUT',
  path: '/api/rota/people/:id',
  summary: 'Say where a technician starts from, and what they may do and until when',
  room: 'rota',
  may: OFFICE,
  touches: ['rota'],
  params: v.object({ id: idText<PersonId>() }),
  body: v.object({
    /** 0: nothing was kept yet. */
    version: v.pipe(v.number('Send the version that was read.'), v.integer(), v.minValue(0)),
    ...technicianIn.entries,
  }),
  answer: done,
});

const absenceText = v.optional(v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.')), '');
export const absenceIn = { kind: v.picklist(ABSENCE_KINDS), from: instantText, to: instantText, text: absenceText };
const absenceOut = v.object({
  id: v.number(),
  version: v.number(),
  person: named,
  zone: v.string(),
  kind: v.picklist(ABSENCE_KINDS),
  state: v.picklist(ABSENCE_STATES),
  from: instantNumber,
  to: instantNumber,
  text: v.string(),
  decidedText: v.string(),
  decidedBy: v.nullable(v.string()),
  /** Appointments that lie in it. */
  appointments: v.number(),
  mayDecide: v.boolean(),
  mayChange: v.boolean(),
});
export type AbsenceOut = v.InferOutput<typeof absenceOut>;
export const listAbsences = contract({
  method: 'GET',
  path: '/api/rota/absences',
  summary: 'Absences from a day on: one’s own, for the office everybody’s',
  room: 'rota',
  may: 'signed in',
  reads: ['rota', 'setup'],
  query: v.object({ from: v.optional(localDateText), person: v.optional(idText<PersonId>()) }),
  answer: v.object({ items: v.array(absenceOut), more: v.boolean() }),
});
export const addAbsence = contract({
  method: 'POST',
  path: '/api/rota/absences',
  summary: 'Enter an absence, or ask for one’s own',
  room: 'rota',
  may: 'signed in',
  touches: ['rota'],
  body: v.object({ requestKey, personId: idOf<PersonId>(), ...absenceIn }),
  answer: v.object({ id: v.number(), state: v.picklist(ABSENCE_STATES) }),
});
export const changeAbsence = contract({
  method: 'PUT',
  path: '/api/rota/absences/:id',
  summary: 'Change an absence',
  room: 'rota',
  may: 'signed in',
  touches: ['rota'],
  params: v.object({ id: idText<AbsenceId>() }),
  body: v.object({ version, ...absenceIn }),
  answer: done,
});
export const decideAbsence = contract({
  method: 'POST',
  path: '/api/rota/absences/:id/decision',
  summary: 'Agree to an absence that was asked for, or refuse it with a reason',
  room: 'rota',
  may: OFFICE,
  touches: ['rota'],
  params: v.object({ id: idText<AbsenceId>() }),
  body: v.object({ version, agreed: v.boolean(), text: absenceText }),
  answer: done,
});
export const removeAbsence = contract({
  method: 'POST',
  path: '/api/rota/absences/:id/removal',
  summary: 'Take an absence back',
  room: 'rota',
  may: 'signed in',
  touches: ['rota'],
  params: v.object({ id: idText<AbsenceId>() }),
  body: v.object({ version }),
  answer: done,
});

const crewIn = {
  name: shortText,
  /** The first one leads. */
  people: v.pipe(v.array(idOf<PersonId>()), v.minLength(2, 'A crew is two people or more.'), v.maxLength(20)),
  fromDay: localDateText,
  /** The last day; null: lasting. */
  toDay: v.nullable(localDateText),
};
const crewBody = v.object(crewIn);
const crewOut = v.object({
  id: v.number(),
  version: v.number(),
  name: v.string(),
  people: v.array(named),
  fromDay: dateOut,
  toDay: v.nullable(dateOut),
});
export type CrewIn = v.InferInput<typeof crewBody>;
export type CrewOut = v.InferOutput<typeof crewOut>;
export const listCrews = contract({
  method: 'GET',
  path: '/api/rota/crews',
  summary: 'Crews that go together on a day or later',
  room: 'rota',
  may: 'signed in',
  reads: ['rota', 'setup'],
  query: v.object({ from: v.optional(localDateText) }),
  answer: v.object({ items: v.array(crewOut) }),
});
export const addCrew = contract({
  method: 'POST',
  path: '/api/rota/crews',
  summary: 'Let people go together, for a day or from a day on',
  room: 'rota',
  may: OFFICE,
  touches: ['rota'],
  body: crewBody,
  answer: created,
});
export const changeCrew = contract({
  method: 'PUT',
  path: '/api/rota/crews/:id',
  summary: 'Change a crew',
  room: 'rota',
  may: OFFICE,
  touches: ['rota'],
  params: v.object({ id: idText<CrewId>() }),
  body: v.object({ version, ...crewIn }),
  answer: done,
});

const speedBand = v.object({ belowKm: v.nullable(v.number()), kmPerHour: v.number('Write a speed in km/h.') });
const travelRules = {
  detour: v.number('Write how much longer roads are than the straight line.'),
  fixedMinutes: v.number('Write whole minutes.'),
  bands: v.pipe(v.array(speedBand), v.maxLength(6, 'At most six speeds.')),
};
const travel = v.object({
  ...travelRules,
  version: v.number(),
  /** Times that were measured: from which spot, to which, minutes. */
  known: v.array(v.tuple([v.string(), v.string(), v.number()])),
  /** The first of them by the names of their ends. */
  shown: v.array(v.object({ from: v.string(), to: v.string(), minutes: v.number() })),
});
export type TravelOut = v.InferOutput<typeof travel>;
export const readTravel = contract({
  method: 'GET',
  path: '/api/rota/travel',
  summary: 'How travel is reckoned, and the times that were measured',
  room: 'rota',
  may: 'signed in',
  reads: ['setup'],
  answer: travel,
});
export const keepTravel = contract({
  method: 'PUT',
  path: '/api/rota/travel',
  summary: 'Change how travel is reckoned',
  room: 'rota',
  may: WRITERS,
  touches: ['setup', 'rota'],
  body: v.object({ version: v.number(), ...travelRules }),
  answer: done,
});
