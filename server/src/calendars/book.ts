// The calendar book: every calendar with its compiled working time, kept until a calendar changes.
import { inArray, sql } from 'drizzle-orm';
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
import { ReadTooEarly, type Db, type Tx } from '../platform/database.ts';
import { calendar } from './tables.ts';

export type CalendarBook = {
  calendarOf(id: CalendarId): Calendar;
  workingTime(id: CalendarId): WorkingTime;
  /** Without a calendar every day counts. */
  workingDays(id: CalendarId | null): WorkingDays;
  readonly timeOf: TimeOfPromise;
  /** In which version a calendar is in it; null: it is not. */
  versionOf(id: CalendarId): number | null;
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

type Versioned = { readonly calendar: Calendar; readonly version: number };

function buildBook(calendars: ReadonlyMap<CalendarId, Versioned>): CalendarBook {
  const times = new Map<CalendarId, WorkingTime>();
  const days = new Map<CalendarId | null, WorkingDays>();
  const calendarOf = (id: CalendarId): Calendar => {
    const found = calendars.get(id)?.calendar;
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
    versionOf: (id) => calendars.get(id)?.version ?? null,
  };
}

/** The book as it would be with one calendar otherwise; looked at, never kept. */
export async function bookWith(db: Db, id: CalendarId, otherwise: Calendar): Promise<CalendarBook> {
  const rows = await db.select().from(calendar);
  const versioned = (r: typeof calendar.$inferSelect): Versioned => ({
    calendar: r.id === id ? otherwise : calendarOfRow(r),
    version: r.version,
  });
  return buildBook(new Map(rows.map((r) => [r.id, versioned(r)])));
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
  const book = buildBook(new Map(rows.map((r) => [r.id, { calendar: calendarOfRow(r), version: r.version }])));
  held = { stamp, book };
  return book;
}

/**
 * Holds calendars as they are in a book until the transaction ends: who changes one waits, and then finds the clocks that were written by
 * it. Where one was changed meanwhile the transaction is done again.
 */
export async function holdCalendars({ db }: Tx, book: CalendarBook, ids: Iterable<CalendarId>): Promise<void> {
  const wanted = [...new Set(ids)].sort((a, b) => a - b);
  if (wanted.length === 0) return;
  const [rows] = (await db.execute(sql`
    select id, version from calendar where ${inArray(calendar.id, wanted)} order by id lock in share mode`)) as unknown as [
    { id: CalendarId; version: number }[],
  ];
  if (wanted.some((id) => rows.find((r) => r.id === id)?.version !== book.versionOf(id))) throw new ReadTooEarly();
}
