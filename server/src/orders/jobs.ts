// Clocks that were derived by earlier rules are derived again.
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { deriveAgain } from './derive-again.ts';

export const derivingAgain = jobKind({
  kind: 'clocks',
  says: 'Derive clocks again that an earlier version derived',
  every: { cron: '@daily', says: 'every day at midnight UTC' },
  atStart: true,
  ask: NOTHING,
  run: async ({ database }, _ask, { now }) => `${await deriveAgain(database, now)} orders`,
});
