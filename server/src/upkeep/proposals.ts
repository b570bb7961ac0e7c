// What a run to a date would raise, read from the plan: a page of proposals with what speaks against each, and how many there are of what.
import { and, asc, eq, gt, inArray, isNotNull, isNull, like, lte, or, sql, type SQL } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { ScheduleId } from '#core/ids.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import {
  EXCEPTION_CODES,
  exceptionsOf,
  levelsWith,
  standingOfProposal,
  type Exception,
  type ExceptionCode,
  type ExceptionLevels,
  type RunScope,
  type VisitKey,
} from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { depotCapacity, skill } from '../depots/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { beyondRights, NONE_BEYOND, type Beyond } from './beyond.ts';
import { leaderOf, visitKey } from './owed.ts';
import { plannedVisit, schedule, scheduleOutlook, upkeepSetting, visit, type DayCounts } from './tables.ts';

export const levelsOf = async (db: Db): Promise<ExceptionLevels> => levelsWith(await db.select().from(upkeepSetting));

const payer = alias(customer, 'payer');
const p = plannedVisit;

/** What a planned visit takes: as it was planned, else as its job plan says. */
export const minutesOf = sql<number>`coalesce(${p.minutes}, ${jobPlan.minutes})`;
const windowTo = sql`date_add(${p.due}, interval ${schedule.lateDays} day)`;
const openStages = sql.join(
  OPEN_STAGES.map((s) => sql`${s}`),
  sql`, `,
);
const withOpenOrder = sql`${schedule.assetId} in (select ${orderLine.assetId} from ${orderLine} join ${workOrder} on ${workOrder.id} = ${orderLine.orderId} where ${workOrder.stage} in (${openStages}))`;

export type Shown = 'to decide' | 'ready' | 'held';
export type RunOver = { readonly to: LocalDate; readonly today: LocalDate; readonly scope: RunScope };
export type RunAsk = RunOver & { readonly levels: ExceptionLevels; readonly beyond: Beyond };

/** A run with what its house has set, and which of its visits lie beyond a counted right. */
export async function runAsk(db: Db, over: RunOver): Promise<RunAsk> {
  const [levels, beyond] = await Promise.all([levelsOf(db), beyondRights(db, over)]);
  return { ...over, levels, beyond };
}

/** Visits by name; those beyond a right are told by counting in the order of due dates. */
function isNamed(keys: readonly string[]): SQL {
  if (keys.length === 0) return sql`false`;
  const names = sql.join(
    keys.map((k) => sql`${k}`),
    sql`, `,
  );
  return sql`concat(${p.scheduleId}, '/', ${p.nominal}, '/', ${p.part}) in (${names})`;
}

/** The skill of its job plan where the depot that goes there has no hours of it; where no depot is said, no depot at all. */
const lacking = sql<
  string | null
>`(select ${skill.name} from ${skill} where ${skill.id} = ${jobPlan.skillId} and not exists (select 1 from ${depotCapacity} where ${depotCapacity.skillId} = ${skill.id} and (${scheduleOutlook.depotId} is null or ${depotCapacity.depotId} = ${scheduleOutlook.depotId})))`;

/** Where an exception holds, as the database finds it. */
const holdsWhere = ({ today, beyond }: Pick<RunAsk, 'today' | 'beyond'>): Readonly<Record<ExceptionCode, SQL>> => ({
  'no minutes': sql`${minutesOf} <= 0`,
  'over terms': sql`${payer.overSince} is not null`,
  'window over': sql`${windowTo} < ${today}`,
  'agreement ends': sql`${agreement.termTo} < ${p.due}`,
  'needs yes': sql`${schedule.needsYes}`,
  'no skill': sql`${lacking} is not null`,
  'window closed': sql`${p.closed} = 'window'`,
  // Joined with others it is done on a day that is open.
  'day closed': sql`(${p.closed} = 'day' and ${p.joined} is null)`,
  'due passed': sql`(${p.due} < ${today} and ${windowTo} >= ${today})`,
  'open order': withOpenOrder,
  'out of service': sql`${asset.state} = 'out of service'`,
  'beyond right': isNamed([...beyond.said.keys()]),
});

