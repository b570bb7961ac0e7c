// Jobs on the wire: what goes on beside requests, for whoever looks after the installation.
import * as v from 'valibot';
import type { JobId } from '#core/ids.ts';
import { JOB_STATES } from '#core/jobs.ts';
import { ADMINISTRATORS } from '#core/people.ts';
import { contract } from './contract.ts';
import { afterId, done, idText, instantNumber, pageQuery } from './shapes.ts';

const jobOut = v.object({
  id: v.number(),
  kind: v.string(),
  says: v.string(),
  state: v.picklist(JOB_STATES),
  dueAt: instantNumber,
  startedAt: v.nullable(instantNumber),
  endedAt: v.nullable(instantNumber),
  tries: v.number(),
  progress: v.nullable(v.string()),
  problem: v.nullable(v.string()),
});
export type JobOut = v.InferOutput<typeof jobOut>;
export const listJobs = contract({
  method: 'GET',
  path: '/api/jobs',
  summary: 'Jobs: those that wait, run or failed, and what came of the last ones, newest first',
  room: 'jobs',
  may: ADMINISTRATORS,
  reads: ['jobs'],
  query: v.object({
    show: v.optional(v.picklist(['open', 'dead', 'done'])),
    after: afterId,
    limit: pageQuery.limit,
  }),
  answer: v.object({
    items: v.array(jobOut),
    next: v.nullable(v.string()),
    dead: v.number(),
    /** `every`: when it begins by itself, in words; null where it is left by what needs it. */
    kinds: v.array(v.object({ kind: v.string(), says: v.string(), every: v.nullable(v.string()) })),
    now: instantNumber,
  }),
});
export const runJob = contract({
  method: 'POST',
  path: '/api/jobs/:id/run',
  summary: 'Have a job that failed tried again now',
  room: 'jobs',
  may: ADMINISTRATORS,
  touches: ['jobs'],
  params: v.object({ id: idText<JobId>() }),
  answer: done,
});
export const beginJob = contract({
  method: 'POST',
  path: '/api/jobs',
  summary: 'Begin a job now that else begins by itself',
  room: 'jobs',
  may: ADMINISTRATORS,
  touches: ['jobs'],
  body: v.object({ kind: v.pipe(v.string(), v.maxLength(40)) }),
  answer: done,
});
