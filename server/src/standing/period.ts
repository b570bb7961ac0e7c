// The period that is asked about, and what of it is summed or closed already.
import { between } from 'drizzle-orm';
import { daysOfMonth, monthOf, piecesOf, type Days, type MonthKnown, type Pieces } from '#core/standing/index.ts';
import {
  addDays,
  addMonths,
  asZone,
  daysBetween,
  localDateAt,
  startOfDay,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { standingMonth } from './tables.ts';

/** Days of each place's own, both included, as people say it; the zone is the reader's. */
export type AskedPeriod = Days & { readonly zone: Zone; readonly now: Instant; readonly today: LocalDate };

/** The day by which months are over or not: of no place in particular, for they are over two days after their last. */
export const todayAnywhere = (now: Instant): LocalDate => localDateAt(asZone('UTC'), now);

/** A month as a number, in their order: 202610. */
export const numberOfMonth = (month: LocalDate): number => Number(month.slice(0, 7).replace('-', ''));

/** The period as instants, by the reader's days: for what is no promise and has no place. */
export const instantsOf = (p: AskedPeriod): { from: Instant; to: Instant } => ({
  from: startOfDay(p.zone, p.from),
  to: startOfDay(p.zone, addDays(p.to, 1)),
});

const UNKNOWN: MonthKnown = { thirds: 0, isQuarterSummed: false, isClosed: false };

type MonthRow = typeof standingMonth.$inferSelect;

/** Sums of a month, as many thirds as they are of, hold while nothing changed since; those of a closed one for good. */
export const holds = ({ summed, changes, closedAt }: MonthRow): boolean =>
  summed !== null && (closedAt !== null || summed === changes);

/** What the three months of a quarter have summed together; null: not all of them hold. Each change of one makes it larger. */
export function quarterOf(rows: ReadonlyMap<LocalDate, MonthRow>, first: LocalDate): number | null {
  const own = [0, 1, 2].map((n) => rows.get(addMonths(first, n)));
  return own.every((r) => r !== undefined && r.thirds === 3 && holds(r))
    ? own.reduce((sum, r) => sum + (r?.summed ?? 0), 0)
    : null;
}

/** What is known of the months of a period; of those not named nothing is. */
export async function knownMonths(db: Db, { from, to }: Days): Promise<ReadonlyMap<LocalDate, MonthKnown>> {
  const rows = await db
    .select()
    .from(standingMonth)
    .where(between(standingMonth.month, monthOf(from), daysOfMonth(monthOf(to)).to));
  const byMonth = new Map(rows.map((r) => [r.month, r]));
  return new Map(
    rows.map((r) => [
      r.month,
      {
        thirds: holds(r) ? r.thirds : 0,
        isQuarterSummed: r.quarterSummed !== null && r.quarterSummed === quarterOf(byMonth, r.month),
        isClosed: r.closedAt !== null,
      },
    ]),
  );
}

/** The stretches of a period that are closed and those that are open, with nothing of it summed. */
export async function daysApart(db: Db, days: Days): Promise<Pieces> {
  const known = await knownMonths(db, days);
  return piecesOf(days, (month) => ({ ...UNKNOWN, isClosed: known.get(month)?.isClosed ?? false }));
}

/** What of a period is summed, and what is to be counted, as it is known now. */
export async function takenApart(db: Db, days: Days): Promise<Pieces> {
  const known = await knownMonths(db, days);
  return piecesOf(days, (month) => known.get(month) ?? UNKNOWN);
}

const MAX_PERIOD_DAYS = 1100;

type PeriodAsking = {
  readonly query: { readonly from: LocalDate; readonly to: LocalDate };
  readonly who: Person;
  readonly now: Instant;
};

/** The period that is asked for. Refused: one that ends before it starts, or is too long. */
export function periodOf({ query, who, now }: PeriodAsking): AskedPeriod {
  if (query.to < query.from)
    refuse('invalid', 'The period ends before it starts; give an end on or after the start.', 'to');
  if (daysBetween(query.from, query.to) > MAX_PERIOD_DAYS)
    refuse('too-large', `A period is at most ${MAX_PERIOD_DAYS} days long.`, 'to');
  return { from: query.from, to: query.to, zone: who.zone, now, today: localDateAt(who.zone, now) };
}
