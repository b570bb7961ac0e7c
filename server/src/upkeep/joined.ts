// Visits that one order is raised for: planned visits at one place are brought together by the rules of core, after each schedule was
// planned for itself. What a visit would be on its own is kept beside what the order makes of it.
import { group } from 'd3-array';
import { and, eq, inArray, isNotNull, isNull, like, or, sql, type SQL } from 'drizzle-orm';
import type { WorkingDays } from '#core/calendars/index.ts';
import type { AgreementId, CalendarId, CustomerId, ScheduleId } from '#core/ids.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { joinVisits, type JoiningVisit } from '#core/upkeep/index.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { location } from '../places/tables.ts';
import { placesOf, type Place, type Places } from '../places/index.ts';
import { bulkInsert, type Database, type Db, type Tx } from '../platform/database.ts';
import { visitKey, type Owed } from './owed.ts';
import type { PlanAsk } from './plan.ts';
import { sameVisit } from './proposals.ts';
import { plannedVisit, schedule, visit } from './tables.ts';

const p = plannedVisit;

const COLUMNS = {
  scheduleId: p.scheduleId,
  nominal: p.nominal,
  part: p.part,
  planned: p.planned,
  due: p.due,
  raiseOn: p.raiseOn,
  changed: p.changed,
  joined: p.joined,
  ownPlanned: p.ownPlanned,
  ownRaise: p.ownRaise,
  earlyDays: schedule.earlyDays,
  lateDays: schedule.lateDays,
  calendarId: schedule.calendarId,
  technicianId: sql<number | null>`coalesce(${p.technicianId}, ${schedule.technicianId})`,
  agreementId: agreement.id,
  customerId: agreement.customerId,
  locationId: asset.locationId,
  path: location.path,
  state: visit.state,
};

const visitsWhere = (db: Db, where: SQL | undefined) =>
  db
    .select(COLUMNS)
    .from(p)
    .innerJoin(schedule, eq(schedule.id, p.scheduleId))
    .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .leftJoin(visit, sameVisit)
    .where(and(isNull(p.absorbedBy), where));
type Row = Awaited<ReturnType<typeof visitsWhere>>[number];

const keyOfRow = ({ scheduleId, nominal, part }: Row): string => visitKey(scheduleId, nominal, part);

/** As the core’s rules look at one: a day that a person chose is kept. */
export const joiningOf = <Key>(
  key: Key,
  row: Pick<
    Row,
    'scheduleId' | 'due' | 'earlyDays' | 'lateDays' | 'changed' | 'ownPlanned' | 'planned' | 'ownRaise' | 'raiseOn'
  >,
): JoiningVisit<Key> => ({
  key,
  scheduleId: row.scheduleId,
  due: row.due,
  windowFrom: addDays(row.due, -row.earlyDays),
  windowTo: addDays(row.due, row.lateDays),
  raise: row.ownRaise ?? row.raiseOn,
  chosen: row.changed === null ? null : (row.ownPlanned ?? row.planned),
});

type Joined = Pick<Row, 'joined' | 'planned' | 'raiseOn' | 'ownPlanned' | 'ownRaise'>;

/** What makes visits ones that may be joined: one customer and agreement, one wanted technician, one calendar, one place that says so. */
type Alike = {
  readonly place: Place;
  readonly customerId: CustomerId;
  readonly agreementId: AgreementId;
  readonly technicianId: number | null;
  readonly calendarId: CalendarId | null;
};

type Order<T> = { readonly visits: readonly T[]; readonly day: LocalDate; readonly raise: LocalDate };

/** The orders that visits make, those that stand alone among them. */
function ordersOf<T>(
  visits: readonly T[],
  alikeOf: (visit: T) => Alike,
  joining: (visit: T) => JoiningVisit<T>,
  workingDaysOf: (visit: T) => WorkingDays,
): Order<T>[] {
  const name = (visit: T): string => {
    const { place, customerId, agreementId, technicianId, calendarId } = alikeOf(visit);
    return [place.join?.placeId, customerId, agreementId, technicianId, calendarId].join('/');
  };
  return [...group(visits, name).values()].flatMap((own) => {
    const [first] = own as [T];
    const days = alikeOf(first).place.join?.days ?? 0;
    const all = own.map(joining);
    if (days === 0) return all.map((v) => ({ visits: [v.key], day: v.chosen ?? v.due, raise: v.raise }));
    const workingDays = workingDaysOf(first);
    return joinVisits(all, days, (day) => workingDays.isWorkingDay(day)).map(({ keys, day, raise }) => ({
      ...{ visits: keys, day, raise },
    }));
  });
}

