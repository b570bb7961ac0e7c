// Signing in and out, and what a screen must know about its reader.
import * as v from 'valibot';
import type { CalendarId, CraftId, PersonId } from '#core/ids.ts';
import { ADMINISTRATORS, MANAGERS } from '#core/people.ts';
import { LANGUAGES, WAYS_OUT } from '#core/telling.ts';
import { contract } from './contract.ts';
import { done, idOf, idText, instantNumber, role, shortText, version } from './shapes.ts';

const person = v.object({ id: v.number(), name: v.string(), email: v.string(), role, zone: v.string() });
export type SignedIn = v.InferOutput<typeof person>;

export const session = v.object({
  person: v.nullable(person),
  csrf: v.string(),
  now: instantNumber,
  fixedNow: v.boolean(),
  /** Time zones in which the house’s calendars are kept. */
  zones: v.array(v.string()),
  demo: v.nullable(v.array(v.object({ name: v.string(), email: v.string(), role }))),
});
export type Session = v.InferOutput<typeof session>;

const email = v.pipe(
  v.string(),
  v.trim(),
  v.toLowerCase(),
  v.email('Write an e-mail address such as name@example.org.'),
  v.maxLength(200),
);
export const newPassword = v.pipe(
  v.string(),
  v.minLength(12, 'A password has at least 12 characters.'),
  v.maxLength(200),
);

export const readSession = contract({
  method: 'GET',
  path: '/api/session',
  summary: 'Who is signed in',
  room: 'session',
  may: 'anybody',
  reads: ['session'],
  answer: session,
});
export const signIn = contract({
  method: 'POST',
  path: '/api/session',
  summary: 'Sign in',
  room: 'session',
  may: 'anybody',
  body: v.object({ email, password: v.pipe(v.string(), v.minLength(1, 'Type your password.'), v.maxLength(200)) }),
  answer: session,
});
export const signInDemo = contract({
  method: 'POST',
  path: '/api/session/demo',
  summary: 'Sign in as a demo person (demo mode only)',
  room: 'session',
  may: 'anybody',
  body: v.object({ email }),
  answer: session,
});
export const signOut = contract({
  method: 'DELETE',
  path: '/api/session',
  summary: 'Sign out',
  room: 'session',
  may: 'signed in',
  answer: done,
});

/** How somebody of the house wants to be told of things. */
const told = {
  phone: v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(60))),
  prefers: v.picklist(WAYS_OUT),
  language: v.picklist(LANGUAGES),
};
/** What their hour is sold and costed as, and the calendar they work by. */
const works = {
  ...{ craftId: v.nullable(idOf<CraftId>()), calendarId: v.nullable(idOf<CalendarId>()) },
  /** On site they may show customers what work comes to, and take their card. */
  showsPrice: v.boolean(),
};
export const personIn = v.object({
  name: shortText,
  email,
  role,
  zone: v.string(),
  password: newPassword,
  ...v.partial(v.object({ ...told, ...works })).entries,
});
export const personOut = v.object({ ...person.entries, ...told, ...works, active: v.boolean(), version: v.number() });
export type PersonOut = v.InferOutput<typeof personOut>;
export const listPeople = contract({
  method: 'GET',
  path: '/api/people',
  summary: 'People and their roles',
  room: 'setup',
  may: MANAGERS,
  reads: ['setup'],
  answer: v.object({ items: v.array(personOut) }),
});
export const addPerson = contract({
  method: 'POST',
  path: '/api/people',
  summary: 'Add a person',
  room: 'setup',
  may: ADMINISTRATORS,
  touches: ['setup'],
  body: personIn,
  answer: v.object({ id: v.number() }),
});
export const changePerson = contract({
  method: 'PUT',
  path: '/api/people/:id',
  summary: 'Change a person: role, zone, whether they may sign in, a new password',
  room: 'setup',
  may: ADMINISTRATORS,
  touches: ['setup'],
  params: v.object({ id: idText<PersonId>() }),
  body: v.object({
    version,
    name: shortText,
    role,
    zone: v.string(),
    active: v.boolean(),
    password: v.optional(newPassword),
    ...v.partial(v.object({ ...told, ...works })).entries,
  }),
  answer: done,
});
