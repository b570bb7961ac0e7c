// Visits between two days with everything that is shown of them: those of the plan, and those that were raised.
import { and, between, eq, inArray, isNull, or, sql, type SQL } from 'drizzle-orm';
import type { AgreementId, AssetId, LocationId, OrderId, PersonId, ScheduleId } from '#core/ids.ts';
import type { Currency } from '#core/money.ts';
import { addDays, type LocalDate, type Zone } from '#core/time/index.ts';
import { showVisit, type RunScope, type ShownVisit } from '#core/upkeep/index.ts';
import { agreement } from '../../agreements/tables.ts';
import { asset } from '../../assets/tables.ts';
import { jobPlan } from '../../catalogue/tables.ts';
import { orderLine, workOrder } from '../../orders/tables.ts';
import { placesOf, type Place } from '../../places/index.ts';
import { location } from '../../places/tables.ts';
import type { Db } from '../../platform/database.ts';
import { machinesIn, minutesOf, sameVisit } from '../proposals.ts';
import { plannedVisit, schedule, scheduleOutlook, visit } from '../tables.ts';

/** Whose visits: what a run may look at, or those of one technician. */
export type Whose = { readonly scope: RunScope } | { readonly technician: { readonly id: PersonId } };

export type YearVisitRow = {
  readonly scheduleId: ScheduleId;
  readonly nominal: LocalDate;
  readonly part: number;
  readonly planned: LocalDate;
  readonly windowFrom: LocalDate;
  readonly windowTo: LocalDate;
  readonly minutes: number;
  readonly crew: number;
  readonly timeOfDay: number | null;
  readonly assetId: AssetId;
  readonly tag: string;
  readonly model: string;
  readonly agreementId: AgreementId;
  readonly agreement: string;
  /** What it is billed by itself, in minor units of the agreement’s currency. */
  readonly price: number | null;
  readonly currency: Currency;
  readonly jobPlan: string;
  readonly orderId: OrderId | null;
  readonly state: 'to come' | 'raised' | Exclude<ShownVisit, 'planned'>;
  readonly place: Place;
  readonly zone: Zone | null;
};

const SHARED = {
  scheduleId: schedule.id,
  timeOfDay: schedule.timeOfDay,
  assetId: asset.id,
  tag: asset.tag,
  model: asset.model,
  locationId: asset.locationId,
  path: location.path,
  agreementId: agreement.id,
  agreement: agreement.number,
  currency: agreement.currency,
  jobPlan: jobPlan.name,
};

const p = plannedVisit;

function toCome(db: Db, chosen: SQL | undefined, from: LocalDate, to: LocalDate, limit: number) {
  return db
    .select({
      ...SHARED,
      nominal: p.nominal,
      part: p.part,
      planned: p.planned,
      due: p.due,
      earlyDays: schedule.earlyDays,
      lateDays: schedule.lateDays,
      minutes: minutesOf,
      price: schedule.visitPrice,
      crew: sql<number>`coalesce(${p.crew}, ${schedule.crew})`,
    })
    .from(p)
    .innerJoin(schedule, eq(schedule.id, p.scheduleId))
    .innerJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, p.scheduleId))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, sql`coalesce(${p.jobPlanId}, ${schedule.jobPlanId})`))
    .leftJoin(location, eq(location.id, asset.locationId))
    .leftJoin(visit, sameVisit)
    .where(
      and(
        between(p.planned, from, to),
        isNull(p.absorbedBy),
        or(isNull(visit.id), inArray(visit.state, ['held', 'accepted'])),
        chosen,
      ),
    )
    .orderBy(p.planned, p.scheduleId, p.nominal, p.part)
    .limit(limit);
}

function raised(db: Db, chosen: SQL | undefined, from: LocalDate, to: LocalDate, limit: number) {
  return (
    db
      .select({
        ...SHARED,
        nominal: visit.nominal,
        part: visit.part,
        planned: visit.planned,
        windowFrom: visit.windowFrom,
        windowTo: visit.windowTo,
        completedOn: visit.completedOn,
        orderId: visit.orderId,
        minutes: sql<number>`coalesce(${orderLine.minutes}, ${jobPlan.minutes})`,
        crew: schedule.crew,
        price: orderLine.visitPrice,
      })
      .from(visit)
      .innerJoin(schedule, eq(schedule.id, visit.scheduleId))
      .leftJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, visit.scheduleId))
      .innerJoin(agreement, eq(agreement.id, visit.agreementId))
      .innerJoin(asset, eq(asset.id, visit.assetId))
      .innerJoin(jobPlan, eq(jobPlan.id, visit.jobPlanId))
      .leftJoin(location, eq(location.id, asset.locationId))
      .leftJoin(workOrder, eq(workOrder.id, visit.orderId))
      // Its own part of an order that several visits may have made.
      .leftJoin(orderLine, and(eq(orderLine.orderId, visit.orderId), eq(orderLine.visitId, visit.id)))
      .where(and(eq(visit.state, 'raised'), between(visit.planned, from, to), chosen))
      .orderBy(visit.planned, visit.id)
      .limit(limit)
  );
}

/** Visits planned from one day to another, both included, in the order of their days; at most `limit` of each kind. */
export async function visitsBetween(
  db: Db,
  whose: Whose,
  [from, to]: readonly [LocalDate, LocalDate],
  today: LocalDate,
  limit: number,
): Promise<YearVisitRow[]> {
  const own = 'technician' in whose ? whose.technician : null;
  const planned = own ? sql`coalesce(${p.technicianId}, ${schedule.technicianId}) = ${own.id}` : undefined;
  const sent = own ? eq(workOrder.technicianId, own.id) : undefined;
  const machines = 'scope' in whose ? machinesIn(whose.scope) : undefined;
  const [coming, orders] = await Promise.all([
    toCome(db, and(machines, planned), from, to, limit),
    raised(db, and(machines, sent), from, to, limit),
  ]);
  const places = await placesOf(
    db,
    [...coming, ...orders].map((r) => ({ id: r.locationId, path: r.path })),
  );
  const located = <R extends { readonly locationId: LocationId | null }>({ locationId, ...row }: R) => {
    const place = places.of(locationId);
    return { ...row, place, zone: place.zone };
  };
  const rows = [
    ...coming.map(({ due, earlyDays, lateDays, path: _, ...row }): YearVisitRow => ({
      ...located(row),
      windowFrom: addDays(due, -earlyDays),
      windowTo: addDays(due, lateDays),
      orderId: null,
      state: 'to come',
    })),
    ...orders.map(({ completedOn, path: _, ...row }): YearVisitRow => {
      const shown = showVisit({ ...row, completedOn }, today);
      return { ...located(row), state: shown === 'planned' ? 'raised' : shown };
    }),
  ];
  return rows.sort((a, b) => (a.planned < b.planned ? -1 : a.planned > b.planned ? 1 : a.scheduleId - b.scheduleId));
}
