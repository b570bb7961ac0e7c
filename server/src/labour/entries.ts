// Entering time: one transaction each, under the lock of whose time it is, so that two entries at once see each other.
import { and, eq, gt, inArray, isNull, lt, ne, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Asked } from '#api/contract.ts';
import type * as contracts from '#api/labour.ts';
import { orderNumber } from '#api/shapes.ts';
import type { CalendarId, OrderLineId, PersonId, TimeEntryId, RateCardId } from '#core/ids.ts';
import {
  checkDays,
  checkKilometres,
  checkShares,
  daysOfEntry,
  divideEntry,
  mayChange,
  placeHoursOf,
  readEntry,
  weekOf,
  type Entry,
  type PlaceHours,
} from '#core/labour/index.ts';
import { approvesTimeOf } from '#core/people.ts';
import { shareOut } from '#core/share-out.ts';
import {
  sayTimeOfDay,
  toWallTime,
  type Instant,
  type InstantSpan,
  type LocalDate,
  type Zone,
} from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { calendarBook } from '../calendars/index.ts';
import { lineLocation, orderLine, workOrder } from '../orders/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { bulkInsert, isTaken, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { ordersCharged } from '../platform/order-life.ts';
import { accept, Refused, refuse, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Told, Write } from '../platform/writing.ts';
import { cardsOf } from './cards.ts';
import { lockWhose, type Whose } from './whose.ts';
import { timeEntry, timeEntryLine, timePiece, timeSheet } from './tables.ts';

export type EntryBody = Omit<Asked<typeof contracts.changeEntry>['body'], 'version'>;

/** Refused: a week that was handed in. Into an approved one the office writes what was missing. */
async function mustBeOpen(tx: Tx, personId: PersonId, day: LocalDate, adding: Person | null): Promise<void> {
  const [sheet] = await tx.db
    .select({ state: timeSheet.state })
    .from(timeSheet)
    .where(and(eq(timeSheet.personId, personId), eq(timeSheet.week, weekOf(day))));
  const state = sheet?.state ?? 'open';
  if (state === 'approved' && adding && approvesTimeOf(adding, personId)) return;
  accept(mayChange(state));
}

type Line = {
  readonly id: OrderLineId;
  readonly orderId: (typeof orderLine.$inferSelect)['orderId'];
  readonly place: PlaceHours;
  /** The rate card its order is priced by. */
  readonly cardId: RateCardId | null;
};

