// What another calendar would make of visits to come: those near a day that closes or opens are planned by both, as planning does it.
import { and, between, eq, inArray, isNull, like, or, type SQL } from 'drizzle-orm';
import type { CalendarEffect } from '#api/calendar-effect.ts';
import { daysDiffering } from '#core/calendars/index.ts';
import type { CalendarId, ScheduleId } from '#core/ids.ts';
import { addDays, type LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import type { CalendarBook } from '../calendars/index.ts';
import { jobPlan } from '../catalogue/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { computeRun, keyOf, type Owed } from './owed.ts';
import { plannedVisit, schedule } from './tables.ts';

/** Visits are looked at so far ahead. */
export const LOOKED_AHEAD_DAYS = 180;
/** A date is moved by at most so far, but over long holidays. */
const NEAR_DAYS = 10;
const SCHEDULES_LOOKED_AT = 500;
const SHOWN = 30;
/** So many days at most are named; more are a change of the week, near which everything lies. */
const DAYS_NAMED = 60;

type Books = { readonly before: CalendarBook; readonly after: CalendarBook };

/** Schedules that go by a calendar: by their own, or without one by that of their place or one above it. */
async function goesBy(db: Db, id: CalendarId): Promise<SQL | undefined> {
  const places = await db.select({ path: location.path }).from(location).where(eq(location.calendarId, id));
  return or(
    eq(schedule.calendarId, id),
    places.length === 0
      ? undefined
      : and(isNull(schedule.calendarId), or(...places.map((p) => like(location.path, `${p.path}%`)))),
  );
}

const plannedOf = async (db: Db, ids: readonly ScheduleId[], to: LocalDate, book: CalendarBook) => {
  const { owed } = await computeRun(db, to, { ids: [...ids] }, book);
  return new Map(owed.map((o) => [keyOf(o), o]));
};

export async function visitsOtherwise(
  db: Db,
  id: CalendarId,
  from: LocalDate,
  { before, after }: Books,
): Promise<CalendarEffect['visits']> {
  const to = addDays(from, LOOKED_AHEAD_DAYS);
  const { closes, opens } = daysDiffering(before.calendarOf(id), after.calendarOf(id), from, to);
  const days = [...closes, ...opens].sort();
  const none = {
    closes: closes.slice(0, SHOWN),
    opens: opens.slice(0, SHOWN),
    schedules: 0,
    looked: 0,
    moves: 0,
    moved: [],
  };
  const own = await goesBy(db, id);
  if (days.length === 0 || !own) return none;
  const near = (day: LocalDate) =>
    or(
      between(plannedVisit.nominal, addDays(day, -NEAR_DAYS), addDays(day, NEAR_DAYS)),
      between(plannedVisit.planned, addDays(day, -NEAR_DAYS), addDays(day, NEAR_DAYS)),
    );
  const rows = await db
    .selectDistinct({ id: schedule.id })
    .from(plannedVisit)
    .innerJoin(schedule, eq(schedule.id, plannedVisit.scheduleId))
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(
      and(
        own,
        days.length > DAYS_NAMED ? between(plannedVisit.planned, from, addDays(to, NEAR_DAYS)) : or(...days.map(near)),
      ),
    )
    .orderBy(schedule.id);
  const ids = rows.map((r) => r.id);
  const looked = ids.slice(0, SCHEDULES_LOOKED_AT);
  if (looked.length === 0) return none;
  const [was, will] = [await plannedOf(db, looked, to, before), await plannedOf(db, looked, to, after)];
  const moved = [...will].flatMap(([key, now]) => {
    const then = was.get(key);
    return then && then.visit.planned !== now.visit.planned ? [{ then, now }] : [];
  });
  const named = await namesOf(
    db,
    moved.slice(0, SHOWN).map((m) => m.now),
  );
  return {
    ...none,
    schedules: ids.length,
    looked: looked.length,
    moves: moved.length,
    moved: moved.slice(0, SHOWN).map(({ then, now }) => ({
      scheduleId: now.row.schedule.id,
      ...(named.get(now.row.schedule.id) ?? { tag: '', work: '' }),
      before: then.visit.planned,
      after: now.visit.planned,
    })),
  };
}

async function namesOf(db: Db, all: readonly Owed[]) {
  const ids = [...new Set(all.map((o) => o.row.schedule.id))];
  if (ids.length === 0) return new Map<ScheduleId, { tag: string; work: string }>();
  const rows = await db
    .select({ id: schedule.id, tag: asset.tag, work: jobPlan.name })
    .from(schedule)
    .innerJoin(asset, eq(asset.id, schedule.assetId))
    .innerJoin(jobPlan, eq(jobPlan.id, schedule.jobPlanId))
    .where(inArray(schedule.id, ids));
  return new Map(rows.map(({ id: of, ...names }) => [of, names]));
}
