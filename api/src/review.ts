// The review of an agreement on the wire: standing, cost, machines in trouble, and what the figures speak for.
import * as v from 'valibot';
import type { AgreementId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { PROPOSALS } from '#core/standing/index.ts';
import { contract, type Answer } from './contract.ts';
import { dateOut, idText, instantNumber, localDateText, named } from './shapes.ts';
import { course, figures, pledge } from './standing.ts';

export const readReview = contract({
  method: 'GET',
  path: '/api/standing/review/:id',
  summary:
    'The review of an agreement over a period: standing, pledges, machines in trouble, proposals; cost for those who see margins',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'upkeep', 'register', 'agreements', 'settle', 'setup'],
  params: v.object({ id: idText<AgreementId>() }),
  query: v.object({ from: localDateText, to: localDateText }),
  answer: v.object({
    ...{ id: v.number(), number: v.string(), name: v.string(), customer: named, currency: v.string() },
    ...{ from: dateOut, to: dateOut, now: instantNumber },
    ...{ termFrom: dateOut, termTo: v.nullable(dateOut), noticeBy: v.nullable(dateOut) },
    total: v.object(figures),
    before: v.object({ from: dateOut, to: dateOut, ...figures }),
    ...course,
    pledges: v.array(pledge),
    /** Null: for managers. Minor units. */
    money: v.nullable(v.object({ earned: v.number(), cost: v.number() })),
    /** So many it covers; of those that trouble, the worst first. */
    machines: v.number(),
    troubled: v.array(
      v.object({
        ...{ id: v.number(), tag: v.string(), model: v.string(), place: v.string() },
        ...{ commissioned: v.nullable(dateOut), failures: v.number(), repeats: v.number(), downMinutes: v.number() },
        ...{ cost: v.nullable(v.number()), earned: v.nullable(v.number()) },
      }),
    ),
    proposals: v.array(
      v.object({
        kind: v.picklist(PROPOSALS),
        machine: v.nullable(v.object({ id: v.number(), tag: v.string() })),
        because: v.string(),
      }),
    ),
  }),
});
export type ReviewPage = Answer<typeof readReview>;
