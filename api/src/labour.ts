// Labour on the wire: crafts, rate cards, time entries, a person's week, and what the time of an order comes to.
import * as v from 'valibot';
import type { CraftId, OrderLineId, PersonId, RateCardId, TimeEntryId } from '#core/ids.ts';
import { ENTRY_KINDS, HOURS_KINDS, SHEET_ACTS, SHEET_STATES } from '#core/labour/index.ts';
import { MANAGERS, OFFICE, RECORDERS } from '#core/people.ts';
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
  minor,
  named,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

const craftIn = v.object({ name: shortText });
const craftOut = v.object({ id: v.number(), version: v.number(), name: v.string() });
const factor = v.pipe(
  v.number('A factor in percent.'),
  v.integer(),
  v.minValue(0),
  v.maxValue(1000, 'At most 1,000 %.'),
);
const surcharge = v.object({ sales: factor, cost: factor });
const minutesOfDay = (most: number) => v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(most));
const step = v.object({
  step: v.pipe(v.number('Whole minutes.'), v.integer(), v.minValue(1, 'At least a minute.'), v.maxValue(480)),
  minimum: v.pipe(v.number('Whole minutes.'), v.integer(), v.minValue(0), v.maxValue(1440)),
});
export const rateCardIn = v.object({
  name: shortText,
  currency: v.pipe(v.string(), v.regex(/^[A-Z]{3}$/, 'Three capital letters, such as EUR.')),
  /** The one that holds where nothing else is agreed; there is one of them. */
  isStandard: v.boolean(),
  rates: v.pipe(
    v.array(v.object({ craftId: idOf<CraftId>(), from: localDateText, cost: minor, sales: minor })),
    v.maxLength(500),
  ),
  surcharges: v.object({
    normal: v.exactOptional(surcharge),
    outside: v.exactOptional(surcharge),
    night: v.exactOptional(surcharge),
    holiday: v.exactOptional(surcharge),
  }),
  billing: v.object({ work: step, travel: step, waiting: step }),
  night: v.nullable(v.object({ from: minutesOfDay(1439), to: minutesOfDay(1440) })),
  callOut: minor,
  travel: v.variant('by', [
    v.object({ by: v.literal('time') }),
    v.object({ by: v.literal('flat'), price: minor }),
    v.object({ by: v.literal('km'), price: minor }),
  ]),
});
export type RateCardIn = v.InferInput<typeof rateCardIn>;
const rateCardOut = v.object({
  ...{ id: v.number(), version: v.number(), ...rateCardIn.entries },
  /** Customers with whom it is agreed: the first by name, and how many there are. */
  agreedWith: v.object({ names: v.array(v.string()), count: v.number() }),
});
export type RateCardOut = v.InferOutput<typeof rateCardOut>;
export const readRates = contract({
  method: 'GET',
  path: '/api/rate-cards',
  summary: 'Crafts and rate cards',
  room: 'setup',
  may: OFFICE,
  reads: ['setup', 'register'],
  answer: v.object({ crafts: v.array(craftOut), cards: v.array(rateCardOut) }),
});
export const addCraft = contract({
  method: 'POST',
  path: '/api/crafts',
  summary: 'Add a craft',
  room: 'setup',
  may: MANAGERS,
  touches: ['setup'],
  body: craftIn,
  answer: created,
});
export const changeCraft = contract({
  method: 'PUT',
  path: '/api/crafts/:id',
  summary: 'Change a craft',
  room: 'setup',
  may: MANAGERS,
  touches: ['setup', 'labour'],
  params: v.object({ id: idText<CraftId>() }),
  body: v.object({ version, ...craftIn.entries }),
  answer: done,
});
export const addRateCard = contract({
  method: 'POST',
  path: '/api/rate-cards',
  summary: 'Add a rate card',
  room: 'setup',
  may: MANAGERS,
  touches: ['setup', 'labour'],
  body: rateCardIn,
  answer: created,
});
export const changeRateCard = contract({
  method: 'PUT',
  path: '/api/rate-cards/:id',
  summary: 'Change a rate card',
  room: 'setup',
  may: MANAGERS,
  touches: ['setup', 'labour'],
  params: v.object({ id: idText<RateCardId>() }),
  body: v.object({ version, ...rateCardIn.entries }),
  answer: done,
});

