// Reading places: the tree of a customer, one place with what it inherits, and the sites on a map.
import { and, asc, count, eq, inArray, isNotNull, isNull, like, or } from 'drizzle-orm';
import type { PlacePage, TreeNode } from '#api/places.ts';
import type { CustomerId, LocationId } from '#core/ids.ts';
import type { Db } from '../platform/database.ts';
import { placesOf } from './inherited.ts';
import { refuse } from '../platform/refuse.ts';
import { calendar } from '../calendars/tables.ts';
import { depot } from '../depots/tables.ts';
import { customer } from '../customers/tables.ts';
import { location, locationShare } from './tables.ts';
import { asset } from '../assets/tables.ts';

const TREE_LIMIT = 5000;

export const idsOf = (path: string): LocationId[] =>
  path
    .split('/')
    .filter((x) => x !== '')
    .map((x) => Number(x) as LocationId);

async function sharedPaths(db: Db, id: CustomerId): Promise<string[]> {
  const rows = await db
    .select({ path: location.path })
    .from(locationShare)
    .innerJoin(location, eq(location.id, locationShare.locationId))
    .where(eq(locationShare.customerId, id))
    .limit(500);
  return rows.map((r) => r.path);
}

const picked = {
  id: location.id,
  parentId: location.parentId,
  name: location.name,
  zone: location.zone,
  address: location.address,
  latitude: location.latitude,
  longitude: location.longitude,
  calendarId: location.calendarId,
  depotId: location.depotId,
  joinDays: location.joinDays,
  accessNote: location.accessNote,
  retiredOn: location.retiredOn,
  version: location.version,
};

async function sharesAt(db: Db, ids: readonly LocationId[]): Promise<Map<LocationId, number>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: locationShare.locationId, n: count() })
    .from(locationShare)
    .where(inArray(locationShare.locationId, [...ids]))
    .groupBy(locationShare.locationId);
  return new Map(rows.map((r) => [r.id, r.n]));
}

/** The places of a customer: those shared with it and everything below, with its own assets counted at each node. */
export async function readTree(
  db: Db,
  id: CustomerId,
): Promise<{ customer: { id: number; name: string }; nodes: TreeNode[]; withoutPlace: number }> {
  const [owner] = await db.select({ id: customer.id, name: customer.name }).from(customer).where(eq(customer.id, id));
  if (!owner) refuse('not-found', 'That customer does not exist.');
  const shared = await sharedPaths(db, id);
  const above = [...new Set(shared.flatMap(idsOf))];
  const nodes =
    shared.length === 0
      ? []
      : await db
          .select(picked)
          .from(location)
          .where(or(inArray(location.id, above), ...shared.map((path) => like(location.path, `${path}%`))))
          .orderBy(asc(location.fullName))
          .limit(TREE_LIMIT);
  const [counts, shares] = await Promise.all([
    db
      .select({ id: asset.locationId, assets: count() })
      .from(asset)
      .where(eq(asset.customerId, id))
      .groupBy(asset.locationId),
    sharesAt(
      db,
      nodes.map((n) => n.id),
    ),
  ]);
  const countOf = new Map(counts.map((c) => [c.id, c.assets]));
  return {
    customer: owner,
    nodes: nodes.map((n) => ({ ...n, shared: shares.get(n.id) ?? 0, assets: countOf.get(n.id) ?? 0 })),
    withoutPlace: countOf.get(null) ?? 0,
  };
}

export async function readPlace(db: Db, id: LocationId): Promise<PlacePage> {
  const [row] = await db
    .select({ ...picked, path: location.path })
    .from(location)
    .where(eq(location.id, id));
  if (!row) refuse('not-found', 'That place does not exist.');
  const place = (await placesOf(db, [row])).of(id);
  const [[assets], customers, calendars, depots] = await Promise.all([
    db.select({ n: count() }).from(asset).where(eq(asset.locationId, id)),
    db
      .select({ id: customer.id, name: customer.name })
      .from(locationShare)
      .innerJoin(customer, eq(customer.id, locationShare.customerId))
      .where(inArray(locationShare.locationId, idsOf(row.path)))
      .orderBy(asc(customer.name)),
    place.calendar
      ? db.select({ name: calendar.name }).from(calendar).where(eq(calendar.id, place.calendar.value))
      : [],
    place.depot ? db.select({ name: depot.name }).from(depot).where(eq(depot.id, place.depot.value)) : [],
  ]);
  return {
    ...row,
    assets: assets?.n ?? 0,
    shared: customers.length,
    path: place.path.map((n) => ({ id: n.id, name: n.name })),
    inherited: {
      address: place.address,
      zone: place.zone && place.zoneFrom ? { value: place.zone, from: place.zoneFrom } : null,
      calendar: place.calendar && { value: calendars[0]?.name ?? '', from: place.calendar.from },
      join: place.join && { value: place.join.days, from: place.join.from },
      depot: place.depot && { value: depots[0]?.name ?? '', from: place.depot.from },
      accessNote: place.accessNote,
    },
    customers: [...new Map(customers.map((c) => [c.id, c])).values()],
  };
}

export async function sitesOf(db: Db, id: CustomerId) {
  const shared = await sharedPaths(db, id);
  if (shared.length === 0) return [];
  const rows = await db
    .select({
      id: location.id,
      name: location.fullName,
      address: location.address,
      latitude: location.latitude,
      longitude: location.longitude,
      path: location.path,
    })
    .from(location)
    .where(
      and(
        isNotNull(location.latitude),
        isNull(location.retiredOn),
        or(
          inArray(location.id, [...new Set(shared.flatMap(idsOf))]),
          ...shared.map((p) => like(location.path, `${p}%`)),
        ),
      ),
    )
    .orderBy(asc(location.fullName))
    .limit(2000);
  const counts = await db
    .select({ path: location.path, n: count() })
    .from(asset)
    .innerJoin(location, eq(location.id, asset.locationId))
    .where(eq(asset.customerId, id))
    .groupBy(location.path);
  return rows.map(({ path, ...r }) => ({
    ...r,
    latitude: r.latitude as number,
    longitude: r.longitude as number,
    assets: counts.filter((c) => c.path.startsWith(path)).reduce((sum, c) => sum + c.n, 0),
  }));
}
