// What Today shows of upkeep: what waits to be raised, what yields nothing, and visits whose window ends soon.
import { sum } from 'd3-array';
import { and, asc, count, eq, gte, inArray, isNull, lte } from 'drizzle-orm';
import type { DueNow } from '#api/upkeep.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { dayCounts } from './proposals.ts';
import { planState, scheduleOutlook, visit, type DayOutlook } from './tables.ts';

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
        inArray(workOrder.stage, [...OPEN_STAGES]),
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

/** What a run to the day would find, and what yields nothing: left with the plan, so that Today only reads it. */
export async function dayOutlook(db: Db, day: LocalDate): Promise<DayOutlook> {
  const [counts, reasons] = await Promise.all([
    dayCounts(db, day),
    db
      .select({ customerId: scheduleOutlook.customerId, reason: scheduleOutlook.reason, count: count() })
      .from(scheduleOutlook)
      .where(eq(scheduleOutlook.kind, 'needs action'))
      .groupBy(scheduleOutlook.reason, scheduleOutlook.customerId),
  ]);
  const most = [...reasons].sort((a, b) => b.count - a.count || a.customerId - b.customerId);
  return {
    ...counts,
    needsAction: sum(reasons, (r) => r.count),
    reasons: most.slice(0, REASONS_SHOWN).map((r) => ({ ...r, reason: r.reason ?? '' })),
  };
}

/** What waits to be raised and what yields nothing, as the last planning left it. */
async function outlook(db: Db): Promise<Omit<DueNow, 'today' | 'visitsEnding'>> {
  const [state] = await db.select({ counts: planState.counts }).from(planState);
  const { ready = 0, toDecide = 0, held = 0, needsAction = 0, reasons = [] } = state?.counts ?? {};
  const ids = reasons.map((r) => r.customerId);
  const names =
    ids.length === 0
      ? []
      : await db.select({ id: customer.id, name: customer.name }).from(customer).where(inArray(customer.id, ids));
  return {
    ...{ proposed: ready + toDecide, toDecide, held, needsAction },
    reasons: reasons.map((r) => ({
      text: `${names.find((c) => c.id === r.customerId)?.name ?? 'A customer'}: ${r.reason}`,
      count: r.count,
    })),
  };
}

export async function dueNow(db: Db, today: LocalDate): Promise<DueNow> {
  const [outlooked, ending] = await Promise.all([outlook(db), visitsEnding(db, today)]);
  return { today, ...outlooked, visitsEnding: ending };
}
