// Places: the tree of a customer, adding, changing, moving, merging, retiring and sharing its nodes.
import { and, asc, count, eq, inArray, isNotNull, isNull, like, ne, or, sql } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/places.ts';
import type { PlacePage, TreeNode } from '#api/places.ts';
import type { CalendarId, CustomerId, LocationId } from '#core/ids.ts';
import { planMerge, planMove, toGeoJson, type TreePlace } from '#core/register/index.ts';
import { localDateAt, parseZone, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { indexNewPlaces, indexPlaces } from '../platform/finder-index.ts';
import { serve, type Asking, type House } from '../platform/http.ts';
import { placesOf } from '../platform/places.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { asset, calendar, coverageLine, customer, location, locationShare } from '../platform/tables/index.ts';
import { writing } from '../platform/writing.ts';
import { previewEffect } from './tree-effect.ts';

const WRITERS = ['coordinator', 'manager', 'administrator'] as const;
const TREE_LIMIT = 5000;

const idsOf = (path: string): LocationId[] =>
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
  const [[assets], customers, calendars] = await Promise.all([
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
      accessNote: place.accessNote,
    },
    customers: [...new Map(customers.map((c) => [c.id, c])).values()],
  };
}

type PlaceRow = typeof location.$inferSelect;

async function lockPlace(tx: Tx, id: LocationId, version: number): Promise<PlaceRow> {
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
  await indexPlaces(tx, [path]);
}

async function siblingsOf(tx: Tx, parentId: LocationId | null, except: LocationId | null): Promise<string[]> {
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
    await hang(tx, row, parent ?? null);
  }
  return { row, to: parent?.fullName ?? 'the top', path: `${parent?.path ?? '/'}${id}/` };
}

export async function mergeIn(
  tx: Tx,
  id: LocationId,
  body: { into: LocationId; version: number },
  on: LocalDate,
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
    await tx.db.update(asset).set({ locationId: pair.into }).where(eq(asset.locationId, pair.from));
    await tx.db.update(coverageLine).set({ locationId: pair.into }).where(eq(coverageLine.locationId, pair.from));
    const [target] = await tx.db.select().from(location).where(eq(location.id, pair.into));
    const children = await tx.db
      .select()
      .from(location)
      .where(and(eq(location.parentId, pair.from), isNull(location.retiredOn)));
    for (const child of children) await hang(tx, child, target as PlaceRow);
    await tx.db
      .update(location)
      .set({ retiredOn: on, version: sql`${location.version} + 1` })
      .where(eq(location.id, pair.from));
  }
  await indexPlaces(tx, [into.path, row.path]);
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
  accessNote: string | null;
};

async function fieldsOf(tx: Tx, body: PlaceBody) {
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
  return {
    name: body.name.replaceAll('>', '-'),
    address: body.address || null,
    zone: zoneOf(body.zone),
    latitude: body.latitude,
    longitude: body.longitude,
    calendarId: body.calendarId,
    accessNote: body.accessNote || null,
  };
}

