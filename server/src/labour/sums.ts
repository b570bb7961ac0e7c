// Sums of people's time over some of their days: by kind, and what lies outside their open time.
import { group } from 'd3-array';
import { and, between, eq, gt, inArray, isNotNull, isNull, lt, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { CalendarId, PersonId } from '#core/ids.ts';
import { dayBalance } from '#core/labour/index.ts';
import {
  addDays,
  daysBetween,
  instant,
  startOfDay,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { timeEntry, timePiece } from './tables.ts';

export type TimeOf = { readonly personId: PersonId; readonly travel: number; readonly all: number };

/** Minutes of some people from one day to another, both included: all that was entered, and what of it was travel. */
export async function timeSums(db: Db, people: readonly PersonId[], from: LocalDate, to: LocalDate): Promise<TimeOf[]> {
  if (people.length === 0) return [];
  const rows = await db
    .select({
      personId: timePiece.personId,
      travel: sql<string>`coalesce(sum(case when ${timePiece.kind} = 'travel' then ${timePiece.minutes} end), 0)`,
      all: sql<string>`sum(${timePiece.minutes})`,
    })
    .from(timePiece)
    .where(and(inArray(timePiece.personId, [...people]), between(timePiece.day, from, to)))
    .groupBy(timePiece.personId);
  return rows.map((r) => ({ personId: r.personId, travel: Number(r.travel), all: Number(r.all) }));
}

type Whose = { readonly id: PersonId; readonly zone: Zone; readonly calendarId: CalendarId | null };

/** Of a person's zone the days need not be known twice: there are as many people as zones are few. */
function daysIn(zone: Zone, from: LocalDate, to: LocalDate): InstantSpan[] {
  return Array.from({ length: daysBetween(from, to) + 1 }, (_, i) => {
    const on = addDays(from, i);
    return { from: startOfDay(zone, on), to: startOfDay(zone, addDays(on, 1)) };
  });
}

/**
 * Minutes that each entered outside their open time, from one of their days to another: time entered twice counts once. Without a
 * calendar nothing is known to be open, and nothing to be overtime.
 */
export async function overtimeOf(
  db: Db,
  people: readonly Whose[],
  from: LocalDate,
  to: LocalDate,
): Promise<Map<PersonId, number>> {
  const own = people.filter((p) => p.calendarId !== null);
  if (own.length === 0) return new Map();
  const [book, taking] = [await calendarBook(db), alias(timeEntry, 'taking')];
  const spans = new Map(own.map((p) => [p.zone, daysIn(p.zone, from, to)]));
  const all = [...spans.values()].flat();
  const rows = await db
    .select({ personId: timeEntry.personId, from: timeEntry.fromAt, to: timeEntry.toAt })
    .from(timeEntry)
    .leftJoin(taking, eq(taking.countersId, timeEntry.id))
    .where(
      and(
        inArray(
          timeEntry.personId,
          own.map((p) => p.id),
        ),
        // An entry is of the day on which it begins, and none is longer than a day.
        between(timeEntry.day, addDays(from, -1), to),
        isNotNull(timeEntry.fromAt),
        lt(timeEntry.fromAt, instant(Math.max(...all.map((s) => s.to)))),
        gt(timeEntry.toAt, instant(Math.min(...all.map((s) => s.from)))),
        isNull(timeEntry.countersId),
        isNull(taking.id),
      ),
    );
  const entries = group(rows, (r) => r.personId);
  return new Map(
    own.map(({ id, zone, calendarId }) => {
      const time = book.workingTime(calendarId as CalendarId);
      const mine = (entries.get(id) ?? []).flatMap((r) => (r.from && r.to ? [{ from: r.from, to: r.to }] : []));
      const minutes = (spans.get(zone) as InstantSpan[]).reduce((sum, day) => {
        const there = mine.filter((e) => e.from < day.to && e.to > day.from);
        return there.length === 0 ? sum : sum + dayBalance(day, there, time).overtime;
      }, 0);
      return [id, minutes] as const;
    }),
  );
}
