// What a run to a date owes: every schedule loaded, the core proposes. Plan, raising and ribbon stand on it.
import { group } from 'd3-array';
import type { WorkingDays } from '#core/calendars/index.ts';
import { eq, inArray } from 'drizzle-orm';
import { type CoveredAsset, reachRank } from '#core/entitlement/index.ts';
import { asId, type DepotId, type JobPlanId, type ScheduleId } from '#core/ids.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import {
  absorbVisits,
  cadenceOf,
  inclusionsOf,
  proposeVisits,
  turnsOf,
  type Holding,
  type Inclusions,
  type Schedule,
  type Visit,
  type YieldsNothing,
} from '#core/upkeep/index.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { jobPlanIncludes } from '../catalogue/tables.ts';
import { type Place, placesOf } from '../places/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import {
  deviationsOf,
  heldVisits,
  lastServiceOf,
  linesOf,
  loadSchedules,
  meterTotals,
  nominalsOf,
  planBook,
  settledVisits,
  type Held,
  type PlanBook,
  type LinesOf,
  type ScheduleRow,
  type VisitRow,
  type Which,
} from './loading.ts';
import { schedule } from './tables.ts';

export type { Held, ScheduleRow } from './loading.ts';
export type Owed = {
  readonly row: ScheduleRow;
  readonly visit: Visit;
  readonly place: Place;
  readonly workingDays: WorkingDays;
};
/** A visit whose work a larger one does: one of the run or still ahead, or one that was raised before. */
export type Absorbed = { readonly of: Owed; readonly by: string; readonly raised: VisitRow | null };
export type RunResult = {
  readonly owed: readonly Owed[];
  readonly nothing: readonly { row: ScheduleRow; nothing: YieldsNothing }[];
  readonly absorbed: readonly Absorbed[];
  readonly held: ReadonlyMap<string, Held>;
  readonly plans: PlanBook;
  /** The schedules that were looked at. */
  readonly asked: readonly ScheduleRow[];
  readonly depotOf: (row: ScheduleRow) => DepotId | null;
};

export const visitKey = (scheduleId: ScheduleId, nominal: LocalDate, part = 1): string =>
  `${scheduleId}/${nominal}/${part}`;
/** The schedule of a visit, by the visit’s name. */
export const leaderOf = (key: string): ScheduleId => asId<ScheduleId>(Number(key.slice(0, key.indexOf('/'))));
export const keyOf = ({ row, visit: v }: Owed): string => visitKey(row.schedule.id, v.nominal, v.part);

/** What the schedules of a run stand on, loaded together. */
type Ground = {
  readonly lines: LinesOf;
  readonly settled: ReadonlyMap<ScheduleId, readonly VisitRow[]>;
  readonly deviations: Awaited<ReturnType<typeof deviationsOf>>;
  readonly totals: Awaited<ReturnType<typeof meterTotals>>;
  readonly places: Awaited<ReturnType<typeof placesOf>>;
  readonly book: CalendarBook;
  readonly plans: PlanBook;
};

