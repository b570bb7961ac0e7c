// How standing went month by month, and why promises were missed.
import { sql } from 'drizzle-orm';
import type { StandingCourse } from '#api/standing.ts';
import { daysOfMonth, monthOf, NOTHING_COUNTED, type Days, withShares, type MissCause } from '#core/standing/index.ts';
import type { Priority, Target } from '#core/service-levels/index.ts';
import { addMonths, type LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { countedClocks, figuresOf, OF_CLOCK, sumsByMonth, type CountedAt } from './counting.ts';
import { knownMonths, type AskedPeriod } from './period.ts';
import type { SummedFor } from './tables.ts';

/** So many months are drawn; the last is that of the period’s end. */
const MONTHS = 13;

export type Subject = { readonly of: SummedFor; readonly id: number };
export const ALL: Subject = { of: 'all', id: 0 };

/** What counts for a subject in months that follow each other. */
export async function monthlyFigures(
  db: Db,
  { of, id }: Subject,
  months: readonly LocalDate[],
  at: CountedAt,
): Promise<StandingCourse['months']> {
  const known = await knownMonths(db, { from: months[0] as LocalDate, to: months.at(-1) as LocalDate });
  // Of machines only what is amiss is summed.
  const isSummed = (m: LocalDate): boolean => of !== 'asset' && known.get(m)?.thirds === 3;
  const summed = months.filter(isSummed);
  const sums = await sumsByMonth(db, of, id, summed);
  const counted = await Promise.all(
    months.map(async (month) => {
      if (isSummed(month)) return sums.get(month) ?? NOTHING_COUNTED;
      const days = [{ ...daysOfMonth(month), isClosed: known.get(month)?.isClosed ?? false, isTakenOff: false }];
      return (await figuresOf(db, of, { sums: [], days }, at, [id])).get(id) ?? NOTHING_COUNTED;
    }),
  );
  return months.map((month, i) => ({
    ...{ month, isClosed: known.get(month)?.isClosed ?? false },
    ...withShares(counted[i] as typeof NOTHING_COUNTED),
  }));
}

type Miss = { cause: MissCause | null; target: Target; priority: Priority; missed: number | string };

/** Missed promises by why, the most first; as they are known now, also of closed months. */
async function causes(db: Db, { of, id }: Subject, days: Days, at: CountedAt): Promise<StandingCourse['causes']> {
  const [rows] = (await db.execute(sql`
    select c.miss_cause cause, c.target, c.priority, count(*) missed from clock c
    where ${countedClocks(days, at, sql`'missed', 'running'`)} and ${OF_CLOCK[of]} = ${id}
    group by 1, 2, 3 order by missed desc, 1, 2, 3`)) as unknown as [Miss[]];
  return rows.map((r) => ({ ...r, missed: Number(r.missed) }));
}

export async function courseOf(db: Db, subject: Subject, period: AskedPeriod): Promise<StandingCourse> {
  const last = monthOf(period.to);
  const drawn = Array.from({ length: MONTHS }, (_, i) => addMonths(last, i + 1 - MONTHS));
  const [months, why] = await Promise.all([
    monthlyFigures(db, subject, drawn, period),
    causes(db, subject, period, period),
  ]);
  return { months, causes: why };
}
