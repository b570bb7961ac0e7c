// Sums of months, held against what they are the sums of: promises and visits as they stand, or as they were closed.
import { asc, between, eq, gt, sql } from 'drizzle-orm';
import { beginsQuarter, daysOfThirds, type Days } from '#core/standing/index.ts';
import { addMonths, type LocalDate } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import type { DerivedRows } from '../platform/derived.ts';
import { listed, SUMMED_COLUMNS, summedRows, type CountedAt } from './counting.ts';
import { holds, numberOfMonth, quarterOf, todayAnywhere } from './period.ts';
import { summedByQuarter, writeQuarter, writeSums, type Quarter } from './summing.ts';
import { standingMonth, SUMMED_FOR, type SummedFor } from './tables.ts';

const monthOfNumber = (n: number): LocalDate =>
  `${Math.floor(n / 100)}-${String(n % 100).padStart(2, '0')}-01` as LocalDate;

/** How many subjects have another sum than they should. */
async function differing(
  tx: Tx,
  of: SummedFor,
  month: LocalDate,
  days: Days & { isClosed: boolean },
  at: CountedAt,
): Promise<number> {
  const held = sql`select subject_id subject, ${SUMMED_COLUMNS} from standing_sum
    where summed_for = ${of} and months = 1 and month = ${month}`;
  const [[row]] = (await tx.db.execute(sql`
    select count(*) n from (
      select subject, ${SUMMED_COLUMNS}, count(*) times
      from ((${summedRows(of, days, at)}) union all (${held})) both_of_them
      group by subject, ${SUMMED_COLUMNS} having times <> 2) apart`)) as unknown as [[{ n: string | number }]];
  return Number(row.n);
}

/** How many sums of a quarter are not what its months have together. */
async function differingQuarter(tx: Tx, month: LocalDate): Promise<number> {
  const held = sql`select summed_for, subject_id, amiss, ${SUMMED_COLUMNS} from standing_sum
    where months = 3 and month = ${month} and summed_for in (${listed(SUMMED_FOR)})`;
  const [[row]] = (await tx.db.execute(sql`
    select count(distinct summed_for, subject_id) n from (
      select summed_for, subject_id, count(*) times from ((${summedByQuarter(month)}) union all (${held})) both_of_them
      group by summed_for, subject_id, amiss, ${SUMMED_COLUMNS} having times <> 2) apart`)) as unknown as [
    [{ n: string | number }],
  ];
  return Number(row.n);
}

/** The quarter that begins with a month, where its sums hold. */
async function quarterHeld(
  tx: Tx,
  { month, quarterSummed }: typeof standingMonth.$inferSelect,
): Promise<Quarter | null> {
  if (quarterSummed === null || !beginsQuarter(month)) return null;
  const rows = await tx.db
    .select()
    .from(standingMonth)
    .where(between(standingMonth.month, month, addMonths(month, 2)));
  const together = quarterOf(new Map(rows.map((r) => [r.month, r])), month);
  return together === quarterSummed ? { month, together, isAnew: true } : null;
}

export const standingDerived: DerivedRows = {
  what: 'standing months',
  async look(tx, after, now, mend) {
    const later = after === 0 ? undefined : gt(standingMonth.month, monthOfNumber(after));
    const [row] = await tx.db.select().from(standingMonth).where(later).orderBy(asc(standingMonth.month)).limit(1);
    if (!row) return { last: null, seen: 0, differing: [] };
    const { month } = row;
    const last = numberOfMonth(month);
    // What does not hold is read by nobody, and summed anew by the job.
    if (!holds(row)) return { last, seen: 1, differing: [] };
    const at = { now, today: todayAnywhere(now) };
    const { thirds } = row;
    if (thirds === 0) return { last, seen: 1, differing: [] };
    const isClosed = row.closedAt !== null;
    const days = { ...daysOfThirds(month, thirds), isClosed };
    const wrong: string[] = [];
    for (const of of SUMMED_FOR) {
      const n = await differing(tx, of, month, days, at);
      if (n > 0) wrong.push(`${month.slice(0, 7)}: sums of ${n} of ${of} are not what is counted`);
    }
    if (mend && wrong.length > 0) {
      const changes = row.changes + 1;
      await writeSums(tx, month, { isAnew: true, isClosed, thirds, changes, at });
      await tx.db.update(standingMonth).set({ changes, summed: changes }).where(eq(standingMonth.month, month));
    }
    const quarter = await quarterHeld(tx, row);
    if (quarter) {
      const n = await differingQuarter(tx, month);
      if (n > 0) wrong.push(`${month.slice(0, 7)}: ${n} sums of its quarter are not what its months have`);
      if (mend && n > 0) await writeQuarter(tx, quarter);
    }
    return { last, seen: 1, differing: wrong };
  },
};
