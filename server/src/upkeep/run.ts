// The upkeep run: loads every schedule, lets the core propose, and raises what is accepted, exactly once.
import { randomUUID } from 'node:crypto';
import { and, eq, inArray, ne } from 'drizzle-orm';
import type { Proposal, UpkeepRun, YieldlessSchedule } from '#api/upkeep.ts';
import * as contracts from '#api/upkeep.ts';
import {
  reachRank,
  sayVerdict,
  type CoveredAsset,
  type Reach,
  type Term,
  type Verdict,
} from '#core/entitlement/index.ts';
import type { AgreementId, OrderId, ScheduleId } from '#core/ids.ts';
import { parseRule, sayRule } from '#core/recurrence/index.ts';
import { checkRunDate, proposeVisits, type Visit } from '#core/upkeep/index.ts';
import { sayDate, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { note } from '../platform/audit.ts';
import { calendarBook } from '../calendars/index.ts';
import { bulkInsert, insertedIds, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { placesOf, type Place } from '../places/index.ts';
import { CutShort, Refused, accept, refuse } from '../platform/refuse.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { allowance } from '../entitlement/tables.ts';
import { schedule, visit } from './tables.ts';
import { instantText } from '../platform/columns.ts';
import { bookDraws, reachOfLine, visitVerdicts, type BeyondRight } from '../entitlement/index.ts';
import { copyForms } from '../orders/index.ts';

type Row = {
  schedule: typeof schedule.$inferSelect;
  agreement: typeof agreement.$inferSelect;
  customer: string;
  assetState: (typeof asset.$inferSelect)['state'];
  classId: (typeof asset.$inferSelect)['classId'];
  owner: (typeof asset.$inferSelect)['owner'];
  tag: string;
  model: string;
  locationId: (typeof asset.$inferSelect)['locationId'];
  path: string | null;
  customerId: (typeof asset.$inferSelect)['customerId'];
  jobPlan: string;
  minutes: number;
  freeVisits: number;
};

type Owed = { readonly row: Row; readonly visit: Visit; readonly place: Place };
type Held = { readonly reason: string | null };
export type RunResult = {
  readonly owed: readonly Owed[];
  readonly nothing: readonly { row: Row; nothing: NonNullable<ReturnType<typeof proposeVisits>['nothing']> }[];
  readonly held: ReadonlyMap<string, Held>;
  readonly schedules: number;
};

export const visitKey = (scheduleId: ScheduleId, nominal: LocalDate): string => `${scheduleId}/${nominal}`;

async function loadSchedules(db: Db, only: readonly ScheduleId[] | null): Promise<Row[]> {
  return db
    .select({
      schedule,
      agreement,
      customer: customer.name,
      assetState: asset.state,
      classId: asset.classId,
      owner: asset.owner,
      tag: asset.tag,
      model: asset.model,
      locationId: asset.locationId,
      path: location.path,
      customerId: asset.customerId,
      freeVisits: asset.warrantyVisits,
      jobPlan: jobPlan.name,
      minutes: jobPlan.minutes,
    })
    .from(schedule)
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(only === null ? undefined : inArray(schedule.id, [...only]));
}

type ReachingLine = { readonly reach: Reach; readonly term: Term };

/** Coverage lines by agreement: a schedule’s visits exist while one of them reaches its asset. */
async function linesByAgreement(
  db: Db,
  only: readonly AgreementId[] | null,
): Promise<Map<AgreementId, ReachingLine[]>> {
  const lines = new Map<AgreementId, ReachingLine[]>();
  const wanted = only === null ? undefined : inArray(coverageLine.agreementId, [...only]);
  for (const line of await db.select().from(coverageLine).where(wanted)) {
    // Taken back by an amendment before it began.
    if (line.termTo !== null && line.termTo < line.termFrom) continue;
    const held = { reach: reachOfLine(line), term: { from: line.termFrom, to: line.termTo } };
    const known = lines.get(line.agreementId);
    if (known) known.push(held);
    else lines.set(line.agreementId, [held]);
  }
  return lines;
}

/** What a run to a date owes, by the core's rules; preview, commit and outlook stand on it. `only`: some schedules. */
export async function computeRun(db: Db, to: LocalDate, only: readonly ScheduleId[] | null = null): Promise<RunResult> {
  const rows = only?.length === 0 ? [] : await loadSchedules(db, only);
  if (rows.length === 0) return { owed: [], nothing: [], held: new Map(), schedules: 0 };
  const own = only === null ? undefined : inArray(visit.scheduleId, [...only]);
  const [lines, settledRows, heldRows, book] = await Promise.all([
    linesByAgreement(db, only === null ? null : [...new Set(rows.map((r) => r.agreement.id))]),
    db
      .select({ id: visit.scheduleId, nominal: visit.nominal })
      .from(visit)
      .where(and(own, ne(visit.state, 'held'))),
    db
      .select({ id: visit.scheduleId, nominal: visit.nominal, reason: visit.holdReason })
      .from(visit)
      .where(and(own, eq(visit.state, 'held'))),
    calendarBook(db),
  ]);
  const settled = new Map<ScheduleId, Set<LocalDate>>();
  for (const { id, nominal } of settledRows) {
    const dates = settled.get(id);
    if (dates) dates.add(nominal);
    else settled.set(id, new Set([nominal]));
  }
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  const owed: Owed[] = [];
  const nothing: RunResult['nothing'][number][] = [];
  for (const row of rows) {
    const { schedule: s, agreement: a } = row;
    const rule = parseRule(s.rule);
    if (!rule.ok) throw new Error(`schedule ${s.id} holds a rule that cannot be read`);
    const place = places.of(row.locationId);
    const covered: CoveredAsset = {
      id: s.assetId,
      classId: row.classId,
      owner: row.owner,
      locationPath: place.path.map((n) => n.id),
    };
    const yielded = proposeVisits(
      {
        id: s.id,
        rule: rule.value,
        anchor: s.anchor,
        convention: s.convention,
        earlyDays: s.earlyDays,
        lateDays: s.lateDays,
        lead: s.leadDays,
        leadUnit: s.leadUnit,
        minutes: row.minutes,
        agreementStage: a.stage === 'suspended' && a.suspendedVisits ? 'in force' : a.stage,
        agreementTerm: { from: a.termFrom, to: a.termTo },
        lineTerms: (lines.get(a.id) ?? []).filter((l) => reachRank(l.reach, covered) !== null).map((l) => l.term),
        assetState: row.assetState,
        zone: place.zone,
        // A schedule without a calendar of its own goes by its place's.
        workingDays: book.workingDays(s.calendarId ?? place.calendar?.value ?? null),
        settled: settled.get(s.id) ?? new Set(),
        holds: s.holdsFrom === null && s.holdsTo === null ? null : { from: s.holdsFrom ?? s.anchor, to: s.holdsTo },
      },
      to,
    );
    for (const v of yielded.visits) owed.push({ row, visit: v, place });
    if (yielded.nothing) nothing.push({ row, nothing: yielded.nothing });
  }
  owed.sort((x, y) =>
    x.visit.due < y.visit.due ? -1 : x.visit.due > y.visit.due ? 1 : x.row.schedule.id - y.row.schedule.id,
  );
  nothing.sort((x, y) =>
    x.nothing.kind === y.nothing.kind
      ? x.row.schedule.id - y.row.schedule.id
      : x.nothing.kind === 'needs care'
        ? -1
        : 1,
  );
  return {
    owed,
    nothing,
    held: new Map(heldRows.map((h) => [visitKey(h.id, h.nominal), { reason: h.reason }])),
    schedules: rows.length,
  };
}

function remarkOn({ row, visit: v }: Owed, today: LocalDate): string | null {
  if (v.windowTo < today) return 'its window is over already';
  if (v.due < today) return 'its due date has passed';
  return row.assetState === 'out of service' ? 'the asset is out of service' : null;
}

const ORDINALS = new Intl.PluralRules('en-GB', { type: 'ordinal' });
const ENDINGS: Readonly<Record<string, string>> = { one: 'st', two: 'nd', few: 'rd' };

/** "6th of 5: chargeable". */
export const sayBeyond = ({ nth, granted }: BeyondRight): string =>
  `${nth}${ENDINGS[ORDINALS.select(nth)] ?? 'th'} of ${granted}: chargeable`;

/**
 * Which of the proposed visits lie beyond a counted right, decided in the order of their due dates as the run will decide them.
 * Only where something is counted: visits under the agreements of a customer, or free visits of a machine's warranty.
 */
async function beyondRights(
  db: Db,
  owed: readonly Owed[],
  held: ReadonlyMap<string, Held>,
): Promise<Map<string, string>> {
  const counting = new Set(
    (
      await db
        .selectDistinct({ id: agreement.customerId })
        .from(allowance)
        .innerJoin(agreement, eq(agreement.id, allowance.agreementId))
        .where(eq(allowance.unit, 'visits'))
    ).map((r) => r.id),
  );
  const keyOf = (o: Owed): string => visitKey(o.row.schedule.id, o.visit.nominal);
  const counted = owed.filter((o) => !held.has(keyOf(o)) && (counting.has(o.row.customerId) || o.row.freeVisits > 0));
  if (counted.length === 0) return new Map();
  const decided = await visitVerdicts(
    db,
    counted.map((o) => ({ assetId: o.row.schedule.assetId, due: o.visit.due })),
    'look',
  );
  return new Map(
    counted.flatMap((o, i) => {
      const beyond = decided[i]?.beyond;
      return beyond ? [[keyOf(o), sayBeyond(beyond)] as const] : [];
    }),
  );
}

function showProposal(owed: Owed, held: Held | undefined, today: LocalDate, beyond: string | null): Proposal {
  const { row, visit: v, place } = owed;
  const rule = parseRule(row.schedule.rule);
  return {
    scheduleId: row.schedule.id,
    nominal: v.nominal,
    due: v.due,
    windowFrom: v.windowFrom,
    windowTo: v.windowTo,
    raise: v.raise,
    assetId: row.schedule.assetId,
    tag: row.tag,
    model: row.model,
    customer: row.customer,
    place: place.label,
    agreementId: row.agreement.id,
    agreement: row.agreement.number,
    jobPlan: row.jobPlan,
    minutes: row.minutes,
    rule: rule.ok ? sayRule(rule.value, row.schedule.anchor, row.schedule.rule) : row.schedule.rule,
    state: held ? 'held' : 'proposed',
    holdReason: held?.reason ?? null,
    remark: remarkOn(owed, today),
    beyond,
    reminder: row.agreement.reminder,
  };
}

function showNothing({ row, nothing }: RunResult['nothing'][number]): YieldlessSchedule {
  return {
    scheduleId: row.schedule.id,
    agreementId: row.agreement.id,
    agreement: row.agreement.number,
    assetId: row.schedule.assetId,
    tag: row.tag,
    model: row.model,
    customer: row.customer,
    jobPlan: row.jobPlan,
    kind: nothing.kind,
    code: nothing.code,
    reason: nothing.reason,
  };
}

/** What a run would raise; with `rights` also which visits lie beyond what is counted. */
export async function previewRun(
  db: Db,
  to: LocalDate,
  today: LocalDate,
  rights: 'with rights' | 'without rights' = 'with rights',
): Promise<UpkeepRun> {
  accept(checkRunDate(to, today));
  const { owed, nothing, held, schedules } = await computeRun(db, to);
  const beyond = rights === 'with rights' ? await beyondRights(db, owed, held) : new Map<string, string>();
  const heldCount = owed.filter((o) => held.has(visitKey(o.row.schedule.id, o.visit.nominal))).length;
  const needsCare = nothing.filter((n) => n.nothing.kind === 'needs care').length;
  return {
    today,
    to,
    proposals: owed.slice(0, contracts.PROPOSALS_SHOWN).map((o) => {
      const key = visitKey(o.row.schedule.id, o.visit.nominal);
      return showProposal(o, held.get(key), today, beyond.get(key) ?? null);
    }),
    nothing: nothing.slice(0, contracts.PROPOSALS_SHOWN).map(showNothing),
    counts: {
      schedules,
      proposed: owed.length - heldCount,
      held: heldCount,
      beyond: beyond.size,
      needsCare,
      waits: nothing.length - needsCare,
    },
  };
}

export type VisitKey = { readonly scheduleId: ScheduleId; readonly nominal: LocalDate };

/** Writes the held visits of a run, each with its reason. Visits that were raised meanwhile are left alone. */
export async function holdVisits(
  database: Database,
  keys: readonly VisitKey[],
  to: LocalDate,
  reason: string,
  who: Person,
): Promise<number> {
  const { owed } = await computeRun(database.db, to);
  const wanted = new Set(keys.map((k) => visitKey(k.scheduleId, k.nominal)));
  const chosen = owed.filter((o) => wanted.has(visitKey(o.row.schedule.id, o.visit.nominal)));
  if (chosen.length === 0) refuse('conflict', 'None of these visits is proposed any more; look at the run again.');
  return database.transact(async (tx) => {
    await bulkInsert(
      tx.connection,
      'visit',
      [...VISIT_COLUMNS, 'hold_reason'],
      chosen.map((o) => [...visitValues(o, 'held', null), reason]),
      "ON DUPLICATE KEY UPDATE hold_reason = IF(state = 'held', VALUES(hold_reason), hold_reason)",
    );
    await note(tx, who, 'upkeep', 0, `held ${chosen.length} visits: ${reason}`);
    await announce(tx, contracts.holdVisits);
    return chosen.length;
  });
}

export async function releaseVisits(database: Database, keys: readonly VisitKey[], who: Person): Promise<void> {
  await database.transact(async (tx) => {
    for (const key of keys)
      await tx.db
        .delete(visit)
        .where(and(eq(visit.scheduleId, key.scheduleId), eq(visit.nominal, key.nominal), eq(visit.state, 'held')));
    await note(tx, who, 'upkeep', 0, `released ${keys.length} held visits`);
    await announce(tx, contracts.releaseVisits);
  });
}

const VISIT_COLUMNS = [
  'schedule_id',
  'nominal',
  'part',
  'asset_id',
  'agreement_id',
  'due',
  'window_from',
  'window_to',
  'state',
  'claim',
];

function visitValues({ row, visit: v }: Owed, state: 'held' | 'raised', claim: string | null): unknown[] {
  return [
    row.schedule.id,
    v.nominal,
    1,
    row.schedule.assetId,
    row.agreement.id,
    v.due,
    v.windowFrom,
    v.windowTo,
    state,
    claim,
  ];
}

export const BATCH = 1000;

/** Raises one batch: only visits whose unique key this transaction itself wrote get an order. */
async function raiseBatch(
  tx: Tx,
  batch: readonly Owed[],
  tasks: ReadonlyMap<number, { text: string; mandatory: boolean }[]>,
  who: Person,
  now: Instant,
  fallback: Zone,
): Promise<{ raised: number; firstOrderId: number | null }> {
  const { connection } = tx;
  const claim = randomUUID();
  // One order for everybody: two runs at once then wait for each other instead of blocking crosswise.
  const sorted = [...batch].sort(
    (x, y) => x.row.schedule.id - y.row.schedule.id || (x.visit.nominal < y.visit.nominal ? -1 : 1),
  );
  await bulkInsert(
    connection,
    'visit',
    VISIT_COLUMNS,
    sorted.map((o) => visitValues(o, 'raised', claim)),
    'ON DUPLICATE KEY UPDATE id = id',
  );
  const claimed = await tx.db
    .select({ id: visit.id, scheduleId: visit.scheduleId, nominal: visit.nominal })
    .from(visit)
    .where(eq(visit.claim, claim))
    .orderBy(visit.id);
  if (claimed.length === 0) return { raised: 0, firstOrderId: null };
  const byKey = new Map(batch.map((o) => [visitKey(o.row.schedule.id, o.visit.nominal), o]));
  const raised = claimed.map((c) => ({ visitId: c.id, owed: byKey.get(visitKey(c.scheduleId, c.nominal)) as Owed }));
  const at = instantText(now);
  const decided = await visitVerdicts(
    tx.db,
    raised.map(({ owed }) => ({ assetId: owed.row.schedule.assetId, due: owed.visit.due })),
  );
  const verdicts = decided.map((d) => d.verdict);
  const orderIds = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'work_order',
      [
        'kind',
        'stage',
        'priority',
        'title',
        'customer_id',
        'agreement_id',
        'visit_id',
        'zone',
        'started_at',
        'minutes',
      ],
      raised.map(({ visitId, owed: { row, place } }) => [
        'preventive',
        'raised',
        4,
        row.jobPlan,
        row.customerId,
        row.agreement.id,
        visitId,
        place.zone ?? fallback,
        at,
        row.minutes,
      ]),
    ),
    raised.length,
  );
  await bulkInsert(
    connection,
    'order_line',
    ['order_id', 'asset_id', 'verdict', 'promises'],
    raised.map(({ owed }, i) => [
      orderIds[i],
      owed.row.schedule.assetId,
      JSON.stringify({ verdict: verdicts[i], sentence: sayVerdict(verdicts[i] as Verdict), promise: '' }),
      '{}',
    ]),
  );
  await bookDraws(
    tx,
    raised.map(({ owed }, i) => ({
      orderId: orderIds[i] as OrderId,
      on: owed.visit.due,
      draws: verdicts[i]?.draws ?? [],
    })),
    now,
  );
  await bulkInsert(
    connection,
    'order_event',
    ['order_id', 'at', 'recorded_at', 'person_id', 'act'],
    raised.map(({ owed }, i) => [
      orderIds[i],
      at,
      at,
      who.id,
      JSON.stringify({ kind: 'raised', text: `upkeep due ${sayDate(owed.visit.due)}` }),
    ]),
  );
  const taskRows = raised.flatMap(({ owed }, i) =>
    (tasks.get(owed.row.schedule.jobPlanId) ?? []).map((t, position) => [
      orderIds[i],
      position,
      t.text,
      t.mandatory ? 1 : 0,
    ]),
  );
  if (taskRows.length > 0)
    await bulkInsert(connection, 'order_task', ['order_id', 'position', 'text', 'mandatory'], taskRows);
  await copyForms(
    tx,
    'preventive',
    raised.map(({ owed }, i) => ({ orderId: orderIds[i] as OrderId, assetId: owed.row.schedule.assetId })),
  );
  await connection.query(
    'UPDATE visit v JOIN work_order o ON o.visit_id = v.id SET v.order_id = o.id WHERE v.claim = ?',
    [claim],
  );
  return { raised: raised.length, firstOrderId: orderIds[0] ?? null };
}

