// Schedules with all that their rules look at, loaded for many at once: agreements, lines, machines, places, meters and what was decided.
// Read as bare rows: a hundred thousand schedules are planned in one go.
import { group } from 'd3-array';
import { and, asc, eq, inArray } from 'drizzle-orm';
import { type Reach, type Term } from '#core/entitlement/index.ts';
import type { Currency } from '#core/money.ts';
import type {
  AgreementId,
  AssetClassId,
  AssetId,
  CalendarId,
  CustomerId,
  JobPlanId,
  LocationId,
  PersonId,
  ScheduleId,
  VisitId,
} from '#core/ids.ts';
import { localDateAt, type LocalDate, type Zone } from '#core/time/index.ts';
import type {
  DateTerms,
  Deviation,
  Holding,
  LastService,
  MeterTotal,
  VisitState,
  WrittenCadence,
  WrittenTurn,
  YearHours,
} from '#core/upkeep/index.ts';
import { reachOfLine } from '../entitlement/index.ts';
import { meter, meterReading } from '../meters/tables.ts';
import { bareRows, type Db } from '../platform/database.ts';
import { plansToDo, type PlanToDo } from '../catalogue/index.ts';
import { visitChange } from './tables.ts';

/** Which schedules: all, some, or those of machines in a stretch of ids. */
export type Which = 'all' | { readonly ids: readonly ScheduleId[] } | { readonly from: AssetId; readonly to: AssetId };

/** The condition on schedules `s`, with its values. */
function chosen(which: Which): [string, unknown[]] {
  if (which === 'all') return ['TRUE', []];
  if ('from' in which) return ['s.asset_id BETWEEN ? AND ?', [which.from, which.to]];
  return ['s.id IN (?)', [which.ids.length === 0 ? [0] : which.ids]];
}

export type Plan = PlanToDo;
export type PlanBook = ReadonlyMap<JobPlanId, Plan>;

export const planBook = (db: Db): Promise<PlanBook> => plansToDo(db);

/** Texts that many rows share are read once. */
function reader<T>(): (text: string | null) => T {
  const known = new Map<string | null, T>();
  return (text) => {
    let value = known.get(text);
    if (value === undefined) known.set(text, (value = JSON.parse(text ?? 'null') as T));
    return value;
  };
}

export type OfAgreement = {
  readonly id: AgreementId;
  readonly number: string;
  readonly stage: 'draft' | 'in force' | 'suspended' | 'ended';
  readonly suspendedVisits: boolean;
  readonly termFrom: LocalDate;
  readonly termTo: LocalDate | null;
  readonly reminder: string;
  readonly customerId: CustomerId;
  readonly customer: string;
  readonly currency: Currency;
};

export type ScheduleRow = {
  readonly schedule: DateTerms & {
    readonly id: ScheduleId;
    readonly assetId: AssetId;
    readonly jobPlanId: JobPlanId;
    readonly cadence: WrittenCadence;
    readonly anchor: LocalDate;
    readonly turns: readonly WrittenTurn[];
    readonly crew: number;
    readonly technicianId: PersonId | null;
    readonly hours: YearHours | null;
    readonly absorbDays: number | null;
    readonly calendarId: CalendarId | null;
    readonly holdsFrom: LocalDate | null;
    readonly holdsTo: LocalDate | null;
    readonly ended: NonNullable<Holding['ended']>;
    readonly timeOfDay: number | null;
    readonly reminder: string;
    readonly visitPrice: number | null;
  };
  readonly assetState: 'in service' | 'out of service' | 'in store' | 'retired';
  readonly classId: AssetClassId;
  readonly owner: 'customer' | 'own fleet';
  readonly tag: string;
  readonly model: string;
  readonly customerId: CustomerId;
  readonly freeVisits: number;
  readonly locationId: LocationId | null;
  readonly path: string | null;
  readonly agreement: OfAgreement;
};

const SCHEDULES = `SELECT s.id, s.agreement_id, s.asset_id, s.job_plan_id, CAST(s.cadence AS CHAR), s.anchor, CAST(s.turns AS CHAR), s.crew, s.technician_id, CAST(s.hours AS CHAR),
  s.absorb_days, s.calendar_id, s.holds_from, s.holds_to, s.convention, s.early_days, s.late_days, s.lead_days, s.lead_unit, s.weekday, s.time_of_day, s.reminder, s.visit_price, IF(s.left_at IS NOT NULL, 'left line', IF(s.replaced_by_id IS NOT NULL, 'replaced', 'swapped')),
  a.state, a.class_id, a.owner, a.tag, a.model, a.customer_id, a.warranty_visits, a.location_id, l.path
  FROM schedule s JOIN asset a ON a.id = s.asset_id LEFT JOIN location l ON l.id = a.location_id WHERE `;