const timeOfDay = (most: number) => v.optional(v.nullable(minutesOfDay(most)), null);
export const entryIn = {
  day: localDateText,
  kind: v.picklist(ENTRY_KINDS),
  /** Minutes after midnight of the person's day; `to` before `from` is on the next day. */
  from: timeOfDay(1439),
  to: timeOfDay(1440),
  /** Instead of times: a plain sum. */
  minutes: v.optional(v.nullable(v.pipe(v.number(), v.integer(), v.minValue(-LARGEST), v.maxValue(LARGEST))), null),
  hours: v.optional(v.nullable(v.picklist(HOURS_KINDS)), null),
  /** Of travel: what was driven. */
  kilometres: v.optional(v.pipe(v.number('Whole kilometres.'), v.integer('Whole kilometres.')), 0),
  text: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(500, 'At most 500 characters.')), ''),
  /** The lines of orders it was for, with their shares. */
  lines: v.pipe(
    v.array(v.object({ lineId: idOf<OrderLineId>(), share: v.optional(v.number(), 1) })),
    v.minLength(1, 'Choose the order it was for.'),
    v.maxLength(50, 'One entry goes to at most 50 orders.'),
  ),
  /** Why it may stand beside others that share its time. */
  overlapReason: v.optional(v.nullable(v.pipe(v.string(), v.trim(), v.maxLength(500))), null),
};
export type EntryIn = v.InferInput<v.ObjectSchema<typeof entryIn, undefined>>;
export const addEntry = contract({
  method: 'POST',
  path: '/api/time',
  summary: 'Enter time of a person for one or several orders',
  room: 'labour',
  may: RECORDERS,
  touches: ['labour'],
  body: v.object({ requestKey, personId: idOf<PersonId>(), ...entryIn }),
  answer: created,
});
const entryParams = v.object({ id: idText<TimeEntryId>() });
export const changeEntry = contract({
  method: 'PUT',
  path: '/api/time/:id',
  summary: 'Change an entry whose sheet was not handed in',
  room: 'labour',
  may: RECORDERS,
  touches: ['labour'],
  params: entryParams,
  body: v.object({ version, ...entryIn }),
  answer: done,
});
export const removeEntry = contract({
  method: 'DELETE',
  path: '/api/time/:id',
  summary: 'Remove an entry whose sheet was not handed in',
  room: 'labour',
  may: RECORDERS,
  touches: ['labour'],
  params: entryParams,
  answer: done,
});
export const counterEntry = contract({
  method: 'POST',
  path: '/api/time/:id/counter',
  summary: 'Take an approved entry back by a counter-entry with its reason',
  room: 'labour',
  may: OFFICE,
  touches: ['labour'],
  params: entryParams,
  body: v.object({ reason: v.pipe(v.string(), v.trim(), v.minLength(1, 'Say why.'), v.maxLength(500)) }),
  answer: created,
});

