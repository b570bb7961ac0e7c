// Everybody's hours of a month on the wire.
import * as v from 'valibot';
import { OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { monthText, named } from './shapes.ts';

export const readMonth = contract({
  method: 'GET',
  path: '/api/time/month',
  summary: 'Everybody’s hours of a month by hours kind and kind, and what they cost',
  room: 'labour',
  may: OFFICE,
  reads: ['labour', 'setup'],
  query: v.object({ month: monthText }),
  answer: v.object({
    month: v.string(),
    currency: v.string(),
    /** Null while there is no standard card. */
    card: v.nullable(v.string()),
    items: v.array(
      v.object({
        person: named,
        craft: v.nullable(v.string()),
        /** In minutes. */
        ...{ work: v.number(), travel: v.number(), waiting: v.number() },
        ...{ normal: v.number(), outside: v.number(), night: v.number(), holiday: v.number() },
        cost: v.number(),
        /** On some day there is no rate for their craft. */
        withoutRate: v.boolean(),
      }),
    ),
  }),
});
export type HoursOfMonth = v.InferOutput<NonNullable<typeof readMonth.answer>>;
