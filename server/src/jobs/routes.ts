// Jobs: looking at them, beginning one now, and having a dead one tried again.
import { and, desc, eq, inArray, lt } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/jobs.ts';
import { instant } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { leaveJob } from '../platform/jobs.ts';
import { refuse } from '../platform/refuse.ts';
import { job } from '../platform/tables.ts';
import { countDead } from './count.ts';

const PAGE = 50;
const SHOWN = { open: ['waiting', 'running'], dead: ['dead'], done: ['done'] } as const;

export const jobRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    const saysOf = new Map(house.jobs.map((k) => [k.kind, k.says]));

    serve(app, house, contracts.listJobs, async ({ query, now }) => {
      const limit = query.limit ?? PAGE;
      const [rows, dead] = await Promise.all([
        db
          .select()
          .from(job)
          .where(
            and(
              query.show ? inArray(job.state, [...SHOWN[query.show]]) : undefined,
              query.after ? lt(job.id, Number(query.after)) : undefined,
            ),
          )
          .orderBy(desc(job.id))
          .limit(limit + 1),
        countDead(db),
      ]);
      const items = rows.slice(0, limit);
      return {
        items: items.map((r) => ({ ...r, says: saysOf.get(r.kind) ?? r.kind })),
        next: rows.length > limit ? String(items[items.length - 1]?.id) : null,
        dead,
        kinds: house.jobs.map(({ kind, says, every }) => ({ kind, says, every: every?.says ?? null })),
        now,
      };
    });

    serve(app, house, contracts.beginJob, async ({ body, write }) => {
      const known = house.jobs.find((k) => k.kind === body.kind && k.every !== undefined);
      if (!known) refuse('not-found', 'That job does not begin by itself; it is left by what needs it.', 'kind');
      await write(async (tx, told) => {
        await leaveJob(tx, known.kind, {});
        told({ subject: 'job', id: 0, text: `began now: ${known.says}` });
      });
      house.ring();
      return { done: true as const };
    });

    serve(app, house, contracts.runJob, async ({ params, write }) => {
      await write(async (tx, told) => {
        const [row] = await tx.db.select().from(job).where(eq(job.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That job does not exist any more.');
        if (row.state !== 'dead')
          refuse('wrong-stage', `The job is ${row.state}; only one that failed is tried again.`);
        await tx.db
          .update(job)
          .set({ state: 'waiting', tries: 0, dueAt: instant(Date.now()), endedAt: null, problem: null })
          .where(eq(job.id, row.id));
        told({ subject: 'job', id: row.id, text: `tried again: ${saysOf.get(row.kind) ?? row.kind}` });
      });
      house.ring();
      return { done: true as const };
    });
  },
  { name: 'stavok-job-routes', dependencies: ['stavok-authentication'] },
);
