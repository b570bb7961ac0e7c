// The load of the coming year, read from the plan: hours by week, depot and skill, and visits with the days they may be moved to.
import { and, between, eq, gte, inArray, isNull, lte, or, sql } from 'drizzle-orm';
import { LOAD_WEEKS, type Levelling, type LevelVisit, type Load, type LoadRow } from '#api/load.ts';
import type { CalendarId, DepotId, SkillId } from '#core/ids.ts';
import { addDays, daysBetween, fromDayNumber, toDayNumber, type LocalDate } from '#core/time/index.ts';
import { mondayOf, type RunScope } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook } from '../calendars/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { depot, depotCapacity, skill } from '../depots/tables.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { placesOf, type Place } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Database, Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { keepPlanned } from './planning.ts';
import { machinesIn, minutesOf, sameVisit } from './proposals.ts';
import { plannedVisit, schedule, scheduleOutlook, visit } from './tables.ts';

/** More visits are not levelled at once. */
const MOST_LEVELLED = 10_000;

const p = plannedVisit;
const firstMonday = (today: LocalDate): LocalDate => fromDayNumber(mondayOf(toDayNumber(today)));
/** Far enough for whatever of the coming year is planned. */
const yearFrom = (today: LocalDate): LocalDate => addDays(today, LOAD_WEEKS * 7);
const weekOf = (day: unknown, from: LocalDate) => sql<number>`greatest(0, floor(datediff(${day}, ${from}) / 7))`;

type Hours = {
  readonly depotId: DepotId | null;
  readonly skillId: SkillId | null;
  readonly week: number;
  readonly minutes: number;
};

function plannedHours(db: Db, scope: RunScope, from: LocalDate, to: LocalDate): Promise<Hours[]> {
  return db
    .select({
      depotId: scheduleOutlook.depotId,
      skillId: jobPlan.skillId,
      week: weekOf(p.planned, from),
      minutes: sql<number>`sum(${minutesOf})`.mapWith(Number),
    })
    .from(p)
    .innerJoin(schedule, eq(schedule.id, p.scheduleId))
    .innerJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, p.scheduleId))
    .innerJoin(jobPlan, eq(jobPlan.id, sql`coalesce(${p.jobPlanId}, ${schedule.jobPlanId})`))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(and(lte(p.planned, to), isNull(p.absorbedBy), machinesIn(scope)))
    .groupBy(sql`1`, sql`2`, sql`3`);
}

/** Of visits that are raised and not done: as long as their orders are open. */
function raisedHours(db: Db, scope: RunScope, from: LocalDate, to: LocalDate): Promise<Hours[]> {
  return db
    .select({
      depotId: scheduleOutlook.depotId,
      skillId: jobPlan.skillId,
      week: weekOf(visit.planned, from),
      minutes: sql<number>`sum(coalesce(${orderLine.minutes}, ${jobPlan.minutes}))`.mapWith(Number),
    })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .innerJoin(visit, eq(visit.id, orderLine.visitId))
    .innerJoin(schedule, eq(schedule.id, visit.scheduleId))
    .innerJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, visit.scheduleId))
    .innerJoin(jobPlan, eq(jobPlan.id, visit.jobPlanId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(and(inArray(workOrder.stage, [...OPEN_STAGES]), lte(visit.planned, to), machinesIn(scope)))
    .groupBy(sql`1`, sql`2`, sql`3`);
}

const empty = (): number[] => Array.from({ length: LOAD_WEEKS }, () => 0);

/** Hours of each week of the coming year, by depot and skill; what is overdue stands in the first week. */
export async function readLoad(database: Database, scope: RunScope, today: LocalDate): Promise<Load> {
  await keepPlanned(database, { today, to: yearFrom(today) });
  const { db } = database;
  const from = firstMonday(today);
  const to = addDays(from, LOAD_WEEKS * 7 - 1);
  const [planned, raised, depots, skills, capacity] = await Promise.all([
    plannedHours(db, scope, from, to),
    raisedHours(db, scope, from, to),
    db.select({ id: depot.id, name: depot.name }).from(depot),
    db.select({ id: skill.id, name: skill.name }).from(skill),
    db.select().from(depotCapacity),
  ]);
  const rows = new Map<string, LoadRow>();
  const rowOf = (depotId: DepotId | null, skillId: SkillId | null): LoadRow => {
    const key = `${depotId}/${skillId}`;
    let row = rows.get(key);
    if (!row) {
      row = {
        depot: depots.find((d) => d.id === depotId) ?? null,
        skill: skills.find((s) => s.id === skillId) ?? null,
        capacity: capacity.find((c) => c.depotId === depotId && c.skillId === skillId)?.weeklyMinutes ?? null,
        planned: empty(),
        raised: empty(),
      };
      rows.set(key, row);
    }
    return row;
  };
  for (const [which, hours] of [['planned', planned] as const, ['raised', raised] as const])
    for (const { depotId, skillId, week, minutes } of hours) {
      const of = rowOf(depotId, skillId)[which];
      if (week < LOAD_WEEKS) of[week] = (of[week] ?? 0) + minutes;
    }
  const nameOf = (row: LoadRow): string => `${row.depot?.name ?? '\uffff'}/${row.skill?.name ?? '\uffff'}`;
  return { from, rows: [...rows.values()].sort((a, b) => nameOf(a).localeCompare(nameOf(b))) };
}

const VISIT = {
  scheduleId: p.scheduleId,
  nominal: p.nominal,
  part: p.part,
  planned: p.planned,
  due: p.due,
  changed: p.changed,
  minutes: minutesOf,
  earlyDays: schedule.earlyDays,
  lateDays: schedule.lateDays,
  calendarId: schedule.calendarId,
  isSeries: sql<number>`json_value(${schedule.cadence}, '$.kind') <> 'since service'`,
  absorbs: sql<number>`exists (select 1 from planned_visit small where small.absorbed_by = concat(${p.scheduleId}, '/', ${p.nominal}, '/', ${p.part}))`,
  tag: asset.tag,
  customer: customer.name,
  jobPlan: jobPlan.name,
  skillId: jobPlan.skillId,
  depotId: scheduleOutlook.depotId,
  locationId: asset.locationId,
  path: location.path,
};

const fromPlan = (db: Db) =>
  db
    .select(VISIT)
    .from(p)
    .innerJoin(schedule, eq(schedule.id, p.scheduleId))
    .innerJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, p.scheduleId))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, sql`coalesce(${p.jobPlanId}, ${schedule.jobPlanId})`))
    .leftJoin(location, eq(location.id, asset.locationId))
    .$dynamic();
