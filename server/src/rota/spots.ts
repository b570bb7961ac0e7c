// Where days begin and appointments are, as travel knows them: a key for the same place, and its position where it is known.
import type { Spot } from '#core/rota/index.ts';
import type { DepotId, LocationId, PersonId } from '#core/ids.ts';
import type { Position } from '#core/places/index.ts';
import { placesOf, type Place } from '../places/index.ts';
import { bareRows, type Db } from '../platform/database.ts';

/** As a place without any is called elsewhere. */
const NOWHERE = 'no place';

const positionOf = (of: { latitude: number | null; longitude: number | null }): Position | null =>
  of.latitude === null || of.longitude === null ? null : { latitude: of.latitude, longitude: of.longitude };

type Start = {
  readonly personId: PersonId;
  readonly startsFrom: 'depot' | 'home' | null;
  readonly latitude: number | null;
  readonly longitude: number | null;
  readonly depotId: DepotId | null;
  readonly depotLatitude: number | null;
  readonly depotLongitude: number | null;
};

export const isHome = ({ key }: Spot): boolean => key.startsWith('home ');

/** Where somebody's day begins and ends: at home where they asked for that, else at their depot; nowhere known without either. */
export function startOf(s: Start): Spot {
  if (s.startsFrom === 'home') return { key: `home ${s.personId}`, at: positionOf(s) };
  if (s.depotId === null) return { key: `nowhere ${s.personId}`, at: null };
  const at = positionOf({ latitude: s.depotLatitude, longitude: s.depotLongitude });
  return { key: `depot ${s.depotId}`, at };
}

/**
 * A place by the nearest above it that has a position: rooms of one building are one spot, and there is no way between them. Without any
 * it is the site, what stands highest: how to get there may be known all the same.
 */
export function spotOf(id: LocationId | null, place: Place): Spot {
  const from = place.path.findLast((n) => n.latitude !== null && n.longitude !== null);
  return { key: `place ${from?.id ?? place.path[0]?.id ?? id ?? 'none'}`, at: place.position };
}

/** The places of a path from the top, as it is kept: `/3/17/`. */
const idsOf = (path: string | null): LocationId[] =>
  path === null || path.length < 3 ? [] : (path.slice(1, -1).split('/').map(Number) as LocationId[]);

type OnPath = { readonly path: string | null };
type Placed = OnPath & { readonly locationId: LocationId | null };

function onPaths(rows: readonly OnPath[]): LocationId[] {
  const ids = new Set<LocationId>();
  for (const { path } of rows) for (const id of idsOf(path)) ids.add(id);
  return [...ids];
}

// A week of a whole house has a thousand places: they are asked for as plainly as can be.
const POSITIONS =
  'SELECT id, latitude, longitude FROM location WHERE id IN (?) AND latitude IS NOT NULL AND longitude IS NOT NULL';
const NAMES = 'SELECT id, name FROM location WHERE id IN (?)';

/** The same as `spotOf` of many places at once: no more of the tree is read than what has a position. */
export async function spotsOf(db: Db, rows: readonly Placed[]): Promise<(of: Placed) => Spot> {
  const ids = onPaths(rows);
  const found = ids.length === 0 ? [] : ((await bareRows(db, POSITIONS, [ids])) as [LocationId, number, number][]);
  const at = new Map(found.map(([id, latitude, longitude]) => [id, { latitude, longitude }]));
  return ({ locationId, path }) => {
    const own = idsOf(path);
    const from = own.findLast((id) => at.has(id));
    return { key: `place ${from ?? own[0] ?? locationId ?? 'none'}`, at: (from && at.get(from)) ?? null };
  };
}

/** What places are called with everything above them, of many at once. */
export async function labelsOf(db: Db, rows: readonly OnPath[]): Promise<(path: string | null) => string> {
  const ids = onPaths(rows);
  const found = ids.length === 0 ? [] : ((await bareRows(db, NAMES, [ids])) as [LocationId, string][]);
  const names = new Map(found);
  const labels = new Map<string, string>();
  return (path) => {
    if (path === null) return NOWHERE;
    let label = labels.get(path);
    if (label === undefined)
      labels.set(
        path,
        (label = idsOf(path)
          .map((id) => names.get(id))
          .join(' · ')),
      );
    return label;
  };
}

export async function placesByPath(db: Db, rows: readonly { locationId: LocationId | null; path: string | null }[]) {
  return placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
}
