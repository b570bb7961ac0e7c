// What the finder knows places by: their names from the top down, and their address.
import { eq, inArray, like, or } from 'drizzle-orm';
import type { CustomerId, LocationId } from '#core/ids.ts';
import { keepFound } from '../platform/finder-index.ts';
import { idsBehind, shown, text, type FinderSource } from '../platform/finder-source.ts';
import type { Db, Tx } from '../platform/database.ts';
import { location, locationShare } from './tables.ts';

/** Which customer a place is shown under: the one it, or the nearest place above it, is shared with. */
async function ownersOf(db: Db, paths: readonly string[]): Promise<(path: string) => CustomerId | null> {
  const ids = [...new Set(paths.flatMap((p) => p.split('/').filter((x) => x !== '')))].map(
    (x) => Number(x) as LocationId,
  );
  const shares =
    ids.length === 0
      ? []
      : await db
          .select({ path: location.path, customerId: locationShare.customerId })
          .from(locationShare)
          .innerJoin(location, eq(location.id, locationShare.locationId))
          .where(inArray(locationShare.locationId, ids));
  shares.sort((a, b) => b.path.length - a.path.length);
  return (path) => shares.find((s) => path.startsWith(s.path))?.customerId ?? null;
}

export const placesFound: FinderSource = {
  kind: 'location',
  async knownOf(db, ids) {
    const rows = await db
      .select({
        id: location.id,
        fullName: location.fullName,
        address: location.address,
        retiredOn: location.retiredOn,
      })
      .from(location)
      .where(inArray(location.id, ids as LocationId[]));
    return rows.map((r) => ({
      id: r.id,
      by: r.retiredOn ? [] : [shown(r.fullName), text('address', r.address)],
    }));
  },
  page: (db, after, limit) => idsBehind(db, location.id, after, limit),
  async under(db, { places = [] }) {
    if (places.length === 0) return [];
    const rows = await db
      .select({ id: location.id })
      .from(location)
      .where(or(...places.map((p) => like(location.path, `${p}%`))));
    return rows.map((r) => r.id);
  },
  /** Places that belong to nobody cannot be opened and are not shown. */
  async show(db, ids) {
    const rows = await db
      .select({ id: location.id, path: location.path, fullName: location.fullName })
      .from(location)
      .where(inArray(location.id, ids as LocationId[]));
    const ownerOf = await ownersOf(
      db,
      rows.map((r) => r.path),
    );
    return rows.flatMap((r) => {
      const under = ownerOf(r.path);
      return under === null
        ? []
        : [{ id: r.id, mark: '', title: r.fullName, beside: '', state: null, under, ribbon: null }];
    });
  },
};

/** Places that were just made: nothing stands there yet. */
export const indexNewPlaces = (tx: Tx, ids: readonly LocationId[]): Promise<void> => keepFound(tx, placesFound, ids);
