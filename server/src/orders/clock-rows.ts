// Clocks and visits as screens show them: what is left or over, counted in the promise's own time.
import { and, asc, between, desc, eq, inArray, lt, ne, or, sql, type SQL } from 'drizzle-orm';
import type { ClockOut, VisitOut } from '#api/orders.ts';
import { ELAPSED_TIME } from '#core/calendars/index.ts';
import type { AgreementId, AssetId, CustomerId, DepotId, LocationId, OrderId } from '#core/ids.ts';
import {
  isNever,
  isOpenClock,
  leftAt,
  USUAL_WARN_PERCENT,
  warningsOf,
  type Clock,
  type ClockEvent,
  type TimeOfPromise,
} from '#core/service-levels/index.ts';
import { causeOfMiss } from '#core/standing/index.ts';
import { localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { showVisit } from '#core/upkeep/index.ts';
import type { CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { clock } from './tables.ts';

/** Rules that clocks are derived by; raised when they change, so that stored ones are derived again. */
export const DERIVATION = 6;

/** What a clock was derived from, beside its promise. */
export type DerivedFrom = {
  readonly zone: Zone;
  readonly events: readonly ClockEvent[];
  readonly timeOf: TimeOfPromise;
};

/** A derived clock as columns. A missed one that is still open stays in the list of those that run. */
export function storedClock(derived: Clock, { zone, events, timeOf }: DerivedFrom) {
  const { promise } = derived.given;
  const due = 'dueAt' in derived && !isNever(derived.dueAt) ? derived.dueAt : null;
  const late = derived.state === 'missed' ? derived.lateness : null;
  // What stands still learns it when it goes on.
  const isOpen = isOpenClock(derived) && derived.state !== 'paused';
  const warnPercent = derived.given.warnPercent ?? USUAL_WARN_PERCENT;
  const time = timeOf(promise);
  const steps = isOpen ? warningsOf(derived, events, time).map(({ step, at }) => ({ percent: step.percent, at })) : [];
  const paused = derived.state === 'paused' ? derived.reason : derived.state === 'missed' ? derived.pausedBy : null;
  return {
    target: derived.target,
    state: derived.state === 'missed' && derived.stoppedAt === null ? ('running' as const) : derived.state,
    promisedMinutes: promise.minutes,
    warnPercent,
    calendarId: promise.measure === 'working' ? promise.calendarId : null,
    startedAt: derived.startedAt,
    dueAt: due,
    stoppedAt: 'stoppedAt' in derived ? derived.stoppedAt : null,
    // Of a running one it is counted when it is looked at.
    leftMs: derived.state !== 'running' && 'left' in derived ? derived.left : null,
    lateMs: derived.state === 'running' ? 0 : (late?.ms ?? null),
    lateFrom: derived.state === 'running' ? due : (late?.runsFrom ?? null),
    note: paused !== null ? `paused: ${paused}` : derived.state === 'void' ? derived.why : null,
    dueOn: due === null ? null : localDateAt(zone, due),
    missCause: derived.state === 'missed' ? causeOfMiss(derived, events, time) : null,
    shortAt: isOpen ? leftAt(derived, warnPercent, events, time) : null,
    warnSteps: steps.length > 0 ? steps : null,
    warnAt: steps[0]?.at ?? null,
    derivation: DERIVATION,
  };
}

type ClockRow = { clock: typeof clock.$inferSelect; tag: string };

/** A stored clock at `now`: a running one whose due instant is past shows as missed. */
export function showClock({ clock: row, tag }: ClockRow, book: CalendarBook, now: Instant): ClockOut {
  const time = row.calendarId === null ? ELAPSED_TIME : book.workingTime(row.calendarId);
  const late = row.state === 'running' && row.dueAt !== null && row.dueAt < now;
  const state = late ? 'missed' : row.state;
  const growing = row.lateFrom !== null && row.lateFrom < now ? time.between(row.lateFrom, now) : 0;
  return {
    orderId: row.orderId,
    assetId: row.assetId,
    tag,
    target: row.target,
    state,
    promisedMinutes: row.promisedMinutes,
    warnPercent: row.warnPercent,
    measure: row.calendarId === null ? 'elapsed time' : book.calendarOf(row.calendarId).name,
    startedAt: row.startedAt,
    dueAt: row.dueAt,
    stoppedAt: row.stoppedAt,
    zone: row.zone,
    note: row.note,
    left:
      state === 'running' && row.dueAt !== null
        ? time.between(now, row.dueAt)
        : state === 'paused' || state === 'met'
          ? row.leftMs
          : null,
    over: state === 'missed' ? (row.lateMs ?? 0) + growing : null,
  };
}

type Days = { readonly from: LocalDate; readonly to: LocalDate };

/** Of whom; a site is the top of the tree of places. */
export type SubjectFilter = {
  readonly assetId?: AssetId;
  readonly agreementId?: AgreementId;
  readonly customerId?: CustomerId;
  readonly depotId?: DepotId;
  readonly siteId?: LocationId;
  /** Where machines stood then, there or anywhere below. */
  readonly placeId?: LocationId;
};

/** A place and all that is below it, by their ids. */
const placesFrom = (id: LocationId): SQL =>
  sql`(select p.id from location p join location top on p.path like concat(top.path, '%') where top.id = ${id})`;

export type ClockFilter = SubjectFilter & {
  readonly orderId?: OrderId;
  /** Counted on these days; with `isAmiss` only those that were missed. */
  readonly counted?: { readonly days: Days; readonly now: Instant; readonly isAmiss: boolean };
};

function countedOn({ days, now, isAmiss }: NonNullable<ClockFilter['counted']>): SQL | undefined {
  return and(
    inArray(clock.state, isAmiss ? ['missed', 'running'] : ['met', 'missed', 'running']),
    between(clock.dueOn, days.from, days.to),
    or(ne(clock.state, 'running'), lt(clock.dueAt, now)),
  );
}

function clockConditions(filter: ClockFilter): SQL | undefined {
  return and(
    filter.assetId === undefined ? undefined : eq(clock.assetId, filter.assetId),
    filter.orderId === undefined ? undefined : eq(clock.orderId, filter.orderId),
    filter.agreementId === undefined ? undefined : eq(clock.agreementId, filter.agreementId),
    filter.customerId === undefined ? undefined : eq(clock.customerId, filter.customerId),
    filter.depotId === undefined ? undefined : eq(clock.depotId, filter.depotId),
    filter.siteId === undefined ? undefined : eq(clock.siteId, filter.siteId),
    filter.placeId === undefined
      ? undefined
      : sql`${clock.orderLineId} in (select l.id from order_line l where l.place_id in ${placesFrom(filter.placeId)})`,
    filter.counted && countedOn(filter.counted),
  );
}

export async function clocksOf(
  db: Db,
  book: CalendarBook,
  now: Instant,
  filter: ClockFilter,
  limit: number,
): Promise<ClockOut[]> {
  const rows = await db
    .select({ clock, tag: asset.tag })
    .from(clock)
    .innerJoin(asset, eq(asset.id, clock.assetId))
    .where(clockConditions(filter))
    .orderBy(desc(filter.counted ? clock.dueOn : clock.startedAt), asc(clock.id))
    .limit(limit);
  return rows.map((row) => showClock(row, book, now));
}

/** Open clocks (running or paused), the one due first in front. */
export async function openClocks(db: Db, book: CalendarBook, now: Instant, limit: number): Promise<ClockOut[]> {
  const rows = await db
    .select({ clock, tag: asset.tag })
    .from(clock)
    .innerJoin(asset, eq(asset.id, clock.assetId))
    .where(inArray(clock.state, ['running', 'paused']))
    .orderBy(asc(clock.dueAt), asc(clock.orderId))
    .limit(limit);
  return rows.map((row) => showClock(row, book, now));
}

export type VisitFilter = SubjectFilter & {
  /** Whose windows ended on these days; with `isAmiss` only those that were not done in them. */
  readonly ended?: { readonly days: Days; readonly isAmiss: boolean };
};

function visitConditions(filter: VisitFilter, today: LocalDate): SQL | undefined {
  const { assetId, agreementId, customerId, depotId, siteId, placeId, ended } = filter;
  const own = (ids: SQL): SQL => sql`${visit.agreementId} in ${ids}`;
  return and(
    assetId === undefined ? undefined : eq(visit.assetId, assetId),
    agreementId === undefined ? undefined : eq(visit.agreementId, agreementId),
    customerId === undefined ? undefined : own(sql`(select id from agreement where customer_id = ${customerId})`),
    depotId === undefined ? undefined : eq(visit.depotId, depotId),
    siteId === undefined ? undefined : eq(visit.siteId, siteId),
    placeId === undefined
      ? undefined
      : sql`coalesce((select max(l.place_id) from order_line l where l.order_id = ${visit.orderId} and l.visit_id = ${visit.id}),
          ${visit.siteId}) in ${placesFrom(placeId)}`,
    ended && and(between(visit.windowTo, ended.days.from, ended.days.to), lt(visit.windowTo, today)),
    ended?.isAmiss
      ? and(
          eq(visit.state, 'raised'),
          sql`not coalesce(${visit.completedOn} between ${visit.windowFrom} and ${visit.windowTo}, 0)`,
        )
      : inArray(visit.state, ended ? ['raised', 'declined'] : ['raised', 'declined', 'held']),
  );
}

export async function visitsOf(db: Db, today: LocalDate, filter: VisitFilter, limit: number): Promise<VisitOut[]> {
  const rows = await db
    .select({ visit, label: jobPlan.name })
    .from(visit)
    .innerJoin(jobPlan, eq(jobPlan.id, visit.jobPlanId))
    .where(visitConditions(filter, today))
    .orderBy(desc(visit.due), desc(visit.id))
    .limit(limit);
  return rows.map(({ visit: row, label }) => ({
    scheduleId: row.scheduleId,
    label,
    nominal: row.nominal,
    due: row.due,
    windowFrom: row.windowFrom,
    windowTo: row.windowTo,
    completedOn: row.completedOn,
    orderId: row.orderId,
    state: row.state === 'declined' || row.state === 'held' ? row.state : showVisit(row, today),
  }));
}
