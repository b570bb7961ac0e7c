// People's days as they are planned: open time, absences and appointments of each, for some people over some dates.
import { group } from 'd3-array';
import { and, asc, eq, getTableColumns, gt, inArray, isNull, lt, ne, type SQL } from 'drizzle-orm';
import type { AppointmentId, CalendarId, DepotId, OrderId, PersonId, SkillId } from '#core/ids.ts';
import { MOST_HOURS, sayAbsence, type Absence, type PersonDay, type Spot, type Taken } from '#core/rota/index.ts';
import {
  addDays,
  daysBetween,
  HOUR,
  instant,
  localDateAt,
  startOfDay,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import { depot } from '../depots/tables.ts';
import { bareRows, type Db } from '../platform/database.ts';
import { person } from '../platform/tables.ts';
import { location } from '../places/tables.ts';
import { spotsOf, startOf } from './spots.ts';
import { absence, appointment, appointmentOrder, appointmentPerson, personSkill, technician } from './tables.ts';

/** Somebody who goes out, with what their days are made from. */
export type Goes = {
  readonly id: PersonId;
  readonly name: string;
  readonly zone: Zone;
  readonly calendarId: CalendarId | null;
  readonly depotId: DepotId | null;
  readonly depot: string | null;
  readonly start: Spot;
  readonly van: string;
  readonly skills: readonly { readonly skillId: SkillId; readonly until: LocalDate | null }[];
};

export type WhichPeople = {
  readonly ids?: readonly PersonId[] | undefined;
  readonly depot?: DepotId | undefined;
  readonly skill?: SkillId | undefined;
};

const MOST_PEOPLE = 500;

/** Technicians who work here, by name. */
export async function whoGoes(db: Db, { ids, depot: of, skill: holds }: WhichPeople = {}): Promise<Goes[]> {
  const conditions: (SQL | undefined)[] = [eq(person.role, 'technician'), eq(person.active, true)];
  if (ids) conditions.push(ids.length === 0 ? isNull(person.id) : inArray(person.id, [...ids]));
  if (of !== undefined) conditions.push(eq(technician.depotId, of));
  if (holds !== undefined)
    conditions.push(
      inArray(
        person.id,
        db.select({ id: personSkill.personId }).from(personSkill).where(eq(personSkill.skillId, holds)),
      ),
    );
  const rows = await db
    .select({
      ...{ id: person.id, name: person.name, zone: person.zone, calendarId: person.calendarId },
      ...{ startsFrom: technician.startsFrom, latitude: technician.latitude, longitude: technician.longitude },
      ...{ depotId: technician.depotId, depot: depot.name, van: technician.van },
      ...{ depotLatitude: depot.latitude, depotLongitude: depot.longitude },
    })
    .from(person)
    .leftJoin(technician, eq(technician.personId, person.id))
    .leftJoin(depot, eq(depot.id, technician.depotId))
    .where(and(...conditions))
    .orderBy(asc(depot.name), asc(person.name))
    .limit(MOST_PEOPLE);
  const held =
    rows.length === 0
      ? []
      : await db
          .select()
          .from(personSkill)
          .where(
            inArray(
              personSkill.personId,
              rows.map((r) => r.id),
            ),
          );
  return rows.map((r) => ({
    ...{ id: r.id, name: r.name, zone: r.zone, calendarId: r.calendarId, depotId: r.depotId, depot: r.depot },
    ...{ van: r.van ?? '', start: startOf({ ...r, personId: r.id }) },
    skills: held.filter((s) => s.personId === r.id).map(({ skillId, until }) => ({ skillId, until })),
  }));
}

export type Kept = typeof appointment.$inferSelect & { readonly personIds: readonly PersonId[]; readonly spot: Spot };

/** Appointments that touch a span. */
export const touching = (span: InstantSpan): SQL | undefined =>
  and(
    // None is longer than this: the beginning alone tells where to look.
    gt(appointment.fromAt, instant(span.from - MOST_HOURS * HOUR)),
    lt(appointment.fromAt, span.to),
    gt(appointment.toAt, span.from),
  );

/** Appointments to which at least one of some people goes. */
export const withAnyOf = (db: Db, people: readonly PersonId[]): SQL =>
  inArray(
    appointment.id,
    db
      .select({ id: appointmentPerson.appointmentId })
      .from(appointmentPerson)
      .where(inArray(appointmentPerson.personId, [...people])),
  );

/** Appointments of some people that touch a span, each with everybody who goes, the leading one first. */
export async function appointmentsOf(db: Db, people: readonly PersonId[], span: InstantSpan): Promise<Kept[]> {
  if (people.length === 0) return [];
  const rows = await db
    .select({ ...getTableColumns(appointment), path: location.path })
    .from(appointment)
    .leftJoin(location, eq(location.id, appointment.locationId))
    .where(and(touching(span), withAnyOf(db, people)))
    .orderBy(asc(appointment.fromAt), asc(appointment.id));
  const [goers, spotAt] = await Promise.all([
    goersOf(
      db,
      rows.map((r) => r.id),
    ),
    spotsOf(db, rows),
  ]);
  return rows.map((row) => Object.assign(row, { personIds: goers.get(row.id) ?? [], spot: spotAt(row) }));
}

/** The orders of some appointments, as they stand. */
export async function ordersOfAppointments(
  db: Db,
  ids: readonly AppointmentId[],
): Promise<Map<AppointmentId, OrderId[]>> {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(appointmentOrder)
          .where(inArray(appointmentOrder.appointmentId, [...ids]))
          .orderBy(asc(appointmentOrder.orderId));
  return new Map([...group(rows, (r) => r.appointmentId)].map(([id, of]) => [id, of.map((r) => r.orderId)]));
}

const GOERS =
  'SELECT appointment_id, person_id FROM appointment_person WHERE appointment_id IN (?) ORDER BY position, person_id';

export async function goersOf(db: Db, ids: readonly AppointmentId[]): Promise<Map<AppointmentId, PersonId[]>> {
  if (ids.length === 0) return new Map();
  const rows = (await bareRows(db, GOERS, [ids])) as [AppointmentId, PersonId][];
  return new Map([...group(rows, ([id]) => id)].map(([id, of]) => [id, of.map(([, personId]) => personId)]));
}

/** Absences of some people that touch a span and hold: those asked for and not decided count as well, and say so. */
export async function absencesOf(db: Db, people: readonly PersonId[], span: InstantSpan) {
  if (people.length === 0) return [];
  return db
    .select()
    .from(absence)
    .where(
      and(
        inArray(absence.personId, [...people]),
        lt(absence.fromAt, span.to),
        gt(absence.toAt, span.from),
        ne(absence.state, 'refused'),
      ),
    )
    .orderBy(asc(absence.fromAt));
}

/** What was only asked for keeps nobody from being planned. */
const asReason = (a: typeof absence.$inferSelect): Absence[] =>
  a.state === 'agreed' ? [{ from: a.fromAt, to: a.toAt, why: sayAbsence(a.kind) }] : [];

export const spanOfDates = (zone: Zone, from: LocalDate, to: LocalDate): InstantSpan => ({
  from: startOfDay(zone, from),
  to: startOfDay(zone, addDays(to, 1)),
});

/** All instants that any of some people may have on some dates. */
export const spanOfAll = (people: readonly Pick<Goes, 'zone'>[], from: LocalDate, to: LocalDate): InstantSpan => {
  const spans = people.map((p) => spanOfDates(p.zone, from, to));
  return {
    from: instant(Math.min(...spans.map((s) => s.from))),
    to: instant(Math.max(...spans.map((s) => s.to))),
  };
};

export type Days = {
  readonly people: readonly Goes[];
  readonly days: readonly PersonDay[];
  readonly appointments: readonly Kept[];
  readonly absences: readonly (typeof absence.$inferSelect)[];
};

/**
 * The days of some people from one date to another, both included, by each one's own zone. An appointment belongs to the date on which it
 * begins. Nobody leaves before `now`. `without`: appointments that are looked at as if they were not there.
 */
export async function daysOf(
  db: Db,
  people: readonly Goes[],
  from: LocalDate,
  to: LocalDate,
  now: Instant,
  without: readonly AppointmentId[] = [],
): Promise<Days> {
  if (people.length === 0) return { people, days: [], appointments: [], absences: [] };
  const ids = people.map((p) => p.id);
  const all = spanOfAll(people, from, to);
  const [book, kept, away] = await Promise.all([
    calendarBook(db),
    appointmentsOf(db, ids, all),
    absencesOf(db, ids, all),
  ]);
  const appointments = kept.filter((a) => !without.includes(a.id));
  const zoneOf = new Map(people.map((p) => [p.id, p.zone]));
  // The date of each is found once: a calendar is asked for it, and there are as many as people and days together.
  const takenOn = new Map<string, Taken[]>();
  for (const a of appointments)
    for (const id of a.personIds) {
      const zone = zoneOf.get(id);
      if (zone === undefined) continue;
      const key = `${id} ${localDateAt(zone, a.fromAt)}`;
      const taken = { id: a.id, span: { from: a.fromAt, to: a.toAt }, spot: a.spot };
      const held = takenOn.get(key);
      if (held) held.push(taken);
      else takenOn.set(key, [taken]);
    }
  const datesIn = datesOf(from, to);
  const days = people.flatMap((p) => {
    const own = away.filter((a) => a.personId === p.id).flatMap(asReason);
    const time = p.calendarId === null ? null : book.workingTime(p.calendarId);
    return datesIn(p.zone).map(({ date, span }): PersonDay => ({
      personId: p.id,
      date,
      start: p.start,
      skills: p.skills,
      leavesFrom: now,
      open: time ? [...time.openSegments(span.from, span.to)] : [],
      absences: own.filter((a) => a.from < span.to && a.to > span.from),
      taken: takenOn.get(`${p.id} ${date}`) ?? [],
    }));
  });
  return { people, days, appointments, absences: away };
}

/** Dates with their instants, reckoned once for each zone. */
function datesOf(from: LocalDate, to: LocalDate) {
  const dates = Array.from({ length: daysBetween(from, to) + 1 }, (_, i) => addDays(from, i));
  const found = new Map<Zone, { readonly date: LocalDate; readonly span: InstantSpan }[]>();
  return (zone: Zone) => {
    const known = found.get(zone) ?? dates.map((date) => ({ date, span: spanOfDates(zone, date, date) }));
    found.set(zone, known);
    return known;
  };
}
