// The terms of agreements on the wire: what a coverage line gives, allowances, price, amendments, renewal, types, and questions about cover.
import * as v from 'valibot';
import { BILLING_PERIODS, BILLING_TIMINGS, RENEWAL_MODES } from '#core/agreements/index.ts';
import { ALLOWANCE_PERIODS, ALLOWANCE_UNITS, CAUSES, COST_ELEMENTS } from '#core/entitlement/index.ts';
import type {
  AgreementId,
  AgreementTypeId,
  AssetClassId,
  AssetId,
  CalendarId,
  CoverageLineId,
  CustomerId,
  LocationId,
  PersonId,
  ServiceLevelId,
} from '#core/ids.ts';
import { ORDER_KINDS } from '#core/orders/index.ts';
import { PRIORITIES } from '#core/service-levels/index.ts';
import { OFFICE, WRITERS } from '#core/people.ts';
import { contract } from './contract.ts';
import { assetRow, verdictOut } from './register.ts';
import {
  created,
  dateOut,
  done,
  idOf,
  idText,
  instantText,
  localDateText,
  longText,
  named,
  pageQuery,
  shortText,
  version,
} from './shapes.ts';

const params = v.object({ id: idText<AgreementId>() });
const percent = v.pipe(v.number(), v.integer(), v.minValue(0, 'From 0 to 100 %.'), v.maxValue(100, 'From 0 to 100 %.'));
const minor = v.pipe(
  v.number(),
  v.integer(),
  v.minValue(0, 'Not below zero.'),
  v.maxValue(1e12, 'Too large an amount.'),
);
export const shares = v.object({ labour: percent, parts: percent, consumables: percent, travel: percent });
const kinds = v.pipe(v.array(v.picklist(ORDER_KINDS)), v.minLength(1, 'Choose at least one kind of work.'));
const discounts = v.pipe(
  v.array(v.object({ element: v.picklist(COST_ELEMENTS), percent, kinds })),
  v.maxLength(20, 'At most 20 discounts.'),
);
const parts = v.pipe(v.array(shortText), v.maxLength(50, 'At most 50 parts.'));

/** What one coverage line gives. Amounts of money are whole minor units. */
export const lineTerms = v.object({
  shares,
  serviceLevelId: v.nullable(idOf<ServiceLevelId>()),
  kinds,
  excludedCauses: v.array(v.picklist(CAUSES)),
  excludedParts: parts,
  discounts,
  hours: v.nullable(
    v.object({
      calendarId: idOf<CalendarId>(),
      shareOutside: percent,
      surchargePercent: v.pipe(
        v.number(),
        v.integer(),
        v.minValue(0, 'From 0 to 300 %.'),
        v.maxValue(300, 'From 0 to 300 %.'),
      ),
    }),
  ),
  priceMinor: v.nullable(minor),
  /** Null: as long as the agreement. */
  from: v.nullable(localDateText),
  to: v.nullable(localDateText),
});
export type LineTerms = v.InferOutput<typeof lineTerms>;

export const reachIn = v.variant('kind', [
  v.object({
    kind: v.literal('assets'),
    assetIds: v.pipe(v.array(idOf<AssetId>()), v.minLength(1, 'Pick at least one asset.'), v.maxLength(500)),
  }),
  v.object({ kind: v.literal('location'), locationId: idOf<LocationId>() }),
  v.object({ kind: v.literal('class'), assetClassId: idOf<AssetClassId>() }),
  v.object({ kind: v.literal('own fleet') }),
]);

export const lineChange = v.variant('act', [
  v.object({
    act: v.literal('add'),
    reach: reachIn,
    terms: lineTerms,
    /** Meant to stand beside a line that names the same for the same days; without it that is refused, as a question. */
    alongside: v.optional(v.boolean()),
  }),
  v.object({
    act: v.literal('change'),
    lineIds: v.pipe(v.array(idOf<CoverageLineId>()), v.minLength(1), v.maxLength(500)),
    terms: v.partial(lineTerms),
  }),
  v.object({
    act: v.literal('remove'),
    lineIds: v.pipe(v.array(idOf<CoverageLineId>()), v.minLength(1), v.maxLength(500)),
  }),
]);
export type LineChange = v.InferOutput<typeof lineChange>;