const AGREEMENTS = `SELECT g.id, g.number, g.stage, g.suspended_visits, g.term_from, g.term_to, g.reminder, g.customer_id, c.name, g.currency
  FROM agreement g JOIN customer c ON c.id = g.customer_id WHERE g.id IN (?)`;

async function agreementsOf(db: Db, ids: readonly number[]): Promise<ReadonlyMap<number, OfAgreement>> {
  if (ids.length === 0) return new Map();
  const rows = await bareRows(db, AGREEMENTS, [ids]);
  return new Map(
    rows.map((r) => [
      r[0] as number,
      {
        id: r[0],
        number: r[1],
        stage: r[2],
        suspendedVisits: Boolean(r[3]),
        termFrom: r[4],
        termTo: r[5],
        reminder: r[6],
        customerId: r[7],
        customer: r[8],
        currency: r[9],
      } as OfAgreement,
    ]),
  );
}

/** Schedules with their machine and agreement, in the order of their ids. */
export async function loadSchedules(db: Db, which: Which): Promise<ScheduleRow[]> {
  const [where, values] = chosen(which);
  const rows = await bareRows(db, `${SCHEDULES}${where} ORDER BY s.id`, values);
  const agreements = await agreementsOf(db, [...new Set(rows.map((r) => r[1] as number))]);
  const [cadence, turns, hours] = [reader<WrittenCadence>(), reader<WrittenTurn[]>(), reader<YearHours | null>()];
  return rows.map((r) => {
    const agreement = agreements.get(r[1] as number) as OfAgreement;
    const schedule = {
      id: r[0],
      assetId: r[2],
      jobPlanId: r[3],
      cadence: cadence(r[4] as string),
      anchor: r[5],
      turns: turns(r[6] as string),
      crew: r[7],
      technicianId: r[8],
      hours: hours(r[9] as string | null),
      absorbDays: r[10],
      calendarId: r[11],
      holdsFrom: r[12],
      holdsTo: r[13],
      convention: r[14],
      earlyDays: r[15],
      lateDays: r[16],
      lead: r[17],
      leadUnit: r[18],
      weekday: r[19],
      timeOfDay: r[20],
      reminder: r[21],
      visitPrice: r[22],
      ended: r[23],
    } as ScheduleRow['schedule'];
    return {
      schedule,
      agreement,
      assetState: r[24],
      classId: r[25],
      owner: r[26],
      tag: r[27],
      model: r[28],
      customerId: r[29],
      freeVisits: r[30],
      locationId: r[31],
      path: r[32],
    } as ScheduleRow;
  });
}

export type ReachingLine = { readonly reach: Reach; readonly term: Term };
/** Lines that name a machine are asked for by it; the others by their reach. */
export type LinesOf = (agreementId: AgreementId, assetId: AssetId) => readonly ReachingLine[];

const LINES = `SELECT agreement_id, asset_id, location_id, asset_class_id, term_from, term_to FROM coverage_line
  WHERE agreement_id IN (?) AND (asset_id IS NULL OR asset_id IN (?))
  AND (term_to IS NULL OR term_to >= term_from)`;

/** Coverage lines of the schedules’ agreements: visits exist while one of them reaches the asset. Lines taken back before they began aside. */
export async function linesOf(db: Db, rows: readonly ScheduleRow[]): Promise<LinesOf> {
  if (rows.length === 0) return () => [];
  const agreements = [...new Set(rows.map((r) => r.agreement.id))];
  const found = await bareRows(db, LINES, [agreements, [...new Set(rows.map((r) => r.schedule.assetId))]]);
  const lines = group(found, (r) => `${r[0] as number}/${(r[1] as number | null) ?? ''}`);
  const asLines = new Map<string, ReachingLine[]>();
  const read = (key: string): ReachingLine[] => {
    let known = asLines.get(key);
    if (!known) {
      known = (lines.get(key) ?? []).map((r) => ({
        reach: reachOfLine({
          assetId: r[1],
          locationId: r[2],
          assetClassId: r[3],
        } as Parameters<typeof reachOfLine>[0]),
        term: { from: r[4] as LocalDate, to: r[5] as LocalDate | null },
      }));
      asLines.set(key, known);
    }
    return known;
  };
  return (agreementId, assetId) => [...read(`${agreementId}/${assetId}`), ...read(`${agreementId}/`)];
}

export type VisitRow = {
  readonly id: VisitId;
  readonly scheduleId: ScheduleId;
  readonly nominal: LocalDate;
  readonly part: number;
  readonly due: LocalDate;
  readonly planned: LocalDate;
  readonly state: VisitState;
  readonly jobPlanId: JobPlanId;
  readonly completedOn: LocalDate | null;
};

const SETTLED = `SELECT v.id, v.schedule_id, v.nominal, v.part, v.due, v.planned, v.state, v.job_plan_id, v.completed_on
  FROM schedule s JOIN visit v ON v.schedule_id = s.id WHERE v.state NOT IN ('held', 'accepted') AND `;

