// Thirds of months that are over, summed once and again when something in them counts otherwise: beside requests, by whichever server
// does it.
import { and, eq, inArray, isNotNull, isNull, sql, type SQL } from 'drizzle-orm';
import {
  beginsQuarter,
  daysOfThirds,
  monthOf,
  monthsBetween,
  thirdOf,
  thirdsOver,
  type Thirds,
} from '#core/standing/index.ts';
import { addMonths, type Instant, type LocalDate } from '#core/time/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { leaveJob } from '../platform/jobs.ts';
import { holds, quarterOf, todayAnywhere } from './period.ts';
import { added, eachSummed, listed, SUMMED_COLUMNS, summedRows, type CountedAt } from './counting.ts';
import { standingMonth, SUMMED_FOR } from './tables.ts';

/** The job that sums months and tells what was found. */
export const SUMMING = 'standing months';

/** So many months are summed at once: as many as a small machine has cores. */
const AT_ONCE = 2;

async function eachAtOnce<T>(all: readonly T[], work: (one: T) => Promise<void>, signal?: AbortSignal): Promise<void> {
  const left = all.values();
  const next = async (): Promise<void> => {
    for (const one of left) {
      if (signal?.aborted) return;
      await work(one);
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, next));
}

/**
 * A change on some days, told within its transaction: sums of their months hold no more. A third that goes on has no sums; a month that
 * has none yet is left alone, and whoever sums it first waits until this is over.
 */
export async function changedOn(tx: Tx, days: readonly LocalDate[], today: LocalDate): Promise<void> {
  // A day before a third is summed at the soonest, so that what is begun before is over by then.
  const isBehind = (day: LocalDate): boolean => daysOfThirds(monthOf(day), thirdOf(day)).to < today;
  const months = [...new Set(days.filter(isBehind).map(monthOf))].sort();
  if (months.length === 0) return;
  await tx.db
    .update(standingMonth)
    .set({ changes: sql`${standingMonth.changes} + 1` })
    .where(inArray(standingMonth.month, months));
  const closed = await tx.db.$count(
    standingMonth,
    and(inArray(standingMonth.month, months), isNotNull(standingMonth.closedAt)),
  );
  // What is found in a closed month is told at once, not at the next turn.
  if (closed > 0) await leaveJob(tx, SUMMING, {});
}

/** Every sum of every month is to be taken anew. */
export async function changedEverywhere(tx: Tx): Promise<void> {
  await tx.db.update(standingMonth).set({ changes: sql`${standingMonth.changes} + 1` });
}

/** The first month in which anything counts; null: nothing ever did. */
export async function firstMonth(db: Db): Promise<LocalDate | null> {
  const [rows] = (await db.execute(sql`select least(
      coalesce((select min(due_on) from clock where state in ('met', 'missed', 'running')), '9999-12-31'),
      coalesce((select min(window_to) from visit where state in ('raised', 'declined')), '9999-12-31')) first`)) as unknown as [
    { first: LocalDate }[],
  ];
  const first = rows[0]?.first ?? null;
  return first === null || first.startsWith('9999') ? null : monthOf(first);
}

type Summing = {
  /** Whether there were sums of it before, of which some may have to go. */
  readonly isAnew: boolean;
  readonly isClosed: boolean;
  readonly thirds: Exclude<Thirds, 0>;
  /** Names the state they are of. */
  readonly changes: number;
  readonly at: CountedAt;
};

/** Writes the sums of a month’s first thirds as they are counted. */
export async function writeSums(tx: Tx, month: LocalDate, of: Summing): Promise<void> {
  const { isAnew, thirds, changes, at } = of;
  const days = { ...daysOfThirds(month, thirds), isClosed: of.isClosed };
  // Everything has a depot or is of those that have none, so that the whole is the sum of what was written of depots just before.
  const ofDepots = sql`select 0, ${eachSummed((n) => `${added(n)} ${n}`)} from standing_sum
    where summed_for = 'depot' and months = 1 and month = ${month} having count(*) > 0`;
  for (const subject of SUMMED_FOR) {
    const rows = subject === 'all' ? ofDepots : summedRows(subject, days, at);
    await tx.db.execute(sql`
      insert into standing_sum (summed_for, months, month, changes, amiss, subject_id, ${SUMMED_COLUMNS})
      select ${subject}, 1, ${month}, ${changes}, missed + owed - in_window, x.* from (${rows}) x
      on duplicate key update amiss = values(amiss), changes = values(changes), ${eachSummed((n) => `${n} = values(${n})`)}`);
    if (isAnew)
      await tx.db.execute(sql`
        delete from standing_sum where summed_for = ${subject} and months = 1 and month = ${month} and changes <> ${changes}`);
  }
}

