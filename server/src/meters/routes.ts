// Meters of an asset: their readings, typed or from devices; a lower reading is asked about, never guessed.
import { asc, eq, inArray } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/assets.ts';
import type { MeterOut } from '#api/assets.ts';
import type { AssetId } from '#core/ids.ts';
import { totalRun } from '#core/meters.ts';
import { isTaken, type Db } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { readMeterIn } from './readings.ts';
import { person } from '../platform/tables.ts';
import { asset } from '../assets/tables.ts';
import { meter, meterReading } from './tables.ts';

const READINGS_SHOWN = 12;

export async function metersOf(db: Db, id: AssetId): Promise<MeterOut[]> {
  const meters = await db.select().from(meter).where(eq(meter.assetId, id)).orderBy(asc(meter.name));
  if (meters.length === 0) return [];
  const readings = await db
    .select({ reading: meterReading, who: person.name })
    .from(meterReading)
    .leftJoin(person, eq(person.id, meterReading.personId))
    .where(
      inArray(
        meterReading.meterId,
        meters.map((m) => m.id),
      ),
    )
    .orderBy(asc(meterReading.at), asc(meterReading.id))
    .limit(5000);
  return meters.map((m) => {
    const own = readings.filter((r) => r.reading.meterId === m.id);
    const standing = own.filter((r) => !r.reading.struckOut).map((r) => r.reading);
    const last = standing[standing.length - 1];
    return {
      id: m.id,
      name: m.name,
      unit: m.unit,
      total: totalRun(standing.map((r) => ({ at: r.at, value: r.value, anew: r.anew !== null }))),
      last: last ? { at: last.at, value: last.value, source: last.source } : null,
      readings: own
        .slice(-READINGS_SHOWN)
        .reverse()
        .map(({ reading: r, who }) => ({
          at: r.at,
          value: r.value,
          source: r.source,
          anew: r.anew,
          struckOut: r.struckOut,
          who,
        })),
    };
  });
}

export const meterRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listMeters, async ({ params }) => ({
      items: await metersOf(db, params.id),
    }));
    serve(app, house, contracts.addMeter, async ({ params, body, write }) => {
      try {
        return await write(async (tx, told) => {
          const [row] = await tx.db.select({ id: asset.id }).from(asset).where(eq(asset.id, params.id));
          if (!row) refuse('not-found', 'That asset does not exist.');
          const [made] = await tx.db
            .insert(meter)
            .values({ ...body, assetId: params.id })
            .$returningId();
          told({ subject: 'asset', id: params.id, text: `added the meter ${body.name}` });
          return { id: made?.id as number };
        });
      } catch (error) {
        if (isTaken(error)) refuse('taken', 'The asset has a meter of that name already.', 'name');
        throw error;
      }
    });
    serve(app, house, contracts.addReading, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        await readMeterIn(tx, told, who, params.id, body, now);
        return { done: true as const };
      }),
    );
  },
  { name: 'stavok-meter-routes', dependencies: ['stavok-authentication'] },
);