/** Header fields beside name, term, notice and reminder. */
export const headerTerms = {
  renewalMode: v.picklist(RENEWAL_MODES),
  renewalMonths: v.pipe(
    v.number(),
    v.integer(),
    v.minValue(1, 'At least one month.'),
    v.maxValue(120, 'At most 120 months.'),
  ),
  managerId: v.nullable(idOf<PersonId>()),
  costCentre: v.pipe(v.string(), v.trim(), v.maxLength(40, 'At most 40 characters.')),
  currency: v.pipe(v.string(), v.regex(/^[A-Z]{3}$/, 'Three capital letters, such as EUR.')),
  priceMinor: v.nullable(minor),
  billingPer: v.picklist(BILLING_PERIODS),
  billingTiming: v.picklist(BILLING_TIMINGS),
  indexation: v.nullable(
    v.object({
      fixedPercent: v.pipe(v.number(), v.integer()),
      base: v.pipe(v.number(), v.integer()),
      values: v.pipe(
        v.array(v.object({ from: localDateText, hundredths: v.pipe(v.number(), v.integer()) })),
        v.maxLength(100, 'At most 100 values.'),
      ),
    }),
  ),
  suspendedCover: v.boolean(),
  suspendedVisits: v.boolean(),
};

export const changeLines = contract({
  method: 'PUT',
  path: '/api/agreements/:id/coverage',
  summary: 'Change the coverage of a draft',
  room: 'agreements',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: v.object({ changes: v.pipe(v.array(lineChange), v.minLength(1, 'Change something.'), v.maxLength(50)) }),
  answer: done,
});

const amendment = v.object({
  from: v.pipe(v.string(), v.maxLength(20)),
  reason: v.pipe(longText, v.minLength(1, 'Say what is amended and why.')),
  changes: v.pipe(v.array(lineChange), v.maxLength(50)),
  priceMinor: v.optional(v.nullable(minor)),
  to: v.optional(v.nullable(v.pipe(v.string(), v.maxLength(20)))),
  noticeDays: v.optional(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(730))),
  renewalMode: v.optional(headerTerms.renewalMode),
  renewalMonths: v.optional(headerTerms.renewalMonths),
});
const fieldChange = v.object({ name: v.string(), before: v.nullable(v.string()), after: v.nullable(v.string()) });
const comparison = v.object({
  header: v.array(fieldChange),
  lines: v.array(
    v.object({ label: v.string(), change: v.picklist(['added', 'removed', 'changed']), fields: v.array(fieldChange) }),
  ),
});
export type Comparison = v.InferOutput<typeof comparison>;
export const previewAmendment = contract({
  method: 'POST',
  path: '/api/agreements/:id/amendments/preview',
  summary: 'What an amendment would change; nothing is written',
  room: 'agreements',
  may: WRITERS,
  reads: ['agreements', 'register'],
  params,
  body: amendment,
  answer: v.object({
    warnings: v.array(v.string()),
    comparison,
    covers: v.array(v.object({ assetId: v.number(), tag: v.string(), before: v.string(), after: v.string() })),
    coversTotal: v.number(),
  }),
});
const amendmentIn = v.object({ version, ...amendment.entries });
export type AmendmentIn = v.InferInput<typeof amendmentIn>;
export const amend = contract({
  method: 'POST',
  path: '/api/agreements/:id/amendments',
  summary: 'Amend an agreement from a date on',
  room: 'agreements',
  may: WRITERS,
  touches: ['register', 'agreements', 'upkeep'],
  params,
  body: amendmentIn,
  answer: v.object({ version: v.number() }),
});
export const compareVersions = contract({
  method: 'GET',
  path: '/api/agreements/:id/compare',
  summary: 'Two versions of an agreement, by the days on which they held',
  room: 'agreements',
  may: OFFICE,
  reads: ['agreements'],
  params,
  query: v.object({ a: localDateText, b: localDateText }),
  answer: comparison,
});

const matrixShow = v.picklist(['all', 'no cover', 'covered twice']);
export const matrixPage = v.object({
  items: v.array(
    v.object({
      ...assetRow.entries,
      lineIds: v.array(v.number()),
      shares: v.nullable(shares),
      serviceLevel: v.nullable(v.string()),
      reach: v.nullable(v.string()),
      others: v.array(v.string()),
    }),
  ),
  next: v.nullable(v.string()),
  counts: v.object({ all: v.number(), covered: v.number(), without: v.number(), twice: v.number() }),
  on: dateOut,
  from: dateOut,
  to: dateOut,
});
export type MatrixPage = v.InferOutput<typeof matrixPage>;
export const readMatrix = contract({
  method: 'GET',
  path: '/api/agreements/:id/matrix',
  summary: 'The customer’s machines, what each is given by this agreement and by others on a day',
  room: 'agreements',
  may: 'signed in',
  reads: ['agreements', 'register'],
  params,
  query: v.object({ on: v.optional(localDateText), show: v.optional(matrixShow), ...pageQuery }),
  answer: matrixPage,
});

