// Jobs that were done long ago are cleared away; dead ones stay until somebody looked.
import { and, eq, lt } from 'drizzle-orm';
import { DAY, instant } from '#core/time/index.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { job } from '../platform/tables.ts';

const KEPT_DAYS = 3;

export const sweepingJobs = jobKind({
  kind: 'jobs',
  says: 'Clear away jobs that were done more than three days ago',
  every: { cron: '40 2 * * *', says: 'every day at 02:40 UTC' },
  ask: NOTHING,
  async run({ database }) {
    const [gone] = await database.db
      .delete(job)
      .where(and(eq(job.state, 'done'), lt(job.endedAt, instant(Date.now() - KEPT_DAYS * DAY))));
    return `${gone.affectedRows} cleared`;
  },
});
