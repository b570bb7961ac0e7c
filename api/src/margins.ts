// Margins on the wire: what agreements and customers earn and cost, one agreement by month, element and machine, and its renewal.
import * as v from 'valibot';
import type { AgreementId } from '#core/ids.ts';
import { MANAGERS } from '#core/people.ts';
import { CHARGE_ELEMENTS } from '#core/settle/index.ts';
import { contract } from './contract.ts';
import { afterId, dateOut, idText, localDateText, named } from './shapes.ts';

export const MARGINS_BY = ['agreement', 'customer', 'class', 'machine'] as const;
export type MarginsBy = (typeof MARGINS_BY)[number];

/** Minor units: fees by the day, less service credits of periods that ended; what customers pay beside them; what it took; fees less what it took. */
const sums = { earned: v.number(), charged: v.number(), cost: v.number(), margin: v.number() };
export type MarginSums = v.InferOutput<v.ObjectSchema<typeof sums, undefined>>;

export const listMargins = contract({
  method: 'GET',
  path: '/api/settle/margins',
  summary: 'What agreements, customers, classes or machines earned and cost in a period, those that lose most first',
  room: 'settle',
  may: MANAGERS,
  reads: ['settle', 'agreements', 'orders', 'register', 'upkeep'],
  query: v.object({
    from: localDateText,
    to: localDateText,
    by: v.optional(v.picklist(MARGINS_BY)),
    after: afterId,
  }),
  answer: v.object({
    items: v.array(
      v.object({
        ...{ id: v.number(), name: v.string(), customer: v.nullable(named), currency: v.string(), ...sums },
        /** The margin of as many days before. */
        before: v.number(),
      }),
    ),
    next: v.nullable(v.string()),
    sums: v.array(v.object({ currency: v.string(), ...sums })),
    /** Orders done in the period that nobody approved yet: what they took is not counted. */
    notApproved: v.number(),
  }),
});
export type MarginList = v.InferOutput<typeof listMargins.answer & {}>;

export const readMargin = contract({
  method: 'GET',
  path: '/api/settle/margins/:id',
  summary: 'The margin of an agreement by month, element and machine, and what its next year may take',
  room: 'settle',
  may: MANAGERS,
  reads: ['settle', 'agreements', 'orders', 'register', 'upkeep'],
  params: v.object({ id: idText<AgreementId>() }),
  answer: v.object({
    ...{ id: v.number(), number: v.string(), name: v.string(), customer: named, currency: v.string() },
    termTo: v.nullable(dateOut),
    months: v.array(v.object({ month: v.string(), ...sums })),
    elements: v.array(v.object({ element: v.picklist(CHARGE_ELEMENTS), cost: v.number(), charged: v.number() })),
    /** Machines it covers now, the dearest first; `earned` is an even share of the fees. */
    machines: v.array(
      v.object({ id: v.number(), tag: v.string(), model: v.string(), class: v.string(), orders: v.number(), ...sums }),
    ),
    classes: v.array(v.object({ name: v.string(), machines: v.number(), ...sums })),
    record: v.object({
      ...{ failures: v.number(), machineYears: v.number(), machines: v.number(), medianCost: v.number() },
      plannedCost: v.number(),
    }),
    /** What it earns in the year from today on as it stands. */
    priceNow: v.number(),
  }),
});
export type MarginPage = v.InferOutput<typeof readMargin.answer & {}>;
