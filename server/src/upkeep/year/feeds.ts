// Calendar feeds: secret addresses, made, listed and revoked; and what a calendar reads there.
import { and, desc, eq, isNull } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { FeedOut } from '#api/year.ts';
import { asId, type CustomerId, type FeedId, type LocationId, type PersonId } from '#core/ids.ts';
import { DAY, HOUR, instant, localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import { customer } from '../../customers/tables.ts';
import { location } from '../../places/tables.ts';
import { hashKey, newKey } from '../../platform/auth.ts';
import type { Database, Db } from '../../platform/database.ts';
import type { Person } from '../../platform/http.ts';
import { refuse } from '../../platform/refuse.ts';
import { person } from '../../platform/tables.ts';
import { unlessTaken, type Write } from '../../platform/writing.ts';
import { agendaOf, type AgendaEntry } from '../../rota/index.ts';
import { calendarFeed } from '../tables.ts';
import { calendarOf, feedSpan } from './calendar.ts';
import { visitsBetween, type Whose } from './visits.ts';

type Kind = FeedOut['kind'];
/** A calendar with more is cut off at the later end, and says so in its name. */
const MOST_EVENTS = 5000;

async function nameOf(db: Db, kind: Kind, id: number): Promise<string | null> {
  const found = await (kind === 'customer'
    ? db
        .select({ name: customer.name })
        .from(customer)
        .where(eq(customer.id, asId<CustomerId>(id)))
    : kind === 'place'
      ? db
          .select({ name: location.fullName })
          .from(location)
          .where(eq(location.id, asId<LocationId>(id)))
      : db
          .select({ name: person.name })
          .from(person)
          .where(and(eq(person.id, asId(id)), eq(person.role, 'technician'))));
  return found[0]?.name ?? null;
}

const UNKNOWN: Readonly<Record<Kind, string>> = {
  customer: 'That customer does not exist; choose another.',
  place: 'That place does not exist; choose another.',
  technician: 'That is no technician; choose another.',
};

/** Makes an address; it is told this once, and only its hash is kept. Refused: what does not exist, the same request again. */
export async function addFeed(
  db: Db,
  write: Write,
  { kind, of, requestKey }: { readonly kind: Kind; readonly of: number; readonly requestKey: string },
  who: Person,
  now: Instant,
): Promise<{ id: number; path: string }> {
  const name = await nameOf(db, kind, of);
  if (name === null) refuse('not-found', UNKNOWN[kind], 'of');
  const secret = newKey('cal');
  const made = 'That address was made already; it is told only once. Revoke it and make another.';
  return unlessTaken(made, 'requestKey', () =>
    write(async (tx, told) => {
      const [row] = await tx.db
        .insert(calendarFeed)
        .values({ secretHash: hashKey(secret), kind, ofId: of, personId: who.id, at: now, requestKey })
        .$returningId();
      const id = row?.id as FeedId;
      told({ subject: 'calendar feed', id, text: `an address for the visits of ${name}` });
      return { id, path: `/api/calendar/${secret}.ics` };
    }),
  );
}

export async function listFeeds(db: Db): Promise<FeedOut[]> {
  const maker = alias(person, 'maker');
  const rows = await db
    .select({
      feed: calendarFeed,
      by: maker.name,
      customer: customer.name,
      place: location.fullName,
      person: person.name,
    })
    .from(calendarFeed)
    .leftJoin(maker, eq(maker.id, calendarFeed.personId))
    .leftJoin(customer, and(eq(calendarFeed.kind, 'customer'), eq(customer.id, calendarFeed.ofId)))
    .leftJoin(location, and(eq(calendarFeed.kind, 'place'), eq(location.id, calendarFeed.ofId)))
    .leftJoin(person, and(eq(calendarFeed.kind, 'technician'), eq(person.id, calendarFeed.ofId)))
    .orderBy(desc(calendarFeed.id))
    .limit(500);
  return rows.map(({ feed, by, customer: c, place, person: t }) => ({
    id: feed.id,
    kind: feed.kind,
    of: { id: feed.ofId, name: c ?? place ?? t ?? 'gone' },
    by,
    at: feed.at,
    readAt: feed.readAt,
    works: feed.revokedAt === null,
  }));
}

/** Ends an address for good. Refused: there is no such feed. */
export async function revokeFeed(write: Write, id: FeedId, now: Instant): Promise<void> {
  await write(async (tx, told) => {
    const [row] = await tx.db.select().from(calendarFeed).where(eq(calendarFeed.id, id)).for('update');
    if (!row) refuse('not-found', 'That feed does not exist.');
    if (row.revokedAt !== null) return;
    await tx.db.update(calendarFeed).set({ revokedAt: now }).where(eq(calendarFeed.id, id));
    told({ subject: 'calendar feed', id, text: 'its address was revoked' });
  });
}

function whoseOf(kind: Kind, id: number): Whose {
  if (kind === 'technician') return { technician: { id: asId(id) } };
  return { scope: kind === 'customer' ? { customerId: asId(id) } : { locationId: asId(id) } };
}

const AGENDA_DAYS = { before: 30, after: 90 } as const;
const agendaFrom = (db: Db, id: PersonId, now: Instant): Promise<AgendaEntry[]> =>
  agendaOf(db, id, {
    from: instant(now - AGENDA_DAYS.before * DAY),
    to: instant(now + AGENDA_DAYS.after * DAY),
  });

/** What a calendar finds at an address. Refused alike: addresses that never were and those revoked. */
export async function readFeed(database: Database, secret: string, now: Instant): Promise<string> {
  const { db } = database;
  const [found] = await db
    .select({ feed: calendarFeed, zone: person.zone })
    .from(calendarFeed)
    .leftJoin(person, eq(person.id, calendarFeed.personId))
    .where(and(eq(calendarFeed.secretHash, hashKey(secret.replace(/\.ics$/, ''))), isNull(calendarFeed.revokedAt)));
  const feed = found?.feed;
  const name = feed && (await nameOf(db, feed.kind, feed.ofId));
  if (!feed || name === null || name === undefined)
    refuse('not-found', 'There is no calendar at this address; it may have been revoked.');
  // Today is that of whoever made the address.
  const today = localDateAt(found?.zone ?? ('UTC' as Zone), now);
  const all = await visitsBetween(db, whoseOf(feed.kind, feed.ofId), feedSpan(today), today, MOST_EVENTS + 1);
  const agenda = feed.kind === 'technician' ? await agendaFrom(db, asId(feed.ofId), now) : [];
  // A visit that somebody goes to at an hour stands there, and not on the whole day as well.
  const going = new Set<number>(agenda.flatMap((a) => a.orderIds));
  const visits = all.slice(0, MOST_EVENTS).filter((v) => v.orderId === null || !going.has(v.orderId));
  const last = visits[visits.length - 1]?.planned;
  const what = feed.kind === 'technician' ? 'Rota' : 'Upkeep';
  const title = `${what}, ${name}${all.length > MOST_EVENTS ? ` (until ${last})` : ''}`;
  if (feed.readAt === null || now - feed.readAt > HOUR)
    await db.update(calendarFeed).set({ readAt: now }).where(eq(calendarFeed.id, feed.id));
  return calendarOf(title, visits, now, agenda);
}
