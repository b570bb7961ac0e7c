// The calendar book: every calendar with its compiled working time, kept until a calendar changes.
import { sql } from 'drizzle-orm';
import {
  ELAPSED_TIME,
  workingDaysOf,
  workingTimeOf,
  type Calendar,
  type WorkingDays,
  type WorkingTime,
} from '#core/calendars/index.ts';
import type { CalendarId } from '#core/ids.ts';
import type { TargetPromise, TimeOfPromise } from '#core/service-levels/index.ts';
import type { Db } from '../platform/database.ts';
import { calendar } from './tables.ts';

export type CalendarBook = {
  calendarOf(id: CalendarId): Calendar;
  workingTime(id: CalendarId): WorkingTime;
  /** Without a calendar every day counts. */
  workingDays(id: CalendarId | null): WorkingDays;
  readonly timeOf: TimeOfPromise;
};

/** A calendar as the rules know it, with what it was before. */
export const calendarOfRow = ({
  name,
  zone,
  weekly,
  closed,
  extraOpen,
  past,
}: typeof calendar.$inferSelect): Calendar => ({
  ...{ name, zone, weekly, closed, extraOpen },
  ...(past !== null && past.length > 0 && { past }),
});

function buildBook(calendars: ReadonlyMap<CalendarId, Calendar>): CalendarBook {
  const times = new Map<CalendarId, WorkingTime>();
  const days = new Map<CalendarId | null, WorkingDays>();
  const calendarOf = (id: CalendarId): Calendar => {
    const found = calendars.get(id);
    if (!found) throw new Error(`calendar ${id} is gone`);
    return found;
  };
  const workingTime = (id: CalendarId): WorkingTime => {
    let time = times.get(id);
    if (!time) times.set(id, (time = workingTimeOf(calendarOf(id))));
    return time;
  };
  return {
    calendarOf,
    workingTime,
    workingDays(id) {
      let found = days.get(id);
      if (!found) days.set(id, (found = workingDaysOf(id === null ? null : calendarOf(id))));
      return found;
    },
    timeOf: (promise: TargetPromise) =>
      promise.measure === 'elapsed' ? ELAPSED_TIME : workingTime(promise.calendarId),
  };
}

/** The book as it would be with one calendar otherwise; looked at, never kept. */
export async function bookWith(db: Db, id: CalendarId, otherwise: Calendar): Promise<CalendarBook> {
  const rows = await db.select().from(calendar);
  return buildBook(new Map(rows.map((r) => [r.id, r.id === id ? otherwise : calendarOfRow(r)])));
}

let held: { stamp: string; book: CalendarBook } | null = null;

/** The book as of now; a one-row query tells whether a calendar changed since it was built. */
export async function calendarBook(db: Db): Promise<CalendarBook> {
  const [row] = await db
    .select({ stamp: sql<string>`concat(count(*), '/', coalesce(sum(${calendar.version}), 0), '/', database())` })
    .from(calendar);
  const stamp = row?.stamp ?? '';
  if (held && held.stamp === stamp) return held.book;
  const rows = await db.select().from(calendar);
  const book = buildBook(new Map(rows.map((r) => [r.id, calendarOfRow(r)])));
  held = { stamp, book };
  return book;
}
