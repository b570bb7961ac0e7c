// Meters of several machines with what each showed last.
import { asc, eq, inArray, sql } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import type { Db } from '../platform/database.ts';
import { meter, meterReading } from './tables.ts';

type ShownMeter = {
  readonly id: number;
  readonly name: string;
  readonly unit: string;
  readonly last: { readonly at: typeof meterReading.$inferSelect.at; readonly value: number } | null;
};

export async function metersOfAssets(db: Db, assets: readonly AssetId[]): Promise<Map<AssetId, ShownMeter[]>> {
  if (assets.length === 0) return new Map();
  const newest = sql`(select r.id from ${meterReading} r where r.meter_id = ${meter.id} and r.struck_out = 0 order by r.at desc, r.id desc limit 1)`;
  const rows = await db
    .select({ meter, at: meterReading.at, value: meterReading.value })
    .from(meter)
    .leftJoin(meterReading, eq(meterReading.id, newest))
    .where(inArray(meter.assetId, [...assets]))
    .orderBy(asc(meter.name));
  const of = new Map<AssetId, ShownMeter[]>();
  for (const { meter: m, at, value } of rows) {
    const own = of.get(m.assetId) ?? [];
    own.push({ id: m.id, name: m.name, unit: m.unit, last: at === null || value === null ? null : { at, value } });
    of.set(m.assetId, own);
  }
  return of;
}
