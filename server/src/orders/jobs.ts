// What earlier versions derived otherwise, or not at all, is derived again.
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { keepMissingCourses } from './courses.ts';
import { deriveAgain, DERIVING } from './derive-again.ts';
import { warnOfPromises } from './warnings.ts';

export const derivingAgain = jobKind({
  kind: DERIVING,
  says: 'Derive clocks again that an earlier version derived, or whose calendar is open otherwise now',
  every: { cron: '@daily', says: 'every day at midnight UTC' },
  atStart: true,
  ask: NOTHING,
  run: async ({ database }, _ask, working) => {
    const orders = await deriveAgain(database, working.now, (done, left) =>
      working.progress(`${done} orders, ${left} clocks to go`),
    );
    return `${orders} orders`;
  },
});

export const warning = jobKind({
  kind: 'promise warnings',
  says: 'Warn of promises that run short or are missed, as their service levels say',
  every: { cron: '* * * * *', says: 'every minute' },
  atStart: true,
  ask: NOTHING,
  run: async ({ database }, _ask, { now }) => `${await warnOfPromises(database, now)} told`,
});

export const keepingCourses = jobKind({
  kind: 'courses',
  says: 'Keep how orders went that were done before that was kept',
  every: { cron: '@daily', says: 'every day at midnight UTC' },
  atStart: true,
  ask: NOTHING,
  run: async ({ database }) => `${await keepMissingCourses(database)} orders`,
});
