// What falls due under an agreement.
import * as v from 'valibot';
import { OFFICE } from '#core/people.ts';
import { contract } from '../contract.ts';
import { dateOut, localDateText } from '../shapes.ts';
import { params } from './terms.ts';

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
