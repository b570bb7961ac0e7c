// Runs that raise: begun by a person or at night, worked off in batches, each with its progress in its own transaction. Whoever carries
// one out holds its lease; a run that was left is taken up by the next server, from the last batch that stands.
import { ascending, group } from 'd3-array';
import { and, asc, desc, eq, inArray, isNull, lt, or, sql } from 'drizzle-orm';
import * as contracts from '#api/upkeep.ts';
import type { RunId, ScheduleId } from '#core/ids.ts';
import { instant, sayDate, type Instant, type LocalDate } from '#core/time/index.ts';
import { checkRunDate, type RunLeft, type RunScope, type VisitKey } from '#core/upkeep/index.ts';
import { asset } from '../assets/tables.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { keepAudit } from '../platform/audit.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { accept, CutShort, refuse, Refused } from '../platform/refuse.ts';
import { inLanes } from './in-lanes.ts';
import { keepPlanned } from './planning.ts';
import {
  countsOf,
  keyOfRow,
  nextWindow,
  proposalsNamed,
  readyOf,
  runAsk,
  withJoined,
  type Proposed,
  type RunAsk,
} from './proposals.ts';
import { absorbByRaised, raiseBatch } from './raise.ts';
import { schedulesOf } from './rows.ts';
import { schedule, upkeepRun } from './tables.ts';

export const BATCH = 1000;
const LEASE_MS = 30_000;
/** Visits a run left alone are named up to this many; all are counted. */
const LEFT_NAMED = 200;

export type RunRow = typeof upkeepRun.$inferSelect;

export type Begin = {
  readonly to: LocalDate;
  readonly scope: RunScope;
  readonly only: readonly VisitKey[] | null;
  /** The planning its person had seen. */
  readonly seen: number | null;
};

/** Writes down that a run begins. Refused: a date too far ahead. */
export async function beginRun(
  database: Database,
  { to, scope, only, seen }: Begin,
  who: Person,
  now: Instant,
  today: LocalDate,
): Promise<RunId> {
  accept(checkRunDate(to, today));
  return database.transact(async (tx) => {
    const [made] = await tx.db
      .insert(upkeepRun)
      .values({
        at: now,
        personId: who.id === 0 ? null : who.id,
        ...{ today, runTo: to, scope, only: only && [...only], seen, state: 'raising', left: [] },
      })
      .$returningId();
    await announce(tx, contracts.commitRun, []);
    return (made as { id: RunId }).id;
  });
}

class Overtaken extends Error {}

type Hold = { readonly id: RunId; readonly fence: number };

/** Takes up a run nobody works on. */
async function takeUp({ db }: Database, id: RunId): Promise<(RunRow & Hold) | null> {
  const [run] = await db.select().from(upkeepRun).where(eq(upkeepRun.id, id));
  if (!run || run.state === 'done') return null;
  const at = instant(Date.now());
  const fence = run.fence + 1;
  const [taken] = await db
    .update(upkeepRun)
    .set({ fence, leaseUntil: instant(at + LEASE_MS) })
    .where(
      and(
        eq(upkeepRun.id, id),
        eq(upkeepRun.fence, run.fence),
        or(isNull(upkeepRun.leaseUntil), lt(upkeepRun.leaseUntil, at)),
      ),
    );
  return taken.affectedRows === 1 ? { ...run, fence } : null;
}

type Noted = Parameters<ReturnType<Tx['db']['update']>['set']>[0];

/** Writes down how far it came; throws when somebody else has taken it up. */
async function note(tx: Tx, { id, fence }: Hold, more: Noted): Promise<void> {
  const [held] = await tx.db
    .update(upkeepRun)
    .set({ leaseUntil: instant(Date.now() + LEASE_MS), ...more })
    .where(and(eq(upkeepRun.id, id), eq(upkeepRun.fence, fence), eq(upkeepRun.state, 'raising')));
  if (held.affectedRows === 0) throw new Overtaken(`run ${id} was taken up by another server`);
}

const leftOf = ({ scheduleId, nominal, part, tag, jobPlan }: Proposed, reason: string): RunLeft => ({
  ...{ scheduleId, nominal, part, tag, jobPlan, reason },
});

