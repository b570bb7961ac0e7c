// What Today shows of upkeep: what waits to be raised, what yields nothing, and visits whose window ends soon.
import { and, asc, count, desc, eq, gte, isNotNull, isNull, lte, notInArray, sql } from 'drizzle-orm';
import type { DueNow } from '#api/upkeep.ts';
import { FINISHED_STAGES } from '#core/orders/index.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { outlook, schedule, visit } from './tables.ts';

async function visitsEnding(db: Db, today: LocalDate): Promise<DueNow['visitsEnding']> {
  const rows = await db
    .select({
      visit,
      title: workOrder.title,
      stage: workOrder.stage,
      tag: asset.tag,
      model: asset.model,
      customer: customer.name,
      locationId: asset.locationId,
      path: location.path,
    })
    .from(visit)
    .innerJoin(workOrder, eq(workOrder.id, visit.orderId))
    .innerJoin(asset, eq(asset.id, visit.assetId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(
      and(
        eq(visit.state, 'raised'),
        isNull(visit.completedOn),
        lte(visit.windowTo, addDays(today, 7)),
        gte(visit.windowTo, addDays(today, -60)),
        notInArray(workOrder.stage, [...FINISHED_STAGES]),
      ),
    )
    .orderBy(asc(visit.windowTo), asc(visit.id))
    .limit(12);
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  return rows.map((r) => ({
    orderId: r.visit.orderId as number,
    tag: r.tag,
    model: r.model,
    customer: r.customer,
    place: places.of(r.locationId).label,
    label: r.title,
    due: r.visit.due,
    windowTo: r.visit.windowTo,
    stage: r.stage,
    late: r.visit.windowTo < today,
  }));
}

const REASONS_SHOWN = 6;

/** What waits to be raised and what yields nothing, from the outlook that is kept ready. */
async function outlookOn(db: Db, day: LocalDate): Promise<Omit<DueNow, 'today' | 'visitsEnding'>> {
  // Worked out for an earlier day: what was to be raised still is, and what was next may be due by now.
  const toRaise = sql<number>`${outlook.toRaise} + (${outlook.asOf} < ${day} and ${outlook.nextRaise} <= ${day})`;
  const [[counts], reasons] = await Promise.all([
    db
      .select({
        proposed: sql<number>`coalesce(sum(${toRaise}), 0)`,
        held: sql<number>`coalesce(sum(${outlook.held}), 0)`,
        needsCare: count(outlook.careReason),
      })
      .from(outlook),
    db
      .select({ customer: customer.name, reason: outlook.careReason, n: count() })
      .from(outlook)
      .innerJoin(schedule, eq(schedule.id, outlook.scheduleId))
      .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
      .innerJoin(customer, eq(customer.id, agreement.customerId))
      .where(isNotNull(outlook.careReason))
      .groupBy(customer.name, outlook.careReason)
      .orderBy(desc(count()), asc(customer.name))
      .limit(REASONS_SHOWN),
  ]);
  return {
    proposed: Number(counts?.proposed ?? 0),
    held: Number(counts?.held ?? 0),
    needsCare: counts?.needsCare ?? 0,
    reasons: reasons.map((r) => ({ text: `${r.customer}: ${r.reason}`, count: r.n })),
  };
}

export async function dueNow(db: Db, today: LocalDate): Promise<DueNow> {
  const [outlooked, ending] = await Promise.all([outlookOn(db, today), visitsEnding(db, today)]);
  return { today, ...outlooked, visitsEnding: ending };
}