export type Commit = { raised: number; alreadyRaised: number; held: number; firstOrderId: number | null };

/**
 * Raises the visits of a run that are not held, in batches of one transaction each. Whatever crashes or runs at the same
 * time, no visit gets a second order: the unique key (schedule, nominal date, part) decides.
 */
export async function commitRun(
  database: Database,
  to: LocalDate,
  only: readonly VisitKey[] | null,
  who: Person,
  now: Instant,
  today: LocalDate,
): Promise<Commit> {
  accept(checkRunDate(to, today));
  const { owed, held } = await computeRun(database.db, to);
  const chosen = only && new Set(only.map((k) => visitKey(k.scheduleId, k.nominal)));
  const keyOf = (o: Owed): string => visitKey(o.row.schedule.id, o.visit.nominal);
  const wanted = owed.filter((o) => !held.has(keyOf(o)) && (!chosen || chosen.has(keyOf(o))));
  const plans = [...new Set(wanted.map((o) => o.row.schedule.jobPlanId))];
  const tasks = new Map(
    (plans.length === 0
      ? []
      : await database.db
          .select({ id: jobPlan.id, tasks: jobPlan.tasks })
          .from(jobPlan)
          .where(inArray(jobPlan.id, plans))
    ).map((p) => [p.id as number, p.tasks as { text: string; mandatory: boolean }[]]),
  );
  let raised = 0;
  let firstOrderId: number | null = null;
  for (let i = 0; i < wanted.length; i += BATCH) {
    try {
      const result = await database.transact(async (tx) => {
        const done = await raiseBatch(tx, wanted.slice(i, i + BATCH), tasks, who, now, who.zone);
        // In the batch's own transaction: a run that is cut has left its note of how far it came.
        const far = `${raised + done.raised} of ${wanted.length}`;
        await note(tx, who, 'upkeep', 0, `run to ${sayDate(to)}: ${far} visits raised`);
        await announce(tx, contracts.commitRun);
        return done;
      });
      raised += result.raised;
      firstOrderId ??= result.firstOrderId;
    } catch (error) {
      if (raised === 0 || error instanceof Refused) throw error;
      throw new CutShort(
        `The run was cut short: ${raised} of ${wanted.length} visits are raised, and stand. Start it again; it goes on with the rest.`,
        error,
      );
    }
  }
  return {
    raised,
    alreadyRaised: (chosen ? chosen.size : wanted.length) - raised,
    held: owed.filter((o) => held.has(keyOf(o))).length,
    firstOrderId,
  };
}
