// Field on the wire: what a technician's phone holds for its days, and the acts it sends when there is a network.
import * as v from 'valibot';
import type {
  AppointmentId,
  AssetId,
  MeterId,
  OrderId,
  OrderLineId,
  PartId,
  PersonId,
  StoreActId,
  StoreId,
} from '#core/ids.ts';
import { ENTRY_KINDS, SHEET_STATES } from '#core/labour/index.ts';
import { LOWER_MEANINGS } from '#core/meters.ts';
import { ORDER_STAGES, type OrderEvent, type OrderFacts } from '#core/orders/index.ts';
import { ASK_STATES } from '#core/stores/index.ts';
import { ABSENCE_KINDS, ABSENCE_STATES } from '#core/rota/index.ts';
import { contract } from './contract.ts';
import { countIn } from './counts.ts';
import { entryIn } from './labour.ts';
import { actIn, orderPage } from './orders.ts';
import { absenceIn } from './rota-people.ts';
import { costIn } from './settle.ts';
import {
  dateOut,
  done,
  idOf,
  instantNumber,
  instantText,
  localDateText,
  named,
  octets,
  requestKey,
  version,
} from './shapes.ts';
import { movedLines, storeText } from './stock.ts';
import { useIn } from './stores.ts';

/** Whose work is in the field. */
const FIELD = ['technician'] as const;
/** So many acts are sent at once. */
export const MOST_ACTS = 40;
/** A photo is made smaller on the phone; one of more is no photo of a phone. */
export const MOST_PHOTO_BYTES = 6 * 1024 * 1024;

const few = (most: number) => v.pipe(v.string(), v.trim(), v.maxLength(most, `At most ${most} characters.`));
const span = { from: instantNumber, to: instantNumber };

const fieldAppointment = v.object({
  ...{ id: v.number(), version: v.number(), ...span, zone: v.string() },
  /** When the customer expects us, as they were told. */
  told: v.nullable(v.object(span)),
  ...{ sent: v.boolean(), fixed: v.boolean() },
  /** Who else goes. */
  with: v.array(v.object({ ...named.entries, phone: v.nullable(v.string()) })),
  /** What this technician said to it. */
  answer: v.nullable(v.object({ accepted: v.boolean(), text: v.string() })),
  /** Minutes they said they come later. */
  late: v.nullable(v.number()),
  orderIds: v.array(v.number()),
});
export type FieldAppointment = v.InferOutput<typeof fieldAppointment>;

/** What was last done at a machine, and by whom. */
const lastWork = v.object({
  ...{ orderId: v.number(), title: v.string(), on: dateOut, who: v.nullable(v.string()) },
  ...{ cause: v.nullable(v.string()), remedy: v.nullable(v.string()), notes: v.array(v.string()) },
});
const fieldMeter = v.object({
  ...{ id: v.number(), name: v.string(), unit: v.string() },
  last: v.nullable(v.object({ at: instantNumber, value: v.number() })),
});
const partOfMachine = v.object({ assetId: v.number(), tag: v.string(), serial: v.string(), model: v.string() });
const fieldMachine = v.object({
  ...{ lineId: v.number(), assetId: v.nullable(v.number()), tag: v.string(), serial: v.string() },
  /** Machines that are part of it. */
  parts: v.array(partOfMachine),
  last: v.array(lastWork),
  meters: v.array(fieldMeter),
});
const alertCurve = v.object({
  ...{
    rule: v.string(),
    tag: v.string(),
    unit: v.string(),
    startedAt: instantNumber,
    endedAt: v.nullable(instantNumber),
  },
  ...{ limit: v.nullable(v.number()), points: v.array(v.object({ at: instantNumber, value: v.number() })) },
});
/** A part that the work asks for, and where it is. */
const toBring = v.object({
  ...{ partId: v.number(), number: v.string(), name: v.string(), unit: v.string(), lineId: v.number() },
  ...{ wanted: v.number(), used: v.number(), inVan: v.number(), held: v.array(v.string()), open: v.number() },
});