const allowanceIn = v.object({
  unit: v.picklist(ALLOWANCE_UNITS),
  /** Minutes for hours, else how many. */
  amount: v.pipe(v.number(), v.integer(), v.minValue(0, 'Not below zero.'), v.maxValue(1_000_000)),
  period: v.picklist(ALLOWANCE_PERIODS),
  carriesOver: v.boolean(),
});
export const setAllowances = contract({
  method: 'PUT',
  path: '/api/agreements/:id/allowances',
  summary: 'Set the counted rights of an agreement',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements'],
  params,
  body: v.object({ version, allowances: v.pipe(v.array(allowanceIn), v.maxLength(3)) }),
  answer: v.object({ version: v.number() }),
});
export const allowanceOut = v.object({
  ...allowanceIn.entries,
  id: v.number(),
  granted: v.number(),
  drawn: v.number(),
  usedUpOn: v.nullable(dateOut),
  from: dateOut,
  to: v.nullable(dateOut),
  sentence: v.string(),
  draws: v.array(
    v.object({
      orderId: v.number(),
      on: dateOut,
      amount: v.number(),
      returned: v.boolean(),
      /** First day of the period it counts in. */
      periodFrom: dateOut,
    }),
  ),
});

export const readPrice = contract({
  method: 'GET',
  path: '/api/agreements/:id/price',
  summary: 'What is billed and when: periods with their parts, and the amounts by month',
  room: 'agreements',
  may: OFFICE,
  reads: ['agreements'],
  params,
  query: v.object({
    from: v.optional(localDateText),
    months: v.optional(v.pipe(v.string(), v.regex(/^([1-9]|[1-5]\d|60)$/), v.transform(Number))),
  }),
  answer: v.object({
    currency: v.string(),
    periods: v.array(
      v.object({
        from: dateOut,
        to: dateOut,
        dueOn: dateOut,
        minor: v.number(),
        parts: v.array(v.object({ label: v.string(), minor: v.number(), held: v.number(), of: v.number() })),
      }),
    ),
    months: v.array(v.object({ month: v.string(), minor: v.number() })),
    total: v.number(),
  }),
});

export const listRenewals = contract({
  method: 'GET',
  path: '/api/renewals',
  summary: 'Agreements by the date on which notice is due',
  room: 'agreements',
  may: OFFICE,
  reads: ['agreements'],
  query: v.object({ days: v.optional(v.pipe(v.string(), v.regex(/^\d{1,3}$/), v.transform(Number))) }),
  answer: v.object({
    items: v.array(
      v.object({
        id: v.number(),
        version: v.number(),
        number: v.string(),
        name: v.string(),
        customer: named,
        stage: v.string(),
        to: dateOut,
        noticeBy: dateOut,
        mode: v.picklist(RENEWAL_MODES),
        months: v.number(),
        decision: v.nullable(v.picklist(['accepted', 'declined'])),
        manager: v.nullable(v.string()),
        currency: v.string(),
        priceMinor: v.nullable(v.number()),
        sentence: v.string(),
      }),
    ),
    today: dateOut,
  }),
});
export const decideRenewal = contract({
  method: 'POST',
  path: '/api/agreements/:id/renewal',
  summary: 'Accept a renewal with its new price, or decline it',
  room: 'agreements',
  may: WRITERS,
  touches: ['agreements', 'upkeep'],
  params,
  body: v.variant('decision', [
    v.object({
      decision: v.literal('accepted'),
      version,
      months: headerTerms.renewalMonths,
      /** Change of every price in hundredths of a percent. */
      priceChange: v.pipe(v.number(), v.integer(), v.minValue(-10_000, 'At most 100 % less.'), v.maxValue(100_000)),
      reason: longText,
    }),
    v.object({ decision: v.literal('declined'), version, reason: v.pipe(longText, v.minLength(1, 'Say why.')) }),
  ]),
  answer: v.object({ version: v.number() }),
});

export const openWork = contract({
  method: 'GET',
  path: '/api/agreements/:id/open-work',
  summary: 'Visits and orders that are open under an agreement',
  room: 'agreements',
  may: OFFICE,
  reads: ['agreements', 'orders'],
  params,
  answer: v.object({
    orders: v.array(
      v.object({ id: v.number(), title: v.string(), kind: v.string(), stage: v.string(), tag: v.string() }),
    ),
    ordersTotal: v.number(),
    heldVisits: v.number(),
  }),
});

