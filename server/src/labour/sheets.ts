// Time sheets: a person's week with its entries against their calendar, and handing it in, approving it, sending it back.
import { group, sum } from 'd3-array';
import { and, asc, between, eq, inArray, isNotNull, or, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Answer, Asked } from '#api/contract.ts';
import type * as contracts from '#api/labour.ts';
import type { EntryOut, WeekSheet } from '#api/labour.ts';
import { asId, type PersonId, type TimeEntryId } from '#core/ids.ts';
import { actOnSheet, dayBalance, HOURS_KINDS, overlapsOf, weekOf, type EntryKind } from '#core/labour/index.ts';
import { approvesTimeOf, entersTimeFor } from '#core/people.ts';
import { addDays, localDateAt, startOfDay, toWallTime, type Instant, type LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook } from '../calendars/index.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { craft, timeEntry, timeEntryLine, timePiece, timeSheet } from './tables.ts';

const DAYS = 7;

/** The lines of entries with what falls to each, and their minutes by hours kind. */
async function partsOf(db: Db, ids: readonly TimeEntryId[]) {
  if (ids.length === 0)
    return { lines: new Map<number, EntryOut['lines']>(), hours: new Map<number, EntryOut['byHours']>() };
  const [rows, pieces] = await Promise.all([
    db
      .select({
        entryId: timeEntryLine.entryId,
        lineId: orderLine.id,
        orderId: orderLine.orderId,
        title: workOrder.title,
        tag: sql<string>`coalesce(${asset.tag}, '')`,
        share: timeEntryLine.share,
      })
      .from(timeEntryLine)
      .innerJoin(orderLine, eq(orderLine.id, timeEntryLine.orderLineId))
      .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
      .leftJoin(asset, eq(asset.id, orderLine.assetId))
      .where(inArray(timeEntryLine.entryId, [...ids]))
      .orderBy(asc(timeEntryLine.entryId), asc(timeEntryLine.position)),
    db
      .select({
        entryId: timePiece.entryId,
        lineId: timePiece.orderLineId,
        hours: timePiece.hours,
        minutes: timePiece.minutes,
      })
      .from(timePiece)
      .where(inArray(timePiece.entryId, [...ids])),
  ]);
  const own = group(pieces, (p) => p.entryId);
  const lines = group(
    rows.map(({ entryId, ...line }) => {
      const minutes = sum(own.get(entryId)?.filter((p) => p.lineId === line.lineId) ?? [], (p) => p.minutes);
      return { entryId, line: { ...line, minutes } };
    }),
    (r) => r.entryId,
  );
  return {
    lines: new Map([...lines].map(([id, of]) => [id as number, of.map((r) => r.line)])),
    hours: new Map(
      [...own].map(([id, of]) => [
        id as number,
        HOURS_KINDS.map((hours) => ({
          hours,
          minutes: sum(
            of.filter((p) => p.hours === hours),
            (p) => p.minutes,
          ),
        })).filter((h) => h.minutes !== 0),
      ]),
    ),
  };
}

type Whose = typeof person.$inferSelect;

async function entriesOf(db: Db, of: Whose, from: LocalDate, to: LocalDate): Promise<EntryOut[]> {
  const taking = alias(timeEntry, 'taking');
  const rows = await db
    .select({ entry: timeEntry, counteredBy: taking.id })
    .from(timeEntry)
    .leftJoin(taking, eq(taking.countersId, timeEntry.id))
    .where(and(eq(timeEntry.personId, of.id), between(timeEntry.day, from, to)))
    .orderBy(asc(timeEntry.day), asc(timeEntry.fromAt), asc(timeEntry.id))
    .limit(500);
  const { lines, hours } = await partsOf(
    db,
    rows.map((r) => r.entry.id),
  );
  const wall = (at: Instant | null): number | null => at && toWallTime(of.zone, at).minutes;
  return rows.map(({ entry: e, counteredBy }) => ({
    id: e.id,
    version: e.version,
    day: e.day,
    kind: e.kind,
    from: wall(e.fromAt),
    to: wall(e.toAt),
    span: e.fromAt && e.toAt && { from: e.fromAt, to: e.toAt },
    minutes: e.minutes,
    hours: e.hours,
    kilometres: e.kilometres,
    text: e.text,
    lines: lines.get(e.id) ?? [],
    byHours: hours.get(e.id) ?? [],
    overlapReason: e.overlapReason,
    counters: e.countersId,
    counteredBy,
    reason: e.reason,
  }));
}

