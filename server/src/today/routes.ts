// Today: what needs somebody now, read from the other rooms.
import { and, asc, count, desc, eq, gte, isNotNull, isNull, lte, notInArray, sql } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/today.ts';
import type { Today, TodayPromise } from '#api/today.ts';
import { FINISHED_STAGES } from '#core/orders/index.ts';
import { ELAPSED_TIME } from '#core/calendars/index.ts';
import type { OrderId } from '#core/ids.ts';
import { compareByDue, marginOf } from '#core/service-levels/index.ts';
import { sayExcess } from '#core/signals/index.ts';
import { addDays, HOUR, instant, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook, type CalendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { placesOf } from '../places/index.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';
import { outlook, schedule, visit } from '../upkeep/tables.ts';
import { clock, workOrder } from '../orders/tables.ts';
import { alert, alertRule } from '../signals/tables.ts';
import { noticesTo } from '../agreements/index.ts';
import { openClocks, orderRows } from '../orders/index.ts';

const PROMISES_SHOWN = 10;
const CLOCKS_READ = 500;

async function promisesOf(
  db: Db,
  book: CalendarBook,
  now: Instant,
  axis: { from: Instant; to: Instant },
): Promise<Pick<Today, 'promises' | 'counts' | 'morePromises'>> {
  const clocks = await openClocks(db, book, now, CLOCKS_READ);
  const margins = clocks.map((c) => marginOf(c));
  const counted = (wanted: string): number => margins.filter((m) => m === wanted).length;
  // One line for each order: the clock that ends first speaks for it; paused ones stand behind.
  const first = new Map<number, (typeof clocks)[number]>();
  for (const c of [...clocks].sort(compareByDue)) if (!first.has(c.orderId)) first.set(c.orderId, c);
  const chosen = [...first.values()];
  const shown = chosen.slice(0, PROMISES_SHOWN);
  const orders = new Map(
    (
      await orderRows(
        db,
        shown.map((c) => c.orderId as OrderId),
        now,
      )
    ).map((o) => [o.id, o]),
  );
  const calendars = new Map(
    (
      await db
        .select({ orderId: clock.orderId, target: clock.target, calendarId: clock.calendarId })
        .from(clock)
        .where(sql`${clock.orderId} in (${sql.join([...shown.map((c) => sql`${c.orderId}`), sql`0`], sql`, `)})`)
    ).map((c) => [`${c.orderId}/${c.target}`, c.calendarId]),
  );
  const promises = shown.flatMap((c): TodayPromise[] => {
    const order = orders.get(c.orderId);
    const calendarId = calendars.get(`${c.orderId}/${c.target}`) ?? null;
    const time = calendarId === null ? ELAPSED_TIME : book.workingTime(calendarId);
    return order ? [{ clock: c, order, open: [...time.openSegments(axis.from, axis.to)] }] : [];
  });
  return {
    promises,
    counts: {
      missed: counted('missed'),
      short: counted('short'),
      enough: counted('enough'),
      paused: counted('paused'),
    },
    morePromises: chosen.length - shown.length,
  };
}

async function visitsEnding(db: Db, today: LocalDate): Promise<Today['visitsEnding']> {
  const rows = await db
    .select({
      visit,
      title: workOrder.title,
      stage: workOrder.stage,
      tag: asset.tag,
      model: asset.model,
      customer: customer.name,
      locationId: asset.locationId,
      path: location.path,
    })
    .from(visit)
    .innerJoin(workOrder, eq(workOrder.id, visit.orderId))
    .innerJoin(asset, eq(asset.id, visit.assetId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(
      and(
        eq(visit.state, 'raised'),
        isNull(visit.completedOn),
        lte(visit.windowTo, addDays(today, 7)),
        gte(visit.windowTo, addDays(today, -60)),
        notInArray(workOrder.stage, [...FINISHED_STAGES]),
      ),
    )
    .orderBy(asc(visit.windowTo), asc(visit.id))
    .limit(12);
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  return rows.map((r) => ({
    orderId: r.visit.orderId as number,
    tag: r.tag,
    model: r.model,
    customer: r.customer,
    place: places.of(r.locationId).label,
    label: r.title,
    due: r.visit.due,
    windowTo: r.visit.windowTo,
    stage: r.stage,
    late: r.visit.windowTo < today,
  }));
}

const REASONS_SHOWN = 6;

/** What waits to be raised and what yields nothing, from the outlook that is kept ready. */
async function upkeepOf(db: Db, day: LocalDate): Promise<Today['upkeep']> {
  // Worked out for an earlier day: what was to be raised still is, and what was next may be due by now.
  const toRaise = sql<number>`${outlook.toRaise} + (${outlook.asOf} < ${day} and ${outlook.nextRaise} <= ${day})`;
  const [[counts], reasons] = await Promise.all([
    db
      .select({
        proposed: sql<number>`coalesce(sum(${toRaise}), 0)`,
        held: sql<number>`coalesce(sum(${outlook.held}), 0)`,
        needsCare: count(outlook.careReason),
      })
      .from(outlook),
    db
      .select({ customer: customer.name, reason: outlook.careReason, n: count() })
      .from(outlook)
      .innerJoin(schedule, eq(schedule.id, outlook.scheduleId))
      .innerJoin(agreement, eq(agreement.id, schedule.agreementId))
      .innerJoin(customer, eq(customer.id, agreement.customerId))
      .where(isNotNull(outlook.careReason))
      .groupBy(customer.name, outlook.careReason)
      .orderBy(desc(count()), asc(customer.name))
      .limit(REASONS_SHOWN),
  ]);
  return {
    to: day,
    proposed: Number(counts?.proposed ?? 0),
    held: Number(counts?.held ?? 0),
    needsCare: counts?.needsCare ?? 0,
    reasons: reasons.map((r) => ({ text: `${r.customer}: ${r.reason}`, count: r.n })),
  };
}

export const todayRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readToday, async ({ now, who }) => {
      const day = localDateAt(who.zone, now);
      const axis = { from: instant(now - 14 * HOUR), to: instant(now + 34 * HOUR) };
      const book = await calendarBook(db);
      const [promises, upkeep, ending, ownNotices, notices, alerts] = await Promise.all([
        promisesOf(db, book, now, axis),
        upkeepOf(db, day),
        visitsEnding(db, day),
        noticesTo(db, who.id),
        db
          .select({
            agreementId: agreement.id,
            number: agreement.number,
            name: agreement.name,
            customer: customer.name,
            noticeBy: agreement.noticeBy,
          })
          .from(agreement)
          .innerJoin(customer, eq(customer.id, agreement.customerId))
          .where(
            and(
              eq(agreement.stage, 'in force'),
              gte(agreement.noticeBy, day),
              lte(agreement.noticeBy, addDays(day, 60)),
            ),
          )
          .orderBy(asc(agreement.noticeBy))
          .limit(10),
        db
          .select({ alert, rule: alertRule, tag: asset.tag, model: asset.model })
          .from(alert)
          .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
          .innerJoin(asset, eq(asset.id, alert.assetId))
          .where(isNull(alert.endedAt))
          .orderBy(sql`${alert.startedAt} desc`)
          .limit(10),
      ]);
      return {
        now,
        today: day,
        axisFrom: axis.from,
        axisTo: axis.to,
        ...promises,
        upkeep,
        visitsEnding: ending,
        ownNotices,
        notices: notices.map((n) => ({ ...n, noticeBy: n.noticeBy as LocalDate })),
        alerts: alerts.map(({ alert: a, rule, tag, model }) => ({
          id: a.id,
          text: sayExcess(rule, a.worst),
          tag,
          model,
          assetId: a.assetId,
          startedAt: a.startedAt,
          orderId: a.orderId,
        })),
      };
    });
  },
  { name: 'stavok-today-routes', dependencies: ['stavok-authentication'] },
);
