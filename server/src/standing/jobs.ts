// Keeping sums of months that are over, and telling what turned out otherwise in closed ones.
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { adjustClosed } from './closing.ts';
import { sumMonths, SUMMING } from './summing.ts';

export const summing = jobKind({
  kind: SUMMING,
  says: 'Sum months that are over, and tell what counts otherwise in those that are closed',
  every: { cron: '*/5 * * * *', says: 'every five minutes' },
  atStart: true,
  ask: NOTHING,
  async run({ database }, _ask, { now, signal }) {
    const adjusted = await adjustClosed(database, now);
    const summed = await sumMonths(database, now, signal);
    return `${summed} months summed, ${adjusted} adjustments`;
  },
});
