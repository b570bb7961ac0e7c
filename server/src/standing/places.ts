// Standing of a place: each place directly below it with everything beneath, as machines stood when it was promised.
import { inArray } from 'drizzle-orm';
import type { Answer } from '#api/contract.ts';
import type { readStandingPlaces } from '#api/standing.ts';
import type { LocationId } from '#core/ids.ts';
import { addCounts, amissIn, belowPlace, NOTHING_COUNTED, withShares } from '#core/standing/index.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { topOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { figuresOfPlaces } from './counting.ts';
import { daysApart, type AskedPeriod } from './period.ts';

/** A place has no more places directly below it than this in a house that is well kept; the rest is said by how many. */
const SHOWN = 200;

type Named = { readonly id: LocationId; readonly name: string; readonly path: string };

async function namedPlaces(db: Db, ids: readonly number[]): Promise<ReadonlyMap<number, Named>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: location.id, name: location.name, path: location.path })
    .from(location)
    .where(inArray(location.id, ids as LocationId[]));
  return new Map(rows.map((r) => [r.id, r]));
}

async function placeNamed(db: Db, id: LocationId): Promise<Named> {
  const place = (await namedPlaces(db, [id])).get(id);
  if (!place) refuse('not-found', 'There is no such place.', 'id');
  return place;
}

/** What counts for a place: what was counted at its site, and there or below. Refused: a place that is not there. */
export const whereOf = async (db: Db, id: LocationId) => ({
  placeId: id,
  siteId: topOf((await placeNamed(db, id)).path),
});

/** Refused: a place that is not there. */
export async function placesIn(
  db: Db,
  id: LocationId,
  period: AskedPeriod,
): Promise<Answer<typeof readStandingPlaces>> {
  const place = await placeNamed(db, id);
  const figures = await figuresOfPlaces(db, await daysApart(db, period), period, topOf(place.path));
  const above = place.path.split('/').filter(Boolean).map(Number);
  const places = await namedPlaces(db, [...new Set([...above, ...figures.keys()])]);
  const { below, here, elsewhere } = belowPlace(
    place.path,
    [...figures].map(([at, counts]) => ({ path: places.get(at)?.path ?? '', counts })),
  );
  const children = await namedPlaces(db, [...below.keys()]);
  const rows = [...below]
    .map(([child, counts]) => ({ id: child, name: children.get(child)?.name ?? '', ...withShares(counts) }))
    .sort((a, b) => amissIn(b) - amissIn(a) || a.name.localeCompare(b.name) || a.id - b.id);
  const isSite = above.length === 1;
  return {
    ...{ id, name: place.name, now: period.now },
    above: above.slice(0, -1).map((at) => ({ id: at, name: places.get(at)?.name ?? '' })),
    ...{ rows: rows.slice(0, SHOWN), more: Math.max(0, rows.length - SHOWN) },
    here: withShares(here),
    // What was counted at the site and stands at another now is nowhere else to be found; of a place below it is its neighbours’.
    moved: isSite ? withShares(elsewhere) : null,
    total: withShares([...below.values(), here, ...(isSite ? [elsewhere] : [])].reduce(addCounts, NOTHING_COUNTED)),
  };
}