/** A week of somebody's time. Refused: others' weeks, but to the office. */
export async function readWeek(db: Db, who: Person, id: PersonId, day: LocalDate, now: Instant): Promise<WeekSheet> {
  if (!entersTimeFor(who, id)) refuse('not-allowed', 'A time sheet is read by whose it is, and by the office.');
  const [found] = await db
    .select({ of: person, craft: craft.name })
    .from(person)
    .leftJoin(craft, eq(craft.id, person.craftId))
    .where(eq(person.id, id));
  if (!found) refuse('not-found', 'That person does not exist.');
  const { of } = found;
  const week = weekOf(day);
  const by = alias(person, 'by_person');
  const [[sheet], entries, book] = await Promise.all([
    db
      .select({ state: timeSheet.state, reason: timeSheet.reason, by: by.name })
      .from(timeSheet)
      .leftJoin(by, eq(by.id, timeSheet.by))
      .where(and(eq(timeSheet.personId, id), eq(timeSheet.week, week))),
    // The Sunday before may reach into Monday.
    entriesOf(db, of, addDays(week, -1), addDays(week, DAYS - 1)),
    calendarBook(db),
  ]);
  const standing = entries.filter((e) => e.span !== null && e.counters === null && e.counteredBy === null);
  const spans = standing.map((e) => ({ id: e.id, span: e.span as NonNullable<EntryOut['span']> }));
  const time = of.calendarId === null ? null : book.workingTime(of.calendarId);
  return {
    person: { id: of.id, name: of.name },
    craft: found.craft,
    zone: of.zone,
    week,
    today: localDateAt(of.zone, now),
    state: sheet?.state ?? 'open',
    reason: sheet?.reason ?? null,
    by: sheet?.by ?? null,
    entries: entries.filter((e) => e.day >= week),
    overlaps: overlapsOf(spans).map(([first, second]) => ({ first, second })),
    days: Array.from({ length: DAYS }, (_, i) => {
      const on = addDays(week, i);
      const span = { from: startOfDay(of.zone, on), to: startOfDay(of.zone, addDays(on, 1)) };
      const balance = dayBalance(
        span,
        spans.map((s) => s.span),
        time ?? NEVER_OPEN,
      );
      // Without a calendar nothing is known to be open, and nothing to be overtime.
      return { day: on, ...balance, gaps: [...balance.gaps], overtime: time === null ? 0 : balance.overtime };
    }),
    calendar: of.calendarId === null ? null : book.calendarOf(of.calendarId).name,
  };
}

const NEVER_OPEN = { openSegments: () => [] };

/** Hands a week in, approves it or sends it back, under the lock of whose it is. */
export async function actOnWeek(
  write: Write,
  who: Person,
  { person: id, week: day }: { person: PersonId; week: LocalDate },
  { act, reason }: Asked<typeof contracts.actOnSheet>['body'],
  now: Instant,
): Promise<Answer<typeof contracts.actOnSheet>> {
  const allowed = act === 'hand in' ? entersTimeFor(who, id) : approvesTimeOf(who, id);
  if (!allowed)
    refuse(
      'not-allowed',
      act === 'hand in'
        ? 'A time sheet is handed in by whose it is, or by the office.'
        : 'A time sheet is approved by a dispatcher, coordinator or manager, and never by whose it is.',
    );
  const week = weekOf(day);
  return write(async (tx, told) => {
    const [of] = await tx.db.select().from(person).where(eq(person.id, id)).for('update');
    if (!of) refuse('not-found', 'That person does not exist.');
    const [held] = await tx.db
      .select({ state: timeSheet.state })
      .from(timeSheet)
      .where(and(eq(timeSheet.personId, id), eq(timeSheet.week, week)));
    if (act === 'hand in' && week > localDateAt(of.zone, now))
      refuse('in-the-future', 'That week has not begun yet.', 'act');
    const state = accept(actOnSheet(held?.state ?? 'open', act, reason));
    const columns = { state, reason: act === 'send back' ? reason : null, by: who.id, at: now };
    await tx.db
      .insert(timeSheet)
      .values({ personId: id, week, ...columns })
      .onDuplicateKeyUpdate({ set: columns });
    told({ subject: 'time sheet', id, text: `${of.name}, week of ${week}: ${state}${reason ? ` (${reason})` : ''}` });
    return { state };
  });
}

const minutesOf = (kind: EntryKind) =>
  sql<number>`coalesce(sum(if(${timeEntry.kind} = ${kind}, ${timeEntry.minutes}, 0)), 0)`;

/** The sheets of a week of everybody who goes out, or has entered something. */
export async function listSheets(db: Db, day: LocalDate): Promise<Answer<typeof contracts.listSheets>> {
  const week = weekOf(day);
  const rows = await db
    .select({
      id: person.id,
      name: person.name,
      craft: craft.name,
      state: timeSheet.state,
      work: minutesOf('work'),
      travel: minutesOf('travel'),
      waiting: minutesOf('waiting'),
    })
    .from(person)
    .leftJoin(craft, eq(craft.id, person.craftId))
    .leftJoin(timeSheet, and(eq(timeSheet.personId, person.id), eq(timeSheet.week, week)))
    .leftJoin(timeEntry, and(eq(timeEntry.personId, person.id), between(timeEntry.day, week, addDays(week, DAYS - 1))))
    .where(
      or(
        and(eq(person.role, 'technician'), eq(person.active, true)),
        isNotNull(timeEntry.id),
        isNotNull(timeSheet.week),
      ),
    )
    .groupBy(person.id, person.name, craft.name, timeSheet.state)
    .orderBy(asc(person.name), asc(person.id))
    .limit(500);
  return {
    week,
    items: rows.map(({ id, name, state, work, travel, waiting, ...row }) => ({
      person: { id: asId<PersonId>(id), name },
      craft: row.craft,
      state: state ?? 'open',
      ...{ work: Number(work), travel: Number(travel), waiting: Number(waiting) },
    })),
  };
}