const entryLine = v.object({
  lineId: v.number(),
  orderId: v.number(),
  title: v.string(),
  tag: v.string(),
  minutes: v.number(),
  share: v.number(),
});
export const entryOut = v.object({
  id: v.number(),
  version: v.number(),
  day: dateOut,
  kind: v.picklist(ENTRY_KINDS),
  from: v.nullable(v.number()),
  to: v.nullable(v.number()),
  span: v.nullable(v.object({ from: instantNumber, to: instantNumber })),
  minutes: v.number(),
  hours: v.nullable(v.picklist(HOURS_KINDS)),
  kilometres: v.number(),
  text: v.string(),
  lines: v.array(entryLine),
  /** By hours kind, in all. */
  byHours: v.array(v.object({ hours: v.picklist(HOURS_KINDS), minutes: v.number() })),
  overlapReason: v.nullable(v.string()),
  /** The entry that this one takes back, and the one that takes it back. */
  counters: v.nullable(v.number()),
  counteredBy: v.nullable(v.number()),
  reason: v.nullable(v.string()),
});
export type EntryOut = v.InferOutput<typeof entryOut>;
export const weekSheet = v.object({
  person: named,
  craft: v.nullable(v.string()),
  zone: v.string(),
  /** Its Monday. */
  week: dateOut,
  today: dateOut,
  state: v.picklist(SHEET_STATES),
  /** Why it was sent back. */
  reason: v.nullable(v.string()),
  by: v.nullable(v.string()),
  entries: v.array(entryOut),
  /** Pairs of entries that share time. */
  overlaps: v.array(v.object({ first: v.number(), second: v.number() })),
  days: v.array(
    v.object({
      day: dateOut,
      open: v.number(),
      entered: v.number(),
      gapMinutes: v.number(),
      gaps: v.array(v.object({ from: instantNumber, to: instantNumber })),
      overtime: v.number(),
    }),
  ),
  /** The person's calendar, or none: then no open time is known. */
  calendar: v.nullable(v.string()),
});
export type WeekSheet = v.InferOutput<typeof weekSheet>;
export const bookable = v.object({
  lineId: v.number(),
  orderId: v.number(),
  title: v.string(),
  tag: v.string(),
  customer: v.string(),
});
export type Bookable = v.InferOutput<typeof bookable>;
export const findLines = contract({
  method: 'GET',
  path: '/api/time/lines',
  summary: 'Orders that time may be entered for: by number, tag or serial; without any, those of a person',
  room: 'labour',
  may: RECORDERS,
  reads: ['orders', 'register', 'labour'],
  query: v.object({ q: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(60))), person: idText<PersonId>() }),
  answer: v.object({ items: v.array(bookable), more: v.boolean() }),
});
const weekParams = v.object({ person: idText<PersonId>(), week: localDateText });
export const readWeek = contract({
  method: 'GET',
  path: '/api/time/sheets/:person/:week',
  summary: 'The time sheet of a person for the week of a day',
  room: 'labour',
  may: RECORDERS,
  reads: ['labour', 'orders', 'setup', 'register'],
  params: weekParams,
  answer: weekSheet,
});
export const actOnSheet = contract({
  method: 'POST',
  path: '/api/time/sheets/:person/:week',
  summary: 'Hand a time sheet in, approve it, or send it back with a reason',
  room: 'labour',
  may: RECORDERS,
  touches: ['labour'],
  params: weekParams,
  body: v.object({
    act: v.picklist(SHEET_ACTS),
    reason: v.optional(v.pipe(v.string(), v.trim(), v.maxLength(500)), ''),
  }),
  answer: v.object({ state: v.picklist(SHEET_STATES) }),
});
export const listSheets = contract({
  method: 'GET',
  path: '/api/time/sheets',
  summary: 'The time sheets of a week: who handed in, and how many hours',
  room: 'labour',
  may: OFFICE,
  reads: ['labour', 'setup'],
  query: v.object({ week: localDateText }),
  answer: v.object({
    week: dateOut,
    items: v.array(
      v.object({
        person: named,
        craft: v.nullable(v.string()),
        state: v.picklist(SHEET_STATES),
        work: v.number(),
        travel: v.number(),
        waiting: v.number(),
      }),
    ),
  }),
});

const runningTime = v.object({
  ...{ orderId: v.number(), lineId: v.number(), title: v.string(), tag: v.string() },
  kind: v.picklist(ENTRY_KINDS),
  startedAt: instantNumber,
});
export type RunningTime = v.InferOutput<typeof runningTime>;
export const readRunning = contract({
  method: 'GET',
  path: '/api/time/running',
  summary: 'The reader’s own time that is running',
  room: 'labour',
  may: RECORDERS,
  reads: ['labour', 'orders'],
  answer: v.object({ running: v.nullable(runningTime) }),
});
export const startTime = contract({
  method: 'POST',
  path: '/api/time/running',
  summary: 'Start one’s own time for a line of an order',
  room: 'labour',
  may: RECORDERS,
  touches: ['labour', 'orders'],
  body: v.object({ lineId: idOf<OrderLineId>(), kind: v.picklist(ENTRY_KINDS) }),
  answer: done,
});
export const stopTime = contract({
  method: 'POST',
  path: '/api/time/running/stop',
  summary: 'Stop one’s own time: it becomes an entry, unless less than a minute ran',
  room: 'labour',
  may: RECORDERS,
  touches: ['labour', 'orders'],
  body: v.object({ requestKey, text: entryIn.text, overlapReason: entryIn.overlapReason }),
  answer: v.object({ id: v.nullable(v.number()) }),
});

export const readIndication = contract({
  method: 'GET',
  path: '/api/price-indication',
  summary:
    'What a repair of such machines may cost: medians of like past work, at the rates of today agreed with the customer, else the standard ones',
  room: 'labour',
  may: OFFICE,
  reads: ['labour', 'orders', 'setup', 'register'],
  query: v.object({
    assets: v.pipe(
      v.string(),
      v.regex(/^[1-9]\d{0,9}(,[1-9]\d{0,9}){0,39}$/, 'Name at most 40 machines by their ids.'),
    ),
  }),
  answer: v.object({
    indication: v.nullable(
      v.object({
        count: v.number(),
        minutes: v.number(),
        /** Minor units; the price is null while no craft has a rate. */
        ...{ partsCost: v.number(), price: v.nullable(v.number()), currency: v.string() },
      }),
    ),
  }),
});
