// What a run to a date owes: every schedule loaded, the core proposes. Preview, commit and outlook stand on it.
import { and, eq, inArray, ne } from 'drizzle-orm';
import { type CoveredAsset, type Reach, reachRank, type Term } from '#core/entitlement/index.ts';
import type { AgreementId, ScheduleId } from '#core/ids.ts';
import { parseRule } from '#core/recurrence/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { proposeVisits, type Schedule, type Visit } from '#core/upkeep/index.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { reachOfLine } from '../entitlement/index.ts';
import { type Place, placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { schedule, visit } from './tables.ts';

export type ScheduleRow = {
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

export type Owed = { readonly row: ScheduleRow; readonly visit: Visit; readonly place: Place };
export type Held = { readonly reason: string | null };
export type RunResult = {
  readonly owed: readonly Owed[];
  readonly nothing: readonly { row: ScheduleRow; nothing: NonNullable<ReturnType<typeof proposeVisits>['nothing']> }[];
  readonly held: ReadonlyMap<string, Held>;
  readonly schedules: number;
};

export const visitKey = (scheduleId: ScheduleId, nominal: LocalDate): string => `${scheduleId}/${nominal}`;

async function loadSchedules(db: Db, only: readonly ScheduleId[] | null): Promise<ScheduleRow[]> {
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

/** The dates of each schedule that are raised, declined or let go already. */
function settledBy(rows: readonly { readonly id: ScheduleId; readonly nominal: LocalDate }[]) {
  const settled = new Map<ScheduleId, Set<LocalDate>>();
  for (const { id, nominal } of rows) {
    const dates = settled.get(id);
    if (dates) dates.add(nominal);
    else settled.set(id, new Set([nominal]));
  }
  return settled;
}

/** A schedule as the core's rule looks at it. */
function scheduleOf(
  row: ScheduleRow,
  place: Place,
  lines: readonly ReachingLine[],
  book: CalendarBook,
  settled: ReadonlySet<LocalDate>,
): Schedule {
  const { schedule: s, agreement: a } = row;
  const rule = parseRule(s.rule);
  if (!rule.ok) throw new Error(`schedule ${s.id} holds a rule that cannot be read`);
  const covered: CoveredAsset = {
    id: s.assetId,
    classId: row.classId,
    owner: row.owner,
    locationPath: place.path.map((n) => n.id),
  };
  return {
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
    lineTerms: lines.filter((l) => reachRank(l.reach, covered) !== null).map((l) => l.term),
    assetState: row.assetState,
    zone: place.zone,
    // A schedule without a calendar of its own goes by its place's.
    workingDays: book.workingDays(s.calendarId ?? place.calendar?.value ?? null),
    settled,
    holds: s.holdsFrom === null && s.holdsTo === null ? null : { from: s.holdsFrom ?? s.anchor, to: s.holdsTo },
  };
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
  const settled = settledBy(settledRows);
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  const owed: Owed[] = [];
  const nothing: RunResult['nothing'][number][] = [];
  for (const row of rows) {
    const place = places.of(row.locationId);
    const { id } = row.schedule;
    const terms = scheduleOf(row, place, lines.get(row.agreement.id) ?? [], book, settled.get(id) ?? new Set());
    const yielded = proposeVisits(terms, to);
    for (const v of yielded.visits) owed.push({ row, visit: v, place });
    if (yielded.nothing) nothing.push({ row, nothing: yielded.nothing });
  }
  owed.sort((x, y) =>
    x.visit.due < y.visit.due ? -1 : x.visit.due > y.visit.due ? 1 : x.row.schedule.id - y.row.schedule.id,
  );
  nothing.sort((x, y) =>
    x.nothing.kind === y.nothing.kind
      ? x.row.schedule.id - y.row.schedule.id
      : x.nothing.kind === 'needs action'
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