type MonthToSum = { readonly month: LocalDate; readonly thirds: Exclude<Thirds, 0> };

class ClosedMeanwhile extends Error {}

async function sumMonth(database: Database, { month, thirds }: MonthToSum, at: CountedAt): Promise<void> {
  await database.db.execute(
    sql`insert into standing_month (month) values (${month}) on duplicate key update month = month`,
  );
  const sum = database.transact(async (tx) => {
    const [row] = await tx.db.select().from(standingMonth).where(eq(standingMonth.month, month));
    if (!row || !isToSum(row, thirds)) return;
    const { changes } = row;
    await writeSums(tx, month, { isAnew: row.summed !== null, isClosed: false, thirds, changes, at });
    // Changed meanwhile, they do not hold, and the next turn takes them anew; closed meanwhile, they are those of its closing.
    const [{ affectedRows }] = await tx.db
      .update(standingMonth)
      .set({ summed: changes, thirds })
      .where(and(eq(standingMonth.month, month), isNull(standingMonth.closedAt)));
    if (affectedRows === 0) throw new ClosedMeanwhile();
  }, 'the latest');
  await sum.catch((e: unknown) => {
    if (!(e instanceof ClosedMeanwhile)) throw e;
  });
}

/** Whether as many thirds of a month as are over are to be summed, for the first time or anew. */
const isToSum = (row: typeof standingMonth.$inferSelect, over: Thirds): boolean =>
  row.closedAt === null && (!holds(row) || row.thirds < over);

/** Months of which thirds are over that are not summed, or whose sums do not hold. */
async function monthsToSum(db: Db, today: LocalDate): Promise<MonthToSum[]> {
  const first = await firstMonth(db);
  if (first === null) return [];
  const known = new Map((await db.select().from(standingMonth)).map((m) => [m.month, m]));
  return monthsBetween(first, today).flatMap((month) => {
    const thirds = thirdsOver(month, today);
    const row = known.get(month);
    return thirds !== 0 && (row === undefined || isToSum(row, thirds)) ? [{ month, thirds }] : [];
  });
}

/** Quarters whose three months’ sums hold and are not together yet, by their first month, with what they have summed. */
async function quartersToSum(db: Db): Promise<Quarter[]> {
  const rows = new Map((await db.select().from(standingMonth)).map((r) => [r.month, r]));
  return [...rows.values()].flatMap(({ month, quarterSummed }) => {
    const together = beginsQuarter(month) ? quarterOf(rows, month) : null;
    return together === null || together === quarterSummed ? [] : [{ month, together, isAnew: quarterSummed !== null }];
  });
}

export type Quarter = { readonly month: LocalDate; readonly together: number; readonly isAnew: boolean };

/** What the three months of a quarter have summed, added up: rows of what is summed, a subject, its amiss and its figures. */
export const summedByQuarter = (month: LocalDate): SQL => sql`
  select summed_for, subject_id, ${sql.raw(`${added('amiss')} amiss`)}, ${eachSummed((n) => `${added(n)} ${n}`)}
  from standing_sum where months = 1 and month in (${listed([0, 1, 2].map((n) => addMonths(month, n)))})
    and summed_for in (${listed(SUMMED_FOR)}) group by summed_for, subject_id`;

/** Writes what the months of a quarter have together. */
export async function writeQuarter(tx: Tx, { month, together, isAnew }: Quarter): Promise<void> {
  if (isAnew)
    await tx.db.execute(
      sql`delete from standing_sum where months = 3 and month = ${month} and summed_for in (${listed(SUMMED_FOR)})`,
    );
  await tx.db.execute(sql`
    insert into standing_sum (months, month, changes, summed_for, subject_id, amiss, ${SUMMED_COLUMNS})
    select 3, ${month}, 0, x.* from (${summedByQuarter(month)}) x
    on duplicate key update amiss = values(amiss), ${eachSummed((n) => `${n} = values(${n})`)}`);
  // Where a month was summed anew meanwhile, they do not hold.
  await tx.db.update(standingMonth).set({ quarterSummed: together }).where(eq(standingMonth.month, month));
}

/** Sums the months whose sums do not hold, the newest first; gives how many. */
export async function sumMonths(database: Database, now: Instant, signal?: AbortSignal): Promise<number> {
  const today = todayAnywhere(now);
  const months = (await monthsToSum(database.db, today)).reverse();
  await eachAtOnce(months, (month) => sumMonth(database, month, { now, today }), signal);
  const quarters = signal?.aborted ? [] : await quartersToSum(database.db);
  await eachAtOnce(quarters, (q) => database.transact((tx) => writeQuarter(tx, q), 'the latest'), signal);
  return months.length;
}
