// Clocks and visits as screens show them: what is left or over, counted in the promise's own time.
import { and, asc, desc, eq, gte, inArray, lt, type SQL } from 'drizzle-orm';
import type { ClockOut, VisitOut } from '#api/orders.ts';
import { ELAPSED_TIME } from '#core/calendars/index.ts';
import type { AgreementId, AssetId, OrderId } from '#core/ids.ts';
import { isNever, USUAL_WARN_PERCENT, type Clock } from '#core/service-levels/index.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { showVisit } from '#core/upkeep/index.ts';
import type { CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { clock } from './tables.ts';

/** Rules that clocks are derived by; raised when they change, so that stored ones are derived again. */
export const DERIVATION = 5;

/** A derived clock as columns. A missed one that is still open stays in the list of those that run. */
export function storedClock(derived: Clock) {
  const { promise } = derived.given;
  const due = 'dueAt' in derived && !isNever(derived.dueAt) ? derived.dueAt : null;
  const late = derived.state === 'missed' ? derived.lateness : null;
  const paused = derived.state === 'paused' ? derived.reason : derived.state === 'missed' ? derived.pausedBy : null;
  return {
    target: derived.target,
    state: derived.state === 'missed' && derived.stoppedAt === null ? ('running' as const) : derived.state,
    promisedMinutes: promise.minutes,
    warnPercent: derived.given.warnPercent ?? USUAL_WARN_PERCENT,
    calendarId: promise.measure === 'working' ? promise.calendarId : null,
    startedAt: derived.startedAt,
    dueAt: due,
    stoppedAt: 'stoppedAt' in derived ? derived.stoppedAt : null,
    // Of a running one it is counted when it is looked at.
    leftMs: derived.state !== 'running' && 'left' in derived ? derived.left : null,
    lateMs: derived.state === 'running' ? 0 : (late?.ms ?? null),
    lateFrom: derived.state === 'running' ? due : (late?.runsFrom ?? null),
    note: paused !== null ? `paused: ${paused}` : derived.state === 'void' ? derived.why : null,
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

export type ClockFilter = {
  readonly assetId?: AssetId;
  readonly orderId?: OrderId;
  readonly agreementId?: AgreementId;
  readonly dueFrom?: Instant;
  readonly dueTo?: Instant;
};

function clockConditions(filter: ClockFilter): SQL | undefined {
  return and(
    filter.assetId === undefined ? undefined : eq(clock.assetId, filter.assetId),
    filter.orderId === undefined ? undefined : eq(clock.orderId, filter.orderId),
    filter.agreementId === undefined ? undefined : eq(clock.agreementId, filter.agreementId),
    filter.dueFrom === undefined ? undefined : gte(clock.dueAt, filter.dueFrom),
    filter.dueTo === undefined ? undefined : lt(clock.dueAt, filter.dueTo),
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
    .orderBy(desc(clock.startedAt), asc(clock.id))
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

export type VisitFilter = {
  readonly assetId?: AssetId;
  readonly agreementId?: AgreementId;
  readonly windowFrom?: LocalDate;
  readonly windowTo?: LocalDate;
};

export async function visitsOf(db: Db, today: LocalDate, filter: VisitFilter, limit: number): Promise<VisitOut[]> {
  const rows = await db
    .select({ visit, label: jobPlan.name })
    .from(visit)
    .innerJoin(jobPlan, eq(jobPlan.id, visit.jobPlanId))
    .where(
      and(
        filter.assetId === undefined ? undefined : eq(visit.assetId, filter.assetId),
        filter.agreementId === undefined ? undefined : eq(visit.agreementId, filter.agreementId),
        filter.windowFrom === undefined ? undefined : gte(visit.windowTo, filter.windowFrom),
        filter.windowTo === undefined ? undefined : lt(visit.windowTo, filter.windowTo),
        inArray(visit.state, ['raised', 'declined', 'held']),
      ),
    )
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