/** Held until a day that has come is held no more. */
const heldNow = (today: LocalDate): SQL =>
  sql`coalesce(${visit.state} = 'held' and (${visit.holdUntil} is null or ${visit.holdUntil} > ${today}), false)`;

function toDecide(ask: RunAsk): SQL {
  const { today, levels } = ask;
  const where = holdsWhere(ask);
  const blocking = EXCEPTION_CODES.filter((code) => levels[code] !== 'tells').map(
    (code) => sql`coalesce(${where[code]}, false)`,
  );
  const any = blocking.length === 0 ? sql`false` : sql.join(blocking, sql` or `);
  return sql`((${any}) and not ${heldNow(today)} and coalesce(${visit.state}, '') <> 'accepted')`;
}

const standingWhere = (ask: RunAsk, shown: Shown): SQL => {
  switch (shown) {
    case 'held':
      return heldNow(ask.today);
    case 'to decide':
      return toDecide(ask);
    case 'ready':
      return sql`(not ${heldNow(ask.today)} and not ${toDecide(ask)})`;
  }
};

/** The machines and agreements a run looks at. */
export const machinesIn = ({ customerId, agreementId, locationId, depotId }: RunScope): SQL | undefined =>
  and(
    customerId === undefined ? undefined : eq(asset.customerId, customerId),
    agreementId === undefined ? undefined : eq(schedule.agreementId, agreementId),
    depotId === undefined ? undefined : eq(scheduleOutlook.depotId, depotId),
    locationId === undefined ? undefined : like(location.path, `%/${locationId}/%`),
  );

const plannedIn = ({ month }: RunScope): SQL | undefined =>
  month === undefined ? undefined : sql`${p.planned} between ${`${month}-01`} and last_day(${`${month}-01`})`;

/** Proposals of a run: planned, to be raised by its date, not absorbed, and not raised or let go meanwhile. */
const proposed = ({ to, scope }: RunAsk): SQL | undefined =>
  and(
    lte(p.raiseOn, to),
    isNull(p.absorbedBy),
    or(isNull(visit.id), inArray(visit.state, ['held', 'accepted'])),
    machinesIn(scope),
    plannedIn(scope),
  );

/** The row of a planned visit that was decided on or raised. */
export const sameVisit = and(eq(visit.scheduleId, p.scheduleId), eq(visit.nominal, p.nominal), eq(visit.part, p.part));

const COLUMNS = {
  scheduleId: p.scheduleId,
  nominal: p.nominal,
  part: p.part,
  planned: p.planned,
  due: p.due,
  raiseOn: p.raiseOn,
  written: p.written,
  changed: p.changed,
  closed: sql<'day' | 'window' | null>`if(${p.closed} = 'day' and ${p.joined} is not null, null, ${p.closed})`,
  joined: p.joined,
  ownPlanned: p.ownPlanned,
  ownRaise: p.ownRaise,
  minutes: minutesOf,
  crew: sql<number>`coalesce(${p.crew}, ${schedule.crew})`,
  earlyDays: schedule.earlyDays,
  lateDays: schedule.lateDays,
  needsYes: schedule.needsYes,
  lacking,
  cadence: schedule.cadence,
  anchor: schedule.anchor,
  assetId: schedule.assetId,
  tag: asset.tag,
  model: asset.model,
  assetState: asset.state,
  freeVisits: asset.warrantyVisits,
  customerId: asset.customerId,
  customer: payer.name,
  overSince: payer.overSince,
  locationId: asset.locationId,
  path: location.path,
  agreementId: agreement.id,
  agreement: agreement.number,
  termTo: agreement.termTo,
  reminder: sql<string>`concat_ws(' · ', nullif(${schedule.reminder}, ''), nullif(${agreement.reminder}, ''))`,
  jobPlanId: jobPlan.id,
  jobPlan: jobPlan.name,
  state: visit.state,
  reason: visit.holdReason,
  until: visit.holdUntil,
  openOrderId: sql<
    number | null
  >`(select min(${workOrder.id}) from ${orderLine} join ${workOrder} on ${workOrder.id} = ${orderLine.orderId} where ${orderLine.assetId} = ${schedule.assetId} and ${workOrder.stage} in (${openStages}))`,
};

