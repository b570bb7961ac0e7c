// Spots and names of places read for many at once are those that one place says of itself.
import { afterAll, beforeAll, expect, it } from 'vitest';
import type { LocationId } from '#core/ids.ts';
import { placesOf } from '../src/places/index.ts';
import { labelsOf, spotOf, spotsOf } from '../src/rota/spots.ts';
import { location } from '../src/tables.ts';
import { openRota, type RotaHouse } from './rota-house.ts';

let here: RotaHouse;
beforeAll(async () => {
  here = await openRota(6);
  // Some without a position anywhere above, some with one of their own below one that has another.
  const { pool } = here.house.database;
  await pool.query("INSERT INTO location (id, name, full_name, path) VALUES (900, 'Moor', 'Moor', '/900/')");
  await pool.query(
    "INSERT INTO location (id, parent_id, name, full_name, path) VALUES (901, 900, 'Hut', 'Moor > Hut', '/900/901/')",
  );
  await pool.query(
    "INSERT INTO location (id, parent_id, name, full_name, path, latitude, longitude) VALUES (902, 901, 'Well', 'Moor > Hut > Well', '/900/901/902/', 41.2, -8.1)",
  );
});
afterAll(() => here?.house.close());

it('for every place there is, and for none', async () => {
  const { db } = here.house.database;
  const all = await db.select({ locationId: location.id, path: location.path }).from(location);
  expect(all.length).toBeGreaterThan(4);
  const rows: { locationId: LocationId | null; path: string | null }[] = [...all, { locationId: null, path: null }];
  const [spotAt, labelOf] = await Promise.all([spotsOf(db, rows), labelsOf(db, rows)]);
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  for (const row of rows) {
    const place = places.of(row.locationId);
    expect(spotAt(row)).toEqual(spotOf(row.locationId, place));
    expect(labelOf(row.path)).toBe(place.label);
  }
  expect(spotAt(all.find((r) => r.path === '/900/901/') as never)).toEqual({ key: 'place 900', at: null });
});
