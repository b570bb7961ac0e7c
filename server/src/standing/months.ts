// Months of standing as people see them: which are closed, which is next, and what was found since.
import { and, between, count, desc, eq, gte, isNotNull } from 'drizzle-orm';
import type { Answer } from '#api/contract.ts';
import type { AdjustmentOut, readAdjustments, readStandingMonths } from '#api/standing-months.ts';
import { closeStanding, monthOf, monthsBetween, type Days } from '#core/standing/index.ts';
import type { CustomerId } from '#core/ids.ts';
import { addMonths, type Instant, type LocalDate } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import type { Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { lastClosed, openIn } from './closing.ts';
import { ALL, monthlyFigures } from './course.ts';
import { todayAnywhere } from './period.ts';
import { firstMonth } from './summing.ts';
import { adjustment, standingMonth } from './tables.ts';

const MONTHS_SHOWN = 24;
const ADJUSTMENTS_SHOWN = 200;

async function nextOf(
  db: Db,
  first: LocalDate,
  today: LocalDate,
): Promise<NonNullable<Answer<typeof readStandingMonths>['next']>> {
  const closed = await lastClosed(db);
  const month = closed === null ? first : addMonths(closed, 1);
  const open = await openIn(db, month);
  const decision = closeStanding(month, { lastClosed: closed, first, today, open: 0, reason: '' });
  return { month, whyNot: decision.ok ? null : (decision.refusals[0]?.message ?? ''), open };
}

export async function standingMonths(db: Db, now: Instant): Promise<Answer<typeof readStandingMonths>> {
  const today = todayAnywhere(now);
  const first = await firstMonth(db);
  if (first === null) return { months: [], next: null };
  const shown = monthsBetween(first, today).slice(-MONTHS_SHOWN);
  const from = shown[0] ?? monthOf(today);
  const [figures, closed, adjusted, next] = await Promise.all([
    monthlyFigures(db, ALL, shown, { now, today }),
    db
      .select({ month: standingMonth.month, at: standingMonth.closedAt, by: person.name, reason: standingMonth.reason })
      .from(standingMonth)
      .leftJoin(person, eq(person.id, standingMonth.closedBy))
      .where(and(gte(standingMonth.month, from), isNotNull(standingMonth.closedAt))),
    db
      .select({ month: adjustment.month, count: count() })
      .from(adjustment)
      .where(gte(adjustment.month, from))
      .groupBy(adjustment.month),
    nextOf(db, first, today),
  ]);
  return {
    months: figures.toReversed().map(({ month, met, missed, owed, inWindow }) => {
      const own = closed.find((c) => c.month === month);
      return {
        ...{ month, met, missed, owed, inWindow },
        ...{ closedAt: own?.at ?? null, closedBy: own?.by ?? null, reason: own?.reason ?? '' },
        adjustments: adjusted.find((a) => a.month === month)?.count ?? 0,
      };
    }),
    next,
  };
}

/** What was found in a period, the newest first; of one customer where one is named. */
export async function adjustmentsOf(
  db: Db,
  { from, to }: Days,
  of?: CustomerId,
): Promise<Answer<typeof readAdjustments>> {
  const rows: AdjustmentOut[] = await db
    .select({
      ...{ id: adjustment.id, month: adjustment.month, foundAt: adjustment.foundAt, thing: adjustment.thing },
      ...{ before: adjustment.before, after: adjustment.after, orderId: adjustment.orderId },
      ...{ tag: asset.tag, agreement: agreement.number, customer: customer.name },
    })
    .from(adjustment)
    .innerJoin(asset, eq(asset.id, adjustment.assetId))
    .innerJoin(customer, eq(customer.id, adjustment.customerId))
    .leftJoin(agreement, eq(agreement.id, adjustment.agreementId))
    .where(and(between(adjustment.foundOn, from, to), of === undefined ? undefined : eq(adjustment.customerId, of)))
    .orderBy(desc(adjustment.id))
    .limit(ADJUSTMENTS_SHOWN + 1);
  return { items: rows.slice(0, ADJUSTMENTS_SHOWN), isCut: rows.length > ADJUSTMENTS_SHOWN };
}
