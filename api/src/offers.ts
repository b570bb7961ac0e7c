// Offers on the wire: written, sent, accepted or declined, and the order that comes of one.
import * as v from 'valibot';
import type {
  AssetId,
  ContactId,
  CustomerId,
  JobPlanId,
  LocationId,
  MailId,
  OfferId,
  OrderId,
  PartId,
  TaxId,
} from '#core/ids.ts';
import { MOST_OFFER_LINES, OFFER_LINE_KINDS, OFFER_STANDINGS } from '#core/offers/index.ts';
import { OFFICE } from '#core/people.ts';
import { PRIORITIES } from '#core/service-levels/index.ts';
import { TAX_CATEGORIES } from '#core/settle/index.ts';
import { CALLED_KINDS, MOST_MACHINES } from './calls.ts';
import { contract } from './contract.ts';
import {
  afterId,
  dateOut,
  done,
  idOf,
  idOfNumber,
  idText,
  instantNumber,
  LARGEST,
  localDateText,
  longText,
  minor,
  named,
  pageQuery,
  requestKey,
  shortText,
  version,
} from './shapes.ts';

export const offerNumber = (id: number): string => `OF-${10_000 + id}`;

/** The id behind a typed offer number such as “OF-10042”, or null. */
export const offerOfNumber = (text: string): number | null => idOfNumber('of', text);

const few = (most: number) => v.pipe(v.string(), v.trim(), v.maxLength(most, `At most ${most} characters.`));

const lineIn = v.object({
  kind: v.picklist(OFFER_LINE_KINDS),
  assetId: v.nullable(idOf<AssetId>()),
  text: few(300),
  quantity: v.pipe(v.number('Write how much.'), v.integer('A whole number.'), v.maxValue(LARGEST)),
  unit: few(20),
  ...{ price: minor, cost: minor },
  discount: v.pipe(v.number('Write a percentage.'), v.integer('Whole percents.')),
  partId: v.nullable(idOf<PartId>()),
  supplier: few(120),
  taxId: v.nullable(idOf<TaxId>()),
});
export type OfferLineIn = v.InferInput<typeof lineIn>;
const lineOut = v.object({
  ...{ kind: v.picklist(OFFER_LINE_KINDS), assetId: v.nullable(v.number()), text: v.string(), quantity: v.number() },
  ...{ unit: v.string(), price: v.number(), cost: v.number(), discount: v.number(), supplier: v.string() },
  ...{ partId: v.nullable(v.number()), taxId: v.nullable(v.number()) },
});
const lineShown = v.object({ ...lineOut.entries, list: v.number(), off: v.number(), pay: v.number() });

const offerIn = {
  customerId: idOf<CustomerId>(),
  /** The machines it is about; none: a place, or nothing that stands anywhere yet. */
  assetIds: v.pipe(v.array(idOf<AssetId>()), v.maxLength(MOST_MACHINES, `At most ${MOST_MACHINES} machines.`)),
  locationId: v.optional(v.nullable(idOf<LocationId>()), null),
  contactId: v.optional(v.nullable(idOf<ContactId>()), null),
  /** What the order will be. */
  kind: v.optional(v.picklist(CALLED_KINDS), 'repair'),
  title: shortText,
  text: longText,
  validUntil: localDateText,
  lines: v.pipe(v.array(lineIn), v.maxLength(MOST_OFFER_LINES, `At most ${MOST_OFFER_LINES} lines; make two of it.`)),
};
export type OfferIn = v.InferInput<typeof offerBody>;
const offerBody = v.object(offerIn);

const offerRow = v.object({
  id: v.number(),
  title: v.string(),
  customer: named,
  standing: v.picklist(OFFER_STANDINGS),
  currency: v.string(),
  /** Minor units, without tax. */
  withoutTax: v.number(),
  validUntil: dateOut,
  createdAt: instantNumber,
  sentAt: v.nullable(instantNumber),
  /** Whole days since it was sent, else since it was begun. */
  age: v.number(),
  orderId: v.nullable(v.number()),
});
export type OfferRow = v.InferOutput<typeof offerRow>;
export const OFFER_SHOWS = ['open', ...OFFER_STANDINGS, 'all'] as const;
export const listOffers = contract({
  method: 'GET',
  path: '/api/offers',
  summary: 'Offers, the newest first; open are drafts and those sent that still hold',
  room: 'offers',
  may: OFFICE,
  reads: ['offers', 'register'],
  query: v.object({
    show: v.optional(v.picklist(OFFER_SHOWS)),
    customer: v.optional(idText<CustomerId>()),
    order: v.optional(idText<OrderId>()),
    after: afterId,
    limit: pageQuery.limit,
  }),
  answer: v.object({ items: v.array(offerRow), next: v.nullable(v.string()), now: instantNumber }),
});

