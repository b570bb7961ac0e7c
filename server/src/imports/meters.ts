// Importing meters and readings: what the register holds of them, and writing the core’s plans.
import { and, eq, inArray } from 'drizzle-orm';
import type { AssetId, MeterId } from '#core/ids.ts';
import { planMeters, planReadings, type HeldMeter, type ImportSettings, type TableRow } from '#core/imports/index.ts';
import { asZone, type Instant } from '#core/time/index.ts';
import { bulkInsert, type Db, type Tx } from '../platform/database.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { meter, meterReading } from '../meters/tables.ts';
import { instantText } from '../platform/columns.ts';
import type { Origin } from './assets.ts';
import { chunked } from './held.ts';
import { inSteps, wordsIn, type Prepared } from './steps.ts';

async function assetsByTag(db: Db, tags: readonly string[]) {
  return chunked(tags, (list) =>
    db
      .select({ id: asset.id, tag: asset.tag, locationId: asset.locationId, path: location.path })
      .from(asset)
      .leftJoin(location, eq(location.id, asset.locationId))
      .where(inArray(asset.tag, list)),
  );
}

export async function prepareMeters(db: Db, rows: readonly TableRow[]): Promise<Prepared> {
  const assets = await assetsByTag(db, wordsIn(rows, 'tag'));
  const tagOf = new Map(assets.map((a) => [a.id, a.tag]));
  const meters = await chunked(
    assets.map((a) => a.id),
    (ids) => db.select().from(meter).where(inArray(meter.assetId, ids)),
  );
  const plan = planMeters<AssetId>(
    rows,
    new Map(assets.map((a) => [a.tag, a.id])),
    new Map(meters.map((m) => [`${tagOf.get(m.assetId)}|${m.name}`.toLowerCase(), m])),
  );
  return {
    created: { meters: plan.creates.length },
    updated: 0,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: inSteps(plan.creates).map((slice) => ({
      rows: slice.length,
      write: async (tx: Tx, { importId }: Origin) => {
        await bulkInsert(
          tx.connection,
          'meter',
          ['asset_id', 'name', 'unit', 'import_id'],
          slice.map((m) => [m.assetId, m.name, m.unit, importId]),
        );
      },
    })),
  };
}

export async function prepareReadings(
  db: Db,
  rows: readonly TableRow[],
  settings: ImportSettings,
  now: Instant,
  fallbackZone: string,
): Promise<Prepared> {
  const assets = await assetsByTag(db, wordsIn(rows, 'tag'));
  const [places, meters] = await Promise.all([
    placesOf(
      db,
      assets.map((a) => ({ id: a.locationId, path: a.path })),
    ),
    chunked(
      assets.map((a) => a.id),
      (ids) => db.select().from(meter).where(inArray(meter.assetId, ids)),
    ),
  ]);
  const readings = await chunked(
    meters.map((m) => m.id),
    (ids) =>
      db
        .select({
          meterId: meterReading.meterId,
          at: meterReading.at,
          value: meterReading.value,
          anew: meterReading.anew,
        })
        .from(meterReading)
        .where(and(inArray(meterReading.meterId, ids), eq(meterReading.struckOut, false)))
        .orderBy(meterReading.at, meterReading.id),
  );
  const readingsOf = new Map<MeterId, { at: Instant; value: number }[]>();
  // Since a counter last began anew.
  for (const { meterId, at, value, anew } of readings) {
    const since = anew ? undefined : readingsOf.get(meterId);
    if (since) since.push({ at, value });
    else readingsOf.set(meterId, [{ at, value }]);
  }
  const assetOf = new Map(assets.map((a) => [a.id, a]));
  const held = new Map<string, HeldMeter<MeterId>>();
  for (const m of meters) {
    const of = assetOf.get(m.assetId);
    if (of)
      held.set(`${of.tag}|${m.name}`.toLowerCase(), {
        id: m.id,
        zone: places.of(of.locationId).zone ?? asZone(fallbackZone),
        readings: readingsOf.get(m.id) ?? [],
      });
  }
  const plan = planReadings<MeterId>(rows, held, settings.dateFormat, now);
  return {
    created: { readings: plan.creates.length },
    updated: 0,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: inSteps(plan.creates).map((slice) => ({
      rows: slice.length,
      write: async (tx: Tx, { importId, who }: Origin) => {
        await bulkInsert(
          tx.connection,
          'meter_reading',
          ['meter_id', 'at', 'value', 'source', 'person_id', 'import_id'],
          slice.map((r) => [r.meterId, instantText(r.at), r.value, 'import', who.id, importId]),
        );
      },
    })),
  };
}
