// The forecast over the routes: promises that today's rota will break with the first cause and what would keep them, upkeep whose window
// closes with nobody planned, and what is to be done against who there is, week by week.
import { group } from 'd3-array';
import { and, asc, eq, gt, inArray, isNotNull, lte, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { AtRisk, Forecast, readForecast } from '#api/rota-forecast.ts';
import type { AppointmentId, DepotId, OrderId, SkillId } from '#core/ids.ts';
import { isFinished } from '#core/orders/index.ts';
import {
  candidatesFor,
  capacityOf,
  expectedOn,
  riskOf,
  type Expected,
  type Progress,
  type Roads,
} from '#core/rota/index.ts';
import {
  addDays,
  HOUR,
  localDateAt,
  minutesIn,
  startOfDay,
  weekdayOf,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { clock, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { dueOf } from './candidates.ts';
import { daysOf, whoGoes, type Days } from './days.ts';
import { isLoose } from './loose.ts';
import { roadsOf } from './roads.ts';
import { appointmentOrder } from './tables.ts';
import { around, workOf, type OrderWork } from './work.ts';

type At = { readonly now: Instant; readonly zone: Zone };

const PROMISES_READ = 300;
const REMEDIES = 12;
const DAYS_LOOKED = 3;
const CLOSING_DAYS = 7;
const WEEKS = 6;

/** Orders with a running promise, the one that ends first in front. */
async function promisedOrders(db: Db, depot: DepotId | undefined): Promise<OrderId[]> {
  const rows = await db
    .select({ id: clock.orderId, due: sql<string>`min(${clock.dueAt})` })
    .from(clock)
    .innerJoin(workOrder, eq(workOrder.id, clock.orderId))
    .where(
      and(
        eq(clock.state, 'running'),
        isNotNull(clock.dueAt),
        depot === undefined ? undefined : eq(workOrder.depotId, depot),
      ),
    )
    .groupBy(clock.orderId)
    .orderBy(asc(sql`min(${clock.dueAt})`))
    .limit(PROMISES_READ);
  return rows.map((r) => r.id);
}

/** What is expected of every appointment of these days, by its id; of several who go the one who is there last. */
async function expectedOf(db: Db, { days, appointments }: Days, roads: Roads, now: Instant) {
  const served =
    appointments.length === 0
      ? []
      : await db
          .select({ id: appointmentOrder.appointmentId, orderId: workOrder.id, stage: workOrder.stage })
          .from(appointmentOrder)
          .innerJoin(workOrder, eq(workOrder.id, appointmentOrder.orderId))
          .where(
            inArray(
              appointmentOrder.appointmentId,
              appointments.map((a) => a.id),
            ),
          );
  const of = group(served, (s) => s.id);
  const progressOf = (id: number): Progress => {
    const orders = of.get(id as AppointmentId) ?? [];
    if (orders.some((o) => o.stage === 'on site')) return 'on site';
    return orders.every((o) => isFinished(o.stage)) ? 'over' : 'to come';
  };
  const byAppointment = new Map<number, Expected>();
  for (const e of days.flatMap((d) => expectedOn(d, progressOf, now, roads))) {
    const known = byAppointment.get(e.id);
    if (!known || e.span.from > known.span.from) byAppointment.set(e.id, e);
  }
  const byOrder = new Map<OrderId, Expected>();
  for (const { id, orderId } of served) {
    const e = byAppointment.get(id);
    const known = byOrder.get(orderId);
    if (e && (!known || e.span.from < known.span.from)) byOrder.set(orderId, e);
  }
  return byOrder;
}

/** Who could keep a promise that breaks as it stands: the first who can go in time, else nobody, and the customer is to be asked. */
function remedyOf(
  of: OrderWork,
  { people, days }: Days,
  today: LocalDate,
  roads: Roads,
  now: Instant,
): AtRisk['remedy'] {
  const soon = days.filter((d) => d.date === today || d.date === addDays(today, 1));
  const promised = { dueAt: dueOf(of, of.work.minutes), preferred: of.preferred, lastThere: null };
  const keeps = candidatesFor(soon, of.work, promised, now, roads).can.find((c) => c.margin !== null && c.margin >= 0);
  const name = people.find((p) => p.id === keeps?.personId)?.name;
  if (!keeps || name === undefined) return null;
  return { personId: keeps.personId, name, from: keeps.span.from, to: keeps.span.to, margin: keeps.margin ?? 0 };
}

/** As it is said of an order: who is there is there, and a day without a time is no appointment. */
function causeOf({ stage }: OrderWork, due: Expected | null, cause: string): string {
  if (stage === 'on site') return 'they are there, and the work takes longer';
  return due === null && stage !== 'raised' ? 'it is planned for a day without a time' : cause;
}

async function atRisk(db: Db, depot: DepotId | undefined, remedies: number, at: At): Promise<AtRisk[]> {
  const today = localDateAt(at.zone, at.now);
  const people = await whoGoes(db);
  const [ids, days] = await Promise.all([
    promisedOrders(db, depot),
    daysOf(db, people, addDays(today, -1), addDays(today, DAYS_LOOKED), at.now),
  ]);
  const roads = await roadsOf(db);
  const [work, expected] = await Promise.all([workOf(db, ids, around(at.now, 5)), expectedOf(db, days, roads, at.now)]);
  const found: AtRisk[] = [];
  for (const of of work.values()) {
    if (isFinished(of.stage)) continue;
    const due = expected.get(of.orderId) ?? null;
    const isThere = of.stage === 'on site';
    for (const { target, dueAt, stopsAt } of of.clocks) {
      // On site already, only the end is still to come.
      if (isThere && (stopsAt === 'arrival' || due === null)) continue;
      const risk = riskOf({ dueAt, stopsAt }, due);
      if (!risk) continue;
      const expectedAt = due && (stopsAt === 'arrival' ? due.span.from : due.span.to);
      found.push({
        ...{
          orderId: of.orderId,
          title: of.title,
          customer: of.customer,
          place: of.place.label,
          priority: of.priority,
        },
        ...{ zone: of.zone, target, dueAt, expectedAt, minutes: risk.minutes, remedy: null },
        ...{ isThere, cause: causeOf(of, due, risk.cause) },
        appointmentId: due?.id ?? null,
      });
      break;
    }
  }
  const first = found.sort((a, b) => a.dueAt - b.dueAt);
  return first.map((risk, i) => {
    const of = work.get(risk.orderId as OrderId);
    const isSought = of && !risk.isThere && i < remedies;
    return isSought ? { ...risk, remedy: remedyOf(of, days, today, roads, at.now) } : risk;
  });
}

/** Upkeep whose window closes within days and for which nobody is planned. */
async function closing(db: Db, depot: DepotId | undefined, at: At): Promise<Forecast['closing']> {
  const today = localDateAt(at.zone, at.now);
  const until = startOfDay(at.zone, addDays(today, CLOSING_DAYS + 1));
  const rows = await db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(
      and(
        isLoose(db, at.now),
        eq(workOrder.kind, 'preventive'),
        gt(workOrder.nextDue, addDays(today, -1)),
        lte(workOrder.nextDue, addDays(today, CLOSING_DAYS)),
        depot === undefined ? undefined : eq(workOrder.depotId, depot),
      ),
    )
    .orderBy(asc(workOrder.nextDue), asc(workOrder.id))
    .limit(100);
  const work = await workOf(
    db,
    rows.map((r) => r.id),
    { from: at.now, to: at.now },
  );
  return [...work.values()]
    .flatMap((o) => (o.work.window && o.work.window.to <= until ? [{ o, closesAt: o.work.window.to }] : []))
    .map(({ o, closesAt }) => ({
      ...{ orderId: o.orderId, title: o.title, customer: o.customer, place: o.place.label },
      closesAt,
    }))
    .sort((a, b) => a.closesAt - b.closesAt);
}

type Part = { readonly depot: DepotId | undefined; readonly skill: SkillId | undefined };

/** Hours there are, taken, and still loose by its due week; of a skill those of who holds it, and the work that asks for it. */
async function weeksOf(db: Db, { depot, skill }: Part, at: At): Promise<Forecast['weeks']> {
  const today = localDateAt(at.zone, at.now);
  const monday = addDays(today, 1 - weekdayOf(today));
  const people = await whoGoes(db, { depot, skill });
  const last = addDays(monday, WEEKS * 7 - 1);
  const [{ days }, loose] = await Promise.all([
    daysOf(db, people, monday, last, at.now),
    db
      .select({ id: workOrder.id, due: workOrder.nextDue })
      .from(workOrder)
      .where(
        and(
          isLoose(db, at.now),
          lte(workOrder.nextDue, last),
          depot === undefined ? undefined : eq(workOrder.depotId, depot),
        ),
      )
      .limit(2000),
  ]);
  const work = await workOf(
    db,
    loose.map((l) => l.id),
    { from: at.now, to: at.now },
  );
  const weekOf = (date: LocalDate): number =>
    Math.max(0, Math.floor((Date.parse(date) - Date.parse(monday)) / (7 * 24 * HOUR)));
  const weeks = Array.from({ length: WEEKS }, (_, i) => ({
    ...{ from: addDays(monday, i * 7), capacity: 0, planned: 0, loose: 0 },
  }));
  for (const d of days) {
    const week = weeks[weekOf(d.date)];
    if (!week) continue;
    week.capacity += minutesIn(capacityOf(d));
    week.planned += d.taken.reduce((sum, t) => sum + (t.span.to - t.span.from) / 60_000, 0);
  }
  for (const { id, due } of loose) {
    const week = weeks[due === null ? 0 : weekOf(due)];
    const of = work.get(id)?.work;
    const isAsked = skill === undefined || of?.skills.some((s) => s.skillId === skill);
    if (week && of && isAsked) week.loose += of.minutes;
  }
  return weeks.map((w) => ({ ...w, capacity: Math.round(w.capacity) }));
}

export async function readForecastOf(
  db: Db,
  { depot, skill, only }: Asked<typeof readForecast>['query'],
  at: At,
): Promise<Forecast> {
  if (only === 'risks') return { now: at.now, atRisk: await atRisk(db, depot, 0, at), closing: [], weeks: [] };
  const [risks, closes, weeks] = await Promise.all([
    atRisk(db, depot, REMEDIES, at),
    closing(db, depot, at),
    weeksOf(db, { depot, skill }, at),
  ]);
  return { now: at.now, atRisk: risks, closing: closes, weeks };
}
