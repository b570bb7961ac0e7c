// Sessions and tries to sign in that count no more are cleared away.
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { sweepSessions } from '../platform/sessions.ts';
import { sweepTries } from './throttle.ts';

export const sweepingSessions = jobKind({
  kind: 'sessions',
  says: 'Clear away ended sessions and old tries to sign in',
  every: { cron: '17 * * * *', says: 'every hour' },
  ask: NOTHING,
  async run({ database }) {
    await Promise.all([sweepSessions(database), sweepTries(database)]);
    return 'cleared';
  },
});