const fromPlan = (db: Db) =>
  db
    .select(COLUMNS)
    .from(p)
    .innerJoin(schedule, eq(schedule.id, p.scheduleId))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .leftJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, schedule.id))
    .innerJoin(payer, eq(payer.id, agreement.customerId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, sql`coalesce(${p.jobPlanId}, ${schedule.jobPlanId})`))
    .leftJoin(location, eq(location.id, asset.locationId))
    .leftJoin(visit, sameVisit)
    .$dynamic();

export type ProposalRow = Awaited<ReturnType<typeof fromPlan>>[number];
export type Proposed = ProposalRow & {
  readonly windowFrom: LocalDate;
  readonly windowTo: LocalDate;
  readonly beyond: string | null;
  readonly exceptions: readonly Exception[];
  readonly standing: Shown;
};

function proposedOf(row: ProposalRow, { today, levels, beyond: { said } }: RunAsk): Proposed {
  const beyond = said.get(keyOfRow(row)) ?? null;
  const windowEnd = addDays(row.due, row.lateDays);
  const exceptions = exceptionsOf({ ...row, windowTo: windowEnd, beyond }, today, levels);
  const state = row.state === 'held' || row.state === 'accepted' ? row.state : null;
  // Onto the row just read: a run copies some hundred thousands of them otherwise, each of forty fields.
  return Object.assign(row, {
    windowFrom: addDays(row.due, -row.earlyDays),
    windowTo: windowEnd,
    beyond,
    exceptions,
    standing: standingOfProposal({ state, until: row.until }, exceptions, today),
  });
}

export const keyOfRow = ({ scheduleId, nominal, part }: VisitKey): string => visitKey(scheduleId, nominal, part);

/** The mark of a row, from which the next page goes on. */
export const markOfRow = ({ planned, scheduleId, nominal, part }: ProposalRow): string =>
  [planned, scheduleId, nominal, part].join('~');

function behindMark(mark: string): SQL {
  const [planned, scheduleId, nominal, part] = mark.split('~');
  return sql`(${p.planned} > ${planned} or (${p.planned} = ${planned} and (${p.scheduleId}, ${p.nominal}, ${p.part}) > (${Number(scheduleId)}, ${nominal}, ${Number(part)})))`;
}

export const isMark = (mark: string): boolean => /^\d{4}-\d\d-\d\d~\d+~\d{4}-\d\d-\d\d~\d+$/.test(mark);

export type PageAsk = {
  readonly shown?: Shown | undefined;
  readonly exception?: ExceptionCode | undefined;
  readonly after?: string | undefined;
  readonly limit: number;
};

/** A page of proposals by the day planned. */
export async function proposalsOf(
  db: Db,
  ask: RunAsk,
  { shown, exception, after, limit }: PageAsk,
): Promise<Proposed[]> {
  const only = exception === undefined ? undefined : holdsWhere(ask)[exception];
  const rows = await fromPlan(db)
    .where(
      and(proposed(ask), shown && standingWhere(ask, shown), only, after === undefined ? undefined : behindMark(after)),
    )
    .orderBy(asc(p.planned), asc(p.scheduleId), asc(p.nominal), asc(p.part))
    .limit(limit);
  return rows.map((row) => proposedOf(row, ask));
}

/** Some proposals by name, as they stand now. */
export async function proposalsNamed(db: Db, ask: RunAsk, keys: readonly VisitKey[]): Promise<Proposed[]> {
  const found: Proposed[] = [];
  const wanted = new Set(keys.map(keyOfRow));
  for (let i = 0; i < keys.length; i += 500) {
    const ids = [...new Set(keys.slice(i, i + 500).map((k) => k.scheduleId))];
    const rows = await fromPlan(db).where(and(proposed(ask), inArray(p.scheduleId, ids)));
    for (const row of rows) if (wanted.delete(keyOfRow(row))) found.push(proposedOf(row, ask));
  }
  return found;
}

/** Planned visits that a run looks at in one go. */
const WINDOW = 1000;

/** The next stretch of planned visits by schedule, whatever stands against them; null behind the last. */
export async function nextWindow(db: Db, { to }: RunAsk, after: ScheduleId): Promise<ScheduleId[] | null> {
  const rows = await db
    .select({ id: p.scheduleId })
    .from(p)
    .where(and(gt(p.scheduleId, after), lte(p.raiseOn, to), isNull(p.absorbedBy)))
    .orderBy(asc(p.scheduleId))
    .limit(WINDOW);
  const last = rows[rows.length - 1]?.id;
  if (last === undefined) return null;
  const ids = [...new Set(rows.map((r) => r.id))];
  // All visits of a schedule stand in one stretch.
  return rows.length < WINDOW || ids.length === 1 ? ids : ids.filter((id) => id !== last);
}