async function loadGround(db: Db, rows: readonly ScheduleRow[], which: Which, by?: CalendarBook): Promise<Ground> {
  const ids = which === 'all' ? null : rows.map((r) => r.schedule.id);
  const [lines, settled, deviations, places, book, plans] = await Promise.all([
    linesOf(db, rows),
    settledVisits(db, which),
    deviationsOf(db, ids),
    placesOf(
      db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    by ?? calendarBook(db),
    planBook(db),
  ]);
  const totals = await meterTotals(
    db,
    rows.flatMap(({ schedule: { cadence, assetId }, locationId }) => {
      const { zone } = places.of(locationId);
      return cadence.kind === 'since service' && cadence.meter && zone
        ? [{ assetId, meter: cadence.meter.meter, zone }]
        : [];
    }),
  );
  return { lines, settled, deviations, totals, places, book, plans };
}

const NO_VISITS: readonly VisitRow[] = [];

const holdingOf = ({ holdsFrom, anchor, holdsTo, ended }: ScheduleRow['schedule']): Holding => ({
  from: holdsFrom ?? anchor,
  to: holdsTo,
  ended,
});

/** A schedule as the core's rules look at it. */
function scheduleOf(row: ScheduleRow, place: Place, ground: Ground): Schedule {
  const { schedule: s, agreement: a } = row;
  const covered: CoveredAsset = {
    id: s.assetId,
    classId: row.classId,
    owner: row.owner,
    locationPath: place.path.map((n) => n.id),
  };
  const plan = ground.plans.get(s.jobPlanId);
  const settled = ground.settled.get(s.id) ?? NO_VISITS;
  const { cadence } = s;
  const sinceService = cadence.kind === 'since service';
  return {
    id: s.id,
    cadence: cadenceOf(s, (id) => ground.plans.get(id)?.minutes ?? 0),
    turns: s.turns.length === 0 ? [] : turnsOf(s.turns),
    deviations: ground.deviations.get(s.id) ?? [],
    work: { jobPlanId: s.jobPlanId, minutes: plan?.minutes ?? 0 },
    crew: s.crew,
    technicianId: s.technicianId,
    hours: s.hours,
    convention: s.convention,
    earlyDays: s.earlyDays,
    lateDays: s.lateDays,
    lead: s.lead,
    leadUnit: s.leadUnit,
    weekday: s.weekday,
    agreementStage: a.stage === 'suspended' && a.suspendedVisits ? 'in force' : a.stage,
    agreementTerm: { from: a.termFrom, to: a.termTo },
    lineTerms: ground
      .lines(a.id, s.assetId)
      .filter((l) => reachRank(l.reach, covered) !== null)
      .map((l) => l.term),
    assetState: row.assetState,
    zone: place.zone,
    // A schedule without a calendar of its own goes by its place's.
    workingDays: ground.book.workingDays(s.calendarId ?? place.calendar?.value ?? null),
    settled: nominalsOf(settled),
    last: sinceService ? lastServiceOf(settled) : null,
    readings: sinceService && cadence.meter ? ground.totals(s.assetId, cadence.meter.meter) : [],
    holds: s.holdsFrom === null && s.holdsTo === null ? null : holdingOf(s),
  };
}

/** So far past the run’s date a larger visit can lie that absorbs a smaller one of the run: spans and leads are at most half a year. */
const NESTING_AHEAD_DAYS = 400;

type Yielded = { readonly row: ScheduleRow; readonly place: Place; readonly schedule: Schedule };

const plansOf = ({ schedule: { work, cadence } }: Yielded): JobPlanId[] => [
  work.jobPlanId,
  ...(cadence.kind === 'phases' ? cadence.phases.flatMap((p) => p.work?.jobPlanId ?? []) : []),
];

/** Schedules of one machine under one agreement of which some may absorb others. */
function nests(yielded: readonly Yielded[], { includes }: Inclusions): Yielded[][] {
  const groups = group(yielded, ({ row }) => `${row.schedule.assetId}/${row.agreement.id}`);
  const mayAbsorb = (large: Yielded, small: Yielded): boolean =>
    plansOf(large).some((l) => plansOf(small).some((s) => includes(l, s)));
  return [...groups.values()].filter(
    (nest) =>
      nest.length > 1 &&
      nest.some((small) => small.row.schedule.absorbDays !== null && nest.some((large) => mayAbsorb(large, small))),
  );
}

/** Which visits of a nest a larger one does, looking past the run’s date for larger ones. */
function absorbedOf(nest: readonly Yielded[], ground: Ground, inclusions: Inclusions, to: LocalDate): Absorbed[] {
  const owed = new Map<string, Owed>();
  const raisedBefore = new Map<string, VisitRow>();
  const standing = nest.flatMap(({ row, place, schedule: s }) => {
    const { id: scheduleId, absorbDays } = row.schedule;
    const ahead = proposeVisits(s, addDays(to, NESTING_AHEAD_DAYS)).visits.map((v) => {
      const key = visitKey(scheduleId, v.nominal, v.part);
      owed.set(key, { row, visit: v, place, workingDays: s.workingDays });
      return { key, scheduleId, absorbDays, jobPlanId: v.jobPlanId, planned: v.planned, state: 'to come' as const };
    });
    const raised = (ground.settled.get(scheduleId) ?? NO_VISITS)
      .filter((v) => v.state === 'raised')
      .map((v) => {
        const key = visitKey(scheduleId, v.nominal, v.part);
        raisedBefore.set(key, v);
        return { key, scheduleId, absorbDays, jobPlanId: v.jobPlanId, planned: v.planned, state: 'raised' as const };
      });
    return [...ahead, ...raised];
  });
  return [...absorbVisits(standing, inclusions)].flatMap(([small, by]) => {
    const of = owed.get(small);
    return of ? [{ of, by, raised: raisedBefore.get(by) ?? null }] : [];
  });
}

const byDue = (x: Owed, y: Owed): number =>
  x.visit.planned < y.visit.planned
    ? -1
    : x.visit.planned > y.visit.planned
      ? 1
      : x.row.schedule.id - y.row.schedule.id;

/** Those asked for, with the others of their machines where one may absorb another. */
async function withNests(db: Db, rows: readonly ScheduleRow[]): Promise<ScheduleRow[]> {
  const assets = [...new Set(rows.map((r) => r.schedule.assetId))];
  const all = await db.select({ id: schedule.id }).from(schedule).where(inArray(schedule.assetId, assets));
  const known = new Set(rows.map((r) => r.schedule.id));
  const more = all.map((s) => s.id).filter((id) => !known.has(id));
  return more.length === 0 ? [...rows] : [...rows, ...(await loadSchedules(db, { ids: more }))];
}

async function yieldedOf(db: Db, which: Which, isNested: boolean, by?: CalendarBook) {
  const asked = await loadSchedules(db, which);
  const isSome = which !== 'all' && 'ids' in which;
  const rows = isSome && isNested && asked.length > 0 ? await withNests(db, asked) : asked;
  const ground = await loadGround(db, rows, isSome ? { ids: rows.map((r) => r.schedule.id) } : which, by);
  const all = rows.map((row): Yielded => {
    const place = ground.places.of(row.locationId);
    return { row, place, schedule: scheduleOf(row, place, ground) };
  });
  return { all, asked: all.slice(0, asked.length), ground };
}

const needsFirst = (x: RunResult['nothing'][number], y: RunResult['nothing'][number]): number =>
  x.nothing.kind === y.nothing.kind
    ? x.row.schedule.id - y.row.schedule.id
    : x.nothing.kind === 'needs action'
      ? -1
      : 1;

/** What a run to a date owes, by the core's rules and the calendars there are or others; plan, preview and raising stand on it. */
export async function computeRun(db: Db, to: LocalDate, which: Which = 'all', by?: CalendarBook): Promise<RunResult> {
  const pairs = await db
    .select({ larger: jobPlanIncludes.largerId, smaller: jobPlanIncludes.smallerId })
    .from(jobPlanIncludes);
  const isNested = pairs.length > 0;
  const [{ all, asked, ground }, held] = await Promise.all([yieldedOf(db, which, isNested, by), heldVisits(db, which)]);
  const inclusions = inclusionsOf(pairs);
  const absorbed = (isNested ? nests(all, inclusions) : []).flatMap((nest) => absorbedOf(nest, ground, inclusions, to));
  const taken = new Set(absorbed.map((a) => keyOf(a.of)));
  const owed: Owed[] = [];
  const nothing: RunResult['nothing'][number][] = [];
  for (const { row, place, schedule: s } of asked) {
    const { visits, nothing: why } = proposeVisits(s, to);
    for (const visit of visits)
      if (!taken.has(visitKey(s.id, visit.nominal, visit.part)))
        owed.push({ row, visit, place, workingDays: s.workingDays });
    if (why) nothing.push({ row, nothing: why });
  }
  return {
    owed: owed.sort(byDue),
    nothing: nothing.sort(needsFirst),
    absorbed,
    held: new Map(held.map((h) => [visitKey(h.scheduleId, h.nominal, h.part), { reason: h.reason }])),
    plans: ground.plans,
    asked: asked.map((a) => a.row),
    depotOf: (row) => ground.places.of(row.locationId).depot?.value ?? null,
  };
}

/** One schedule as the rules look at it, with what it hangs on. Refused: there is none. */
export async function loadSeries(db: Db, id: ScheduleId) {
  const { asked, ground } = await yieldedOf(db, { ids: [id] }, false);
  const [one] = asked;
  if (!one) refuse('not-found', 'There is no such schedule.');
  const [written] = await db.select().from(schedule).where(eq(schedule.id, id));
  if (!written) refuse('not-found', 'There is no such schedule.');
  return { ...one, plans: ground.plans, written };
}

/** Some schedules as the rules look at them, by id. */
export async function loadMany(db: Db, ids: readonly ScheduleId[]): Promise<ReadonlyMap<ScheduleId, Schedule>> {
  if (ids.length === 0) return new Map();
  const { asked } = await yieldedOf(db, { ids }, false);
  return new Map(asked.map(({ schedule: s }) => [s.id, s]));
}