/** When, and about what kind of work. */
const asked = {
  at: instantText,
  kind: v.picklist(ORDER_KINDS),
  cause: v.picklist(CAUSES),
  priority: v.optional(v.pipe(v.string(), v.transform(Number), v.picklist(PRIORITIES))),
  part: v.optional(v.pipe(v.string(), v.maxLength(120))),
};
export const askCover = contract({
  method: 'GET',
  path: '/api/cover',
  summary: 'The cover verdict for an asset at any instant',
  room: 'entitlement',
  may: 'signed in',
  reads: ['agreements', 'register'],
  query: v.object({ asset: idText<AssetId>(), ...asked }),
  answer: verdictOut,
});
export const askMany = contract({
  method: 'GET',
  path: '/api/cover/many',
  summary: 'The cover verdicts for all machines at a place or of a customer, those with the same answer together',
  room: 'entitlement',
  may: 'signed in',
  reads: ['agreements', 'register'],
  query: v.object({
    location: v.optional(idText<LocationId>()),
    customer: v.optional(idText<CustomerId>()),
    ...asked,
  }),
  answer: v.object({
    asked: v.number(),
    answers: v.array(
      v.object({
        verdict: verdictOut,
        machines: v.array(v.object({ id: v.number(), tag: v.string(), model: v.string(), place: v.string() })),
      }),
    ),
  }),
});

export const COVER_QUESTIONS = ['no cover', 'covered twice', 'warranty ends'] as const;
const coverQuestion = {
  question: v.picklist(COVER_QUESTIONS),
  on: localDateText,
  /** For warranties: how many days from the day asked about. */
  days: v.optional(v.pipe(v.string(), v.regex(/^\d{1,3}$/), v.transform(Number))),
  customer: v.optional(idText<CustomerId>()),
};
export const askAllCsv = contract({
  method: 'GET',
  path: '/api/cover/all.csv',
  summary: 'All machines that answer to a question about cover, as CSV',
  room: 'entitlement',
  may: 'signed in',
  query: v.object(coverQuestion),
});
export const askAll = contract({
  method: 'GET',
  path: '/api/cover/all',
  summary:
    'Which machines have no cover on a day, are covered twice, or lose their warranty without an agreement to follow',
  room: 'entitlement',
  may: 'signed in',
  reads: ['agreements', 'register'],
  query: v.object({
    ...coverQuestion,
    offset: v.optional(v.pipe(v.string(), v.regex(/^\d{1,7}$/), v.transform(Number))),
  }),
  answer: v.object({
    items: v.array(
      v.object({
        id: v.number(),
        tag: v.string(),
        model: v.string(),
        className: v.string(),
        customer: named,
        place: v.string(),
        answer: v.string(),
      }),
    ),
    total: v.number(),
    asked: v.number(),
  }),
});

const typeTerms = v.object({
  months: v.nullable(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(240))),
  noticeDays: v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(730)),
  renewalMode: v.picklist(RENEWAL_MODES),
  renewalMonths: headerTerms.renewalMonths,
  billingPer: v.picklist(BILLING_PERIODS),
  billingTiming: v.picklist(BILLING_TIMINGS),
  reminder: longText,
  shares,
  discounts,
  kinds,
  excludedCauses: v.array(v.picklist(CAUSES)),
  excludedParts: parts,
  allowances: v.pipe(v.array(allowanceIn), v.maxLength(3)),
});
export const agreementType = v.object({ id: v.number(), version: v.number(), name: v.string(), terms: typeTerms });
const agreementTypeIn = v.object({ name: shortText, terms: typeTerms });
export type AgreementTypeIn = v.InferInput<typeof agreementTypeIn>;
export type AgreementTypeOut = v.InferOutput<typeof agreementType>;
export const listAgreementTypes = contract({
  method: 'GET',
  path: '/api/agreement-types',
  summary: 'The provider’s kinds of agreement',
  room: 'agreements',
  may: OFFICE,
  reads: ['setup'],
  answer: v.object({ items: v.array(agreementType) }),
});
export const addAgreementType = contract({
  method: 'POST',
  path: '/api/agreement-types',
  summary: 'Add a kind of agreement',
  room: 'agreements',
  may: WRITERS,
  touches: ['setup'],
  body: agreementTypeIn,
  answer: created,
});
export const changeAgreementType = contract({
  method: 'PUT',
  path: '/api/agreement-types/:id',
  summary: 'Change a kind of agreement',
  room: 'agreements',
  may: WRITERS,
  touches: ['setup'],
  params: v.object({ id: idText<AgreementTypeId>() }),
  body: v.object({ version, ...agreementTypeIn.entries }),
  answer: done,
});

export const agreementPdf = contract({
  method: 'GET',
  path: '/api/agreements/:id/agreement.pdf',
  summary: 'The agreement as a document to print',
  room: 'agreements',
  may: OFFICE,
  params,
});
export const coverageCsv = contract({
  method: 'GET',
  path: '/api/agreements/:id/coverage.csv',
  summary: 'The coverage schedule: every machine covered, with what it is given',
  room: 'agreements',
  may: OFFICE,
  params,
  query: v.object({ on: v.optional(localDateText) }),
});