/** Why one that was ticked is not raised now. */
function keptBack({ standing, exceptions, reason, until }: Proposed): string | null {
  if (standing === 'ready') return null;
  if (standing === 'held') return `held${until ? ` until ${sayDate(until)}` : ''}: ${reason ?? ''}`;
  return `to be decided: ${exceptions
    .filter((e) => e.level !== 'tells')
    .map((e) => e.text)
    .join('; ')}`;
}

/** Rows written after a person had looked are not what they saw. */
const unseen = (row: Proposed, seen: number | null): boolean => seen !== null && row.written > seen;
const CHANGED = 'it changed since you looked; look at it again';

/** Of those ticked, the ones that are proposed no more. */
async function goneOf(db: Db, rows: readonly Proposed[], only: readonly VisitKey[]): Promise<RunLeft[]> {
  const known = new Set(rows.map(keyOfRow));
  const gone = only.filter((k) => !known.has(keyOfRow(k)));
  if (gone.length === 0) return [];
  const names = await db
    .select({ id: schedule.id, tag: asset.tag, jobPlan: jobPlan.name })
    .from(schedule)
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .where(inArray(schedule.id, [...new Set(gone.map((k) => k.scheduleId))]));
  return gone.map((k) => {
    const named = names.find((n) => n.id === k.scheduleId);
    const reason = 'it is proposed no more: raised or let go meanwhile, or owed no longer';
    return { ...k, tag: named?.tag ?? '', jobPlan: named?.jobPlan ?? '', reason };
  });
}

/** Counts up what a lot came to and names what it left; throws when somebody else has taken the run up. */
async function noteLot(tx: Tx, run: RunRow, raised: number, more: readonly RunLeft[]): Promise<void> {
  await note(tx, run, {
    raised: sql`${upkeepRun.raised} + ${raised}`,
    leftCount: sql`${upkeepRun.leftCount} + ${more.length}`,
  });
  if (more.length === 0) return;
  const [held] = await tx.db.select({ left: upkeepRun.left }).from(upkeepRun).where(eq(upkeepRun.id, run.id));
  await note(tx, run, { left: [...(held?.left ?? []), ...more].slice(0, LEFT_NAMED) });
}

type Working = { readonly database: Database; readonly run: RunRow; readonly who: Person; readonly ask: RunAsk };

/** Raises one lot in a transaction of its own, which also notes how far the run came: a run that is cut has left its note. */
async function raiseLot({ database, run, who, ask }: Working, lot: readonly Proposed[]): Promise<void> {
  const fresh = lot.filter((row) => !unseen(row, run.seen));
  const before = lot.filter((row) => unseen(row, run.seen)).map((row) => leftOf(row, CHANGED));
  await database.transact(async (tx) => {
    const { raised, left } = await raiseBatch(tx, fresh, ask, run.id, who, run.at);
    const more = [...before, ...left.map((l) => leftOf(l.row, l.reason))];
    await keepAudit(tx, who, 'upkeep run', run.id, `run to ${sayDate(run.runTo)}: ${raised} visits raised`);
    await announce(tx, contracts.commitRun, schedulesOf(fresh));
    // Last: until the commit nobody else can write to the run’s row.
    await noteLot(tx, run, raised, more);
  });
}

const byDue = (a: Proposed, b: Proposed): number => ascending(a.due, b.due);

/** In the order given, those of one order always in one lot. */
async function inLots(working: Working, rows: readonly Proposed[]): Promise<void> {
  let lot: Proposed[] = [];
  for (const order of group(rows, (row) => row.joined ?? keyOfRow(row)).values()) {
    if (lot.length > 0 && lot.length + order.length > BATCH) {
      await raiseLot(working, lot);
      lot = [];
    }
    lot.push(...order);
  }
  if (lot.length > 0) await raiseLot(working, lot);
}

/** Those that a person ticked: what is not ready of them is named with what it waits for. */
async function raiseTicked(working: Working, only: readonly VisitKey[]): Promise<void> {
  const { database, run, ask } = working;
  const rows = await proposalsNamed(database.db, ask, only);
  const why = (row: Proposed): string | null => (unseen(row, run.seen) ? CHANGED : keptBack(row));
  const ready = rows.filter((r) => why(r) === null);
  const left = [
    ...rows.flatMap((r) => {
      const reason = why(r);
      return reason === null ? [] : [leftOf(r, reason)];
    }),
    ...(await goneOf(database.db, rows, only)),
  ];
  await database.transact(async (tx) => {
    await note(tx, run, { wanted: Math.max(run.wanted, run.raised + ready.length) });
    // Taken up again it would name them twice.
    if (run.leftCount === 0) await noteLot(tx, run, 0, left);
  });
  await inLots(working, ready.sort(byDue));
}