const fieldOrder = v.object({
  stamp: v.string(),
  page: orderPage,
  /** What the rules of orders need to judge an act on the phone as the server will. */
  facts: v.custom<OrderFacts>((x) => typeof x === 'object' && x !== null),
  events: v.custom<readonly OrderEvent[]>(Array.isArray),
  position: v.nullable(v.object({ latitude: v.number(), longitude: v.number() })),
  machines: v.array(fieldMachine),
  alerts: v.array(alertCurve),
  bring: v.array(toBring),
  /** Other work that is open at the same place. */
  alsoHere: v.array(
    v.object({ orderId: v.number(), title: v.string(), stage: v.picklist(ORDER_STAGES), said: v.string() }),
  ),
  /** What it comes to for the customer, in minor units, as the office has it; null: not for this technician to show. */
  comesTo: v.nullable(
    v.object({
      ...{ currency: v.string(), pay: v.number(), withTax: v.number(), paid: v.number(), toInvoice: v.boolean() },
      rows: v.array(v.object({ what: v.string(), pay: v.number() })),
    }),
  ),
});
export type FieldOrder = v.InferOutput<typeof fieldOrder>;

const vanPart = v.object({
  ...{ partId: v.number(), number: v.string(), name: v.string(), unit: v.string(), serialTracked: v.boolean() },
  ...{ onHand: v.number(), free: v.number(), bin: v.string(), serials: v.array(v.string()) },
});
export type VanPart = v.InferOutput<typeof vanPart>;

const someOfPart = v.object({
  ...{ partId: v.number(), number: v.string(), name: v.string(), unit: v.string(), thousandths: v.number() },
});

/** Somebody's own week: what they entered of each day, and whether it was handed in. */
const fieldWeek = v.object({
  ...{ week: dateOut, state: v.picklist(SHEET_STATES), reason: v.nullable(v.string()) },
  days: v.array(v.object({ day: dateOut, minutes: v.number(), open: v.number() })),
  entries: v.array(
    v.object({
      ...{ id: v.number(), day: dateOut, kind: v.picklist(ENTRY_KINDS), minutes: v.number() },
      ...{ from: v.nullable(v.number()), to: v.nullable(v.number()), titles: v.array(v.string()) },
    }),
  ),
});
export type FieldWeek = v.InferOutput<typeof fieldWeek>;
const fieldAbsence = v.object({
  ...{ id: v.number(), kind: v.picklist(ABSENCE_KINDS), state: v.picklist(ABSENCE_STATES), ...span },
  ...{ text: v.string(), decidedText: v.nullable(v.string()) },
});

export const fieldDays = v.object({
  now: instantNumber,
  /** In which other costs are paid. */
  currency: v.string(),
  person: v.object({
    ...{ ...named.entries, zone: v.string() },
    /** What they do says where they are. */
    allowsPosition: v.boolean(),
  }),
  /** By which a browser lets this house tell its phone something; null: this house tells phones nothing by itself. */
  pushKey: v.nullable(v.string()),
  /** The days it holds; the first is today where they are. */
  from: dateOut,
  days: v.number(),
  appointments: v.array(fieldAppointment),
  /** The orders of these days, and which state of each there is: the phone asks for those it holds in another. */
  orders: v.array(v.object({ id: v.number(), stamp: v.string() })),
  van: v.nullable(
    v.object({
      ...{ ...named.entries, parts: v.array(vanPart), more: v.boolean() },
      /** What others put in, until it was seen to be there. */
      came: v.array(
        v.object({
          ...{ actId: v.number(), at: instantNumber, text: v.string(), who: v.nullable(v.string()) },
          lines: v.array(someOfPart),
        }),
      ),
      /** What was asked for, and what was said to it. */
      asked: v.array(
        v.object({ ...someOfPart.entries, id: v.number(), state: v.picklist(ASK_STATES), answer: v.string() }),
      ),
    }),
  ),
  /** Where parts of the van may be handed to. */
  stores: v.array(named),
  /** Their week, and the one before. */
  weeks: v.array(fieldWeek),
  absences: v.array(fieldAbsence),
});
export type FieldDays = v.InferOutput<typeof fieldDays>;
export const readField = contract({
  method: 'GET',
  path: '/api/field',
  summary: 'A technician’s next days: appointments, which orders they are for, and what is in the van',
  room: 'field',
  may: FIELD,
  reads: ['field', 'orders', 'rota', 'stores', 'register', 'signals', 'setup', 'labour'],
  answer: fieldDays,
});