async function sitesOf(db: Db, id: CustomerId) {
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

export const placeRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readTree, 'signed in', ({ params }) => readTree(db, params.id));
    serve(app, house, contracts.readPlace, 'signed in', ({ params }) => readPlace(db, params.id));
    serve(app, house, contracts.listSites, 'signed in', async ({ params }) => {
      const items = await sitesOf(db, params.id);
      const { nodes } = await readTree(db, params.id);
      const ids = new Set(items.map((i) => i.id as number));
      return { items, without: nodes.filter((n) => n.parentId === null && !ids.has(n.id)).length };
    });
    serve(app, house, contracts.sitesGeoJson, 'signed in', async ({ params, reply }) => {
      const sites = await sitesOf(db, params.id);
      void reply
        .type('application/geo+json')
        .header('content-disposition', `attachment; filename="sites-${params.id}.geojson"`);
      return toGeoJson(
        sites.map(({ latitude, longitude, ...properties }) => ({ latitude, longitude, properties })),
      ) as never;
    });

    serve(app, house, contracts.addLocation, WRITERS, ({ body, who }) =>
      writing(house, who, async (tx, told) => {
        const fields = await fieldsOf(tx, body);
        const [parent] =
          body.parentId === null
            ? []
            : await tx.db.select().from(location).where(eq(location.id, body.parentId)).for('update');
        if (body.parentId !== null && !parent)
          refuse('not-found', 'That place does not exist; choose another.', 'parentId');
        if (parent?.retiredOn) refuse('conflict', `“${parent.name}” is retired; choose a place in use.`, 'parentId');
        if (parent && idsOf(parent.path).length >= 12)
          refuse('too-large', 'At most 12 levels are kept; add it higher up.', 'parentId');
        const siblings = await siblingsOf(tx, body.parentId, null);
        if (siblings.some((s) => s.toLowerCase() === fields.name.toLowerCase()))
          refuse('taken', `There is a “${fields.name}” at that level already.`, 'name');
        const [owner] = await tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, body.customerId));
        if (!owner) refuse('not-found', 'That customer does not exist.', 'customerId');
        const [made] = await tx.db
          .insert(location)
          .values({
            ...fields,
            parentId: parent?.id ?? null,
            path: '',
            fullName: parent ? `${parent.fullName} > ${fields.name}` : fields.name,
          })
          .$returningId();
        const id = made?.id as LocationId;
        await tx.db
          .update(location)
          .set({ path: `${parent?.path ?? '/'}${id}/` })
          .where(eq(location.id, id));
        if (!parent) await tx.db.insert(locationShare).values({ locationId: id, customerId: body.customerId });
        await indexNewPlaces(tx, [id]);
        told({ subject: 'location', id, text: `added ${fields.name}`, tags: ['register'] });
        return { id };
      }),
    );

    serve(app, house, contracts.changeLocation, WRITERS, ({ params, body, who }) =>
      writing(house, who, async (tx, told) => {
        const row = await lockPlace(tx, params.id, body.version);
        const fields = await fieldsOf(tx, body);
        const siblings = await siblingsOf(tx, row.parentId, row.id);
        if (siblings.some((s) => s.toLowerCase() === fields.name.toLowerCase()))
          refuse('taken', `There is a “${fields.name}” at that level already; merge the two instead.`, 'name');
        await tx.db
          .update(location)
          .set({ ...fields, version: row.version + 1 })
          .where(eq(location.id, params.id));
        if (fields.name !== row.name) {
          const renamed = row.fullName.slice(0, row.fullName.length - row.name.length) + fields.name;
          await tx.connection.query(
            'UPDATE location SET full_name = CONCAT(?, SUBSTRING(full_name, ?)) WHERE path LIKE ?',
            [renamed, [...row.fullName].length + 1, `${row.path}%`],
          );
        }
        if (fields.name !== row.name || fields.address !== row.address) await indexPlaces(tx, [row.path]);
        told({
          subject: 'location',
          id: params.id,
          text: (Object.keys(fields) as (keyof typeof fields)[])
            .filter((k) => fields[k] !== row[k])
            .map((k) => `${k} ${row[k] ?? 'inherited'} → ${fields[k] ?? 'inherited'}`)
            .join('; '),
          tags: ['register', 'upkeep'],
        });
        return { version: row.version + 1 };
      }),
    );

    const onDay = ({ who, now }: Pick<Asking<typeof contracts.mergeLocation>, 'who' | 'now'>): LocalDate =>
      localDateAt(who.zone, now);
    serve(app, house, contracts.previewMove, WRITERS, ({ params, body, now, who }) =>
      previewEffect(house.database, params.id, localDateAt(who.zone, now), now, (tx) => moveIn(tx, params.id, body)),
    );
    serve(app, house, contracts.moveLocation, WRITERS, ({ params, body, who }) =>
      writing(house, who, async (tx, told) => {
        const { row, to } = await moveIn(tx, params.id, body);
        const tags = ['register', 'agreements', 'upkeep'] as const;
        told({ subject: 'location', id: params.id, text: `moved ${row.fullName} to ${to}`, tags });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.previewMerge, WRITERS, ({ params, body, now, who }) =>
      previewEffect(house.database, params.id, localDateAt(who.zone, now), now, (tx) =>
        mergeIn(tx, params.id, body, onDay({ who, now })),
      ),
    );
    serve(app, house, contracts.mergeLocation, WRITERS, ({ params, body, who, now }) =>
      writing(house, who, async (tx, told) => {
        const { row, to } = await mergeIn(tx, params.id, body, onDay({ who, now }));
        const tags = ['register', 'agreements', 'upkeep'] as const;
        told({ subject: 'location', id: params.id, text: `merged ${row.fullName} into ${to}`, tags });
        return { done: true as const };
      }),
    );

    serve(app, house, contracts.retireLocation, WRITERS, ({ params, body, who, now }) =>
      writing(house, who, async (tx, told) => {
        const row = await lockPlace(tx, params.id, body.version);
        const below = and(like(location.path, `${row.path}%`));
        if (body.retire) {
          const [standing] = await tx.db
            .select({ n: count() })
            .from(asset)
            .innerJoin(location, eq(location.id, asset.locationId))
            .where(and(below, ne(asset.state, 'retired')));
          if (standing && standing.n > 0)
            refuse(
              'conflict',
              `${standing.n} ${standing.n === 1 ? 'asset stands' : 'assets stand'} there; move, remove or scrap ${standing.n === 1 ? 'it' : 'them'} first.`,
            );
        } else if (row.parentId !== null) {
          const [parent] = await tx.db.select().from(location).where(eq(location.id, row.parentId));
          if (parent?.retiredOn)
            refuse('conflict', `“${parent.name}” above it is retired; take that back into use first.`);
        }
        await tx.db
          .update(location)
          .set({ retiredOn: body.retire ? localDateAt(who.zone, now) : null, version: sql`${location.version} + 1` })
          .where(body.retire ? below : eq(location.id, row.id));
        await indexPlaces(tx, [row.path]);
        told({
          subject: 'location',
          id: params.id,
          text: body.retire ? `retired ${row.fullName}` : `took ${row.fullName} back into use`,
          tags: ['register'],
        });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.shareLocation, WRITERS, ({ params, body, who }) =>
      writing(house, who, async (tx, told) => {
        const [row] = await tx.db.select().from(location).where(eq(location.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That place does not exist.');
        const [owner] = await tx.db.select().from(customer).where(eq(customer.id, body.customerId));
        if (!owner) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
        if (body.share)
          await tx.db
            .insert(locationShare)
            .values({ locationId: params.id, customerId: body.customerId })
            .onDuplicateKeyUpdate({ set: { locationId: params.id } });
        else {
          const [standing] = await tx.db
            .select({ n: count() })
            .from(asset)
            .innerJoin(location, eq(location.id, asset.locationId))
            .where(and(like(location.path, `${row.path}%`), eq(asset.customerId, body.customerId)));
          if (standing && standing.n > 0)
            refuse('conflict', `${owner.name} has ${standing.n} assets there; move them first.`, 'customerId');
          await tx.db
            .delete(locationShare)
            .where(and(eq(locationShare.locationId, params.id), eq(locationShare.customerId, body.customerId)));
        }
        told({
          subject: 'location',
          id: params.id,
          text: `${body.share ? 'shared with' : 'no longer shared with'} ${owner.name}`,
          tags: ['register'],
        });
        return { done: true as const };
      }),
    );
  },
  { name: 'stavok-place-routes', dependencies: ['stavok-authentication'] },
);
