// Acts on places: what moving, merging and filling in a node of the tree writes. Previews run the same and roll back.
import { and, eq, inArray, isNull, like, ne, or, sql } from 'drizzle-orm';
import type { CalendarId, CustomerId, DepotId, LocationId, PersonId } from '#core/ids.ts';
import { planMerge, planMove, type TreePlace } from '#core/places/index.ts';
import { parseZone, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { calendar } from '../calendars/tables.ts';
import { depot } from '../depots/tables.ts';
import { location, locationShare } from './tables.ts';
import { idsOf } from './queries.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import type { FinderSource } from '../platform/finder-source.ts';
import type { PlaceMerged } from '../platform/place-merged.ts';

type PlaceRow = typeof location.$inferSelect;
/** What is known by the names of places, in every room. */
type Found = readonly FinderSource[];

export async function lockPlace(tx: Tx, id: LocationId, version: number): Promise<PlaceRow> {
  const [row] = await tx.db.select().from(location).where(eq(location.id, id)).for('update');
  if (!row) refuse('not-found', 'That place does not exist.');
  if (row.version !== version) stale(row);
  return row;
}

const nodeOf = (row: PlaceRow): TreePlace<LocationId> => row;

/** The nodes of a subtree, of another place, and of everything above both. */
async function nodesAround(
  tx: Tx,
  path: string,
  other: string | null,
): Promise<Map<LocationId, TreePlace<LocationId>>> {
  const above = [...new Set([...idsOf(path), ...idsOf(other ?? '')])];
  const rows = await tx.db
    .select()
    .from(location)
    .where(or(like(location.path, `${path}%`), inArray(location.id, above)));
  return new Map(rows.map((r) => [r.id, nodeOf(r)]));
}

/** Puts a subtree under a new parent: its own parent, then the paths and names of all below. */
async function hang(
  tx: Tx,
  found: Found,
  row: PlaceRow,
  parent: { path: string; fullName: string; id: LocationId } | null,
): Promise<void> {
  const path = `${parent?.path ?? '/'}${row.id}/`;
  const fullName = parent ? `${parent.fullName} > ${row.name}` : row.name;
  await tx.db
    .update(location)
    .set({ parentId: parent?.id ?? null, version: row.version + 1 })
    .where(eq(location.id, row.id));
  await tx.connection.query(
    'UPDATE location SET full_name = CONCAT(?, SUBSTRING(full_name, ?)), path = CONCAT(?, SUBSTRING(path, ?)) WHERE path LIKE ?',
    [fullName, [...row.fullName].length + 1, path, row.path.length + 1, `${row.path}%`],
  );
  await keepRenamed(tx, found, { places: [path] });
}

export async function siblingsOf(tx: Tx, parentId: LocationId | null, except: LocationId | null): Promise<string[]> {
  const rows = await tx.db
    .select({ name: location.name })
    .from(location)
    .where(
      and(
        parentId === null ? isNull(location.parentId) : eq(location.parentId, parentId),
        except === null ? undefined : ne(location.id, except),
        isNull(location.retiredOn),
      ),
    );
  return rows.map((r) => r.name);
}

export async function moveIn(
  tx: Tx,
  found: Found,
  id: LocationId,
  body: { parentId: LocationId | null; version: number },
): Promise<{ row: PlaceRow; to: string; path: string }> {
  const row = await lockPlace(tx, id, body.version);
  const [parent] =
    body.parentId === null
      ? []
      : await tx.db.select().from(location).where(eq(location.id, body.parentId)).for('update');
  if (body.parentId !== null && !parent) refuse('not-found', 'That place does not exist; choose another.', 'parentId');
  const nodes = await nodesAround(tx, row.path, parent?.path ?? null);
  accept(planMove(nodes, id, body.parentId, await siblingsOf(tx, body.parentId, id)));
  if (row.parentId !== body.parentId) {
    // Whoever could use it through the places above keeps it.
    const above = idsOf(row.path).slice(0, -1);
    const shares =
      above.length === 0
        ? []
        : await tx.db
            .select({ customerId: locationShare.customerId })
            .from(locationShare)
            .where(inArray(locationShare.locationId, above));
    const already =
      parent === undefined
        ? []
        : await tx.db
            .select({ customerId: locationShare.customerId })
            .from(locationShare)
            .where(inArray(locationShare.locationId, idsOf(parent.path)));
    const kept = [...new Set(shares.map((s) => s.customerId))].filter((c) => !already.some((a) => a.customerId === c));
    if (kept.length > 0)
      await tx.db
        .insert(locationShare)
        .values(kept.map((customerId) => ({ customerId, locationId: id })))
        .onDuplicateKeyUpdate({ set: { locationId: id } });
    await hang(tx, found, row, parent ?? null);
  }
  return { row, to: parent?.fullName ?? 'the top', path: `${parent?.path ?? '/'}${id}/` };
}

export async function mergeIn(
  tx: Tx,
  { found, placeMerged }: { readonly found: Found; readonly placeMerged: readonly PlaceMerged[] },
  id: LocationId,
  body: { into: LocationId; version: number },
  on: LocalDate,
  by: { readonly id: PersonId; readonly now: Instant },
): Promise<{ row: PlaceRow; to: string; path: string }> {
  const row = await lockPlace(tx, id, body.version);
  const [into] = await tx.db.select().from(location).where(eq(location.id, body.into)).for('update');
  if (!into) refuse('not-found', 'That place does not exist; choose another.', 'into');
  const rows = await tx.db
    .select()
    .from(location)
    .where(or(like(location.path, `${row.path}%`), like(location.path, `${into.path}%`)));
  const nodes = new Map(rows.map((r) => [r.id, nodeOf(r)]));
  const shares = await tx.db
    .select()
    .from(locationShare)
    .where(inArray(locationShare.locationId, [...new Set([...idsOf(row.path), ...idsOf(into.path)])]));
  const customersOf = (place: LocationId): CustomerId[] => {
    const path = idsOf((nodes.get(place) as PlaceRow).path);
    return [...new Set(shares.filter((s) => path.includes(s.locationId)).map((s) => s.customerId))];
  };
  const pairs = accept(planMerge(nodes, id, body.into, customersOf));
  for (const pair of pairs) {
    const both = await tx.db
      .select()
      .from(location)
      .where(inArray(location.id, [pair.from, pair.into]));
    const target = both.find((l) => l.id === pair.into) as PlaceRow;
    const goneName = both.find((l) => l.id === pair.from)?.fullName ?? '';
    for (const follow of placeMerged)
      await follow(tx, {
        gone: pair.from,
        kept: pair.into,
        goneName,
        keptName: target.fullName,
        by: by.id,
        now: by.now,
      });
    const children = await tx.db
      .select()
      .from(location)
      .where(and(eq(location.parentId, pair.from), isNull(location.retiredOn)));
    for (const child of children) await hang(tx, found, child, target);
    await tx.db
      .update(location)
      .set({ retiredOn: on, version: sql`${location.version} + 1` })
      .where(eq(location.id, pair.from));
  }
  await keepRenamed(tx, found, { places: [into.path, row.path] });
  return { row, to: into.fullName, path: into.path };
}

function zoneOf(text: string | null): Zone | null {
  if (!text) return null;
  return (
    parseZone(text) ??
    refuse('invalid', `“${text}” is not a known time zone; use a name such as Europe/Lisbon.`, 'zone')
  );
}

type PlaceBody = {
  name: string;
  address: string | null;
  zone: string | null;
  latitude: number | null;
  longitude: number | null;
  calendarId: CalendarId | null;
  depotId: DepotId | null;
  joinDays: number | null;
  accessNote: string | null;
};

export async function fieldsOf(tx: Tx, body: PlaceBody) {
  if ((body.latitude === null) !== (body.longitude === null))
    refuse(
      'missing',
      'Give both latitude and longitude, or neither.',
      body.latitude === null ? 'latitude' : 'longitude',
    );
  if (body.calendarId !== null) {
    const [known] = await tx.db.select({ id: calendar.id }).from(calendar).where(eq(calendar.id, body.calendarId));
    if (!known) refuse('not-found', 'That calendar does not exist; choose another.', 'calendarId');
  }
  if (body.depotId !== null) {
    const [known] = await tx.db.select({ id: depot.id }).from(depot).where(eq(depot.id, body.depotId));
    if (!known) refuse('not-found', 'That depot does not exist; choose another.', 'depotId');
  }
  return {
    name: body.name.replaceAll('>', '-'),
    address: body.address || null,
    zone: zoneOf(body.zone),
    latitude: body.latitude,
    longitude: body.longitude,
    calendarId: body.calendarId,
    depotId: body.depotId,
    joinDays: body.joinDays,
    accessNote: body.accessNote || null,
  };
}