/** So many orders are asked for at once. */
export const MOST_ORDERS = 12;
export const readFieldOrders = contract({
  method: 'GET',
  path: '/api/field/orders',
  summary: 'Orders of a technician’s next days with all that is needed on site',
  room: 'field',
  may: FIELD,
  reads: ['field', 'orders', 'rota', 'stores', 'register', 'signals', 'setup', 'labour'],
  query: v.object({
    ids: v.pipe(v.string(), v.regex(/^\d{1,10}(,\d{1,10}){0,11}$/, `Ids with commas, at most ${MOST_ORDERS}.`)),
  }),
  answer: v.object({ orders: v.array(fieldOrder) }),
});

const order = { orderId: idOf<OrderId>() };
const onLine = { ...order, lineId: idOf<OrderLineId>() };
const word = v.nullable(v.string());
const findingsIn = v.object({ symptom: word, fault: word, cause: word, remedy: word });
const plate = v.pipe(few(80), v.minLength(1, 'Scan it, or write what is on its plate.'));
const body = v.variant('kind', [
  v.object({
    ...{ kind: v.literal('order'), ...order, act: actIn },
    /** Of findings: what the phone held of them, to be told apart from what was said meanwhile. */
    was: v.optional(v.nullable(findingsIn)),
  }),
  v.object({ kind: v.literal('part'), ...order, partId: idOf<PartId>(), ...useIn }),
  v.object({ kind: v.literal('need'), ...onLine, partId: idOf<PartId>(), thousandths: useIn.thousandths }),
  v.object({
    kind: v.literal('time'),
    /** Of somebody else in the crew; left out: their own. */
    personId: v.optional(v.nullable(idOf<PersonId>()), null),
    /** Its own kind of time is below. */
    entry: v.object(entryIn),
  }),
  v.object({
    kind: v.literal('cost'),
    ...{ ...order, ...costIn },
    /** The photo of its receipt, taken with this phone. */
    receipt: v.optional(v.nullable(requestKey), null),
  }),
  v.object({
    ...{ kind: v.literal('photo'), ...order, photo: requestKey, name: few(120) },
    /** What the customer drew to sign for the work. */
    signs: v.optional(v.boolean(), false),
  }),
  v.object({
    kind: v.literal('reading'),
    ...{ meterId: idOf<MeterId>(), value: v.pipe(v.number('Write a number.'), v.finite()) },
    lowerMeans: v.optional(v.nullable(v.picklist(LOWER_MEANINGS)), null),
  }),
  v.object({
    kind: v.literal('rest'),
    ...order,
    lineIds: v.pipe(v.array(idOf<OrderLineId>()), v.minLength(1, 'Choose what is left to do.'), v.maxLength(50)),
    reason: v.pipe(few(500), v.minLength(1, 'Say what is left, and why.')),
    /** What is needed for it, and when; the dispatcher sees both. */
    parts: v.optional(few(500), ''),
    wishedOn: v.optional(v.nullable(localDateText), null),
    /** They do it themselves later that day. */
    own: v.optional(v.boolean(), false),
  }),
  /** A machine found there joins the order: by its tag or serial. */
  v.object({ kind: v.literal('machine'), ...order, code: plate, text: few(200) }),
  /** One machine, or a part of one, comes off; what goes on is known by its tag or serial, or new and of the same make. */
  v.object({
    ...{ kind: v.literal('swap'), ...order, assetId: idOf<AssetId>(), code: v.pipe(few(80)) },
    fresh: v.nullable(v.object({ tag: plate, serial: plate })),
    /** Parts of the old one go over to the new one; else they stay with it. */
    partsMove: v.boolean(),
    text: few(200),
  }),
  /** The customer wants an invoice. */
  v.object({ kind: v.literal('to invoice'), ...order }),
  /** A part for one's own van, for no order. */
  v.object({ kind: v.literal('asked for'), partId: idOf<PartId>(), thousandths: useIn.thousandths, text: few(200) }),
  /** What somebody put into one's van is there. */
  v.object({ kind: v.literal('received'), actId: idOf<StoreActId>() }),
  v.object({
    kind: v.literal('answer'),
    ...{ appointmentId: idOf<AppointmentId>(), version, accepted: v.boolean(), text: few(200) },
  }),
  v.object({
    kind: v.literal('late'),
    appointmentId: idOf<AppointmentId>(),
    minutes: v.pipe(
      v.number(),
      v.integer('Whole minutes.'),
      v.minValue(5, 'At least 5.'),
      v.maxValue(480, 'At most 8 hours.'),
    ),
    text: few(200),
  }),
  /** Parts of the own van go to another store. */
  v.object({ kind: v.literal('handed over'), toId: idOf<StoreId>(), text: storeText, lines: movedLines }),
  /** What of a part is really in the own van. */
  v.object({ kind: v.literal('counted'), partId: idOf<PartId>(), ...countIn }),
  /** Whether what they do says where they are, from now on. */
  v.object({ kind: v.literal('position allowed'), allowed: v.boolean() }),
  /** Where they were when they did something. */
  v.object({
    kind: v.literal('was at'),
    ...{ deed: requestKey, orderId: v.nullable(idOf<OrderId>()) },
    latitude: v.pipe(v.number(), v.minValue(-90), v.maxValue(90)),
    longitude: v.pipe(v.number(), v.minValue(-180), v.maxValue(180)),
    /** Metres within which it is true. */
    accuracy: v.pipe(v.number(), v.minValue(0), v.transform(Math.round)),
  }),
  v.object({ kind: v.literal('handed in'), week: localDateText }),
  v.object({ kind: v.literal('absent'), absence: v.object(absenceIn) }),
]);
export type FieldBody = v.InferInput<typeof body>;
export type FieldBodyOut = v.InferOutput<typeof body>;

