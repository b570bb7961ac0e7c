// The outbox on the wire: everything that left the house or is about to, and the words it is said in.
import * as v from 'valibot';
import type { MessageId } from '#core/ids.ts';
import { LANGUAGES, OUT_STATES, WAYS_OUT } from '#core/telling.ts';
import { MANAGERS, OFFICE } from '#core/people.ts';
import { contract } from './contract.ts';
import { afterId, done, idText, instantNumber, pageQuery } from './shapes.ts';

const sent = v.object({
  id: v.number(),
  kind: v.string(),
  way: v.picklist(WAYS_OUT),
  address: v.string(),
  toName: v.string(),
  subject: v.string(),
  body: v.string(),
  about: v.object({ subject: v.string(), id: v.number() }),
  state: v.picklist(OUT_STATES),
  problem: v.nullable(v.string()),
  createdAt: instantNumber,
  sentAt: v.nullable(instantNumber),
  receipt: v.nullable(v.string()),
});
export type SentOut = v.InferOutput<typeof sent>;
export const listOutbox = contract({
  method: 'GET',
  path: '/api/outbox',
  summary: 'What left the house, newest first',
  room: 'outbox',
  may: OFFICE,
  reads: ['outbox'],
  query: v.object({ state: v.optional(v.picklist(OUT_STATES)), after: afterId, limit: pageQuery.limit }),
  answer: v.object({ items: v.array(sent), next: v.nullable(v.string()), now: instantNumber }),
});
export const sendAgain = contract({
  method: 'POST',
  path: '/api/outbox/:id/send',
  summary: 'Have a message that could not be sent tried again',
  room: 'outbox',
  may: MANAGERS,
  touches: ['outbox'],
  params: v.object({ id: idText<MessageId>() }),
  answer: done,
});

const words = { subject: v.pipe(v.string(), v.maxLength(300)), body: v.pipe(v.string(), v.maxLength(8000)) };
export const listTemplates = contract({
  method: 'GET',
  path: '/api/message-templates',
  summary: 'The words of every message, in each language',
  room: 'outbox',
  may: OFFICE,
  reads: ['outbox'],
  answer: v.object({
    items: v.array(
      v.object({
        kind: v.string(),
        says: v.string(),
        places: v.array(v.string()),
        language: v.picklist(LANGUAGES),
        subject: v.string(),
        body: v.string(),
        /** 0: as it comes with the program. */
        version: v.number(),
      }),
    ),
  }),
});
export const changeTemplate = contract({
  method: 'PUT',
  path: '/api/message-templates/:kind/:language',
  summary: 'Change the words of a message; empty words put back those it comes with',
  room: 'outbox',
  may: MANAGERS,
  touches: ['outbox'],
  params: v.object({ kind: v.pipe(v.string(), v.maxLength(40)), language: v.picklist(LANGUAGES) }),
  body: v.object({ ...words, version: v.pipe(v.number(), v.integer(), v.minValue(0)) }),
  answer: v.object({ version: v.number() }),
});