type Row = Awaited<ReturnType<typeof fromPlan>>[number];

/** Numbers things in the order they are met. */
function numbered<K>() {
  const known = new Map<K, number>();
  return {
    of: (key: K): number => {
      let n = known.get(key);
      if (n === undefined) known.set(key, (n = known.size));
      return n;
    },
    keys: () => [...known.keys()],
  };
}

/**
 * A day that a person chose stays, as does one that a larger visit’s smaller ones hang on, one whose day follows from the last service,
 * and those of a place whose visits join: moved alone, one would take others with it.
 */
const stays = ({ changed, isSeries, absorbs }: Row, { join }: Place): boolean =>
  changed !== null || Number(isSeries) === 0 || Number(absorbs) === 1 || (join?.days ?? 0) > 0;

/**
 * Visits of the coming year with the open days of their windows from tomorrow on. Refused: more than can be levelled at once.
 */
export async function readLevelling(database: Database, scope: RunScope, today: LocalDate): Promise<Levelling> {
  await keepPlanned(database, { today, to: yearFrom(today) });
  const { db } = database;
  const from = firstMonday(today);
  const rows = await fromPlan(db)
    .leftJoin(visit, sameVisit)
    .where(
      and(
        between(p.planned, from, addDays(from, LOAD_WEEKS * 7 - 1)),
        gte(p.planned, today),
        isNull(p.absorbedBy),
        or(isNull(visit.id), inArray(visit.state, ['held', 'accepted'])),
        machinesIn(scope),
      ),
    )
    .orderBy(p.planned, p.scheduleId)
    .limit(MOST_LEVELLED + 1);
  if (rows.length > MOST_LEVELLED)
    refuse('too-large', `More than ${MOST_LEVELLED.toLocaleString('en-GB')} visits; choose a depot or a customer.`);
  const [places, book, depots, raised] = await Promise.all([
    placesOf(
      db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    calendarBook(db),
    db.select().from(depot),
    raisedHours(db, scope, from, addDays(from, LOAD_WEEKS * 7 - 1)),
  ]);
  const [groups, atDepots, sites] = [numbered<string>(), numbered<DepotId | null>(), numbered<string>()];
  const visits = rows.map((row): LevelVisit => {
    const place = places.of(row.locationId);
    const calendarId: CalendarId | null = row.calendarId ?? place.calendar?.value ?? null;
    const { isOpen } = book.workingDays(calendarId).days;
    const tomorrow = addDays(today, 1);
    const opens = addDays(row.due, -row.earlyDays);
    const begin = opens > tomorrow ? opens : tomorrow;
    const length = stays(row, place) ? 0 : Math.max(0, daysBetween(begin, addDays(row.due, row.lateDays)) + 1);
    const first = toDayNumber(begin);
    const at = place.position;
    return {
      scheduleId: row.scheduleId,
      nominal: row.nominal,
      part: row.part,
      tag: row.tag,
      customer: row.customer,
      jobPlan: row.jobPlan,
      planned: row.planned,
      minutes: row.minutes,
      depotId: row.depotId,
      skillId: row.skillId,
      group: groups.of(`${row.depotId}/${row.skillId}`),
      depot: atDepots.of(row.depotId),
      site: at && sites.of(`${at.latitude}/${at.longitude}/${place.path[0]?.name ?? ''}`),
      from: begin,
      days: Array.from({ length }, (_, i) => (isOpen(first + i) ? '1' : '0')).join(''),
    };
  });
  const fixed = raised.map(({ depotId, skillId, week, minutes }) => ({
    week: addDays(from, week * 7),
    group: groups.of(`${depotId}/${skillId}`),
    minutes,
  }));
  return {
    from,
    visits,
    fixed,
    sites: sites.keys().map((key) => {
      const [latitude, longitude, ...name] = key.split('/');
      return { name: name.join('/'), latitude: Number(latitude), longitude: Number(longitude) };
    }),
    depots: atDepots.keys().map((id) => {
      const found = depots.find((d) => d.id === id);
      const [latitude, longitude] = [found?.latitude ?? null, found?.longitude ?? null];
      const position = latitude === null || longitude === null ? null : { latitude, longitude };
      return { name: found?.name ?? 'no depot', position };
    }),
    groups: groups.keys().length,
  };
}
