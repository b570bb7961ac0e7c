// The plan: every visit still to come and, of each schedule, when it next raises one or why it yields none; kept ready so that nothing
// that is read computes a run. Some schedules at a time, each in one transaction, only what differs written.
import { createHash } from 'node:crypto';
import { group } from 'd3-array';
import { asc, gt, inArray } from 'drizzle-orm';
import type { AssetId, DepotId, ScheduleId } from '#core/ids.ts';
import { addDays, daysBetween, type Instant, type LocalDate } from '#core/time/index.ts';
import { instantOfText, instantText } from '../platform/columns.ts';
import { bareRows, bulkInsert, type Database, type Db, type Tx } from '../platform/database.ts';
import { inLanes } from './in-lanes.ts';
import type { ScheduleRow, Which } from './loading.ts';
import { computeRun, type Owed, type RunResult } from './owed.ts';
import { plannedVisit, schedule, scheduleOutlook } from './tables.ts';

/** Schedules worked out at a time. */
const AT_ONCE = 4000;

type Planned = typeof plannedVisit.$inferSelect;
type Outlook = typeof scheduleOutlook.$inferSelect;

export type PlanAsk = {
  readonly horizon: LocalDate;
  /** The number of this planning. */
  readonly written: number;
  readonly now: Instant;
  /** Run in each transaction: throws when somebody else has taken over. */
  readonly hold: (tx: Tx) => Promise<void>;
};

/** Whether the place is closed on the day planned, or in the whole window. */
function closedOf({ visit: v, workingDays }: Owed): Planned['closed'] {
  if (workingDays.isWorkingDay(v.planned)) return null;
  const length = daysBetween(v.windowFrom, v.windowTo) + 1;
  for (let i = 0; i < length; i += 1) if (workingDays.isWorkingDay(addDays(v.windowFrom, i))) return 'day';
  return 'window';
}

/** What is as the schedule and its plan say is left out: most of a plan is dates alone. */
function plannedOf(owed: Owed, absorbedBy: string | null, plans: RunResult['plans'], written: number): Planned {
  const { row, visit: v } = owed;
  const { schedule: s } = row;
  return {
    scheduleId: s.id,
    nominal: v.nominal,
    part: v.part,
    planned: v.planned,
    due: v.due,
    raiseOn: v.raise,
    written,
    jobPlanId: v.jobPlanId === s.jobPlanId ? null : v.jobPlanId,
    minutes: v.minutes === plans.get(v.jobPlanId)?.minutes ? null : v.minutes,
    crew: v.crew === s.crew ? null : v.crew,
    technicianId: v.technicianId === s.technicianId ? null : v.technicianId,
    changed: v.changed,
    closed: closedOf(owed),
    absorbedBy,
    joined: null,
    ownPlanned: null,
    ownRaise: null,
  };
}

/** What the plan of each schedule has to be, in the order of its identifying dates. */
function wantedOf({ owed, absorbed, plans, asked }: RunResult, { horizon, written }: PlanAsk) {
  const ids = new Set(asked.map((r) => r.schedule.id));
  const taken = absorbed
    .filter(({ of }) => of.visit.raise <= horizon && ids.has(of.row.schedule.id))
    .map(({ of, by }) => plannedOf(of, by, plans, written));
  const all = [...owed.map((o) => plannedOf(o, null, plans, written)), ...taken];
  all.sort((a, b) => a.scheduleId - b.scheduleId || (a.nominal < b.nominal ? -1 : 1) || a.part - b.part);
  return group(all, (p) => p.scheduleId);
}

const DATES = {
  scheduleId: 'schedule_id',
  nominal: 'nominal',
  part: 'part',
  planned: 'planned',
  due: 'due',
  raiseOn: 'raise_on',
  written: 'written',
} as const;
const PARTICULARS = {
  jobPlanId: 'job_plan_id',
  minutes: 'minutes',
  crew: 'crew',
  technicianId: 'technician_id',
  changed: 'changed',
  closed: 'closed',
  absorbedBy: 'absorbed_by',
  joined: 'joined',
  ownPlanned: 'own_planned',
  ownRaise: 'own_raise',
} as const satisfies Partial<Record<keyof Planned, string>>;
const COLUMNS: Record<keyof Planned, string> = { ...DATES, ...PARTICULARS };
const FIELDS = Object.keys(COLUMNS) as (keyof Planned)[];
const DATE_FIELDS = Object.keys(DATES) as (keyof Planned)[];
const PARTICULAR_FIELDS = Object.keys(PARTICULARS) as (keyof Planned)[];

/** All that its schedule says of a visit: not which planning wrote it, nor what it is joined with. Spelt out: it is asked for of every visit of the house. */
const textOf = (p: Planned): string =>
  `${p.scheduleId},${p.nominal},${p.part},${p.ownPlanned ?? p.planned},${p.due},${p.ownRaise ?? p.raiseOn},${particularsOf(p)}`;
