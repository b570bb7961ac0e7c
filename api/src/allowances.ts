// Counted rights on the wire: what is used, left, about to lapse, and what was done beyond them.
import * as v from 'valibot';
import { ALLOWANCE_UNITS } from '#core/entitlement/index.ts';
import { OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { afterId, dateOut, named } from './shapes.ts';

export const ALLOWANCE_STATES = ['used up', 'runs out', 'lapses', 'lasts'] as const;
export const listAllowances = contract({
  method: 'GET',
  path: '/api/settle/allowances',
  summary: 'Counted rights of agreements in force: used, left, lapsing, and what was done beyond them',
  room: 'settle',
  may: OFFICE,
  reads: ['settle', 'agreements', 'orders', 'register'],
  query: v.object({ state: v.optional(v.picklist(ALLOWANCE_STATES)), after: afterId }),
  answer: v.object({
    items: v.array(
      v.object({
        ...{ id: v.number(), agreement: named, number: v.string(), customer: named },
        ...{ unit: v.picklist(ALLOWANCE_UNITS), granted: v.number(), drawn: v.number(), carriesOver: v.boolean() },
        ...{ from: dateOut, to: v.nullable(dateOut), state: v.picklist(ALLOWANCE_STATES) },
        runsOutOn: v.nullable(dateOut),
        /** What the whole period would take at the pace so far. */
        wholePeriod: v.nullable(v.number()),
        /** Work since it was used up that the agreement did not bear for that: how many orders, and what customers pay for them. */
        beyond: v.nullable(
          v.object({
            ...{ orders: v.array(v.number()), count: v.number(), pay: v.number(), currency: v.string() },
          }),
        ),
      }),
    ),
    next: v.nullable(v.string()),
    counts: v.object({ 'used up': v.number(), 'runs out': v.number(), lapses: v.number(), lasts: v.number() }),
  }),
});
export type AllowanceList = v.InferOutput<typeof listAllowances.answer & {}>;
