// What of somebody's own a phone holds: their weeks, their absences, and the stores to which parts of their van may go.
import { and, asc, eq, inArray, ne, or, isNull } from 'drizzle-orm';
import type { FieldDays, FieldWeek } from '#api/field.ts';
import { weekOf } from '#core/labour/index.ts';
import { addDays, localDateAt, startOfDay, type Instant } from '#core/time/index.ts';
import { readWeek, standardCard } from '../labour/index.ts';
import type { Db } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { listAbsences } from '../rota/index.ts';
import { store } from '../stores/tables.ts';

const MOST_STORES = 300;

async function fieldWeek(db: Db, who: Person, day: Parameters<typeof readWeek>[3], now: Instant): Promise<FieldWeek> {
  const { week, state, reason, days, entries } = await readWeek(db, who, who.id, day, now);
  const standing = entries.filter((e) => e.counters === null && e.counteredBy === null);
  return {
    ...{ week, state, reason },
    days: days.map(({ day: on, open }) => ({
      ...{ day: on, open },
      minutes: standing.filter((e) => e.day === on).reduce((sum, e) => sum + e.minutes, 0),
    })),
    entries: standing.map((e) => ({
      ...{ id: e.id, day: e.day, kind: e.kind, minutes: e.minutes, from: e.from, to: e.to },
      titles: [...new Set(e.lines.map((l) => l.title))],
    })),
  };
}

/** This week and the one before. */
async function weeksOf(db: Db, who: Person, now: Instant): Promise<FieldWeek[]> {
  const week = weekOf(localDateAt(who.zone, now));
  return Promise.all([week, addDays(week, -7)].map((day) => fieldWeek(db, who, day, now)));
}

const storesFor = (db: Db, who: Person) =>
  db
    .select({ id: store.id, name: store.name })
    .from(store)
    .where(
      and(
        ...[eq(store.retired, false), inArray(store.kind, ['depot', 'van'])],
        or(isNull(store.personId), ne(store.personId, who.id)),
      ),
    )
    .orderBy(asc(store.kind), asc(store.name))
    .limit(MOST_STORES);

export async function readOwn(
  db: Db,
  who: Person,
  now: Instant,
): Promise<Pick<FieldDays, 'weeks' | 'absences' | 'stores' | 'currency'>> {
  const from = startOfDay(who.zone, localDateAt(who.zone, now));
  const [weeks, absences, stores, card] = await Promise.all([
    weeksOf(db, who, now),
    listAbsences(db, who, { from, person: who.id }),
    storesFor(db, who),
    standardCard(db),
  ]);
  return {
    ...{ weeks, stores, currency: card?.currency ?? 'EUR' },
    absences: absences.items.map((a) => ({
      ...{ id: a.id, kind: a.kind, state: a.state, from: a.from, to: a.to },
      ...{ text: a.text, decidedText: a.decidedText },
    })),
  };
}