/**
 * Everything that is ready. First what draws on something counted, by due date, for what an earlier one draws is missing for a
 * later one; then the rest by schedule, where no visit hangs on another.
 */
async function raiseAllReady(working: Working): Promise<void> {
  const { database, run, ask } = working;
  const { db } = database;
  const { beyond } = ask;
  const { ready } = await countsOf(db, ask);
  await database.transact((tx) => note(tx, run, { wanted: Math.max(run.wanted, run.raised + ready) }));
  const counted = new Set(beyond.counted.map(keyOfRow));
  for (let i = 0; i < beyond.counted.length; i += BATCH) {
    const some = await proposalsNamed(db, ask, beyond.counted.slice(i, i + BATCH));
    const lot = await withJoined(
      db,
      ask,
      some.filter((row) => row.standing === 'ready'),
    );
    await inLots(working, lot.sort(byDue));
  }
  const next = async (after: ScheduleId) => {
    const lot = await nextWindow(db, ask, after);
    const mark = lot?.at(-1);
    return lot && mark !== undefined ? { lot, mark } : null;
  };
  await inLanes(0 as ScheduleId, next, async (ids) => {
    const rows = await readyOf(db, ask, ids);
    await inLots(
      working,
      rows.filter((row) => !counted.has(keyOfRow(row))),
    );
  });
}

async function workOff(database: Database, run: RunRow, who: Person): Promise<void> {
  const { db } = database;
  await keepPlanned(database, { today: run.today, to: run.runTo });
  const ask = await runAsk(db, { to: run.runTo, today: run.today, scope: run.scope });
  await database.transact(async (tx) => {
    await note(tx, run, {});
    await absorbByRaised(tx, run.runTo);
  });
  const working = { database, run, who, ask };
  await (run.only ? raiseTicked(working, run.only) : raiseAllReady(working));
}

/** Whoever comes next may go on at once; what stands is told. */
async function cutShort(db: Db, { id, fence }: Hold, error: unknown): Promise<unknown> {
  await db
    .update(upkeepRun)
    .set({ leaseUntil: null })
    .where(and(eq(upkeepRun.id, id), eq(upkeepRun.fence, fence)));
  const { raised, wanted } = await runOf(db, id);
  if (raised === 0 || error instanceof Refused) return error;
  const text = `The run was cut short: ${raised} of ${wanted} visits are raised, and stand. It goes on with the rest within a minute; or start it again.`;
  return new CutShort(text, error);
}

/** Carries a run out, or what is left of it. Nothing happens where somebody else does or it is done. */
export async function carryOutRun(database: Database, id: RunId, who: Person): Promise<void> {
  const run = await takeUp(database, id);
  if (!run) return;
  try {
    await workOff(database, run, who);
    await database.transact(async (tx) => {
      await note(tx, run, { state: 'done', leaseUntil: null, endedAt: instant(Date.now()) });
      await announce(tx, contracts.commitRun, []);
    });
  } catch (error) {
    if (error instanceof Overtaken) return;
    throw await cutShort(database.db, run, error);
  }
}

/** Runs that nobody carries out: their server went down. */
export async function runsLeft(db: Db): Promise<RunRow[]> {
  return db
    .select()
    .from(upkeepRun)
    .where(
      and(
        eq(upkeepRun.state, 'raising'),
        or(isNull(upkeepRun.leaseUntil), lt(upkeepRun.leaseUntil, instant(Date.now()))),
      ),
    )
    .orderBy(asc(upkeepRun.id))
    .limit(20);
}

export async function runOf(db: Db, id: RunId): Promise<RunRow> {
  const [run] = await db.select().from(upkeepRun).where(eq(upkeepRun.id, id));
  if (!run) refuse('not-found', 'There is no such run.');
  return run;
}

/** The last runs, newest first. */
export const lastRuns = (db: Db, limit: number): Promise<RunRow[]> =>
  db.select().from(upkeepRun).orderBy(desc(upkeepRun.id)).limit(limit);
