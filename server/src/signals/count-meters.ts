// Meters that a device counts: at most one reading an hour, and none of what it counted lost where it begins anew.
import { and, asc, desc, eq, gte, inArray, isNotNull, like, lt } from 'drizzle-orm';
import { group } from 'd3-array';
import type { AssetId, DeviceId } from '#core/ids.ts';
import { countOn, type MeterReading } from '#core/meters.ts';
import type { Instant } from '#core/time/index.ts';
import { assetEvent } from '../assets/tables.ts';
import { meter, meterReading } from '../meters/tables.ts';
import type { Tx } from '../platform/database.ts';
import { reading } from './tables.ts';

/** What one device said on one channel of the machine it is on. */
type Spoken = {
  readonly assetId: AssetId;
  readonly deviceId: DeviceId;
  readonly channel: string;
  readonly readings: readonly { readonly at: Instant; readonly value: number | string }[];
};
type Meter = typeof meter.$inferSelect;

async function lastReading(tx: Tx, of: Meter): Promise<MeterReading | null> {
  const [last] = await tx.db
    .select({ at: meterReading.at, value: meterReading.value })
    .from(meterReading)
    .where(and(eq(meterReading.meterId, of.id), eq(meterReading.struckOut, false)))
    .orderBy(desc(meterReading.at), desc(meterReading.id))
    .limit(1)
    .for('update');
  return last ?? null;
}

/** What a device counted last before it said something newer. */
async function countedBefore(tx: Tx, { deviceId, channel }: Spoken, at: Instant): Promise<MeterReading | null> {
  const [before] = await tx.db
    .select({ at: reading.at, value: reading.value })
    .from(reading)
    .where(and(eq(reading.deviceId, deviceId), eq(reading.channel, channel), lt(reading.at, at)))
    .orderBy(desc(reading.at))
    .limit(1);
  return before && before.value !== null ? { at: before.at, value: before.value } : null;
}

/** Once for each time: what a lower count of a new device means is for people to say. */
async function tellLower(tx: Tx, of: Meter, last: MeterReading, lower: MeterReading, now: Instant): Promise<void> {
  const said = `${of.name}: its device counts `;
  const [told] = await tx.db
    .select({ id: assetEvent.id })
    .from(assetEvent)
    .where(and(eq(assetEvent.assetId, of.assetId), gte(assetEvent.at, last.at), like(assetEvent.text, `${said}%`)))
    .limit(1);
  if (told) return;
  await tx.db.insert(assetEvent).values({
    ...{ assetId: of.assetId, kind: 'changed', at: lower.at, recordedAt: now },
    text: `${said}${lower.value} ${of.unit}, less than the last reading ${last.value}: say whether the meter was replaced or reset.`,
  });
}

async function count(tx: Tx, of: Meter, spoken: readonly Spoken[], now: Instant): Promise<void> {
  for (const own of spoken) {
    const last = await lastReading(tx, of);
    const counts = own.readings
      .flatMap(({ at, value }) => (typeof value === 'number' && (last === null || at > last.at) ? [{ at, value }] : []))
      .sort((a, b) => a.at - b.at);
    const [first] = counts;
    if (!first) continue;
    const before = await countedBefore(tx, own, first.at);
    const { readings, lower } = countOn(last, before, counts, of.wrapsAt);
    if (readings.length > 0)
      await tx.db.insert(meterReading).values(
        readings.map(({ at, value, anew }) => ({
          ...{ meterId: of.id, at, value, source: 'signal' as const },
          anew: anew ? ('meter reset' as const) : null,
        })),
      );
    if (lower && last) await tellLower(tx, of, last, lower, now);
  }
}

const KNOWN_FOR_MS = 5000;
const known = new Map<string, { readonly channels: ReadonlySet<string>; readonly until: number }>();

/** Channels that some meter is counted by: of most houses a few, and most readings are of others. */
async function countedChannels(tx: Tx): Promise<ReadonlySet<string>> {
  const house = tx.connection.config.database ?? '';
  const held = known.get(house);
  if (held && held.until > Date.now()) return held.channels;
  const rows = await tx.db.selectDistinct({ channel: meter.channel }).from(meter).where(isNotNull(meter.channel));
  const channels = new Set(rows.map((r) => r.channel as string));
  known.set(house, { channels, until: Date.now() + KNOWN_FOR_MS });
  return channels;
}

/** Counts on the meters of some machines; one question for all of them, and more only for those that are counted. */
export async function countMeters(tx: Tx, spoken: readonly Spoken[], now: Instant): Promise<void> {
  const channels = await countedChannels(tx);
  const counting = spoken.filter((s) => channels.has(s.channel));
  if (counting.length === 0) return;
  const byMachine = group(counting, (s) => s.assetId);
  const meters = await tx.db
    .select()
    .from(meter)
    .where(
      and(
        inArray(meter.assetId, [...byMachine.keys()]),
        inArray(meter.channel, [...new Set(counting.map((s) => s.channel))]),
      ),
    )
    .orderBy(asc(meter.id));
  for (const counted of meters)
    await count(tx, counted, byMachine.get(counted.assetId)?.filter((s) => s.channel === counted.channel) ?? [], now);
}
