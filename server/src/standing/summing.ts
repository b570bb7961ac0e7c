// Months that are over, summed once and again when something in them counts otherwise: beside requests, by whichever server does it.
import { and, inArray, isNotNull, lte, sql, type SQL } from 'drizzle-orm';
import { beginsQuarter, daysOfMonth, isOver, monthOf, monthsBetween } from '#core/standing/index.ts';
import { addMonths, type Instant, type LocalDate } from '#core/time/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { leaveJob } from '../platform/jobs.ts';
import { holds, quarterOf, todayAnywhere } from './period.ts';
import { countedIn, listed, type CountedAt } from './counting.ts';
import { standingMonth, SUMMED_FOR } from './tables.ts';

/** The job that sums months and tells what was found. */
export const SUMMING = 'standing months';

/**
 * A change on some days, told within its transaction: sums of their months hold no more. Months that go on have no sums; one that has
 * none yet is left alone, and whoever sums it first waits until this is over.
 */
export async function changedOn(tx: Tx, days: readonly LocalDate[], today: LocalDate): Promise<void> {
  const months = [...new Set(days.map(monthOf))].filter((m) => m < monthOf(today)).sort();
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

/** Writes the sums of a month as it is counted; `changes` names the state they are of. */
export async function writeSums(
  tx: Tx,
  month: LocalDate,
  { isClosed, changes, at }: { readonly isClosed: boolean; readonly changes: number; readonly at: CountedAt },
): Promise<void> {
  const days = { ...daysOfMonth(month), isClosed };
  for (const of of SUMMED_FOR) {
    const rows: SQL = countedIn(of, { days, at, only: null, amiss: of === 'asset' });
    await tx.db.execute(sql`
      insert into standing_sum (summed_for, months, month, subject_id, met, missed, owed, in_window, declined, amiss, changes)
      select ${of}, 1, ${month}, subject, sum(met), sum(missed), sum(owed), sum(in_window), sum(declined),
        sum(missed) + sum(owed) - sum(in_window), ${changes}
      from (${rows}) x group by subject having sum(met + missed + owed + declined) > 0
      on duplicate key update met = values(met), missed = values(missed), owed = values(owed),
        in_window = values(in_window), declined = values(declined), amiss = values(amiss), changes = values(changes)`);
    await tx.db.execute(
      sql`delete from standing_sum where summed_for = ${of} and months = 1 and month = ${month} and changes <> ${changes}`,
    );
  }
}

async function sumMonth(database: Database, month: LocalDate, at: CountedAt): Promise<void> {
  await database.db.execute(
    sql`insert into standing_month (month) values (${month}) on duplicate key update month = month`,
  );
  await database.transact(async (tx) => {
    const [row] = await tx.db
      .select()
      .from(standingMonth)
      .where(sql`${standingMonth.month} = ${month}`);
    if (!row || row.closedAt !== null || row.summed === row.changes) return;
    const { changes } = row;
    await writeSums(tx, month, { isClosed: false, changes, at });
    // Changed meanwhile, they do not hold, and the next turn takes them anew.
    await tx.db.execute(
      sql`update standing_month set summed = ${changes} where month = ${month} and changes = ${changes} and closed_at is null`,
    );
  }, 'the latest');
}

/** Months that are over and whose sums do not hold. */
async function monthsToSum(db: Db, today: LocalDate): Promise<LocalDate[]> {
  const first = await firstMonth(db);
  if (first === null) return [];
  const known = await db
    .select()
    .from(standingMonth)
    .where(and(lte(standingMonth.month, today)));
  const held = new Set(known.filter(holds).map((m) => m.month));
  return monthsBetween(first, addMonths(today, -1)).filter((m) => isOver(m, today) && !held.has(m));
}

/** Sums the three months of each quarter together whose sums hold and are not together yet. */
async function sumQuarters(database: Database): Promise<void> {
  const rows = new Map((await database.db.select().from(standingMonth)).map((r) => [r.month, r]));
  for (const [month, { quarterSummed }] of rows) {
    const together = beginsQuarter(month) ? quarterOf(rows, month) : null;
    if (together === null || together === quarterSummed) continue;
    const three = listed([0, 1, 2].map((n) => addMonths(month, n)));
    await database.transact(async (tx) => {
      await tx.db.execute(sql`delete from standing_sum where months = 3 and month = ${month}
        and summed_for in (${listed(SUMMED_FOR)})`);
      await tx.db.execute(sql`
        insert into standing_sum (summed_for, months, month, subject_id, met, missed, owed, in_window, declined, amiss, changes)
        select summed_for, 3, ${month}, subject_id, sum(met), sum(missed), sum(owed), sum(in_window), sum(declined), sum(amiss), 0
        from standing_sum where months = 1 and month in (${three})
          and summed_for in (${listed(SUMMED_FOR)})
        group by summed_for, subject_id`);
      // Summed anew meanwhile, they hold no more: what was put together is of before.
      await tx.db.execute(sql`update standing_month set quarter_summed = ${together} where month = ${month}
        and ${together} = (select t from (select sum(summed) t from standing_month where month in (${three})) s)`);
    }, 'the latest');
  }
}

/** Sums the months whose sums do not hold, the newest first; gives how many. */
export async function sumMonths(database: Database, now: Instant, signal?: AbortSignal): Promise<number> {
  const today = todayAnywhere(now);
  const months = (await monthsToSum(database.db, today)).reverse();
  for (const month of months) {
    if (signal?.aborted) break;
    await sumMonth(database, month, { now, today });
  }
  if (!signal?.aborted) await sumQuarters(database);
  return months.length;
}
