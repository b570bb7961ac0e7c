// What Today shows of upkeep: what waits to be raised, what yields nothing, and visits whose window ends soon.
import { and, asc, count, eq, gt, gte, inArray, isNotNull, isNull, lt, lte, sql } from 'drizzle-orm';
import type { DueNow } from '#api/upkeep.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { outlook, visit } from './tables.ts';

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

const sumOf = (column: typeof outlook.toRaise | typeof outlook.held) => sql<number>`coalesce(sum(${column}), 0)`;

/** What waits to be raised and what yields nothing, from the outlook that is kept ready; each part by an index of its own. */
async function outlookOn(db: Db, day: LocalDate): Promise<Omit<DueNow, 'today' | 'visitsEnding'>> {
  const [[raise], [since], [held], reasons] = await Promise.all([
    db
      .select({ n: sumOf(outlook.toRaise) })
      .from(outlook)
      .where(gt(outlook.toRaise, 0)),
    // Worked out for an earlier day: what was next may be due by now.
    db
      .select({ n: count() })
      .from(outlook)
      .where(and(lte(outlook.nextRaise, day), lt(outlook.asOf, day))),
    db
      .select({ n: sumOf(outlook.held) })
      .from(outlook)
      .where(gt(outlook.held, 0)),
    db
      .select({ customerId: outlook.customerId, reason: outlook.careReason, n: count() })
      .from(outlook)
      .where(isNotNull(outlook.careReason))
      .groupBy(outlook.careReason, outlook.customerId),
  ]);
  const shown = [...reasons]
    .sort((a, b) => b.n - a.n || (a.customerId ?? 0) - (b.customerId ?? 0))
    .slice(0, REASONS_SHOWN);
  const ids = shown.flatMap((r) => r.customerId ?? []);
  const names =
    ids.length === 0
      ? []
      : await db.select({ id: customer.id, name: customer.name }).from(customer).where(inArray(customer.id, ids));
  return {
    proposed: Number(raise?.n ?? 0) + (since?.n ?? 0),
    held: Number(held?.n ?? 0),
    needsAction: reasons.reduce((n, r) => n + r.n, 0),
    reasons: shown.map((r) => ({
      text: `${names.find((c) => c.id === r.customerId)?.name ?? 'A customer'}: ${r.reason}`,
      count: r.n,
    })),
  };
}

export async function dueNow(db: Db, today: LocalDate): Promise<DueNow> {
  const [outlooked, ending] = await Promise.all([outlookOn(db, today), visitsEnding(db, today)]);
  return { today, ...outlooked, visitsEnding: ending };
}