export const phoneAct = v.object({
  ...{ id: requestKey, deed: requestKey, phoneAt: instantText, at: instantText },
  needs: v.pipe(v.array(requestKey), v.maxLength(50)),
  body,
});
export type PhoneActIn = v.InferInput<typeof phoneAct>;
export type PhoneActOut = v.InferOutput<typeof phoneAct>;

const problems = v.array(v.object({ code: v.string(), field: v.optional(v.string()), message: v.string() }));
const outcome = v.variant('kind', [
  v.object({ id: v.string(), kind: v.literal('taken') }),
  v.object({ id: v.string(), kind: v.picklist(['waits', 'failed']) }),
  v.object({ id: v.string(), kind: v.literal('refused'), refusals: problems }),
]);
export const sendActs = contract({
  method: 'POST',
  path: '/api/field/acts',
  summary: 'Take what was done on site, in order, each once; what is refused is said with its reason',
  room: 'field',
  may: FIELD,
  // Each act announces what it touches by itself.
  touches: [],
  body: v.object({ acts: v.pipe(v.array(v.unknown()), v.minLength(1), v.maxLength(MOST_ACTS)) }),
  answer: v.object({ now: instantNumber, outcomes: v.array(outcome) }),
});

const endpoint = v.pipe(v.string(), v.url('An address.'), v.maxLength(1000));
export const followPhone = contract({
  method: 'POST',
  path: '/api/field/push',
  summary: 'Tell this phone what is new: its browser gave an address for it',
  room: 'field',
  may: FIELD,
  touches: ['setup'],
  body: v.object({
    endpoint,
    p256dh: v.pipe(v.string(), v.regex(/^[\w-]{80,100}$/, 'A key of a browser.')),
    auth: v.pipe(v.string(), v.regex(/^[\w-]{16,40}$/, 'A secret of a browser.')),
  }),
  answer: done,
});
export const leavePhone = contract({
  method: 'DELETE',
  path: '/api/field/push',
  summary: 'Tell this phone nothing any more',
  room: 'field',
  may: FIELD,
  touches: ['setup'],
  body: v.object({ endpoint }),
  answer: done,
});

/** The body is the photo itself, as application/octet-stream; sent again, it is there already. */
export const sendPhoto = contract({
  method: 'POST',
  path: '/api/field/photos/:id',
  summary: 'Take a photo that an act of the phone names',
  room: 'field',
  may: FIELD,
  touches: [],
  params: v.object({ id: requestKey }),
  body: octets,
  bodyLimit: MOST_PHOTO_BYTES + 1024,
  answer: done,
});
