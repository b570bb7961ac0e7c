// Meters that a device counts: at most one reading an hour, and none of what it counted lost where it begins anew.
import { and, asc, desc, eq, gte, inArray, like, lt } from 'drizzle-orm';
import { group } from 'd3-array';
import type { AssetId, DeviceId } from '#core/ids.ts';
import { countOn, type MeterReading } from '#core/meters.ts';
import type { Instant } from '#core/time/index.ts';
import { assetEvent } from '../assets/tables.ts';
import { meter, meterReading } from '../meters/tables.ts';
import type { Tx } from '../platform/database.ts';
import { reading } from './tables.ts';

type Taken = {
  readonly assetId: AssetId;
  readonly deviceId: DeviceId;
  readonly channel: string;
  readonly at: Instant;
  readonly value: unknown;
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
async function countedBefore(tx: Tx, { deviceId, channel, at }: Taken): Promise<MeterReading | null> {
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

async function count(tx: Tx, of: Meter, taken: readonly Taken[], now: Instant): Promise<void> {
  const last = await lastReading(tx, of);
  for (const [, own] of group(taken, (t) => t.deviceId)) {
    const newer = own.filter((t) => last === null || t.at > last.at).sort((a, b) => a.at - b.at);
    const [first] = newer;
    if (!first) continue;
    const before = await countedBefore(tx, first);
    const counts = newer.map((t) => ({ at: t.at, value: t.value as number }));
    const { readings, lower } = countOn(last, before, counts);
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

/** Counts on the meters of some machines; one question for all of them, and more only for those that are counted. */
export async function countMeters(tx: Tx, taken: readonly Taken[], now: Instant): Promise<void> {
  const numbers = taken.filter((t) => typeof t.value === 'number');
  if (numbers.length === 0) return;
  const byMachine = group(numbers, (t) => t.assetId);
  const meters = await tx.db
    .select()
    .from(meter)
    .where(
      and(
        inArray(meter.assetId, [...byMachine.keys()]),
        inArray(meter.channel, [...new Set(numbers.map((t) => t.channel))]),
      ),
    )
    .orderBy(asc(meter.id));
  for (const counted of meters)
    await count(tx, counted, byMachine.get(counted.assetId)?.filter((t) => t.channel === counted.channel) ?? [], now);
}