const params = v.object({ id: idText<OfferId>() });
const machine = v.object({ id: v.number(), tag: v.string(), model: v.string(), place: v.string() });
const totals = v.object({
  ...{
    list: v.number(),
    off: v.number(),
    cost: v.number(),
    withoutTax: v.number(),
    tax: v.number(),
    withTax: v.number(),
  },
  rows: v.array(
    v.object({ category: v.picklist(TAX_CATEGORIES), hundredths: v.number(), taxable: v.number(), tax: v.number() }),
  ),
});
const offerPage = v.object({
  ...offerRow.entries,
  version: v.number(),
  /** Since when the customer is over its credit terms. */
  overSince: v.nullable(dateOut),
  kind: v.picklist(CALLED_KINDS),
  text: v.string(),
  machines: v.array(machine),
  place: v.nullable(named),
  contact: v.nullable(v.object({ id: v.number(), name: v.string(), email: v.nullable(v.string()) })),
  lines: v.array(lineShown),
  totals,
  who: v.nullable(v.string()),
  sentTo: v.nullable(v.string()),
  decidedAt: v.nullable(instantNumber),
  /** Who accepted it, or why it was declined or withdrawn. */
  decision: v.nullable(v.string()),
  /** What it was made of. */
  fromOrderId: v.nullable(v.number()),
  fromMailId: v.nullable(v.number()),
});
export type OfferPage = v.InferOutput<typeof offerPage>;
export const readOffer = contract({
  method: 'GET',
  path: '/api/offers/:id',
  summary: 'An offer, with what its lines and the whole come to',
  room: 'offers',
  may: OFFICE,
  reads: ['offers', 'register'],
  params,
  answer: offerPage,
});

const likeWork = v.object({
  assetId: v.number(),
  className: v.string(),
  count: v.number(),
  /** Averages; minor units. */
  ...{ minutes: v.number(), partsCost: v.number(), otherCost: v.number() },
});
const proposal = v.object({
  customer: v.nullable(named),
  machines: v.array(machine),
  place: v.nullable(named),
  contactId: v.nullable(v.number()),
  title: v.string(),
  text: v.string(),
  lines: v.array(lineOut),
  /** What like work on the class of each machine took. */
  like: v.array(likeWork),
  currency: v.string(),
  orderId: v.nullable(v.number()),
  mailId: v.nullable(v.number()),
});
export type OfferProposal = v.InferOutput<typeof proposal>;
export const proposeOffer = contract({
  method: 'GET',
  path: '/api/offers/proposal',
  summary: 'What an offer may begin with: machines with a job plan, past work, a message, or another offer',
  room: 'offers',
  may: OFFICE,
  reads: ['offers', 'register', 'orders', 'setup', 'stores', 'labour', 'settle', 'mail'],
  query: v.object({
    assets: v.optional(v.pipe(v.string(), v.regex(/^[1-9]\d{0,9}(,[1-9]\d{0,9}){0,39}$/, 'Ids with commas between.'))),
    jobPlan: v.optional(idText<JobPlanId>()),
    customer: v.optional(idText<CustomerId>()),
    order: v.optional(idText<OrderId>()),
    mail: v.optional(idText<MailId>()),
    offer: v.optional(idText<OfferId>()),
  }),
  answer: proposal,
});

export const addOffer = contract({
  method: 'POST',
  path: '/api/offers',
  summary: 'Write an offer',
  room: 'offers',
  may: OFFICE,
  touches: ['offers'],
  body: v.object({
    requestKey,
    ...offerIn,
    orderId: v.optional(v.nullable(idOf<OrderId>()), null),
    mailId: v.optional(v.nullable(idOf<MailId>()), null),
  }),
  answer: v.object({ id: v.number() }),
});
export const changeOffer = contract({
  method: 'PUT',
  path: '/api/offers/:id',
  summary: 'Change a draft',
  room: 'offers',
  may: OFFICE,
  touches: ['offers'],
  params,
  body: v.object({ version, ...offerIn }),
  answer: done,
});
export const sendOffer = contract({
  method: 'POST',
  path: '/api/offers/:id/send',
  summary: 'Send an offer as PDF by mail, or say that it was handed over; sent again, with another last day',
  room: 'offers',
  may: OFFICE,
  touches: ['offers', 'outbox', 'mail', 'register'],
  params,
  body: v.object({ version, validUntil: localDateText, contactId: v.nullable(idOf<ContactId>()) }),
  answer: done,
});
export const acceptOffer = contract({
  method: 'POST',
  path: '/api/offers/:id/accept',
  summary: 'Record that the customer accepted, and raise the order with its lines, notes and files',
  room: 'offers',
  may: OFFICE,
  touches: ['offers', 'orders', 'register'],
  params,
  body: v.object({
    requestKey,
    by: v.pipe(few(200), v.minLength(1, 'Say who accepted it, and how.')),
    priority: v.optional(v.picklist(PRIORITIES, 'Choose a priority.'), 3),
    customerReference: v.optional(few(80), ''),
    wishedOn: v.optional(v.nullable(localDateText), null),
    overTermsReason: v.optional(few(200)),
  }),
  answer: v.object({ orderId: v.number() }),
});
const withReason = v.object({ reason: v.pipe(few(300), v.minLength(1, 'Say why.')) });
export const declineOffer = contract({
  method: 'POST',
  path: '/api/offers/:id/decline',
  summary: 'Record that the customer declined, and why',
  room: 'offers',
  may: OFFICE,
  touches: ['offers'],
  params,
  body: withReason,
  answer: done,
});
export const withdrawOffer = contract({
  method: 'POST',
  path: '/api/offers/:id/withdraw',
  summary: 'Withdraw an offer, and say why',
  room: 'offers',
  may: OFFICE,
  touches: ['offers'],
  params,
  body: withReason,
  answer: done,
});
export const offerPdf = contract({
  method: 'GET',
  path: '/api/offers/:id/document',
  summary: 'An offer to print (PDF)',
  room: 'offers',
  may: OFFICE,
  params,
});
