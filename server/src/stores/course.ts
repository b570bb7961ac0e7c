// A part over time: what was on hand, worked back from the moves, and what will be free, by what comes and what work takes.
import { and, eq, gte, inArray, isNull, lt, ne, or, sql, type SQL } from 'drizzle-orm';
import type { Course } from '#api/part-life.ts';
import type { PartId, StoreId } from '#core/ids.ts';
import { byMonth, onHandByDay, projectStock, THOUSANDTHS, type Dated } from '#core/stores/index.ts';
import {
  addDays,
  addMonths,
  asLocalDate,
  localDateAt,
  startOfDay,
  type Instant,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { plannedVisit, schedule, scheduleOutlook } from '../upkeep/tables.ts';
import { comingTo, neededOf, storesOfDepots } from './reordering.ts';
import { part, shelf, stock, stockMove, store, storeAct } from './tables.ts';

const PAST_DAYS = 90;
const AHEAD_DAYS = 60;
const MONTHS = 12;
const YEAR = 366;

const monthOf = (day: LocalDate): string => day.slice(0, 7);
/** Moves of a part by the day of the reader’s zone; of those in which work took some or brought it back, how much it took. */
async function movedSince(db: Db, which: SQL | undefined, since: Instant, zone: Zone) {
  const rows = await db
    .select({ at: storeAct.at, kind: stockMove.kind, n: stockMove.thousandths })
    .from(stockMove)
    .innerJoin(storeAct, eq(storeAct.id, stockMove.actId))
    .innerJoin(store, eq(store.id, stockMove.storeId))
    .where(and(which, gte(storeAct.at, since)));
  const moved: Dated[] = [];
  const took: Dated[] = [];
  for (const { at, kind, n } of rows) {
    const day = localDateAt(zone, at);
    moved.push({ day, thousandths: n });
    if (kind === 'issue' || kind === 'return') took.push({ day, thousandths: -n });
  }
  return { moved, took };
}

/** Upkeep to come that takes a part, by the day it is planned for and whose depot does it. */
export async function upkeepTaking(db: Db, partId: PartId, until: LocalDate) {
  const plans = await db.select({ id: jobPlan.id, parts: jobPlan.parts }).from(jobPlan);
  const takes = new Map(
    plans.flatMap((p) => {
      const n = (p.parts ?? []).reduce((sum, w) => sum + (w.partId === partId ? w.thousandths : 0), 0);
      return n > 0 ? [[p.id, n] as const] : [];
    }),
  );
  if (takes.size === 0) return [];
  const ids = [...takes.keys()];
  const rows = await db
    .select({
      ...{ day: plannedVisit.planned, depotId: scheduleOutlook.depotId },
      plan: sql<number>`coalesce(${plannedVisit.jobPlanId}, ${schedule.jobPlanId})`.mapWith(Number),
    })
    .from(plannedVisit)
    .innerJoin(schedule, eq(schedule.id, plannedVisit.scheduleId))
    .leftJoin(scheduleOutlook, eq(scheduleOutlook.scheduleId, plannedVisit.scheduleId))
    .where(
      and(
        isNull(plannedVisit.absorbedBy),
        lt(plannedVisit.planned, until),
        or(inArray(plannedVisit.jobPlanId, ids), and(isNull(plannedVisit.jobPlanId), inArray(schedule.jobPlanId, ids))),
      ),
    );
  return rows.map(({ day, depotId, plan }) => ({ day, depotId, thousandths: takes.get(plan as never) ?? 0 }));
}

export async function courseOf(
  db: Db,
  id: PartId,
  at: StoreId | undefined,
  { zone, now }: { readonly zone: Zone; readonly now: Instant },
): Promise<Course> {
  const [known] = await db.select({ id: part.id }).from(part).where(eq(part.id, id));
  if (!known) refuse('not-found', 'That part does not exist.');
  const today = localDateAt(zone, now);
  const from = addDays(today, -PAST_DAYS);
  const year = addMonths(asLocalDate(`${monthOf(today)}-01`), 1 - MONTHS);
  // Of all stores together what lies in quarantine is left out: it is for no work.
  const here = <T extends typeof stock | typeof shelf | typeof stockMove>(of: T): SQL | undefined =>
    and(eq(of.partId, id), at === undefined ? ne(store.kind, 'quarantine') : eq(of.storeId, at));
  const [stocks, shelves, { moved, took }, coming, needs, upkeep, storeOf] = await Promise.all([
    db
      .select({ onHand: stock.onHand, reserved: stock.reserved })
      .from(stock)
      .innerJoin(store, eq(store.id, stock.storeId))
      .where(here(stock)),
    db
      .select({ minimum: shelf.minimum, maximum: shelf.maximum })
      .from(shelf)
      .innerJoin(store, eq(store.id, shelf.storeId))
      .where(here(shelf)),
    movedSince(db, here(stockMove), startOfDay(zone, from < year ? from : year), zone),
    comingTo(db, today, id),
    neededOf(db, id),
    upkeepTaking(db, id, addDays(today, YEAR)),
    storesOfDepots(db),
  ]);
  const sum = (all: readonly (number | null)[]): number => all.reduce<number>((s, n) => s + (n ?? 0), 0);
  const isHere = (storeId: StoreId | undefined): boolean => at === undefined || storeId === at;
  const onHand = sum(stocks.map((s) => s.onHand));
  const work = [...needs, ...upkeep].filter((n) => isHere(storeOf(n.depotId)));
  const kept = shelves.filter((s) => s.minimum !== null);
  const { days } = projectStock({
    ...{ today, leadDays: AHEAD_DAYS, reviewDays: 0, onHand, reserved: sum(stocks.map((s) => s.reserved)) },
    ordered: [...coming].flatMap(([key, all]) => (isHere(Number(key.split(' ')[0]) as StoreId) ? all : [])),
    needs: work.map((n) => ({ day: n.day ?? today, thousandths: n.thousandths })),
    ...{ minimum: 0, maximum: 0, pack: THOUSANDTHS },
  });
  return {
    ...{ today, from },
    past: onHandByDay(onHand, moved, from, today).map((d) => d.thousandths),
    ahead: days.map((d) => d.thousandths),
    minimum: kept.length === 0 ? null : sum(kept.map((s) => s.minimum)),
    maximum: kept.length === 0 ? null : sum(kept.map((s) => s.maximum)),
    took: byMonth(took, monthOf(year), MONTHS),
    takes: byMonth(
      upkeep.filter((u) => isHere(storeOf(u.depotId))),
      monthOf(today),
      MONTHS,
    ),
  };
}
