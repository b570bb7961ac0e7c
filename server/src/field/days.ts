// What a phone holds: the next days of its technician, which orders they are for, and what lies in the van.
import { group } from 'd3-array';
import { and, asc, eq, gte, inArray, lte, or, sql } from 'drizzle-orm';
import type { FieldDays } from '#api/field.ts';
import type { AppointmentId, OrderId } from '#core/ids.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { availableIn } from '#core/stores/index.ts';
import { addDays, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { person } from '../platform/tables.ts';
import { allowsPosition, appointmentsOf, ordersOfAppointments, spanOfDates, toldOf, type Kept } from '../rota/index.ts';
import { appointmentAnswer } from '../rota/tables.ts';
import { readOwn } from './own.ts';
import { arrivedIn, asksOf, vanOfPerson } from '../stores/index.ts';
import { part, serialUnit, shelf, stock } from '../stores/tables.ts';

/** Today and two days more. Source: domain-work, Field. */
const DAYS = 3;
/** Nobody does more in three days. */
const MOST = 100;
const MOST_IN_VAN = 2000;

/** Orders of somebody that are under way, planned for these days without an appointment, or were done today. */
async function otherOrders(db: Db, who: Person, from: LocalDate, to: LocalDate, now: Instant): Promise<OrderId[]> {
  const today = spanOfDates(who.zone, from, from);
  const rows = await db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(
      and(
        eq(workOrder.technicianId, who.id),
        or(
          and(
            inArray(workOrder.stage, [...OPEN_STAGES]),
            gte(workOrder.plannedFor, addDays(from, -1)),
            lte(workOrder.plannedFor, to),
          ),
          eq(workOrder.stage, 'on site'),
          and(gte(workOrder.doneAt, today.from), lte(workOrder.doneAt, now)),
        ),
      ),
    )
    .orderBy(asc(workOrder.id))
    .limit(MOST);
  return rows.map((r) => r.id);
}

/** Which state of each order there is: another one as soon as anything of it that a phone holds changes. */
async function stampsOf(db: Db, ids: readonly OrderId[]): Promise<Map<OrderId, string>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({
      ...{ id: workOrder.id, version: workOrder.version },
      // Written out: of one table alone the query names no tables, and each part would be compared with itself.
      needs: sql<string>`(select concat(count(*), ':', coalesce(sum(n.version), 0), ':', coalesce(sum(n.held), 0), ':', coalesce(sum(n.used), 0)) from part_need n where n.order_id = work_order.id)`,
      lines: sql<string>`(select concat(count(*), ':', coalesce(max(l.asset_id), 0)) from order_line l where l.order_id = work_order.id)`,
      time: sql<string>`(select concat(count(*), ':', coalesce(sum(t.minutes), 0)) from time_piece t where t.order_id = work_order.id)`,
      costs: sql<string>`(select concat(count(*), ':', coalesce(sum(c.version), 0)) from other_cost c where c.order_id = work_order.id)`,
      parts: sql<string>`(select concat(count(*), ':', coalesce(sum(u.version), 0)) from used_part u where u.order_id = work_order.id)`,
      paid: sql<string>`(select concat(count(*), ':', coalesce(sum(p.state = 'paid'), 0)) from order_payment p where p.order_id = work_order.id)`,
    })
    .from(workOrder)
    .where(inArray(workOrder.id, [...ids]));
  return new Map(rows.map(({ id, ...of }) => [id, Object.values(of).join('/')]));
}

async function peopleOf(db: Db, kept: readonly Kept[]) {
  const ids = [...new Set(kept.flatMap((a) => a.personIds))];
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({ id: person.id, name: person.name, phone: person.phone })
          .from(person)
          .where(inArray(person.id, ids));
  return new Map(rows.map((r) => [r.id, r]));
}

async function answersOf(db: Db, who: Person, ids: readonly AppointmentId[]) {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(appointmentAnswer)
          .where(and(inArray(appointmentAnswer.appointmentId, [...ids]), eq(appointmentAnswer.personId, who.id)));
  return new Map(rows.map((r) => [r.appointmentId, r]));
}