/** What the orders make of planned visits, by the name of each. Those that are held, or that nothing joins, are not among them. */
function joinedOf(rows: readonly Row[], places: Places, book: CalendarBook): Map<string, Joined> {
  const calendarOf = (r: Row) => r.calendarId ?? places.of(r.locationId).calendar?.value ?? null;
  const orders = ordersOf(
    rows.filter((r) => r.state !== 'held'),
    (r) => ({ ...r, place: places.of(r.locationId), calendarId: calendarOf(r) }),
    (r) => joiningOf(r, r),
    (r) => book.workingDays(calendarOf(r)),
  );
  const found = new Map<string, Joined>();
  for (const { visits, day, raise } of orders) {
    if (visits.length === 1) continue;
    const leader = visits.reduce((a, b) => (b.scheduleId < a.scheduleId ? b : a));
    for (const row of visits)
      found.set(keyOfRow(row), {
        joined: keyOfRow(leader),
        planned: day,
        raiseOn: raise,
        ownPlanned: row.ownPlanned ?? row.planned,
        ownRaise: row.ownRaise ?? row.raiseOn,
      });
  }
  return found;
}

/** The orders that visits would make which are worked out but not planned yet. */
export const ordersAmong = (owed: readonly Owed[]): Order<Owed>[] =>
  ordersOf(
    owed,
    ({ row, place, visit: v }) => ({
      place,
      customerId: row.agreement.customerId,
      agreementId: row.agreement.id,
      technicianId: v.technicianId,
      calendarId: row.schedule.calendarId ?? place.calendar?.value ?? null,
    }),
    (one) => ({
      ...{ key: one, scheduleId: one.row.schedule.id, due: one.visit.due, raise: one.visit.raise },
      ...{ windowFrom: one.visit.windowFrom, windowTo: one.visit.windowTo },
      chosen: one.visit.changed === null ? null : one.visit.planned,
    }),
    ({ workingDays }) => workingDays,
  );

const alone = (row: Row): Joined => ({
  joined: null,
  planned: row.ownPlanned ?? row.planned,
  raiseOn: row.ownRaise ?? row.raiseOn,
  ownPlanned: null,
  ownRaise: null,
});

const isAs = (row: Joined, wanted: Joined): boolean =>
  row.joined === wanted.joined && row.planned === wanted.planned && row.raiseOn === wanted.raiseOn;

async function writeJoined(tx: Tx, rows: readonly Row[], orders: ReadonlyMap<string, Joined>, written: number) {
  const wanted = rows.map((row) => ({ ...row, ...(orders.get(keyOfRow(row)) ?? alone(row)) }));
  const others = wanted.filter((w, i) => !isAs(rows[i] as Row, w));
  await bulkInsert(
    tx.connection,
    'planned_visit',
    ['schedule_id', 'nominal', 'part', 'due', 'planned', 'raise_on', 'written', 'joined', 'own_planned', 'own_raise'],
    others.map((w) => [
      ...[w.scheduleId, w.nominal, w.part, w.due, w.planned, w.raiseOn, written, w.joined, w.ownPlanned, w.ownRaise],
    ]),
    `ON DUPLICATE KEY UPDATE ${['planned', 'raise_on', 'written', 'joined', 'own_planned', 'own_raise']
      .map((c) => `${c} = VALUES(${c})`)
      .join(', ')}`,
  );
  // When a schedule next raises was written by its own planning.
  const bySchedule = group(wanted, (w) => w.scheduleId);
  const told = new Set([...others, ...wanted.filter((w) => w.joined !== null)].map((w) => w.scheduleId));
  await bulkInsert(
    tx.connection,
    'schedule_outlook',
    ['schedule_id', 'agreement_id', 'customer_id', 'next_raise', 'next_due'],
    [...told].map((id) => {
      const next = (bySchedule.get(id) ?? []).reduce((a, b) => (b.raiseOn < a.raiseOn ? b : a));
      return [id, next.agreementId, next.customerId, next.raiseOn, next.due];
    }),
    'ON DUPLICATE KEY UPDATE next_raise = VALUES(next_raise), next_due = VALUES(next_due)',
  );
}

