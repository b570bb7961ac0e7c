// Where days begin and appointments are, as travel knows them: a key for the same place, and its position where it is known.
import type { Spot } from '#core/rota/index.ts';
import type { DepotId, LocationId, PersonId } from '#core/ids.ts';
import type { Position } from '#core/places/index.ts';
import { placesOf, type Place } from '../places/index.ts';
import type { Db } from '../platform/database.ts';

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

export async function placesByPath(db: Db, rows: readonly { locationId: LocationId | null; path: string | null }[]) {
  return placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
}