const particularsOf = (p: Planned): string =>
  `${p.jobPlanId},${p.minutes},${p.crew},${p.technicianId},${p.changed},${p.closed},${p.absorbedBy}`;
const digestOf = (visits: readonly Planned[]): string =>
  createHash('sha1').update(visits.map(textOf).join(';')).digest('base64');

/** Of schedules that differ all rows are written anew; a row that is as it was keeps the planning that wrote it, and what it is joined with. */
function rowsAnew(wanted: readonly Planned[], held: readonly Planned[]): Planned[] {
  const before = new Map(held.map((p) => [textOf(p), p]));
  return wanted.map((w) => before.get(textOf(w)) ?? w);
}

async function writePlanned(tx: Tx, rows: readonly Planned[]): Promise<void> {
  const isPlain = (p: Planned): boolean => PARTICULAR_FIELDS.every((f) => p[f] === null);
  const insert = (fields: readonly (keyof Planned)[], of: readonly Planned[]) =>
    bulkInsert(
      tx.connection,
      'planned_visit',
      fields.map((f) => COLUMNS[f]),
      of.map((r) => fields.map((f) => r[f])),
    );
  await insert(DATE_FIELDS, rows.filter(isPlain));
  await insert(
    FIELDS,
    rows.filter((r) => !isPlain(r)),
  );
}

type Visits = ReadonlyMap<ScheduleId, readonly Planned[]>;

function outlookOf(
  { schedule: { id: scheduleId }, agreement }: ScheduleRow,
  none: RunResult['nothing'][number]['nothing'] | null,
  visits: readonly Planned[],
  before: Outlook | undefined,
  depotId: DepotId | null,
  now: Instant,
): Outlook {
  const next = visits.reduce<Planned | null>(
    (a, b) => (b.absorbedBy !== null || (a && a.raiseOn <= b.raiseOn) ? a : b),
    null,
  );
  return {
    scheduleId,
    agreementId: agreement.id,
    customerId: agreement.customerId,
    kind: none?.kind ?? null,
    code: none?.code ?? null,
    reason: none?.reason.slice(0, 500) ?? null,
    since: none === null ? null : before?.code === none.code ? before.since : now,
    nextRaise: next?.raiseOn ?? null,
    nextDue: next?.due ?? null,
    depotId,
    digest: digestOf(visits),
  };
}

const OUTLOOK_COLUMNS = {
  scheduleId: 'schedule_id',
  agreementId: 'agreement_id',
  customerId: 'customer_id',
  kind: 'kind',
  code: 'code',
  reason: 'reason',
  since: 'since',
  nextRaise: 'next_raise',
  nextDue: 'next_due',
  depotId: 'depot_id',
  digest: 'digest',
} as const satisfies Record<keyof Outlook, string>;
const OUTLOOK_FIELDS = Object.keys(OUTLOOK_COLUMNS) as (keyof Outlook)[];

async function writeOutlooks(tx: Tx, fresh: readonly Outlook[]): Promise<void> {
  const columns = Object.values(OUTLOOK_COLUMNS);
  const later = columns.slice(1).map((c) => `${c} = VALUES(${c})`);
  await bulkInsert(
    tx.connection,
    'schedule_outlook',
    columns,
    fresh.map((r) => OUTLOOK_FIELDS.map((f) => (f === 'since' && r.since !== null ? instantText(r.since) : r[f]))),
    `ON DUPLICATE KEY UPDATE ${later.join(', ')}`,
  );
}

const OUTLOOKS = `SELECT o.schedule_id, o.agreement_id, o.customer_id, o.kind, o.code, o.reason, o.since, o.next_raise, o.next_due, o.depot_id, o.digest
  FROM schedule_outlook o WHERE o.schedule_id`;

async function outlooksHeld(db: Db, ids: readonly ScheduleId[]): Promise<ReadonlyMap<ScheduleId, Outlook>> {
  const [low, high] = [Math.min(...ids), Math.max(...ids)];
  // Of machines in a row the schedules mostly stand in a row too; where they do not, each is named.
  const rows =
    high - low < ids.length * 4
      ? await bareRows(db, `${OUTLOOKS} BETWEEN ? AND ?`, [low, high])
      : await bareRows(db, `${OUTLOOKS} IN (?)`, [ids]);
  const wanted = new Set<unknown>(ids);
  return new Map(
    rows
      .filter((r) => wanted.has(r[0]))
      .map((r) => {
        const since = r[6] === null ? null : instantOfText(r[6] as string);
        const outlook = {
          scheduleId: r[0],
          agreementId: r[1],
          customerId: r[2],
          kind: r[3],
          code: r[4],
          reason: r[5],
          since,
          nextRaise: r[7],
          nextDue: r[8],
          depotId: r[9],
          digest: r[10],
        } as Outlook;
        return [outlook.scheduleId, outlook];
      }),
  );
}

