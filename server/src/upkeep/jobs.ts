// Keeping the plan true: worked out at a start, when a day begins, and soon after something it stands on has changed; runs that were
// left are taken up; and once a night what nothing speaks against is raised.
import { asc } from 'drizzle-orm';
import * as v from 'valibot';
import type { FastifyBaseLogger } from 'fastify';
import { asId, type PersonId } from '#core/ids.ts';
import { asZone, instant, localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import { calendar } from '../calendars/tables.ts';
import type { Db } from '../platform/database.ts';
import type { House, Person } from '../platform/http.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { leaveJob } from '../platform/jobs.ts';
import type { Going } from '../room.ts';
import { STANDS_ON } from './planning.ts';
import { onThread } from './pool.ts';
import { beginRun, runOf, runsLeft } from './runs.ts';

const PLANNING = 'plan';
/** Changes within this time are looked at together, by one server of several. */
const TOGETHER_MS = 5000;

/** Days change where the provider’s first calendar is. */
async function houseZone(db: Db): Promise<Zone> {
  const [first] = await db.select({ zone: calendar.zone }).from(calendar).orderBy(asc(calendar.id)).limit(1);
  return first?.zone ?? asZone('UTC');
}

const plannedAnew = async ({ database, config }: House, now: Instant, signal: AbortSignal, whole: boolean) => {
  const today = localDateAt(await houseZone(database.db), now);
  return `${await onThread('plan', { url: config.databaseUrl, today, whole }, signal)} schedules`;
};

/** One kind for both, so that they are never done beside each other. */
export const planning = jobKind({
  kind: PLANNING,
  says: 'Work out the visits of every schedule, or of those that something changed for',
  every: { cron: '5 * * * *', says: 'every hour, and soon after a change' },
  atStart: true,
  ask: v.object({ changed: v.optional(v.boolean(), false) }),
  run: (house, { changed }, { now, signal }) => plannedAnew(house, now, signal, !changed),
});

/** Who acts where nobody does. */
const byItself = (zone: Zone): Person => ({
  ...{ id: asId<PersonId>(0), name: 'Stavok', email: '', role: 'administrator', zone },
});

export const raisingAtNight = jobKind({
  kind: 'upkeep at night',
  says: 'Raise the visits that are due to be raised and that nothing speaks against',
  every: { cron: '15 3 * * *', says: 'every night' },
  ask: NOTHING,
  async run({ database, config }, _ask, { now, signal }) {
    const who = byItself(await houseZone(database.db));
    const today = localDateAt(who.zone, now);
    const id = await beginRun(database, { to: today, scope: {}, only: null, seen: null }, who, now, today);
    await onThread('raise', { url: config.databaseUrl, id, who }, signal);
    const { raised, wanted } = await runOf(database.db, id);
    return `${raised} of ${wanted} visits raised`;
  },
});

export const takingUpRuns = jobKind({
  kind: 'upkeep runs left',
  says: 'Take up runs whose server went down',
  every: { cron: '* * * * *', says: 'every minute' },
  ask: NOTHING,
  async run({ database, config }, _ask, { signal }) {
    const who = byItself(await houseZone(database.db));
    const left = await runsLeft(database.db);
    // What they raise is still raised for whoever began them.
    for (const { id, personId } of left)
      await onThread('raise', { url: config.databaseUrl, id, who: { ...who, id: personId ?? who.id } }, signal);
    return `${left.length} runs`;
  },
});

export function keepPlan({ live, database, ring }: House, log: FastifyBaseLogger): Going {
  const leave = live.subscribe((tags) => {
    if (!tags.some((tag) => (STANDS_ON as readonly string[]).includes(tag))) return;
    const turn = Math.floor(Date.now() / TOGETHER_MS) + 1;
    const [key, at] = [`turn ${turn}`, instant(turn * TOGETHER_MS)];
    database
      .transact((tx) => leaveJob(tx, PLANNING, { changed: true }, { key, at }))
      .then(ring, (error: unknown) => log.error({ err: error }, 'plan'));
  });
  return { stop: async () => void leave() };
}
