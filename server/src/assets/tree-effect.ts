// What a change of the tree brings about: done in a transaction that is given up again, so that preview and action cannot differ.
import { eq, like, or } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/places.ts';
import type { TreeEffect } from '#api/places.ts';
import type { AssetId, LocationId } from '#core/ids.ts';
import { addDays, localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { mergeIn, moveIn, placesOf } from '../places/index.ts';
import { serve, type House } from '../platform/http.ts';
import { previewed } from '../platform/preview.ts';
import { calendar } from '../calendars/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from './tables.ts';
import { coversOf } from '../entitlement/index.ts';
import { drawLanes, type Lane } from '../platform/lanes.ts';
import { coverNow } from './rows.ts';

/** More than this is counted, not listed. */
const LISTED = 40;
const AHEAD_DAYS = 200;

type PlaceState = { name: string; address: string; zone: string; calendar: string; accessNote: string };
type AssetState = {
  tag: string;
  locationId: LocationId | null;
  place: PlaceState | null;
  cover: string;
  due: LocalDate | null;
};
type Snapshot = { places: Map<LocationId, PlaceState>; assets: Map<AssetId, AssetState> };

async function snapshot(
  db: Db,
  lanes: readonly Lane[],
  paths: readonly string[],
  today: LocalDate,
  now: Instant,
): Promise<Snapshot> {
  const rows = await db
    .select({ id: location.id, path: location.path, fullName: location.fullName })
    .from(location)
    .where(or(...paths.map((p) => like(location.path, `${p}%`))));
  const [places, calendars, standing] = await Promise.all([
    placesOf(db, rows),
    db.select({ id: calendar.id, name: calendar.name }).from(calendar),
    db
      .select({ id: asset.id, tag: asset.tag, locationId: asset.locationId })
      .from(asset)
      .innerJoin(location, eq(location.id, asset.locationId))
      .where(or(...paths.map((p) => like(location.path, `${p}%`)))),
  ]);
  const subjects = await coversOf(
    db,
    standing.map((a) => a.id),
  );
  const ribbons = await drawLanes(lanes, db, [...subjects.keys()], {
    from: today,
    to: addDays(today, AHEAD_DAYS),
    today,
    now,
  });
  const nameOf = new Map(calendars.map((c) => [c.id, c.name]));
  const stateOf = (id: LocationId, fullName: string): PlaceState => {
    const place = places.of(id);
    return {
      name: fullName,
      address: place.address?.value ?? '',
      zone: place.zone ?? '',
      calendar: place.calendar ? (nameOf.get(place.calendar.value) ?? '') : '',
      accessNote: place.accessNote?.value ?? '',
    };
  };
  const states = new Map(rows.map((r) => [r.id, stateOf(r.id, r.fullName)]));
  return {
    places: states,
    assets: new Map(
      standing.map((a) => {
        const dues = (ribbons.get(a.id)?.care ?? []).filter((c) => c.state === 'planned').map((c) => c.due);
        return [
          a.id,
          {
            tag: a.tag,
            locationId: a.locationId,
            place: (a.locationId === null ? null : states.get(a.locationId)) ?? null,
            cover: coverNow(subjects.get(a.id), today),
            due: dues.sort()[0] ?? null,
          },
        ];
      }),
    ),
  };
}

const FIELDS = [
  ['address', 'address'],
  ['zone', 'time zone'],
  ['calendar', 'calendar'],
  ['accessNote', 'access notes'],
] as const;

function compare(before: Snapshot, after: Snapshot): TreeEffect {
  const changes: TreeEffect['changes'] = [...before.places].flatMap(([id, was]) => {
    const is = after.places.get(id);
    return is
      ? FIELDS.flatMap(([key, field]) =>
          was[key] === is[key] ? [] : [{ place: was.name, field, before: was[key] || null, after: is[key] || null }],
        )
      : [];
  });
  const pairs = [...before.assets].flatMap(([id, was]) => {
    const is = after.assets.get(id);
    return is ? [{ was, is }] : [];
  });
  // Machines that come to stand at another place take over what that one has.
  const taken = new Map<string, TreeEffect['changes'][number]>();
  for (const { was, is } of pairs) {
    if (was.locationId === is.locationId || was.place === null || is.place === null) continue;
    for (const [key, field] of FIELDS)
      if (was.place[key] !== is.place[key])
        taken.set(`${was.locationId}/${field}`, {
          place: `machines of ${was.place.name}`,
          field,
          before: was.place[key] || null,
          after: is.place[key] || null,
        });
  }
  changes.push(...taken.values());
  const covers = pairs
    .filter(({ was, is }) => was.cover !== is.cover)
    .map(({ was, is }) => ({ tag: was.tag, before: was.cover, after: is.cover }));
  const dues = pairs
    .filter(({ was, is }) => was.due !== is.due)
    .map(({ was, is }) => ({
      tag: was.tag,
      before: was.due,
      after: is.due,
      reason: was.cover === is.cover ? 'another calendar' : 'another cover or calendar',
    }));
  return {
    places: before.places.size,
    assets: before.assets.size,
    changes: changes.slice(0, LISTED),
    changesTotal: changes.length,
    covers: covers.slice(0, LISTED),
    coversTotal: covers.length,
    dues: dues.slice(0, LISTED),
    duesTotal: dues.length,
  };
}

/**
 * Carries the change out, compares, and rolls back. Locked first, in the act's order: what is read before a lock may be older than
 * what the act then finds behind it.
 */
async function previewEffect(
  { database, lanes }: Pick<House, 'database' | 'lanes'>,
  [id, other]: readonly [LocationId, LocationId | null],
  today: LocalDate,
  now: Instant,
  change: (tx: Tx) => Promise<{ path: string }>,
): Promise<TreeEffect> {
  return previewed(database, async (tx) => {
    const lock = (place: LocationId) =>
      tx.db.select({ path: location.path }).from(location).where(eq(location.id, place)).for('update');
    const [row] = await lock(id);
    if (other !== null) await lock(other);
    const before = await snapshot(tx.db, lanes, [row?.path ?? '/0/'], today, now);
    const { path } = await change(tx);
    return compare(before, await snapshot(tx.db, lanes, [path], today, now));
  });
}

/** What moving or merging a place would bring about for the machines that stand below it. */
export const treeEffectRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { found } = house;
    serve(app, house, contracts.previewMove, ({ params, body, now, who }) =>
      previewEffect(house, [params.id, body.parentId], localDateAt(who.zone, now), now, (tx) =>
        moveIn(tx, found, params.id, body),
      ),
    );
    serve(app, house, contracts.previewMerge, ({ params, body, now, who }) => {
      const today = localDateAt(who.zone, now);
      return previewEffect(house, [params.id, body.into], today, now, (tx) =>
        mergeIn(tx, house, params.id, body, today, { id: who.id, now }),
      );
    });
  },
  { name: 'stavok-tree-effect-routes', dependencies: ['stavok-authentication'] },
);