async function vanOf(db: Db, who: Person, now: Instant): Promise<FieldDays['van']> {
  const van = await vanOfPerson(db, who.id);
  if (!van) return null;
  const [came, asked, rows, units] = await Promise.all([
    arrivedIn(db, van.id),
    asksOf(db, who.id, now),
    db
      .select({ part, stock, bin: shelf.bin })
      .from(stock)
      .innerJoin(part, eq(part.id, stock.partId))
      .leftJoin(shelf, and(eq(shelf.storeId, stock.storeId), eq(shelf.partId, stock.partId)))
      .where(and(eq(stock.storeId, van.id), sql`${stock.onHand} <> 0`))
      .orderBy(asc(part.number))
      .limit(MOST_IN_VAN + 1),
    db
      .select({ partId: serialUnit.partId, serial: serialUnit.serial })
      .from(serialUnit)
      .where(eq(serialUnit.storeId, van.id))
      .orderBy(asc(serialUnit.serial))
      .limit(MOST_IN_VAN),
  ]);
  const serials = group(units, (u) => u.partId);
  return {
    ...{ ...van, came, asked },
    more: rows.length > MOST_IN_VAN,
    parts: rows.slice(0, MOST_IN_VAN).map(({ part: p, stock: s, bin }) => ({
      ...{ partId: p.id, number: p.number, name: p.name, unit: p.unit, serialTracked: p.serialTracked },
      ...{ onHand: s.onHand, free: availableIn(s), bin: bin ?? '' },
      serials: (serials.get(p.id) ?? []).map((u) => u.serial),
    })),
  };
}

/** The appointments of somebody's next days, and which orders are theirs then. */
async function daysWork(db: Db, who: Person, now: Instant) {
  const from = localDateAt(who.zone, now);
  const to = addDays(from, DAYS - 1);
  const [kept, others] = await Promise.all([
    appointmentsOf(db, [who.id], spanOfDates(who.zone, from, to)),
    otherOrders(db, who, from, to, now),
  ]);
  const orders = await ordersOfAppointments(
    db,
    kept.map((a) => a.id),
  );
  const own = [...new Set([...[...orders.values()].flat(), ...others])].slice(0, MOST);
  return { from, kept, orders, own };
}

/** Everything but the orders themselves, which the phone asks for where it holds another state of them. */
export async function readDays(db: Db, who: Person, now: Instant, pushKey: string | null): Promise<FieldDays> {
  const [{ from, kept, orders, own }, van, ofOwn, allows] = await Promise.all([
    daysWork(db, who, now),
    vanOf(db, who, now),
    readOwn(db, who, now),
    allowsPosition(db, who),
  ]);
  const ids = kept.map((a) => a.id);
  const [stamps, people, answers] = await Promise.all([stampsOf(db, own), peopleOf(db, kept), answersOf(db, who, ids)]);
  return {
    ...ofOwn,
    ...{ now, from, days: DAYS, van, pushKey },
    person: { id: who.id, name: who.name, zone: who.zone, allowsPosition: allows },
    orders: own.flatMap((id) => (stamps.has(id) ? [{ id, stamp: stamps.get(id) as string }] : [])),
    appointments: kept.map((a) => {
      const said = answers.get(a.id);
      return {
        ...{ id: a.id, version: a.version, from: a.fromAt, to: a.toAt, zone: a.zone, told: toldOf(a) },
        ...{ sent: a.sentAt !== null, fixed: a.fixed, late: a.lateMinutes },
        with: a.personIds.flatMap((id) => {
          const other = people.get(id);
          return id === who.id || !other ? [] : [{ id, name: other.name, phone: other.phone }];
        }),
        answer: said?.version === a.version ? { accepted: said.accepted, text: said.text } : null,
        orderIds: orders.get(a.id) ?? [],
      };
    }),
  };
}

/** Of some orders those of these days, with their stamps: no others are shown. */
export async function ownStamps(
  db: Db,
  who: Person,
  ids: readonly OrderId[],
  now: Instant,
): Promise<Map<OrderId, string>> {
  const { own } = await daysWork(db, who, now);
  return stampsOf(
    db,
    own.filter((id) => ids.includes(id)),
  );
}
