// What the rota shows: people's days with their appointments, and the work that nobody is planned for.
import { group } from 'd3-array';
import { and, eq, exists, inArray, sql, SQL } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Asked } from '#api/contract.ts';
import type * as contracts from '#api/rota.ts';
import type { LooseOrder, OrderWorkOut, Rota, RotaAppointment, RotaPerson } from '#api/rota.ts';
import type { AppointmentId, LocationId, OrderId } from '#core/ids.ts';
import { isOffice } from '#core/people.ts';
import { latestStart, sayAbsence, travelBetween, type Roads } from '#core/rota/index.ts';
import {
  addDays,
  DAY,
  instant,
  localDateAt,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { lineLocation, orderLine, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import { countUpTo } from '../platform/count-up-to.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { keyset } from '../platform/keyset.ts';
import { refuse } from '../platform/refuse.ts';
import { daysOf, spanOfAll, spanOfDates, whoGoes, type Goes, type Kept } from './days.ts';
import { isLoose, isOfKind, type LooseKind } from './loose.ts';
import { answersTo } from './answers.ts';
import { roadsOf } from './roads.ts';
import { lastSeen, type LastSeen } from './seen.ts';
import { ordersShown, type ShownOrder } from './shown.ts';
import { isHome } from './spots.ts';
import { appointmentOrder } from './tables.ts';
import { workOf, type OrderWork } from './work.ts';

const WEEK = 7;

const onRota = (of: OrderWork) => ({
  ...{ orderId: of.orderId, title: of.title, kind: of.kind, stage: of.stage, priority: of.priority },
  ...{ customer: of.customer, place: of.place.label, tag: of.tag, machines: of.machines },
  ...{ clocks: [...of.clocks], window: of.work.window },
});

export const toldOf = ({ toldFrom, toldTo }: Pick<Kept, 'toldFrom' | 'toldTo'>): InstantSpan | null =>
  toldFrom !== null && toldTo !== null ? { from: toldFrom, to: toldTo } : null;

/** Whoever sends the order itself has sent its appointment too. */
const isSent = (a: Kept, orders: readonly ShownOrder[]): boolean =>
  a.sentAt !== null || orders.every(({ shown: o }) => o.stage !== 'raised' && o.stage !== 'planned');

const showAppointment = (
  a: Kept,
  orders: readonly ShownOrder[],
  answers: RotaAppointment['answers'],
): RotaAppointment => ({
  id: a.id,
  version: a.version,
  from: a.fromAt,
  to: a.toAt,
  personIds: [...a.personIds],
  spot: a.spot,
  zone: a.zone,
  told: toldOf(a),
  fixed: a.fixed,
  sent: isSent(a, orders),
  overlapReason: a.overlapReason,
  late: a.lateMinutes === null ? null : { minutes: a.lateMinutes, text: a.lateText },
  answers,
  orders: orders.map((o) => o.shown),
});

/** Why a colleague is away and where they live is for the office to know. */
function seenBy(who: Person, p: Goes): { readonly why: (why: string) => string; readonly start: Goes['start'] } {
  if (isOffice(who.role) || who.id === p.id) return { why: (why) => why, start: p.start };
  return { why: () => 'away', start: isHome(p.start) ? { key: p.start.key, at: null } : p.start };
}

function touchingDay<A extends { readonly fromAt: Instant; readonly toAt: Instant }>(
  all: readonly A[],
  zone: Zone,
  date: LocalDate,
): readonly A[] {
  // Few ask for leave, and a day's instants are dear.
  if (all.length === 0) return all;
  const span = spanOfDates(zone, date, date);
  return all.filter((a) => a.fromAt < span.to && a.toAt > span.from);
}

/** Yesterday's says nothing of today. */
const ofToday = (seen: LastSeen | undefined, zone: Zone, now: Instant): LastSeen | null =>
  seen && localDateAt(zone, seen.at) === localDateAt(zone, now) ? seen : null;

async function pathOf(db: Db, area: LocationId): Promise<string> {
  const [found] = await db.select({ path: location.path }).from(location).where(eq(location.id, area));
  return found?.path ?? refuse('not-found', 'There is no such place.', 'area');
}

export async function readRota(
  db: Db,
  who: Person,
  { from, days: wanted = 1, depot, skill, customer, area }: Asked<typeof contracts.readRota>['query'],
  now: Instant,
): Promise<Rota> {
  const people = await whoGoes(db, { depot, skill });
  const to = addDays(from, wanted - 1);
  const shows = people.flatMap((p) => (isOffice(who.role) || p.id === who.id ? [p.id] : []));
  const planned = daysOf(db, people, from, to, now);
  const [{ days, appointments, absences }, answers, orders, within, seen] = await Promise.all([
    planned,
    planned.then((of) => answersTo(db, of.appointments)),
    people.length === 0 ? new Map<AppointmentId, ShownOrder[]>() : ordersShown(db, spanOfAll(people, from, to)),
    area === undefined ? '' : pathOf(db, area),
    lastSeen(db, shows, instant(now - DAY)),
  ]);
  const isOf = (a: Kept): boolean =>
    (customer === undefined && area === undefined) ||
    (orders.get(a.id) ?? []).some(
      (o) =>
        (customer === undefined || o.customerId === customer) &&
        (within === '' || o.paths.some((path) => path.startsWith(within))),
    );
  const daysByPerson = group(days, (d) => d.personId);
  return {
    ...{ now, from, to },
    people: people.map((p): RotaPerson => {
      const { why, start } = seenBy(who, p);
      const asked = absences.filter((a) => a.personId === p.id && a.state === 'asked');
      return {
        ...{ id: p.id, name: p.name, zone: p.zone, depotId: p.depotId, depot: p.depot, van: p.van, start },
        ...{ hasCalendar: p.calendarId !== null, seen: ofToday(seen.get(p.id), p.zone, now) },
        skills: p.skills.map((s) => ({ ...s })),
        days: (daysByPerson.get(p.id) ?? []).map((d) => {
          return {
            date: d.date,
            open: [...d.open],
            absences: d.absences.map((a) => ({ ...a, why: why(a.why) })),
            asked: touchingDay(asked, p.zone, d.date).map((a) => ({
              ...{ from: a.fromAt, to: a.toAt, why: why(`${sayAbsence(a.kind)}, asked for`) },
            })),
          };
        }),
      };
    }),
    appointments: appointments
      .filter(isOf)
      .map((a) => showAppointment(a, orders.get(a.id) ?? [], answers.get(a.id) ?? [])),
  };
}

/** The place in whose subtree an order is asked to lie. */
const within = alias(location, 'within');

/** Counting further says nothing to whoever looks. */
const COUNTED = 1000;

type LooseQuery = Asked<typeof contracts.readLoose>['query'];

function looseConditions(db: Db, { depot, customer, area, skill, kind }: LooseQuery, now: Instant): SQL[] {
  return [
    isLoose(db, now),
    depot && eq(workOrder.depotId, depot),
    customer && eq(workOrder.customerId, customer),
    kind && eq(workOrder.kind, kind),
    area &&
      exists(
        db
          .select({ id: orderLine.id })
          .from(orderLine)
          .leftJoin(asset, eq(asset.id, orderLine.assetId))
          .innerJoin(location, eq(location.id, lineLocation))
          .innerJoin(within, eq(within.id, area))
          .where(and(eq(orderLine.orderId, workOrder.id), sql`${location.path} like concat(${within.path}, '%')`)),
      ),
    skill &&
      inArray(
        workOrder.id,
        db
          .select({ id: orderLine.orderId })
          .from(orderLine)
          .where(
            and(
              eq(orderLine.orderId, workOrder.id),
              sql`json_contains(${orderLine.plan}, ${`${skill}`}, '$.skillIds')`,
            ),
          ),
      ),
  ].filter((x): x is SQL => x instanceof SQL);
}

/** The shortest way of anybody whose skills it takes; null: there is none. */
function nearestOf(of: OrderWork, people: readonly Goes[], today: LocalDate, roads: Roads): number | null {
  const ways = people.flatMap((p) => {
    const can = of.work.skills.every((s) =>
      p.skills.some((h) => h.skillId === s.skillId && (h.until === null || h.until >= today)),
    );
    return (can && travelBetween(p.start, of.work.spot, roads.rules, roads.known)?.minutes) || [];
  });
  const same = people.some((p) => p.start.key === of.work.spot.key);
  return same ? 0 : ways.length === 0 ? null : Math.min(...ways);
}

export async function readLoose(db: Db, query: LooseQuery, at: { now: Instant; zone: Zone }) {
  const { show = 'all', after, limit = 60 } = query;
  const today = localDateAt(at.zone, at.now);
  const conditions = looseConditions(db, query, at.now);
  const { behind, order, markOf } = keyset(workOrder.nextDue, workOrder.id, { down: false, hasEmpty: true, after });
  const counted = (which: LooseKind): Promise<number> =>
    countUpTo(db, workOrder, and(...conditions, isOfKind(which, today)), COUNTED);
  const [rows, ready, late, waiting, people, roads] = await Promise.all([
    db
      .select({ id: workOrder.id, sortedBy: sql<string | null>`${workOrder.nextDue}` })
      .from(workOrder)
      .where(and(...conditions, show === 'all' ? undefined : isOfKind(show, today), behind))
      .orderBy(...order)
      .limit(limit + 1),
    counted('ready'),
    counted('late'),
    counted('waiting'),
    whoGoes(db, { depot: query.depot }),
    roadsOf(db),
  ]);
  const page = rows.slice(0, limit);
  const ids = page.map((r) => r.id);
  const [work, went] = await Promise.all([workOf(db, ids, { from: at.now, to: at.now }), wentBy(db, ids)]);
  const last = page.at(-1);
  return {
    items: ids.flatMap((id): LooseOrder[] => {
      const of = work.get(id);
      if (!of) return [];
      const nearest = nearestOf(of, people, today, roads);
      return [
        {
          ...onRota(of),
          ...{ spot: of.work.spot, zone: of.zone, minutes: of.work.minutes, minutesBy: of.minutesBy, crew: of.crew },
          ...{ waitingFor: of.waitingFor, partsOn: of.partsOn, wishedOn: of.wishedOn, nearest, wentBy: went.has(id) },
          skills: of.work.skills.map((s) => s.name),
          latestStart: latestStart(of.clocks, of.work.window, of.work.minutes, nearest ?? 0),
        },
      ];
    }),
    next: rows.length > limit && last ? markOf(last.sortedBy, last.id) : null,
    ...{ ready, late, waiting },
  };
}

/** Orders of which an appointment went by. */
async function wentBy(db: Db, ids: readonly OrderId[]): Promise<Set<OrderId>> {
  if (ids.length === 0) return new Set();
  const rows = await db
    .selectDistinct({ id: appointmentOrder.orderId })
    .from(appointmentOrder)
    .where(inArray(appointmentOrder.orderId, [...ids]));
  return new Set(rows.map((r) => r.id));
}

export async function readWork(db: Db, id: OrderId, from: LocalDate, days: number = WEEK): Promise<OrderWorkOut> {
  // A day more on both sides: a place and who goes there may be in different zones.
  const utc = 'UTC' as Zone;
  const over = spanOfDates(utc, addDays(from, -1), addDays(from, days));
  const of = (await workOf(db, [id], over)).get(id) ?? refuse('not-found', 'That work order does not exist.');
  const { spot, minutes, skills, blocked, window, site, lacks } = of.work;
  return {
    ...onRota(of),
    ...{ zone: of.zone, crew: of.crew, minutesBy: of.minutesBy },
    work: {
      ...{ spot, minutes, skills: skills.map((s) => ({ ...s })), blocked: [...blocked], window, lacks },
      site: site && [...site],
    },
  };
}