/**
 * The proposals of a stretch of schedules that are ready to be raised, by schedule. Visits that one order is raised for come with the
 * schedule that names it, wherever the others stand.
 */
export async function readyOf(db: Db, ask: RunAsk, ids: readonly ScheduleId[]): Promise<Proposed[]> {
  const own = new Set<ScheduleId>(ids);
  const named = await db
    .selectDistinct({ joined: p.joined })
    .from(p)
    .where(and(inArray(p.scheduleId, [...ids]), isNotNull(p.joined), lte(p.raiseOn, ask.to)));
  const names = named.flatMap(({ joined }) => (joined && own.has(leaderOf(joined)) ? [joined] : []));
  const ready = and(proposed(ask), standingWhere(ask, 'ready'));
  const rows = await fromPlan(db).where(and(inArray(p.scheduleId, [...ids]), isNull(p.joined), ready));
  const joined = names.length === 0 ? [] : await fromPlan(db).where(and(inArray(p.joined, names), ready));
  return [...rows, ...joined]
    .map((row) => proposedOf(row, ask))
    .sort((a, b) => a.scheduleId - b.scheduleId || (a.nominal < b.nominal ? -1 : 1));
}

/** With those that are ready and raised by the same orders. */
export async function withJoined(db: Db, ask: RunAsk, rows: readonly Proposed[]): Promise<Proposed[]> {
  const names = [...new Set(rows.flatMap((r) => r.joined ?? []))];
  if (names.length === 0) return [...rows];
  const known = new Set(rows.map(keyOfRow));
  const others = await fromPlan(db).where(and(inArray(p.joined, names), proposed(ask), standingWhere(ask, 'ready')));
  return [...rows, ...others.filter((o) => !known.has(keyOfRow(o))).map((o) => proposedOf(o, ask))];
}

export type RunCounts = DayCounts & {
  readonly exceptions: readonly { readonly code: ExceptionCode; readonly count: number }[];
};

const many = (condition: SQL) => sql<number>`coalesce(sum(coalesce(${condition}, false)), 0)`;

/** How many proposals there are of what. */
export async function countsOf(db: Db, ask: RunAsk): Promise<RunCounts> {
  const where = holdsWhere(ask);
  // The joins of `fromPlan` once more: a query whose columns are handed in has no type to join by.
  const [row] = await db
    .select({
      ready: many(standingWhere(ask, 'ready')),
      toDecide: many(toDecide(ask)),
      held: many(heldNow(ask.today)),
      ...Object.fromEntries(EXCEPTION_CODES.map((code) => [code, many(where[code])])),
    })
    .from(p)
    .innerJoin(schedule, eq(schedule.id, p.scheduleId))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .leftJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, schedule.id))
    .innerJoin(payer, eq(payer.id, agreement.customerId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, sql`coalesce(${p.jobPlanId}, ${schedule.jobPlanId})`))
    .leftJoin(location, eq(location.id, asset.locationId))
    .leftJoin(visit, sameVisit)
    .where(proposed(ask));
  const counts = row as unknown as Record<string, number>;
  return {
    ready: Number(counts.ready ?? 0),
    toDecide: Number(counts.toDecide ?? 0),
    held: Number(counts.held ?? 0),
    exceptions: EXCEPTION_CODES.map((code) => ({ code, count: Number(counts[code] ?? 0) })).filter((e) => e.count > 0),
  };
}

/** What a run to a day would find. Rights are counted only where the house asks about visits beyond them. */
export async function dayCounts(db: Db, day: LocalDate): Promise<DayCounts> {
  const levels = await levelsOf(db);
  const over = { to: day, today: day, scope: {} };
  const beyond = levels['beyond right'] === 'tells' ? NONE_BEYOND : await beyondRights(db, over);
  const { ready, toDecide: waiting, held } = await countsOf(db, { ...over, levels, beyond });
  return { ready, toDecide: waiting, held };
}
