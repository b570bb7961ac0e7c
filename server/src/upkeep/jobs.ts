// Keeping the outlook true: worked out at a start, when a day begins, and soon after something it stands on has changed.
import { asc } from 'drizzle-orm';
import type { FastifyBaseLogger } from 'fastify';
import type { Thing } from '#api/contract.ts';
import { asZone, instant, localDateAt } from '#core/time/index.ts';
import { calendar } from '../calendars/tables.ts';
import type { House } from '../platform/http.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { leaveJob } from '../platform/jobs.ts';
import type { Going } from '../room.ts';
import { onThread } from './pool.ts';

const LOOKING_OUT = 'outlook';
/** What a run stands on. */
const STANDS_ON: readonly Thing[] = ['upkeep', 'agreements', 'register', 'setup'];
/** Changes within this time are looked at together, by one server of several. */
const TOGETHER_MS = 5000;

export const lookingOut = jobKind({
  kind: LOOKING_OUT,
  says: 'Work out when each schedule next raises a visit',
  every: { cron: '5 * * * *', says: 'every hour, and soon after a change' },
  atStart: true,
  ask: NOTHING,
  async run({ database, config }, _ask, { now, signal }) {
    // Days change where the provider's first calendar is.
    const [first] = await database.db.select({ zone: calendar.zone }).from(calendar).orderBy(asc(calendar.id)).limit(1);
    const today = localDateAt(first?.zone ?? asZone('UTC'), now);
    return `${await onThread('look', { url: config.databaseUrl, today }, signal)} schedules`;
  },
});

export function keepOutlook({ live, database, ring }: House, log: FastifyBaseLogger): Going {
  const leave = live.subscribe((tags) => {
    if (!tags.some((tag) => (STANDS_ON as readonly string[]).includes(tag))) return;
    const turn = Math.floor(Date.now() / TOGETHER_MS) + 1;
    const [key, at] = [`turn ${turn}`, instant(turn * TOGETHER_MS)];
    database
      .transact((tx) => leaveJob(tx, LOOKING_OUT, {}, { key, at }))
      .then(ring, (error: unknown) => log.error({ err: error }, 'outlook'));
  });
  return { stop: async () => void leave() };
}
