// Counted rights of an agreement.
import * as v from 'valibot';
import { ALLOWANCE_PERIODS, ALLOWANCE_UNITS } from '#core/entitlement/index.ts';
import { WRITERS } from '#core/people.ts';
import { contract } from '../contract.ts';
import { dateOut, version } from '../shapes.ts';
import { params } from './terms.ts';

export const allowanceIn = v.object({
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
