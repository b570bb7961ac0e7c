// Proposed rotas are worked out beside requests; one that fails says so on itself.
import { and, eq } from 'drizzle-orm';
import * as v from 'valibot';
import { proposePlan } from '#api/rota-plans.ts';
import type { RotaPlanId } from '#core/ids.ts';
import { refusal } from '#core/refusal.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { announce } from '../platform/live.ts';
import { onThreads } from '../platform/threads.ts';
import { PLANNING_ROTA } from './plans.ts';
import { forgetPositions } from './seen.ts';
import { rotaPlan } from './tables.ts';
import type * as thread from './thread.ts';

const onThread = onThreads<Pick<typeof thread, 'plan'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'So much cannot be planned at once; choose fewer days or one depot.', 'days'),
);

export const planningRota = jobKind({
  kind: PLANNING_ROTA,
  says: 'Work out a rota that somebody asked for',
  ask: v.object({ id: v.number() }),
  run: ({ config, readNow }, { id }, { signal }) =>
    onThread('plan', { url: config.databaseUrl, id: id as RotaPlanId, now: readNow() }, signal),
  async died({ database }, { id }, reason) {
    await database.transact(async (tx) => {
      await tx.db
        .update(rotaPlan)
        .set({ state: 'failed', problem: reason.slice(0, 500) })
        .where(and(eq(rotaPlan.id, id as RotaPlanId), eq(rotaPlan.state, 'working')));
      await announce(tx, proposePlan, [{ subject: 'rota plan', id }]);
    });
  },
});

export const forgettingPositions = jobKind({
  kind: 'positions',
  says: 'Forget where people said to be a week ago',
  every: { cron: '20 2 * * *', says: 'every night' },
  ask: NOTHING,
  run: async ({ database, readNow }) => `${await forgetPositions(database, readNow())} positions`,
});
