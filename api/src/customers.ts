// Customers on the wire: contacts, credit terms, notes, and the technicians they want or do not want.
import * as v from 'valibot';
import type { ContactId, CustomerId, CustomerNoteId, PersonId, RateCardId } from '#core/ids.ts';
import { WAYS_TO_TELL } from '#core/customers.ts';
import { LANGUAGES } from '#core/telling.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantNumber,
  localDateText,
  named,
  pageOf,
  pageQuery,
  shortText,
  version,
} from './shapes.ts';

const address = v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(300, 'At most 300 characters.')));
const optionalText = (most: number) =>
  v.nullable(
    v.pipe(
      v.string(),
      v.trim(),
      v.maxLength(most, `At most ${most} characters.`),
      v.transform((s) => s || null),
    ),
  );
const params = v.object({ id: idText<CustomerId>() });

const customerRow = v.object({
  id: v.number(),
  name: v.string(),
  serviceAddress: v.nullable(v.string()),
  assets: v.number(),
  overSince: v.nullable(dateOut),
});
export type CustomerRow = v.InferOutput<typeof customerRow>;
export const listCustomers = contract({
  method: 'GET',
  path: '/api/customers',
  summary: 'Customers by name',
  room: 'register',
  may: 'signed in',
  reads: ['register'],
  query: v.object({ ...pageQuery, search: v.optional(v.pipe(v.string(), v.maxLength(80))) }),
  answer: pageOf(customerRow),
});

const contactOut = v.object({
  id: v.number(),
  name: v.string(),
  role: v.nullable(v.string()),
  email: v.nullable(v.string()),
  phone: v.nullable(v.string()),
  preferred: v.picklist(WAYS_TO_TELL),
  language: v.picklist(LANGUAGES),
  version: v.number(),
});
export type ContactOut = v.InferOutput<typeof contactOut>;
const noteOut = v.object({
  id: v.number(),
  text: v.string(),
  popsUp: v.boolean(),
  at: instantNumber,
  who: v.nullable(v.string()),
});
export const WISHES = ['preferred', 'blocked'] as const;
export const customerPage = v.object({
  id: v.number(),
  name: v.string(),
  serviceAddress: v.nullable(v.string()),
  creditDays: v.nullable(v.number()),
  /** Minor units of the currency. */
  creditLimit: v.nullable(v.number()),
  creditCurrency: v.string(),
  overSince: v.nullable(dateOut),
  /** Whether that follows from what they owe; else it is set by hand. */
  creditFollows: v.boolean(),
  /** The rate card agreed with them; null: the standard one. */
  rateCard: v.nullable(named),
  version: v.number(),
  contacts: v.array(contactOut),
  notes: v.array(noteOut),
  technicians: v.array(v.object({ id: v.number(), name: v.string(), wish: v.picklist(WISHES) })),
  assets: v.number(),
  openOrders: v.number(),
  agreements: v.array(
    v.object({ id: v.number(), number: v.string(), name: v.string(), stage: v.string(), to: v.nullable(dateOut) }),
  ),
});
export type CustomerPage = v.InferOutput<typeof customerPage>;
export const readCustomer = contract({
  method: 'GET',
  path: '/api/customers/:id',
  summary: 'One customer',
  room: 'register',
  may: 'signed in',
  reads: ['register', 'agreements', 'orders', 'setup'],
  params,
  answer: customerPage,
});

export const customerIn = v.object({
  name: shortText,
  serviceAddress: address,
  creditDays: v.nullable(
    v.pipe(v.number('Write a number of days.'), v.integer(), v.minValue(0), v.maxValue(365, 'At most 365 days.')),
  ),
  creditLimit: v.nullable(v.pipe(v.number('Write an amount.'), v.integer(), v.minValue(0, 'From 0 up.'))),
  /** Left out: as it is. */
  overSince: v.exactOptional(v.nullable(localDateText)),
  /** The rate card agreed with them; null: the standard one. Left out: as it is. */
  rateCardId: v.exactOptional(v.nullable(idOf<RateCardId>())),
});
export type CustomerIn = v.InferInput<typeof customerIn>;
export const addCustomer = contract({
  method: 'POST',
  path: '/api/customers',
  summary: 'Add a customer',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  body: customerIn,
  answer: created,
});
export const changeCustomer = contract({
  method: 'PUT',
  path: '/api/customers/:id',
  summary: 'Change a customer',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params,
  body: v.object({ ...customerIn.entries, version }),
  answer: v.object({ version: v.number() }),
});

export const contactIn = v.object({
  name: shortText,
  role: optionalText(120),
  email: v.nullable(
    v.union([
      v.pipe(
        v.literal(''),
        v.transform(() => null),
      ),
      v.pipe(v.string(), v.trim(), v.email('Write an e-mail address such as name@example.org.'), v.maxLength(200)),
    ]),
  ),
  phone: optionalText(60),
  preferred: v.picklist(WAYS_TO_TELL),
  /** What is written to them in; left out: English, or as it is. */
  language: v.optional(v.picklist(LANGUAGES)),
});
export type ContactIn = v.InferInput<typeof contactIn>;
export const addContact = contract({
  method: 'POST',
  path: '/api/customers/:id/contacts',
  summary: 'Add a contact',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params,
  body: contactIn,
  answer: created,
});
export const changeContact = contract({
  method: 'PUT',
  path: '/api/contacts/:id',
  summary: 'Change a contact',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params: v.object({ id: idText<ContactId>() }),
  body: v.object({ ...contactIn.entries, version }),
  answer: done,
});
export const removeContact = contract({
  method: 'DELETE',
  path: '/api/contacts/:id',
  summary: 'Remove a contact',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params: v.object({ id: idText<ContactId>() }),
  answer: done,
});
export const addNote = contract({
  method: 'POST',
  path: '/api/customers/:id/notes',
  summary: 'Write a note about a customer',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params,
  body: v.object({
    text: v.pipe(
      v.string(),
      v.trim(),
      v.minLength(1, 'Write the note.'),
      v.maxLength(1000, 'At most 1,000 characters.'),
    ),
    popsUp: v.boolean(),
  }),
  answer: created,
});
export const removeNote = contract({
  method: 'DELETE',
  path: '/api/customer-notes/:id',
  summary: 'Remove a note',
  room: 'register',
  may: WRITERS,
  touches: ['register'],
  params: v.object({ id: idText<CustomerNoteId>() }),
  answer: done,
});
export const setWish = contract({
  method: 'PUT',
  path: '/api/customers/:id/technicians',
  summary: 'Say whether a technician is preferred or blocked at a customer',
  room: 'register',
  may: OFFICE,
  touches: ['register'],
  params,
  body: v.object({ personId: idOf<PersonId>(), wish: v.nullable(v.picklist(WISHES)) }),
  answer: done,
});
export const customersCsv = contract({
  method: 'GET',
  path: '/api/customers.csv',
  summary: 'Customers as CSV',
  room: 'register',
  may: OFFICE,
  query: v.object({ search: v.optional(v.pipe(v.string(), v.maxLength(80))) }),
});
