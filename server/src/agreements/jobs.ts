// What agreements do by themselves: renew, end, and tell those who look after them.
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { sweepRenewals } from './renewals.ts';

export const renewing = jobKind({
  kind: 'renewals',
  says: 'Renew or end agreements whose day has come, and tell their managers in time',
  every: { cron: '*/10 * * * *', says: 'every ten minutes' },
  atStart: true,
  ask: NOTHING,
  async run({ database }, _ask, { now }) {
    const { renewed, ended, told } = await sweepRenewals(database, now);
    return `${renewed} renewed, ${ended} ended, ${told} told`;
  },
});