/** Places at or below one, by the path. */
const below = (path: string): SQL => like(location.path, `${path}%`);

/** Places whose visits may be joined otherwise now, and the schedules with something joined that may be so no more. */
async function inPlay(db: Db, which: readonly ScheduleId[] | 'all', spans: readonly { readonly path: string }[]) {
  const among = async (where: SQL | undefined): Promise<ScheduleId[]> =>
    (
      await db
        .selectDistinct({ id: p.scheduleId })
        .from(p)
        .where(and(isNotNull(p.joined), where))
    ).map((j) => j.id);
  if (which === 'all') return { paths: spans.map((s) => s.path), ids: await among(undefined) };
  if (which.length === 0) return { paths: [], ids: [] };
  const keys = await db
    .selectDistinct({ joined: p.joined })
    .from(p)
    .where(and(inArray(p.scheduleId, [...which]), isNotNull(p.joined)));
  const names = keys.flatMap((k) => k.joined ?? []);
  const ids = names.length === 0 ? [] : await among(inArray(p.joined, names));
  if (spans.length === 0) return { paths: [], ids };
  const at = await db
    .selectDistinct({ path: location.path })
    .from(schedule)
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(location, eq(location.id, asset.locationId))
    .where(inArray(schedule.id, [...which, ...ids]));
  return { paths: spans.map((s) => s.path).filter((path) => at.some((a) => a.path.startsWith(path))), ids };
}

/** Schedules whose visits are let go in one transaction, where no place says any more that they join. */
const AT_ONCE = 2000;

/** Joins what was planned: of some schedules with all others of their places, or of the whole house. */
export async function keepJoined(
  database: Database,
  which: readonly ScheduleId[] | 'all',
  { written, hold }: PlanAsk,
): Promise<void> {
  const { db } = database;
  const spans = await db.select({ path: location.path }).from(location).where(isNotNull(location.joinDays));
  const { paths, ids } = await inPlay(db, which, spans);
  // A place within another is looked at with it.
  const tops = paths.filter((path) => !paths.some((other) => other !== path && path.startsWith(other)));
  const lots: SQL[] = tops.map(below);
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    const elsewhere = tops.map((path) => or(isNull(location.path), sql`not ${below(path)}`));
    const some = and(inArray(p.scheduleId, ids.slice(i, i + AT_ONCE)), ...elsewhere);
    if (some) lots.push(some);
  }
  if (lots.length === 0) return;
  const book = await calendarBook(db);
  for (const where of lots)
    await database.transact(async (tx) => {
      await hold(tx);
      const rows = await visitsWhere(tx.db, where);
      const places = await placesOf(
        tx.db,
        rows.map((r) => ({ id: r.locationId, path: r.path })),
      );
      await writeJoined(tx, rows, joinedOf(rows, places, book), written);
    });
}

/** The days on which visits of some schedules are done with others, by name, and with how many. */
export async function joinedDays(
  db: Db,
  ids: readonly ScheduleId[],
): Promise<ReadonlyMap<string, { readonly day: LocalDate; readonly others: number }>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ scheduleId: p.scheduleId, nominal: p.nominal, part: p.part, planned: p.planned, joined: p.joined })
    .from(p)
    .where(and(inArray(p.scheduleId, [...ids]), isNotNull(p.joined)));
  const others = await partnersOf(
    db,
    rows.flatMap((r) => r.joined ?? []),
  );
  return new Map(
    rows.map((r) => [
      visitKey(r.scheduleId, r.nominal, r.part),
      { day: r.planned, others: (others.get(r.joined ?? '') ?? 1) - 1 },
    ]),
  );
}

/** How many visits make each of some orders. */
export async function partnersOf(db: Db, names: readonly string[]): Promise<ReadonlyMap<string, number>> {
  if (names.length === 0) return new Map();
  const counted = await db
    .select({ joined: p.joined, n: sql<number>`count(*)`.mapWith(Number) })
    .from(p)
    .where(inArray(p.joined, [...new Set(names)]))
    .groupBy(p.joined);
  return new Map(counted.map(({ joined, n }) => [joined ?? '', n]));
}
