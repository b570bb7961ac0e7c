// Jobs that begin by themselves: at their time every server leaves the same job, and its key lets only one stand.
import { Cron } from 'croner';
import { instant } from '#core/time/index.ts';
import type { Database } from './database.ts';
import { leaveJob, type JobKind } from './jobs.ts';

/** Begins the clock, with times in UTC; what also begins at a start is left at once. */
export async function startJobClock<Stand>(
  database: Database,
  kinds: readonly JobKind<Stand>[],
  failed: (error: unknown) => void,
): Promise<{ stop(): void }> {
  const leave = (kind: string, due: Date): Promise<number> =>
    database.transact((tx) => leaveJob(tx, kind, {}, { key: due.toISOString(), at: instant(due.getTime()) }));
  for (const { kind, atStart } of kinds) if (atStart) await leave(kind, new Date());
  const clocks = kinds.flatMap(({ kind, every }) =>
    every === undefined
      ? []
      : [
          new Cron(every.cron, { timezone: 'UTC', catch: failed }, async (self: Cron) => {
            const due = self.currentRun() ?? new Date();
            // Servers ring some milliseconds apart and mean the same minute.
            due.setUTCSeconds(0, 0);
            await leave(kind, due);
          }),
        ],
  );
  return { stop: () => clocks.forEach((clock) => clock.stop()) };
}
