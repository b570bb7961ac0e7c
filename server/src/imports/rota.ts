// Importing absences and known times of travel: what the house holds of them, and writing the core’s plans.
import { group } from 'd3-array';
import { and, eq, gt, inArray, ne } from 'drizzle-orm';
import type { LocationId, PersonId } from '#core/ids.ts';
import {
  namesOf,
  planAbsences,
  planTravelTimes,
  SEPARATOR,
  travelEndOf,
  travelKey,
  type AbsentPerson,
  type NewAbsence,
  type ImportSettings,
  type TableRow,
  type TravelEnds,
} from '#core/imports/index.ts';
import { addDays, instant, localDateAt, startOfDay, type Instant, type Zone } from '#core/time/index.ts';
import { depot } from '../depots/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Db, type Tx } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { spotOf, travelChanged } from '../rota/index.ts';
import { absence, travelTime } from '../rota/tables.ts';
import type { Origin } from './assets.ts';
import { change } from './changes.ts';
import { chunked } from './held.ts';
import { inSteps, wordsIn, type Prepared } from './steps.ts';

const YEARS_HELD_DAYS = 800;

/** Everybody who is named, by name or address, with their absences that count. */
async function peopleNamed(db: Db, rows: readonly TableRow[], now: Instant): Promise<AbsentPerson[]> {
  const named = wordsIn(rows, 'person');
  const people = new Map(
    (
      await chunked(named, async (list) => [
        ...(await db.select().from(person).where(inArray(person.name, list))),
        ...(await db.select().from(person).where(inArray(person.email, list))),
      ])
    )
      .filter((p) => p.active)
      .map((p) => [p.id, p]),
  );
  const since = startOfDay('UTC' as Zone, addDays(localDateAt('UTC' as Zone, now), -YEARS_HELD_DAYS));
  const held = await chunked([...people.keys()], (ids) =>
    db
      .select()
      .from(absence)
      .where(and(inArray(absence.personId, ids), ne(absence.state, 'refused'), gt(absence.toAt, since))),
  );
  const of = group(held, (a) => a.personId);
  return [...people.values()].map(({ id, name, email, zone }) => ({
    ...{ id, name, email, zone },
    absences: (of.get(id) ?? []).map((a) => ({ from: a.fromAt, to: a.toAt, kind: a.kind })),
  }));
}

/** Refused as a whole: somebody was entered as absent at the same time while the file was looked at. */
async function mustBeFree({ db }: Tx, asked: readonly NewAbsence[]): Promise<void> {
  const held = await db
    .select({ personId: absence.personId, from: absence.fromAt, to: absence.toAt, name: person.name })
    .from(absence)
    .innerJoin(person, eq(person.id, absence.personId))
    .where(
      and(
        inArray(absence.personId, [...new Set(asked.map((a) => a.personId))]),
        ne(absence.state, 'refused'),
        gt(absence.toAt, instant(Math.min(...asked.map((a) => a.from)))),
      ),
    );
  const meets = held.find((h) => asked.some((a) => a.personId === h.personId && a.from < h.to && h.from < a.to));
  if (meets)
    refuse(
      'conflict',
      `${meets.name} was entered as absent meanwhile; hand the file in again to see which rows remain.`,
    );
}

export async function prepareAbsences(
  db: Db,
  rows: readonly TableRow[],
  { dateFormat }: ImportSettings,
  now: Instant,
): Promise<Prepared> {
  const plan = planAbsences(rows, await peopleNamed(db, rows, now), dateFormat);
  return {
    created: { absences: plan.creates.length },
    ...{ updated: 0, unchanged: plan.unchanged, bad: plan.bad, notes: [] },
    steps: inSteps(plan.creates).map((slice) => ({
      rows: slice.length,
      write: async (tx: Tx, { importId, who }: Origin) => {
        // Held, so that two that write of one person come one after the other.
        const whose: PersonId[] = [...new Set(slice.map((a) => a.personId))];
        await tx.db.select({ id: person.id }).from(person).where(inArray(person.id, whose)).for('update');
        await mustBeFree(tx, slice);
        await bulkInsert(
          tx.connection,
          'absence',
          ['person_id', 'kind', 'state', 'from_at', 'to_at', 'text', 'asked_by', 'decided_by', 'import_id'],
          slice.map((a) => [
            ...[a.personId, a.kind, 'agreed', instantText(a.from), instantText(a.to), a.text],
            ...[who.id, who.id, importId],
          ]),
        );
      },
    })),
  };
}

/** The ends of ways as they are written: depots by their name, sites by their path. Rooms are part of the site that travel knows. */
async function endsNamed(db: Db, rows: readonly TableRow[]): Promise<TravelEnds> {
  const words = [...new Set([...wordsIn(rows, 'from'), ...wordsIn(rows, 'to')])];
  const paths = [...new Set(words.map((w) => namesOf(w).join(SEPARATOR)))];
  const [depots, sites] = await Promise.all([
    db.select({ id: depot.id, name: depot.name }).from(depot),
    chunked(paths, (list) =>
      db
        .select({ id: location.id, fullName: location.fullName, path: location.path })
        .from(location)
        .where(inArray(location.fullName, list)),
    ),
  ]);
  const places = await placesOf(db, sites);
  const endOf = ({ id, fullName }: { readonly id: LocationId; readonly fullName: string }) => {
    const place = places.of(id);
    const { key } = spotOf(id, place);
    if (key === `place ${id}`) return { key };
    const at = place.path.findIndex((n) => `place ${n.id}` === key);
    const site = place.path.slice(0, at + 1).map((n) => n.name);
    return { why: `“${fullName}” is part of a site; write “${site.join(SEPARATOR)}”: within it nobody travels.` };
  };
  const ends = new Map<string, ReturnType<typeof endOf>>();
  for (const s of sites) ends.set(travelEndOf(s.fullName), endOf(s));
  for (const d of depots) ends.set(travelEndOf(d.name), { key: `depot ${d.id}` });
  return ends;
}

export async function prepareTravelTimes(db: Db, rows: readonly TableRow[]): Promise<Prepared> {
  const [ends, held] = await Promise.all([endsNamed(db, rows), db.select().from(travelTime)]);
  const plan = planTravelTimes<number>(rows, ends, new Map(held.map((h) => [travelKey(h.fromSpot, h.toSpot), h])));
  return {
    created: { 'travel times': plan.creates.length },
    ...{ updated: plan.updates.length, unchanged: plan.unchanged, bad: plan.bad, notes: [] },
    steps: [
      ...inSteps(plan.creates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, { importId }: Origin) => {
          await bulkInsert(
            tx.connection,
            'travel_time',
            ['from_spot', 'to_spot', 'minutes', 'import_id'],
            slice.map((t) => [t.fromSpot, t.toSpot, t.minutes, importId]),
            'ON DUPLICATE KEY UPDATE minutes = VALUES(minutes), version = version + 1',
          );
          await travelChanged(tx);
        },
      })),
      ...inSteps(plan.updates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, origin: Origin) => {
          await change(tx, 'travel time', slice, origin);
          await travelChanged(tx);
        },
      })),
    ],
  };
}
