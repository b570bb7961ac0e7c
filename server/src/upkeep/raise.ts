// Raising visits, a batch in one transaction, exactly once: the unique key (schedule, nominal date, part) decides, and each is worked
// out once more from what is written at that moment.
import { group } from 'd3-array';
import { and, eq, inArray, isNull, lte, sql } from 'drizzle-orm';
import { sayVerdict } from '#core/entitlement/index.ts';
import type { RunId, VisitId } from '#core/ids.ts';
import { sayDate, sayTimeOfDay, type Instant, type LocalDate } from '#core/time/index.ts';
import { staysJoined } from '#core/upkeep/index.ts';
import { visitVerdicts, type DecidedVisit } from '../entitlement/index.ts';
import { raiseMany, type NewLine, type NewOrder } from '../orders/index.ts';
import { countsChanged } from '../platform/counts-changed.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { joiningOf } from './joined.ts';
import { computeRun, keyOf, type Owed, type RunResult, visitKey } from './owed.ts';
import { keyOfRow, type Proposed, type RunOver } from './proposals.ts';
import { VISIT_COLUMNS, visitValues, whileLetGoOn, whileToCome } from './rows.ts';
import { plannedVisit, scheduleOutlook, visit } from './tables.ts';

type Claimed = { readonly visitId: VisitId; readonly owed: Owed };

const inOrder = (x: Owed, y: Owed): number =>
  x.row.schedule.id - y.row.schedule.id ||
  (x.visit.nominal < y.visit.nominal ? -1 : x.visit.nominal > y.visit.nominal ? 1 : x.visit.part - y.visit.part);

/**
 * Writes the visits; those whose unique key this transaction itself wrote, or that somebody let go on, are its to raise: only they
 * carry its run without an order yet. In one order for everybody: two runs at once then wait for each other instead of blocking
 * crosswise.
 */
async function claimVisits(tx: Tx, batch: readonly Owed[], runId: RunId, today: LocalDate): Promise<Claimed[]> {
  await bulkInsert(
    tx.connection,
    'visit',
    [...VISIT_COLUMNS, 'run_id'],
    [...batch].sort(inOrder).map((o) => [...visitValues(o, 'raised'), runId]),
    whileLetGoOn(['run_id', 'due', 'planned', 'window_from', 'window_to', 'job_plan_id']),
  );
  const scheduleIds = [...new Set(batch.map((o) => o.row.schedule.id))];
  if (scheduleIds.length === 0) return [];
  const claimed = await tx.db
    .select({ id: visit.id, scheduleId: visit.scheduleId, nominal: visit.nominal, part: visit.part })
    .from(visit, { forceIndex: 'visit_identity' })
    .where(and(inArray(visit.scheduleId, scheduleIds), eq(visit.runId, runId), isNull(visit.orderId)))
    .orderBy(visit.id);
  await countsChanged(
    tx,
    batch.map((o) => o.visit.windowTo),
    today,
  );
  const byKey = new Map(batch.map((o) => [keyOf(o), o]));
  return claimed.map((c) => ({ visitId: c.id, owed: byKey.get(visitKey(c.scheduleId, c.nominal, c.part)) as Owed }));
}

/** What the order is told with: when it is due, the day and time that are wanted, and what to remember. */
function sayRaised(claimed: readonly Claimed[]): string {
  const visits = claimed.map(({ owed }) => owed.visit);
  const once = <T>(values: readonly T[]): T[] => [...new Set(values)];
  const due = once(visits.map((v) => v.due)).sort();
  const planned = visits[0]?.planned;
  const times = once(claimed.flatMap(({ owed }) => owed.row.schedule.timeOfDay ?? [])).sort((a, b) => a - b);
  const wanted = [
    planned === undefined || visits.every((v) => v.due === planned) ? null : `on ${sayDate(planned)}`,
    times.length === 0 ? null : `at ${times.map(sayTimeOfDay).join(' and ')}`,
  ].filter((x) => x !== null);
  const machines = machinesOf(claimed);
  const what = machines === 1 ? 'upkeep' : `upkeep of ${machines} machines`;
  return [
    `${what} due ${due.map((d) => sayDate(d)).join(', ')}`,
    wanted.length > 0 && `wanted ${wanted.join(' ')}`,
    ...once(claimed.map(({ owed }) => owed.row.schedule.reminder)),
  ]
    .filter(Boolean)
    .join('; ');
}

type Decision = { readonly claimed: Claimed; readonly verdict: DecidedVisit['verdict'] };

/** How many machines visits are for: two job plans may be due at one. */
const machinesOf = (claimed: readonly Claimed[]): number =>
  new Set(claimed.map(({ owed }) => owed.row.schedule.assetId)).size;

function titleOf(jobs: readonly string[], machines: number): string {
  const [first = '', ...others] = [...new Set(jobs)];
  if (machines === 1) return [first, ...others].join(' and ');
  return others.length === 0 ? `${first}, ${machines} machines` : `Upkeep of ${machines} machines`;
}

