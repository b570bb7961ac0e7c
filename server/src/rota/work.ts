// What orders ask of whoever goes: where, how long, which skills, within what; and what they were promised.
import { group } from 'd3-array';
import { and, asc, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { AssetClassId, AssetId, CustomerId, DepotId, LocationId, OrderId, PersonId, SkillId } from '#core/ids.ts';
import { spreadOf, type KeptPlan, type OrderStage } from '#core/orders/index.ts';
import { inSteps, minutesWith, weightOf, type ServedPromise, type Work } from '#core/rota/index.ts';
import type { Priority, Target } from '#core/service-levels/index.ts';
import {
  addDays,
  DAY,
  instant,
  startOfDay,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import { customer, technicianWish } from '../customers/tables.ts';
import { skill } from '../depots/tables.ts';
import { clock, lineLocation, orderLine, workOrder } from '../orders/tables.ts';
import type { Place } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { visit } from '../upkeep/tables.ts';
import { partsOf } from './parts.ts';
import { placesByPath, spotOf } from './spots.ts';

/** What is assumed where neither a job plan nor past work says how long it takes. */
const ASSUMED_MINUTES = 60;

export type MinutesBy = 'plan' | 'past work' | 'assumed';

export type ServedClock = {
  readonly target: Target;
  readonly dueAt: Instant;
  readonly stopsAt: ServedPromise['stopsAt'];
};

/** An order as the rota knows it. */
export type OrderWork = {
  readonly orderId: OrderId;
  readonly title: string;
  readonly kind: (typeof workOrder.$inferSelect)['kind'];
  readonly stage: OrderStage;
  readonly priority: Priority;
  readonly customerId: CustomerId;
  readonly customer: string;
  readonly depotId: DepotId | null;
  readonly locationId: LocationId | null;
  readonly place: Place;
  readonly zone: Zone;
  readonly tag: string;
  readonly assetIds: readonly AssetId[];
  readonly machines: number;
  readonly minutesBy: MinutesBy;
  readonly crew: number;
  readonly waitingFor: (typeof workOrder.$inferSelect)['waitingFor'];
  readonly startedAt: Instant;
  readonly wishedOn: LocalDate | null;
  /** When the parts it waits for are all promised to be here. */
  readonly partsOn: LocalDate | null;
  readonly preferred: ReadonlySet<PersonId>;
  readonly clocks: readonly ServedClock[];
  /** Of one who does it alone, or of the crew that its plan names. */
  readonly work: Work;
};

/** Being told is one thing, being there another: what arrival stops is the arrival’s promise, and the response’s where there is no other. */
export function servedBy(clocks: readonly { target: Target; dueAt: Instant | null }[]): ServedClock[] {
  const due = clocks.flatMap(({ target, dueAt }) => (dueAt === null ? [] : [{ target, dueAt }]));
  const isArrivalPromised = due.some((c) => c.target === 'arrival');
  return due.flatMap(({ target, dueAt }): ServedClock[] => {
    if (target === 'restoration' || target === 'workaround') return [{ target, dueAt, stopsAt: 'end' }];
    return target === 'response' && isArrivalPromised ? [] : [{ target, dueAt, stopsAt: 'arrival' }];
  });
}

export const promisesOf = ({ clocks, priority }: Pick<OrderWork, 'clocks' | 'priority'>): ServedPromise[] =>
  clocks.map(({ dueAt, stopsAt }) => ({ dueAt, stopsAt, weight: weightOf(priority) }));

/** When the place's own hours let somebody in; null where it has none. Looked at over the days that matter. */
function siteHours(place: Place, book: CalendarBook, over: InstantSpan): InstantSpan[] | null {
  return place.calendar ? [...book.workingTime(place.calendar.value).openSegments(over.from, over.to)] : null;
}

export function windowOf(
  zone: Zone,
  visits: readonly { from: LocalDate; to: LocalDate }[],
  wishedOn: LocalDate | null,
): InstantSpan | null {
  if (visits.length > 0) {
    const from = visits
      .map((v) => v.from)
      .sort()
      .at(-1) as LocalDate;
    const to = visits.map((v) => v.to).sort()[0] as LocalDate;
    return { from: startOfDay(zone, from), to: instant(startOfDay(zone, addDays(to, 1)) - 1) };
  }
  if (wishedOn === null) return null;
  return { from: startOfDay(zone, wishedOn), to: instant(startOfDay(zone, addDays(wishedOn, 1)) - 1) };
}

/** No limit of its own: nothing is planned further ahead. */
const FAR_DAYS = 400;

/** Work whose parts come on a day begins no earlier; a window that is over by then is as late as it says. */
function notBefore(zone: Zone, window: InstantSpan | null, day: LocalDate | null): InstantSpan | null {
  if (day === null) return window;
  const here = startOfDay(zone, addDays(day, 1));
  if (window === null) return { from: here, to: startOfDay(zone, addDays(day, FAR_DAYS)) };
  return { from: instant(Math.max(window.from, here)), to: instant(Math.max(window.to, here)) };
}

const linesOf = (db: Db, ids: readonly OrderId[]) =>
  db
    .select({
      ...{ orderId: orderLine.orderId, id: orderLine.id, assetId: orderLine.assetId, minutes: orderLine.minutes },
      ...{ plan: orderLine.plan, off: orderLine.off, tag: asset.tag, classId: asset.classId },
      ...{ locationId: lineLocation, path: location.path, windowFrom: visit.windowFrom, windowTo: visit.windowTo },
    })
    .from(orderLine)
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .leftJoin(visit, eq(visit.id, orderLine.visitId))
    .where(inArray(orderLine.orderId, [...ids]))
    .orderBy(asc(orderLine.id));
type Line = Awaited<ReturnType<typeof linesOf>>[number];

const LIKE_WORK = 400;

/** The median of what like work took, by the class of machine; the newest counts. */
async function pastMinutes(db: Db, classes: readonly AssetClassId[]): Promise<ReadonlyMap<AssetClassId, number>> {
  const found = new Map<AssetClassId, number>();
  if (classes.length === 0) return found;
  const newest = db
    .select({ id: orderLine.id, minutes: orderLine.labourMinutes, assetId: orderLine.assetId })
    .from(orderLine)
    .where(isNotNull(orderLine.labourMinutes))
    .orderBy(desc(orderLine.id))
    .limit(LIKE_WORK)
    .as('newest');
  const rows = await db
    .select({ classId: asset.classId, minutes: newest.minutes })
    .from(newest)
    .innerJoin(asset, eq(asset.id, newest.assetId))
    .where(inArray(asset.classId, [...classes]));
  for (const [classId, of] of group(rows, (r) => r.classId)) {
    const median = spreadOf(of.flatMap((r) => (r.minutes ? [r.minutes] : [])))?.median;
    if (median) found.set(classId, Math.round(median));
  }
  return found;
}

const plannedMinutes = ({ minutes, plan }: Pick<Line, 'minutes' | 'plan'>): number => minutes ?? plan?.minutes ?? 0;

/** What the lines take together at the place; a line that says nothing takes what like work took. */
function expected(lines: readonly Line[], past: ReadonlyMap<AssetClassId, number>): { minutes: number; by: MinutesBy } {
  let by: MinutesBy = 'plan';
  const minutes = lines.reduce((sum, line) => {
    const planned = plannedMinutes(line);
    if (planned > 0) return sum + planned;
    const like = line.classId === null ? undefined : past.get(line.classId);
    if (like === undefined) by = 'assumed';
    else if (by === 'plan') by = 'past work';
    return sum + (like ?? ASSUMED_MINUTES);
  }, 0);
  return lines.length === 0 ? { minutes: ASSUMED_MINUTES, by: 'assumed' } : { minutes: inSteps(minutes), by };
}

type NeededSkill = Work['skills'][number];

/** The skills of all its job plans, once each. Older orders know them by name; a name that is none any more is nobody’s. */
function skillsOf(
  plans: readonly KeptPlan[],
  named: ReadonlyMap<string, SkillId>,
  names: ReadonlyMap<SkillId, string>,
) {
  const needed = new Map<string, NeededSkill>();
  for (const plan of plans)
    for (const [i, name] of plan.skills.entries()) {
      const skillId = plan.skillIds?.[i] ?? named.get(name) ?? (0 as SkillId);
      needed.set(`${skillId} ${skillId === 0 ? name : ''}`, { skillId, name: names.get(skillId) ?? name });
    }
  return [...needed.values()];
}

const asked = {
  ...{ id: workOrder.id, title: workOrder.title, kind: workOrder.kind, stage: workOrder.stage },
  ...{ priority: workOrder.priority, customerId: workOrder.customerId, depotId: workOrder.depotId },
  ...{ zone: workOrder.zone, waitingFor: workOrder.waitingFor, startedAt: workOrder.startedAt },
  wishedOn: workOrder.wishedOn,
};

const NOT_TO_BE_HAD = 'a part it waits for';
const WAITING = 'waiting for parts';

/** Orders as the rota knows them, in the order of their ids; those that do not exist are left out. Site hours are given for `over`. */
export async function workOf(db: Db, ids: readonly OrderId[], over: InstantSpan): Promise<Map<OrderId, OrderWork>> {
  if (ids.length === 0) return new Map();
  const [orders, lines, clocks, skills, book] = await Promise.all([
    db
      .select({ order: asked, customer: customer.name })
      .from(workOrder)
      .innerJoin(customer, eq(customer.id, workOrder.customerId))
      .where(inArray(workOrder.id, [...ids]))
      .orderBy(asc(workOrder.id)),
    linesOf(db, ids),
    db
      .select({ orderId: clock.orderId, target: clock.target, dueAt: clock.dueAt })
      .from(clock)
      .where(and(inArray(clock.orderId, [...ids]), eq(clock.state, 'running')))
      .orderBy(asc(clock.dueAt), asc(clock.id)),
    db.select({ id: skill.id, name: skill.name }).from(skill),
    calendarBook(db),
  ]);
  const unknown = lines.flatMap((l) => (plannedMinutes(l) > 0 || l.classId === null ? [] : [l.classId]));
  const customers = [...new Set(orders.map((o) => o.order.customerId))];
  const [places, past, wishes] = await Promise.all([
    placesByPath(db, lines),
    pastMinutes(db, [...new Set(unknown)]),
    customers.length === 0 ? [] : db.select().from(technicianWish).where(inArray(technicianWish.customerId, customers)),
  ]);
  const parts = await partsOf(
    db,
    orders.flatMap(({ order: o }) => (o.waitingFor === WAITING ? [o.id] : [])),
  );
  const [linesOfOrder, clocksOfOrder] = [group(lines, (l) => l.orderId), group(clocks, (c) => c.orderId)];
  const named = new Map(skills.map((s) => [s.name, s.id]));
  const names = new Map(skills.map((s) => [s.id, s.name]));
  return new Map(
    orders.map(({ order, customer: name }) => {
      const all = linesOfOrder.get(order.id) ?? [];
      const own = all.filter((l) => !l.off);
      const [first] = own.length > 0 ? own : all;
      const place = places.of(first?.locationId ?? null);
      const plans = own.flatMap((l) => l.plan ?? []);
      const crew = Math.max(1, ...plans.map((p) => p.crew));
      const { minutes, by } = expected(own, past);
      const wished = (wish: 'preferred' | 'blocked') =>
        new Set(wishes.filter((w) => w.customerId === order.customerId && w.wish === wish).map((w) => w.personId));
      const visits = own.flatMap((l) => (l.windowFrom && l.windowTo ? [{ from: l.windowFrom, to: l.windowTo }] : []));
      const waits = order.waitingFor === WAITING;
      const partsOn = waits && !parts.planned ? parts.on(order.id) : null;
      const of: OrderWork = {
        ...{ orderId: order.id, title: order.title, kind: order.kind, stage: order.stage, priority: order.priority },
        ...{ customerId: order.customerId, customer: name, depotId: order.depotId, zone: order.zone },
        ...{ locationId: first?.locationId ?? null, place, tag: first?.tag ?? '', machines: own.length },
        ...{ minutesBy: by, crew, waitingFor: order.waitingFor, startedAt: order.startedAt },
        ...{ wishedOn: order.wishedOn, preferred: wished('preferred'), partsOn },
        assetIds: own.flatMap((l) => l.assetId ?? []),
        clocks: servedBy(clocksOfOrder.get(order.id) ?? []),
        work: {
          ...{ spot: spotOf(first?.locationId ?? null, place), minutes, blocked: wished('blocked') },
          skills: skillsOf(plans, named, names),
          window: notBefore(order.zone, windowOf(order.zone, visits, order.wishedOn), partsOn),
          site: siteHours(place, book, over),
          lacks: waits && partsOn === null && !parts.planned ? NOT_TO_BE_HAD : null,
        },
      };
      return [order.id, of] as const;
    }),
  );
}

/** Several orders at one place done in one appointment: their times add up, and what binds one binds all. */
export function together(orders: readonly OrderWork[], crew: number): Work {
  const [first] = orders;
  if (!first) throw new Error('An appointment is for at least one order.');
  const site = orders.find((o) => o.work.site !== null)?.work.site ?? null;
  const windows = orders.flatMap((o) => o.work.window ?? []);
  return {
    spot: first.work.spot,
    minutes: orders.reduce((sum, o) => sum + minutesWith(o.work.minutes, o.crew, crew), 0),
    skills: [...new Map(orders.flatMap((o) => o.work.skills).map((s) => [`${s.skillId} ${s.name}`, s])).values()],
    blocked: new Set(orders.flatMap((o) => [...o.work.blocked])),
    window:
      windows.length === 0
        ? null
        : {
            from: instant(Math.max(...windows.map((w) => w.from))),
            to: instant(Math.min(...windows.map((w) => w.to))),
          },
    site,
    lacks: orders.find((o) => o.work.lacks !== null)?.work.lacks ?? null,
  };
}

/** Days around an instant for which site hours are wanted. */
export const around = (at: Instant, days: number): InstantSpan => ({
  from: instant(at - DAY),
  to: instant(at + days * DAY),
});