/** The lines with the hours of their places, in the order asked. Refused: none, the same twice, orders that take no more time. */
async function linesOf(tx: Tx, who: Person, asked: EntryBody['lines']): Promise<Line[]> {
  const found = checkShares(asked.map((l) => l.share));
  if (found.length > 0) throw new Refused(found);
  const ids = asked.map((l) => l.lineId);
  const rows = await tx.db
    .select({
      id: orderLine.id,
      orderId: orderLine.orderId,
      stage: workOrder.stage,
      cardId: workOrder.rateCardId,
      zone: workOrder.zone,
      locationId: lineLocation,
      path: location.path,
    })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .where(inArray(orderLine.id, ids));
  const [places, book] = await Promise.all([
    placesOf(
      tx.db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    calendarBook(tx.db),
  ]);
  // Lines of one place share its hours: an entry is cut there once.
  const known = new Map<string, PlaceHours>();
  const hoursOf = (calendarId: CalendarId | null, zone: Zone): PlaceHours => {
    const key = `${calendarId}/${zone}`;
    let hours = known.get(key);
    if (!hours) {
      hours =
        calendarId === null
          ? placeHoursOf(null, zone)
          : placeHoursOf(book.calendarOf(calendarId), zone, book.workingTime(calendarId));
      known.set(key, hours);
    }
    return hours;
  };
  return ids.map((id, i): Line => {
    const field = `lines.${i}.lineId`;
    const row = rows.find((r) => r.id === id);
    if (!row) refuse('not-found', 'That order does not exist; choose another.', field);
    if (ids.indexOf(id) !== i) refuse('conflict', 'That order is named already; give it the larger share.', field);
    // What was worked before somebody heard that it is called off was worked all the same.
    if ((row.stage === 'called off' && !who.onSite) || row.stage === 'settled')
      refuse('wrong-stage', `${orderNumber(row.orderId)} is ${row.stage}; enter the time for another order.`, field);
    const place = places.of(row.locationId);
    return {
      ...{ id, orderId: row.orderId, cardId: row.cardId },
      place: hoursOf(place.calendar?.value ?? null, place.zone ?? row.zone),
    };
  });
}

/** Refused: time that the person has entered otherwise, unless it is said why both stand. */
async function mustNotOverlap(
  tx: Tx,
  { id, zone }: Whose,
  span: InstantSpan | null,
  except: TimeEntryId | null,
  reason: string | null,
): Promise<void> {
  if (span === null || reason) return;
  const taking = alias(timeEntry, 'taking');
  const [other] = await tx.db
    .select({ from: timeEntry.fromAt, to: timeEntry.toAt, text: timeEntry.text })
    .from(timeEntry)
    .leftJoin(taking, eq(taking.countersId, timeEntry.id))
    .where(
      and(
        eq(timeEntry.personId, id),
        lt(timeEntry.fromAt, span.to),
        gt(timeEntry.toAt, span.from),
        isNull(timeEntry.countersId),
        isNull(taking.id),
        except === null ? undefined : ne(timeEntry.id, except),
      ),
    )
    .limit(1);
  if (!other?.from || !other.to) return;
  const [from, to] = [other.from, other.to].map((at) => sayTimeOfDay(toWallTime(zone, at).minutes));
  const what = other.text === '' ? '' : ` (${other.text})`;
  refuse(
    'conflict',
    `From ${from} to ${to} is entered already${what}: change the times, or say why both stand.`,
    'overlapReason',
  );
}

/** Refused: more time on a day than it has, also by sums that overlap nothing. */
async function mustFitDays(tx: Tx, { id, zone }: Whose, entry: Entry, except: TimeEntryId | null): Promise<void> {
  const rows = await tx.db
    .select({ day: timePiece.day, minutes: sql<string>`sum(${timePiece.minutes})` })
    .from(timePiece)
    .where(
      and(
        eq(timePiece.personId, id),
        inArray(timePiece.day, daysOfEntry(entry, zone)),
        except === null ? undefined : ne(timePiece.entryId, except),
      ),
    )
    .groupBy(timePiece.day);
  const held = new Map(rows.map((r) => [r.day, Number(r.minutes)]));
  const found = checkDays(entry, zone, (day) => held.get(day) ?? 0);
  if (found.length > 0) throw new Refused(found);
}

const entryColumns = (personId: PersonId, entry: Entry, { text, overlapReason, kilometres }: EntryBody) => ({
  personId,
  ...{ day: entry.day, kind: entry.kind, minutes: entry.minutes, hours: entry.hours },
  fromAt: entry.span?.from ?? null,
  toAt: entry.span?.to ?? null,
  ...{ text, overlapReason, kilometres },
});

/** Everything that is refused is refused here, before the first row is written. */
async function checked(tx: Tx, who: Person, of: Whose, body: EntryBody, now: Instant, except: TimeEntryId | null) {
  const entry = accept(readEntry(body, of.zone, now));
  const wrong = checkKilometres(body.kind, body.kilometres);
  if (wrong.length > 0) throw new Refused(wrong);
  const lines = await linesOf(tx, who, body.lines);
  await mustNotOverlap(tx, of, entry.span, except, body.overlapReason);
  await mustFitDays(tx, of, entry, except);
  return { entry, lines };
}

async function writeParts(tx: Tx, id: TimeEntryId, of: Whose, entry: Entry, lines: readonly Line[], body: EntryBody) {
  const driven = shareOut(
    body.kilometres,
    lines.map((_, i) => body.lines[i]?.share ?? 1),
  );
  await bulkInsert(
    tx.connection,
    'time_entry_line',
    ['entry_id', 'position', 'order_line_id', 'share', 'kilometres'],
    lines.map((line, i) => [id, i, line.id, body.lines[i]?.share ?? 1, driven[i] ?? 0]),
  );
  const cardOf = await cardsOf(
    tx.db,
    lines.map((l) => l.cardId),
  );
  const over = lines.map(({ place, cardId }, i) => ({
    ...{ place, night: cardOf(cardId)?.night ?? null, share: body.lines[i]?.share ?? 1 },
  }));
  const pieces = divideEntry(entry, over, of.zone);
  await bulkInsert(
    tx.connection,
    'time_piece',
    ['entry_id', 'order_id', 'order_line_id', 'person_id', 'craft_id', 'kind', 'hours', 'day', 'minutes'],
    lines.flatMap((line, i) =>
      (pieces[i] ?? []).map((p) => [
        ...[id, line.orderId, line.id, of.id, of.craftId],
        ...[entry.kind, p.hours, p.day, p.minutes],
      ]),
    ),
  );
  await ordersCharged(tx, [...new Set(lines.map((line) => line.orderId))]);
}

async function dropParts(tx: Tx, id: TimeEntryId): Promise<void> {
  const held = await tx.db
    .selectDistinct({ orderId: timePiece.orderId })
    .from(timePiece)
    .where(eq(timePiece.entryId, id));
  await ordersCharged(
    tx,
    held.map((h) => h.orderId),
  );
  await tx.db.delete(timePiece).where(eq(timePiece.entryId, id));
  await tx.db.delete(timeEntryLine).where(eq(timeEntryLine.entryId, id));
}

const sayEntry = ({ day, kind, minutes }: Entry): string => `${kind} of ${day}, ${minutes} minutes`;

type AddBody = Asked<typeof contracts.addEntry>['body'];

/** The entry that a request key made before; null: none. */
export async function keyTaken(db: Db, requestKey: string): Promise<TimeEntryId | null> {
  const [held] = await db.select({ id: timeEntry.id }).from(timeEntry).where(eq(timeEntry.requestKey, requestKey));
  return held?.id ?? null;
}

/** Writes an entry of somebody who is held under lock. */
export async function enterIn(
  tx: Tx,
  told: Told,
  who: Person,
  of: Whose,
  body: EntryBody,
  key: { readonly requestKey: string; readonly requestContent: string | null },
  now: Instant,
): Promise<TimeEntryId> {
  const { entry, lines } = await checked(tx, who, of, body, now, null);
  await mustBeOpen(tx, of.id, entry.day, who);
  const [row] = await tx.db
    .insert(timeEntry)
    .values({ ...entryColumns(of.id, entry, body), enteredBy: who.id, enteredAt: now, ...key })
    .$returningId();
  const id = row?.id as TimeEntryId;
  await writeParts(tx, id, of, entry, lines, body);
  told({ subject: 'time entry', id, text: `entered for ${of.name}: ${sayEntry(entry)}` });
  return id;
}

/** Enters time; the same request key a second time gives the first entry. */
export async function addEntry(
  database: Database,
  write: Write,
  who: Person,
  { requestKey, personId, ...body }: AddBody,
  now: Instant,
): Promise<{ id: number }> {
  const requestContent = contentOf({ personId, ...body });
  try {
    return await write(async (tx, told) => {
      const of = await lockWhose(tx, who, personId);
      if (!of.active) refuse('not-found', 'That person works here no more; choose another.', 'personId');
      return { id: await enterIn(tx, told, who, of, body, { requestKey, requestContent }, now) };
    });
  } catch (error) {
    // A second time with the same key it overlaps itself, or finds its key taken.
    if (!isTaken(error) && !(error instanceof Refused)) throw error;
    const [held] = await database.db
      .select({ id: timeEntry.id, content: timeEntry.requestContent })
      .from(timeEntry)
      .where(eq(timeEntry.requestKey, requestKey));
    if (!held) throw error;
    mustBeSame(held.content, requestContent);
    return { id: held.id };
  }
}

/** The entry, whose it is, and both locked; in this order everywhere. */
async function lockEntry(tx: Tx, who: Person, id: TimeEntryId) {
  const [found] = await tx.db
    .select({ personId: timeEntry.personId })
    .from(timeEntry)
    .where(eq(timeEntry.id, id))
    .for('update');
  if (!found) refuse('not-found', 'That entry does not exist any more.');
  const of = await lockWhose(tx, who, found.personId);
  const [held] = await tx.db.select().from(timeEntry).where(eq(timeEntry.id, id));
  return { of, held: held as typeof timeEntry.$inferSelect };
}

export async function changeEntry(
  write: Write,
  who: Person,
  id: TimeEntryId,
  { version, ...body }: EntryBody & { version: number },
  now: Instant,
): Promise<void> {
  await write(async (tx, told) => {
    const { of, held } = await lockEntry(tx, who, id);
    if (held.version !== version) stale(held);
    await mustBeOpen(tx, of.id, held.day, null);
    const { entry, lines } = await checked(tx, who, of, body, now, id);
    await mustBeOpen(tx, of.id, entry.day, null);
    await tx.db
      .update(timeEntry)
      .set({ ...entryColumns(of.id, entry, body), version: version + 1 })
      .where(eq(timeEntry.id, id));
    await dropParts(tx, id);
    await writeParts(tx, id, of, entry, lines, body);
    told({ subject: 'time entry', id, text: `changed for ${of.name}: ${sayEntry(entry)}` });
  });
}

export async function removeEntry(write: Write, who: Person, id: TimeEntryId): Promise<void> {
  await write(async (tx, told: Told) => {
    const { of, held } = await lockEntry(tx, who, id);
    await mustBeOpen(tx, of.id, held.day, null);
    await dropParts(tx, id);
    await tx.db.delete(timeEntry).where(eq(timeEntry.id, id));
    told({
      subject: 'time entry',
      id,
      text: `removed for ${of.name}: ${held.kind} of ${held.day}, ${held.minutes} minutes`,
    });
  });
}

/** Takes an approved entry back. Refused: one that was not approved (it is changed), that takes another back, or was taken back. */
export async function counterEntry(
  write: Write,
  who: Person,
  id: TimeEntryId,
  reason: string,
  now: Instant,
): Promise<{ id: number }> {
  return write(async (tx, told) => {
    const { of, held } = await lockEntry(tx, who, id);
    const [sheet] = await tx.db
      .select({ state: timeSheet.state })
      .from(timeSheet)
      .where(and(eq(timeSheet.personId, of.id), eq(timeSheet.week, weekOf(held.day))));
    if (sheet?.state !== 'approved')
      refuse('wrong-stage', 'Only approved time is taken back by a counter-entry; this one can be changed.', 'reason');
    if (held.countersId !== null) refuse('conflict', 'This is a counter-entry itself; enter the time anew.', 'reason');
    const [taken] = await tx.db.select({ id: timeEntry.id }).from(timeEntry).where(eq(timeEntry.countersId, id));
    if (taken) refuse('conflict', 'It was taken back already.', 'reason');
    const { personId, day, kind, fromAt, toAt, hours, text, kilometres } = held;
    const [row] = await tx.db
      .insert(timeEntry)
      .values({
        ...{ personId, day, kind, fromAt, toAt, hours, text, minutes: -held.minutes, kilometres: -kilometres },
        ...{ countersId: id, reason, enteredBy: who.id, enteredAt: now },
      })
      .$returningId();
    const counter = row?.id as TimeEntryId;
    await tx.connection.query(
      'INSERT INTO time_entry_line (entry_id, position, order_line_id, share, kilometres) SELECT ?, position, order_line_id, share, -kilometres FROM time_entry_line WHERE entry_id = ?',
      [counter, id],
    );
    await tx.connection.query(
      `INSERT INTO time_piece (entry_id, order_id, order_line_id, person_id, craft_id, kind, hours, day, minutes)
       SELECT ?, order_id, order_line_id, person_id, craft_id, kind, hours, day, -minutes FROM time_piece WHERE entry_id = ?`,
      [counter, id],
    );
    told({
      subject: 'time entry',
      id: counter,
      text: `takes back ${held.minutes} minutes of ${of.name}, ${held.day}: ${reason}`,
    });
    return { id: counter };
  });
}