/** The order of the visits it is raised for, a line for each. */
function orderOf(own: readonly Decision[], plans: RunResult['plans'], who: Person, now: Instant): NewOrder {
  const { row, place } = (own[0] as Decision).claimed.owed;
  const lines = own.map(({ claimed: { visitId, owed }, verdict }): NewLine => {
    const { visit: v } = owed;
    return {
      assetId: owed.row.schedule.assetId,
      visitId,
      minutes: v.minutes,
      dueOn: v.due,
      plan: plans.get(v.jobPlanId)?.kept ?? null,
      visitPrice: owed.row.schedule.visitPrice,
      verdict: { verdict, sentence: sayVerdict(verdict), promise: '' },
      promises: {},
      draws: { on: v.due, draws: verdict.draws },
      tasks: plans.get(v.jobPlanId)?.tasks ?? [],
    };
  });
  return {
    kind: 'preventive',
    title: titleOf(
      own.map(({ claimed }) => plans.get(claimed.owed.visit.jobPlanId)?.name ?? ''),
      machinesOf(own.map((o) => o.claimed)),
    ),
    priority: 4,
    customerId: row.customerId,
    agreementId: row.agreement.id,
    zone: place.zone ?? who.zone,
    depotId: place.depot?.value ?? null,
    startedAt: now,
    lines,
    withForms: true,
    events: () => [
      {
        at: now,
        recordedAt: now,
        by: who.id === 0 ? null : who.id,
        act: { kind: 'raised', text: sayRaised(own.map((o) => o.claimed)) },
      },
    ],
  };
}

/** Visits whose work the raised ones do are recorded with them: they are owed no more. */
async function recordAbsorbed(
  tx: Tx,
  absorbed: readonly { readonly of: Owed; readonly by: VisitId; readonly completedOn: LocalDate | null }[],
): Promise<void> {
  await bulkInsert(
    tx.connection,
    'visit',
    [...VISIT_COLUMNS, 'absorbed_by', 'completed_on'],
    absorbed.map(({ of, by, completedOn }) => [...visitValues(of, 'absorbed'), by, completedOn]),
    // One that was decided on goes with the larger one; one that was raised meanwhile stays.
    whileToCome(['absorbed_by']),
  );
}

/** What was raised is planned no more; what the plan says of its schedules is worked out anew. */
async function takeFromPlan(tx: Tx, owed: readonly Owed[]): Promise<void> {
  const ids = [...new Set(owed.map((o) => o.row.schedule.id))];
  const keys = owed.map((o) => [o.row.schedule.id, o.visit.nominal, o.visit.part]);
  if (keys.length === 0) return;
  // By schedule first: of several columns at once the database would look at every row.
  await tx.connection.query(
    'DELETE FROM planned_visit WHERE schedule_id IN (?) AND (schedule_id, nominal, part) IN (?)',
    [ids, keys],
  );
  await tx.db.update(scheduleOutlook).set({ digest: null }).where(inArray(scheduleOutlook.scheduleId, ids));
}

const ownDay = (row: Proposed): LocalDate => row.ownPlanned ?? row.planned;

/** What of a batch is still owed as it was planned, and why the rest is not. */
function lookAgain(batch: readonly Proposed[], { owed, absorbed }: Pick<RunResult, 'owed' | 'absorbed'>) {
  const byKey = new Map(owed.map((o) => [keyOf(o), o]));
  const taken = new Set(absorbed.map((a) => keyOf(a.of)));
  const still: Still[] = [];
  const changed: { readonly row: Proposed; readonly reason: string }[] = [];
  for (const row of batch) {
    const found = byKey.get(keyOfRow(row));
    if (!found) {
      const reason = taken.has(keyOfRow(row)) ? 'a larger visit does its work' : 'it is owed no more';
      changed.push({ row, reason });
    } else if (found.visit.planned !== ownDay(row) || found.visit.due !== row.due) {
      changed.push({ row, reason: `it is planned for ${sayDate(found.visit.planned)} now; look at it again` });
    } else still.push({ row, owed: { ...found, visit: { ...found.visit, planned: row.planned } } });
  }
  const parted = partedOf(still);
  return {
    still: still.filter(({ row }) => !parted.has(row.joined ?? '')),
    changed: [
      ...changed,
      ...still
        .filter(({ row }) => parted.has(row.joined ?? ''))
        .map(({ row }) => ({
          row,
          reason: 'it shares no day any more with those it was planned with; look at it again',
        })),
    ],
  };
}
type Still = { readonly row: Proposed; readonly owed: Owed };

