// What an upkeep run would do, for whoever decides: a page of proposals with what speaks against each, and schedules that yield nothing.
import { and, asc, eq, gt, isNotNull, isNull, or, sql, type SQL } from 'drizzle-orm';
import type { NothingPage, Proposal, UpkeepRun, YieldlessSchedule } from '#api/upkeep.ts';
import * as contracts from '#api/upkeep.ts';
import { addDays, instant, sayDate, type LocalDate } from '#core/time/index.ts';
import { cadenceOf, checkRunDate, sayCadence } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { placesOf, type Places } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Database, Db } from '../platform/database.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { partnersOf } from './joined.ts';
import { keepPlanned, planSeen } from './planning.ts';
import {
  countsOf,
  isMark,
  machinesIn,
  markOfRow,
  proposalsOf,
  runAsk,
  type PageAsk,
  type Proposed,
  type RunOver,
} from './proposals.ts';
import { schedule, scheduleOutlook, upkeepRun } from './tables.ts';

function showProposal(row: Proposed, places: Places, inOrder: ReadonlyMap<string, number>): Proposal {
  return {
    scheduleId: row.scheduleId,
    nominal: row.nominal,
    part: row.part,
    planned: row.planned,
    due: row.due,
    windowFrom: row.windowFrom,
    windowTo: row.windowTo,
    raise: row.raiseOn,
    changed: row.changed,
    assetId: row.assetId,
    tag: row.tag,
    model: row.model,
    customer: row.customer,
    place: places.of(row.locationId).label,
    agreementId: row.agreementId,
    agreement: row.agreement,
    jobPlan: row.jobPlan,
    minutes: row.minutes,
    crew: row.crew,
    rule: sayCadence(cadenceOf(row)),
    standing: row.standing,
    state: row.standing === 'held' ? 'held' : 'proposed',
    accepted: row.state === 'accepted',
    holdReason: row.state === 'held' || row.state === 'accepted' ? row.reason : null,
    holdUntil: row.until,
    exceptions: [...row.exceptions],
    openOrderId: row.openOrderId,
    reminder: row.reminder,
    joins: row.joined === null ? 0 : (inOrder.get(row.joined) ?? 1) - 1,
  };
}

const fromOutlook = (db: Db) =>
  db
    .select({
      scheduleId: schedule.id,
      agreementId: agreement.id,
      agreement: agreement.number,
      assetId: asset.id,
      tag: asset.tag,
      model: asset.model,
      customer: customer.name,
      jobPlan: jobPlan.name,
      kind: scheduleOutlook.kind,
      code: scheduleOutlook.code,
      reason: scheduleOutlook.reason,
      since: scheduleOutlook.since,
      nextRaise: scheduleOutlook.nextRaise,
      nextDue: scheduleOutlook.nextDue,
    })
    .from(scheduleOutlook)
    .innerJoin(schedule, eq(schedule.id, scheduleOutlook.scheduleId))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .$dynamic();

type OutlookRow = Awaited<ReturnType<typeof fromOutlook>>[number];

/** A schedule whose next visit lies behind the run’s date waits for it. */
function showNothing(row: OutlookRow, lastRun: number | null): YieldlessSchedule {
  const { scheduleId, agreementId, assetId, tag, model, jobPlan: plan } = row;
  const waiting = row.kind === null && row.nextRaise !== null && row.nextDue !== null;
  return {
    scheduleId,
    agreementId,
    agreement: row.agreement,
    assetId,
    tag,
    model,
    customer: row.customer,
    jobPlan: plan,
    kind: row.kind ?? 'waits',
    code: row.code ?? 'not yet',
    reason: waiting
      ? `Next visit is due on ${sayDate(row.nextDue as LocalDate)} and raised on ${sayDate(row.nextRaise as LocalDate)}.`
      : (row.reason ?? 'Its next visits are done by larger ones.'),
    isNew: row.kind === 'needs action' && row.since !== null && lastRun !== null && row.since > lastRun,
  };
}

const needsAction = eq(scheduleOutlook.kind, 'needs action');
const yieldsNothing = ({ to }: Pick<RunOver, 'to'>): SQL | undefined =>
  or(isNotNull(scheduleOutlook.kind), gt(scheduleOutlook.nextRaise, to), isNull(scheduleOutlook.nextRaise));

/** When the last run was: what yields nothing since then is new. */
async function lastRunAt(db: Db): Promise<number | null> {
  const [last] = await db.select({ at: sql<string | null>`max(${upkeepRun.at})` }).from(upkeepRun);
  return last?.at ? Date.parse(`${last.at.replace(' ', 'T')}Z`) : null;
}

