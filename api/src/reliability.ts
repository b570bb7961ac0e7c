// How dependable machines were, on the wire.
import * as v from 'valibot';
import { OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { dateOut, localDateText } from './shapes.ts';

const modelReliability = v.object({
  ...{ className: v.string(), model: v.string(), machines: v.number(), failures: v.number() },
  /** Failures within thirty days after the machine was up again. */
  repeats: v.number(),
  /** Mean time between failures, and the limits of its interval of 90 %; null: none failed, or there is no limit. */
  ...{ betweenDays: v.nullable(v.number()), lowerDays: v.nullable(v.number()), upperDays: v.nullable(v.number()) },
  /** Mean time to restoration, of so many that were restored. */
  ...{ restoreMinutes: v.nullable(v.number()), restored: v.number() },
});
export type ModelReliability = v.InferOutput<typeof modelReliability>;
const failingMachine = v.object({
  ...{ assetId: v.number(), tag: v.string(), model: v.string(), customer: v.string() },
  ...{ failures: v.number(), repeats: v.number(), restoreMinutes: v.nullable(v.number()) },
});
export type FailingMachine = v.InferOutput<typeof failingMachine>;

export const readReliability = contract({
  method: 'GET',
  path: '/api/standing/reliability',
  summary: 'Mean times between failures and to restoration by model, and machines that failed again and again',
  room: 'standing',
  may: OFFICE,
  reads: ['orders', 'register', 'setup'],
  query: v.object({ from: localDateText, to: localDateText }),
  answer: v.object({
    from: dateOut,
    to: dateOut,
    models: v.array(modelReliability),
    machines: v.array(failingMachine),
  }),
});