/** Orders whose visits are not to be done together any more: their place says otherwise, or it is closed on that day. */
function partedOf(still: readonly Still[]): ReadonlySet<string> {
  const parted = new Set<string>();
  for (const [name, own] of group(still, ({ row }) => row.joined ?? '')) {
    const [first] = own;
    if (name === '' || !first) continue;
    const visits = own.map(({ row }) => joiningOf(row, row));
    const { place, workingDays } = first.owed;
    const isOpen = (day: LocalDate): boolean => workingDays.isWorkingDay(day);
    const atOnePlace = own.every(({ owed }) => owed.place.join?.placeId === place.join?.placeId);
    if (!place.join || !atOnePlace || !staysJoined(visits, first.row.planned, place.join.days, isOpen))
      parted.add(name);
  }
  return parted;
}

/** Visits held until a day that has come are held no more; one that is held anew meanwhile stays. */
async function endHolds(tx: Tx, batch: readonly Proposed[], today: LocalDate): Promise<void> {
  const ids = batch.filter((row) => row.state === 'held').map((row) => row.scheduleId);
  if (ids.length === 0) return;
  await tx.db
    .delete(visit)
    .where(and(eq(visit.state, 'held'), lte(visit.holdUntil, today), inArray(visit.scheduleId, [...new Set(ids)])));
}

export type Raised = {
  readonly raised: number;
  readonly firstOrderId: number | null;
  readonly left: readonly { readonly row: Proposed; readonly reason: string }[];
};

/** Raises one batch of proposals, with what they absorb. What changed since it was planned, or was raised by somebody else, is left. */
export async function raiseBatch(
  tx: Tx,
  batch: readonly Proposed[],
  { to, today }: Pick<RunOver, 'to' | 'today'>,
  runId: RunId,
  who: Person,
  now: Instant,
): Promise<Raised> {
  const ids = [...new Set(batch.map((b) => b.scheduleId))];
  const raiseOf = (row: Proposed): LocalDate => row.ownRaise ?? row.raiseOn;
  const latest = batch.reduce((a, b) => (a > raiseOf(b) ? a : raiseOf(b)), to);
  const result = await computeRun(tx.db, latest, { ids });
  const { still, changed } = lookAgain(batch, result);
  await endHolds(tx, batch, today);
  const claimed = await claimVisits(
    tx,
    still.map((s) => s.owed),
    runId,
    today,
  );
  const mine = new Set(claimed.map((c) => keyOf(c.owed)));
  const already = still
    .filter(({ owed }) => !mine.has(keyOf(owed)))
    .map(({ row }) => ({ row, reason: 'it was held, raised or let go meanwhile' }));
  await takeFromPlan(
    tx,
    claimed.map((c) => c.owed),
  );
  const left = [...changed, ...already];
  if (claimed.length === 0) return { raised: 0, firstOrderId: null, left };
  const decided = await visitVerdicts(
    tx.db,
    claimed.map(({ owed }) => ({ assetId: owed.row.schedule.assetId, due: owed.visit.due })),
  );
  const names = new Map(batch.map((row) => [keyOfRow(row), row.joined ?? keyOfRow(row)]));
  const orders = group(
    claimed.map((c, i): Decision => ({ claimed: c, verdict: (decided[i] as DecidedVisit).verdict })),
    ({ claimed: { owed } }) => names.get(keyOf(owed)),
  );
  const orderIds = await raiseMany(
    tx,
    [...orders.values()].map((own) => orderOf(own, result.plans, who, now)),
    null,
    now,
  );
  await absorbWith(tx, claimed, result.absorbed);
  return { raised: claimed.length, firstOrderId: orderIds[0] ?? null, left };
}

async function absorbWith(tx: Tx, claimed: readonly Claimed[], absorbed: RunResult['absorbed']): Promise<void> {
  if (absorbed.length === 0) return;
  const ids = new Map(claimed.map((c) => [keyOf(c.owed), c.visitId]));
  const own = absorbed.flatMap(({ of, by }) => {
    const id = ids.get(by);
    return id === undefined ? [] : [{ of, by: id, completedOn: null }];
  });
  await recordAbsorbed(tx, own);
  await takeFromPlan(
    tx,
    own.map((a) => a.of),
  );
}

/** Visits planned so far that a visit raised before does: recorded with it when they would be raised themselves. */
export async function absorbByRaised(tx: Tx, to: LocalDate): Promise<void> {
  const rows = await tx.db
    .selectDistinct({ id: plannedVisit.scheduleId })
    .from(plannedVisit)
    .where(and(sql`${plannedVisit.absorbedBy} is not null`, sql`${plannedVisit.raiseOn} <= ${to}`))
    .limit(1000);
  if (rows.length === 0) return;
  const { absorbed } = await computeRun(tx.db, to, { ids: rows.map((r) => r.id) });
  const own = absorbed.flatMap(({ of, raised: by }) =>
    by && of.visit.raise <= to ? [{ of, by: by.id, completedOn: by.completedOn }] : [],
  );
  await recordAbsorbed(tx, own);
  await takeFromPlan(
    tx,
    own.map((a) => a.of),
  );
}
