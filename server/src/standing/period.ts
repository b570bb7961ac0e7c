// The period that is asked about, and what of it is summed or closed already.
import { between } from 'drizzle-orm';
import { daysOfMonth, monthOf, piecesOf, type Days, type MonthKnown, type Pieces } from '#core/standing/index.ts';
import { addDays, startOfDay, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { standingMonth } from './tables.ts';

/** Days of each place's own, both included, as people say it; the zone is the reader's. */
export type AskedPeriod = Days & { readonly zone: Zone; readonly now: Instant; readonly today: LocalDate };

/** The period as instants, by the reader's days: for what is no promise and has no place. */
export const instantsOf = (p: AskedPeriod): { from: Instant; to: Instant } => ({
  from: startOfDay(p.zone, p.from),
  to: startOfDay(p.zone, addDays(p.to, 1)),
});

const UNKNOWN: MonthKnown = { isSummed: false, isClosed: false };

/** What is known of the months of a period; of those not named nothing is. */
export async function knownMonths(db: Db, { from, to }: Days): Promise<ReadonlyMap<LocalDate, MonthKnown>> {
  const rows = await db
    .select()
    .from(standingMonth)
    .where(between(standingMonth.month, monthOf(from), daysOfMonth(monthOf(to)).to));
  return new Map(
    rows.map((r) => [
      r.month,
      { isSummed: r.summed !== null && (r.closedAt !== null || r.summed === r.changes), isClosed: r.closedAt !== null },
    ]),
  );
}

/** The stretches of a period that are closed and those that are open, with nothing of it summed. */
export async function daysApart(db: Db, days: Days): Promise<Pieces> {
  const known = await knownMonths(db, days);
  return piecesOf(days, (month) => ({ isSummed: false, isClosed: known.get(month)?.isClosed ?? false }));
}

/** What of a period is summed, and what is to be counted, as it is known now. */
export async function takenApart(db: Db, days: Days): Promise<Pieces> {
  const known = await knownMonths(db, days);
  return piecesOf(days, (month) => known.get(month) ?? UNKNOWN);
}