/** Schedules that yield nothing in a run: those that need action first, the newest of them in front. */
export async function nothingOf(db: Db, ask: RunOver, after: number, limit: number): Promise<NothingPage> {
  const lastRun = await lastRunAt(db);
  const rows = await fromOutlook(db)
    .where(and(yieldsNothing(ask), machinesIn(ask.scope)))
    .orderBy(
      sql`(${scheduleOutlook.kind} <=> 'needs action') desc`,
      sql`case when ${needsAction} then ${scheduleOutlook.since} end desc`,
      asc(schedule.id),
    )
    .limit(limit + 1)
    .offset(after);
  return {
    items: rows.slice(0, limit).map((r) => showNothing(r, lastRun)),
    next: rows.length > limit ? String(after + limit) : null,
  };
}

async function nothingCounts(db: Db, ask: RunOver) {
  const [row] = await db
    .select({
      schedules: sql<number>`count(*)`,
      needsAction: sql<number>`coalesce(sum(${scheduleOutlook.kind} <=> 'needs action'), 0)`,
      nothing: sql<number>`coalesce(sum(coalesce(${yieldsNothing(ask)}, false)), 0)`,
    })
    .from(scheduleOutlook)
    .innerJoin(schedule, eq(schedule.id, scheduleOutlook.scheduleId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(machinesIn(ask.scope));
  const needing = Number(row?.needsAction ?? 0);
  return { schedules: Number(row?.schedules ?? 0), needsAction: needing, waits: Number(row?.nothing ?? 0) - needing };
}

/** Machines told by name that came under a line or left it. */
const MOVED_SHOWN = 100;

/** Schedules that were made or ended since the last run because a machine came under a coverage line, or left it. */
async function movedSince(db: Db, ask: RunOver): Promise<UpkeepRun['moved']> {
  const since = (await lastRunAt(db)) ?? 0;
  const at = instant(since);
  const rows = await db
    .select({
      scheduleId: schedule.id,
      assetId: asset.id,
      tag: asset.tag,
      customer: customer.name,
      agreementId: agreement.id,
      agreement: agreement.number,
      jobPlan: jobPlan.name,
      leftAt: schedule.leftAt,
      holdsFrom: schedule.holdsFrom,
      holdsTo: schedule.holdsTo,
    })
    .from(schedule)
    .innerJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, schedule.id))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(and(or(gt(schedule.joinedAt, at), gt(schedule.leftAt, at)), machinesIn(ask.scope)))
    .orderBy(asc(schedule.id))
    .limit(MOVED_SHOWN);
  return rows.map(({ leftAt, holdsFrom, holdsTo, ...row }) =>
    leftAt !== null && holdsTo !== null
      ? { ...row, what: 'left' as const, on: addDays(holdsTo, 1) }
      : { ...row, what: 'came' as const, on: holdsFrom ?? ask.today },
  );
}

/** What a run would raise: the plan brought up to date, and a page of it. */
export async function previewRun(database: Database, ask: RunOver, page: PageAsk): Promise<UpkeepRun> {
  const { db } = database;
  accept(checkRunDate(ask.to, ask.today));
  if (page.after !== undefined && !isMark(page.after))
    refuse('invalid', 'Ask for the next page with the `next` of the page before.', 'after');
  await keepPlanned(database, ask);
  const [seen, run] = await Promise.all([planSeen(db), runAsk(db, ask)]);
  const [rows, counts, schedules, nothing, moved] = await Promise.all([
    proposalsOf(db, run, { ...page, limit: page.limit + 1 }),
    countsOf(db, run),
    nothingCounts(db, ask),
    nothingOf(db, ask, 0, contracts.NOTHING_SHOWN),
    movedSince(db, ask),
  ]);
  const shown = rows.slice(0, page.limit);
  const last = shown[shown.length - 1];
  const [places, inOrder] = await Promise.all([
    placesOf(
      db,
      shown.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    partnersOf(
      db,
      shown.flatMap((r) => r.joined ?? []),
    ),
  ]);
  return {
    today: ask.today,
    to: ask.to,
    seen,
    proposals: shown.map((row) => showProposal(row, places, inOrder)),
    next: rows.length > page.limit && last ? markOfRow(last) : null,
    nothing: nothing.items,
    moved,
    counts: {
      ...schedules,
      proposed: counts.ready + counts.toDecide,
      ready: counts.ready,
      toDecide: counts.toDecide,
      held: counts.held,
      exceptions: counts.exceptions.map(({ code, count }) => ({ code, level: run.levels[code], count })),
    },
  };
}