/** What is to be written for some schedules, worked out before any of it is. */
type Drafted = {
  readonly ids: readonly ScheduleId[];
  readonly differing: readonly ScheduleId[];
  readonly wanted: Visits;
  readonly outlooks: readonly Outlook[];
  readonly lost: readonly ScheduleId[];
};

const NONE: readonly Planned[] = [];

async function draftPlan(db: Db, which: Which, ids: readonly ScheduleId[], ask: PlanAsk): Promise<Drafted> {
  const [result, held] = await Promise.all([computeRun(db, ask.horizon, which), outlooksHeld(db, ids)]);
  const wanted = wantedOf(result, ask);
  const why = new Map(result.nothing.map((n) => [n.row.schedule.id, n.nothing]));
  const all = result.asked.map((row) => {
    const { id } = row.schedule;
    return outlookOf(row, why.get(id) ?? null, wanted.get(id) ?? NONE, held.get(id), result.depotOf(row), ask.now);
  });
  const known = new Set(all.map((o) => o.scheduleId));
  return {
    ids,
    differing: all.filter((o) => held.get(o.scheduleId)?.digest !== o.digest).map((o) => o.scheduleId),
    wanted,
    outlooks: all.filter((o) => {
      const before = held.get(o.scheduleId);
      return !before || OUTLOOK_FIELDS.some((f) => before[f] !== o[f]);
    }),
    lost: ids.filter((id) => !known.has(id)),
  };
}

/** Schedules whose rows are looked up and deleted in one statement. */
const IDS_AT_ONCE = 1000;

async function writePlan(tx: Tx, { differing, wanted, outlooks, lost }: Drafted): Promise<void> {
  const gone = [...differing, ...lost];
  const held: Planned[] = [];
  for (let i = 0; i < gone.length; i += IDS_AT_ONCE) {
    const of = inArray(plannedVisit.scheduleId, gone.slice(i, i + IDS_AT_ONCE));
    const before = await tx.db.select().from(plannedVisit).where(of);
    held.push(...before);
    if (before.length > 0) await tx.db.delete(plannedVisit).where(of);
  }
  const rows = differing.flatMap((id) => wanted.get(id) ?? NONE);
  await writePlanned(tx, held.length === 0 ? rows : rowsAnew(rows, held));
  await writeOutlooks(tx, outlooks);
  if (lost.length > 0) await tx.db.delete(scheduleOutlook).where(inArray(scheduleOutlook.scheduleId, [...lost]));
}

/** Plans some schedules anew; those of them that are gone lose what was planned. */
export async function planSchedules(database: Database, ids: readonly ScheduleId[], ask: PlanAsk): Promise<void> {
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    const some = ids.slice(i, i + AT_ONCE);
    const drafted = await draftPlan(database.db, { ids: some }, some, ask);
    await database.transact(async (tx) => {
      await ask.hold(tx);
      await writePlan(tx, drafted);
    });
  }
}

/** The next schedules by machine: those of one machine are looked at together. */
async function nextSchedules(db: Db, after: AssetId) {
  const rows = await db
    .select({ id: schedule.id, assetId: schedule.assetId })
    .from(schedule)
    .where(gt(schedule.assetId, after))
    .orderBy(asc(schedule.assetId), asc(schedule.id))
    .limit(AT_ONCE);
  const [first, last] = [rows[0]?.assetId, rows[rows.length - 1]?.assetId];
  if (first === undefined || last === undefined) return null;
  const whole = rows.length === AT_ONCE && first !== last ? rows.filter((r) => r.assetId !== last) : rows;
  const to = whole[whole.length - 1]?.assetId ?? last;
  return { which: { from: first, to }, ids: whole.map((r) => r.id) };
}

/** Plans every schedule anew, and gives how many there are. */
export async function planAll(database: Database, ask: PlanAsk): Promise<number> {
  let count = 0;
  const next = async (after: AssetId) => {
    const lot = await nextSchedules(database.db, after);
    return lot && { lot, mark: lot.which.to };
  };
  await inLanes(0 as AssetId, next, async ({ which, ids }) => {
    const drafted = await draftPlan(database.db, which, ids, ask);
    await database.transact(async (tx) => {
      await ask.hold(tx);
      await writePlan(tx, drafted);
    });
    count += ids.length;
  });
  await forgetGone(database, ask);
  return count;
}

/** What is planned for schedules that are there no more goes. */
async function forgetGone(database: Database, ask: PlanAsk): Promise<void> {
  await database.transact(async (tx) => {
    await ask.hold(tx);
    for (const table of ['planned_visit', 'schedule_outlook'])
      await tx.connection.query('DELETE p FROM ?? p LEFT JOIN schedule s ON s.id = p.schedule_id WHERE s.id IS NULL', [
        table,
      ]);
  });
}
