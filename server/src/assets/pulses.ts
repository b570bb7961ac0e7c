// Pulse lines of an asset: its meters, and what its device reports by the hour, with the limits of the alert rules.
import { and, asc, eq, gte } from 'drizzle-orm';
import type { AssetPage } from '#api/register.ts';
import type { AssetClassId, AssetId, DeviceId } from '#core/ids.ts';
import { drawnLimits, sayUnit } from '#core/signals/index.ts';
import { DAY, instant, type Instant } from '#core/time/index.ts';
import type { Database, Db } from '../platform/database.ts';
import { meter, meterReading } from '../meters/tables.ts';
import { alertRule } from '../signals/tables.ts';
import { instantOfText, instantText } from '../platform/columns.ts';

const POINTS = 600;
const CHANNELS = 2;
const PULSE_DAYS = 60;

type Pulse = AssetPage['pulses'][number];

async function ofMeters(db: Db, id: AssetId, since: Instant): Promise<Pulse[]> {
  const rows = await db
    .select({ name: meter.name, unit: meter.unit, at: meterReading.at, value: meterReading.value })
    .from(meterReading)
    .innerJoin(meter, eq(meter.id, meterReading.meterId))
    .where(and(eq(meter.assetId, id), eq(meterReading.struckOut, false), gte(meterReading.at, since)))
    .orderBy(asc(meter.name), asc(meterReading.at))
    .limit(POINTS);
  const labels = [...new Set(rows.map((r) => `${r.name}, ${r.unit}`))];
  return labels.map((label) => ({
    label,
    points: rows.filter((r) => `${r.name}, ${r.unit}` === label).map(({ at, value }) => ({ at, value })),
    limits: [],
  }));
}

async function ofDevice(
  { pool, db }: Pick<Database, 'pool' | 'db'>,
  deviceId: DeviceId,
  classId: AssetClassId,
  now: Instant,
): Promise<Pulse[]> {
  const [found] = await pool.query(
    `SELECT channel, MIN(unit) AS unit, FROM_UNIXTIME(FLOOR(UNIX_TIMESTAMP(at) / 3600) * 3600) AS hour, AVG(value) AS value
     FROM reading WHERE device_id = ? AND value IS NOT NULL AND at >= ? GROUP BY channel, hour ORDER BY channel, hour LIMIT ?`,
    [deviceId, instantText(instant(now - PULSE_DAYS * DAY)), POINTS * CHANNELS],
  );
  const rows = found as { channel: string; unit: string | null; hour: string; value: number }[];
  const rules = await db.select().from(alertRule).where(eq(alertRule.assetClassId, classId));
  const watched = new Set(rules.map((r) => r.channel));
  return [...new Set(rows.map((r) => r.channel))]
    .sort((a, b) => Number(watched.has(b)) - Number(watched.has(a)))
    .slice(0, CHANNELS)
    .map((channel) => {
      const own = rows.filter((r) => r.channel === channel);
      return {
        label: `${channel}, ${sayUnit(own[0]?.unit ?? null)}`,
        points: own.map((r) => ({ at: instantOfText(r.hour), value: Math.round(r.value * 100) / 100 })),
        limits: rules.filter((r) => r.channel === channel).flatMap((r) => drawnLimits(r.condition).map((l) => l.limit)),
      };
    });
}

export async function pulsesOf(
  database: Pick<Database, 'pool' | 'db'>,
  id: AssetId,
  device: { readonly id: DeviceId; readonly classId: AssetClassId } | null,
  now: Instant,
): Promise<Pulse[]> {
  const [meters, signals] = await Promise.all([
    ofMeters(database.db, id, instant(now - 540 * DAY)),
    device ? ofDevice(database, device.id, device.classId, now) : [],
  ]);
  return [...signals, ...meters];
}