/** Visits that were raised, declined or let go already, by schedule. */
export async function settledVisits(db: Db, which: Which): Promise<ReadonlyMap<ScheduleId, readonly VisitRow[]>> {
  const [where, values] = chosen(which);
  const rows = await bareRows(db, `${SETTLED}${where}`, values);
  const visits = rows.map(
    (r) =>
      ({
        id: r[0],
        scheduleId: r[1],
        nominal: r[2],
        part: r[3],
        due: r[4],
        planned: r[5],
        state: r[6],
        jobPlanId: r[7],
        completedOn: r[8],
      }) as VisitRow,
  );
  return group(visits, (v) => v.scheduleId);
}

export type Held = { readonly reason: string | null };

const HELD = `SELECT v.schedule_id, v.nominal, v.part, v.hold_reason FROM visit v JOIN schedule s ON s.id = v.schedule_id
  WHERE v.state = 'held' AND `;

export async function heldVisits(db: Db, which: Which) {
  const [where, values] = chosen(which);
  return (await bareRows(db, `${HELD}${where}`, values)).map((r) => ({
    scheduleId: r[0] as ScheduleId,
    nominal: r[1] as LocalDate,
    part: r[2] as number,
    reason: r[3] as string | null,
  }));
}

/** What persons decided for single visits, by schedule. */
export async function deviationsOf(
  db: Db,
  ids: readonly ScheduleId[] | null,
): Promise<ReadonlyMap<ScheduleId, readonly Deviation[]>> {
  const rows = await db
    .select()
    .from(visitChange)
    .where(ids === null ? undefined : inArray(visitChange.scheduleId, [...ids]));
  const deviations = rows.map((row) => {
    const { scheduleId, minutes, crew, technicianId, nominal, part, added, movedTo, agreed, skipped } = row;
    const work = {
      ...(minutes !== null && { minutes }),
      ...(crew !== null && { crew }),
      ...(technicianId !== null && { technicianId }),
    };
    return { scheduleId, deviation: { nominal, part, added, movedTo, agreed, skipped, ...work } };
  });
  return new Map([...group(deviations, (d) => d.scheduleId)].map(([id, of]) => [id, of.map((d) => d.deviation)]));
}

/** The last visit of one that counts from its last service; an absorbed one is done with the larger one. */
export function lastServiceOf(visits: readonly VisitRow[]): LastService | null {
  const last = visits.reduce<VisitRow | null>((a, b) => (a === null || b.part > a.part ? b : a), null);
  if (!last) return null;
  const { part, due, state, completedOn } = last;
  return { part, due, completedOn, state: state === 'raised' || state === 'absorbed' ? 'raised' : 'left out' };
}

type Counted = { readonly assetId: AssetId; readonly meter: string; readonly zone: Zone };
const meterKey = (assetId: AssetId, name: string): string => `${assetId}/${name}`;

/** Totals of meters by local day, over replacements and resets; by asset and name of the meter. */
export async function meterTotals(
  db: Db,
  counted: readonly Counted[],
): Promise<(assetId: AssetId, name: string) => readonly MeterTotal[]> {
  if (counted.length === 0) return () => [];
  const zones = new Map(counted.map((c) => [meterKey(c.assetId, c.meter), c.zone]));
  const meters = await db
    .select({ id: meter.id, assetId: meter.assetId, name: meter.name })
    .from(meter)
    .where(inArray(meter.assetId, [...new Set(counted.map((c) => c.assetId))]));
  const byId = new Map(meters.flatMap((m) => (zones.has(meterKey(m.assetId, m.name)) ? [[m.id, m] as const] : [])));
  if (byId.size === 0) return () => [];
  const readings = await db
    .select({ meterId: meterReading.meterId, at: meterReading.at, value: meterReading.value, anew: meterReading.anew })
    .from(meterReading)
    .where(and(inArray(meterReading.meterId, [...byId.keys()]), eq(meterReading.struckOut, false)))
    .orderBy(asc(meterReading.meterId), asc(meterReading.at), asc(meterReading.id));
  const found = new Map<string, MeterTotal[]>();
  for (const [meterId, own] of group(readings, (r) => r.meterId)) {
    const of = byId.get(meterId) as (typeof meters)[number];
    const key = meterKey(of.assetId, of.name);
    let [total, before] = [0, 0];
    found.set(
      key,
      own.map(({ at, value, anew }) => {
        total += anew === null ? value - before : value;
        before = value;
        return { on: localDateAt(zones.get(key) as Zone, at), total };
      }),
    );
  }
  return (assetId, name) => found.get(meterKey(assetId, name)) ?? [];
}

export const nominalsOf = (visits: readonly VisitRow[]): ReadonlySet<LocalDate> =>
  new Set(visits.map((v) => v.nominal));
