// Taking readings: held once, in the unit their channel is watched in, and judged by the rules of their machine.
import { eq, inArray, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { postReadings } from '#api/signals.ts';
import type { AssetId, DeviceId } from '#core/ids.ts';
import { convertUnit, readPack, splitName, type Reading } from '#core/signals/index.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import type { Instant } from '#core/time/index.ts';
import { bulkInsert, type Database, type Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { accept, Refused } from '../platform/refuse.ts';
import { asset } from '../assets/tables.ts';
import { judge } from './judging.ts';
import { channel, device } from './tables.ts';
import { rulesOf, type WatchedMachine } from './watched.ts';
import { instantText } from '../platform/columns.ts';
import { countMeters } from './count-meters.ts';

type Machines = ReadonlyMap<AssetId, WatchedMachine>;
type Located = Reading & { readonly channel: string; readonly deviceId: DeviceId; readonly assetId: AssetId };
export type Taken = { readonly taken: number; readonly alreadyHeld: number; readonly alerts: number };

/** Finds each reading's device. One unknown device refuses the whole pack: nothing is half-written. */
async function locate(
  database: Database,
  readings: readonly Reading[],
): Promise<{ located: Located[]; machines: Machines }> {
  const split = readings.map((r) => ({ reading: r, parts: splitName(r.name) }));
  const keys = [...new Set(split.flatMap((s) => (s.parts ? [s.parts.device] : [])))];
  const rows =
    keys.length === 0
      ? []
      : await database.db
          .select({
            id: device.id,
            key: device.deviceKey,
            assetId: device.assetId,
            classId: asset.classId,
            ...{ model: asset.model, state: asset.state },
          })
          .from(device)
          .innerJoin(asset, eq(asset.id, device.assetId))
          .where(inArray(device.deviceKey, keys));
  const byKey = new Map(rows.map((r) => [r.key, r]));
  const refusals: Refusal[] = [];
  const located = split.flatMap(({ reading, parts }, i): Located[] => {
    const found = parts && byKey.get(parts.device);
    if (!found)
      refusals.push(
        refusal(
          'unknown-device',
          `Record ${i + 1}: no device is registered as “${parts?.device ?? reading.name}”; register it on its asset first.`,
          `pack.${i}`,
        ),
      );
    else if (parts.channel.length > 40)
      refusals.push(
        refusal('malformed', `Record ${i + 1}: the channel name is longer than 40 characters.`, `pack.${i}`),
      );
    return found && parts ? [{ ...reading, channel: parts.channel, deviceId: found.id, assetId: found.assetId }] : [];
  });
  if (refusals.length > 0) throw new Refused(refusals.slice(0, 20));
  const machines = new Map(
    rows.map((r) => [r.assetId, { id: r.assetId, classId: r.classId, model: r.model, state: r.state }]),
  );
  return { located, machines };
}

/**
 * Values in the unit their channel is watched in: that of the rules of the asset's class, else that of what is held already.
 * One unit that does not convert refuses the whole pack by its name; a reading without a unit is in the channel's.
 */
async function inWatchedUnits(
  database: Database,
  readings: readonly Located[],
  machines: Machines,
): Promise<Located[]> {
  const given = readings.filter((r) => r.unit !== null && typeof r.value === 'number');
  if (given.length === 0) return [...readings];
  const [rules, held] = await Promise.all([
    rulesOf(database.db, [...machines.values()]),
    database.db
      .select({ deviceId: channel.deviceId, channel: channel.channel, unit: channel.unit })
      .from(channel)
      .where(inArray(channel.deviceId, [...new Set(given.map((r) => r.deviceId))])),
  ]);
  const watched = (r: Located): string | null =>
    rules(r.assetId).find((x) => x.channel === r.channel)?.unit ??
    held.find((x) => x.deviceId === r.deviceId && x.channel === r.channel)?.unit ??
    null;
  const refusals: Refusal[] = [];
  const converted = readings.map((r, i) => {
    const to = r.unit !== null && typeof r.value === 'number' ? watched(r) : null;
    if (to === null || to === '' || r.unit === null) return r;
    const value = convertUnit(r.value as number, r.unit, to);
    if (value.ok) return { ...r, value: value.value, unit: to };
    refusals.push(...value.refusals.map((x) => refusal(x.code, `Record ${i + 1}: ${x.message}`, `pack.${i}`)));
    return r;
  });
  if (refusals.length > 0) throw new Refused(refusals.slice(0, 20));
  return converted;
}

async function hold(tx: Tx, readings: readonly Located[]): Promise<number> {
  const row = (r: Located): unknown[] => [
    r.deviceId,
    r.channel,
    instantText(r.at),
    typeof r.value === 'number' ? r.value : typeof r.value === 'boolean' ? Number(r.value) : null,
    typeof r.value === 'string' ? r.value.slice(0, 120) : null,
    r.unit?.slice(0, 20) ?? null,
  ];
  const columns = ['device_id', 'channel', 'at', 'value', 'word', 'unit'];
  const [before] = await tx.db
    .select({ n: sql<number>`count(*)` })
    .from(sql`reading`)
    .where(
      sql`(device_id, channel, at) in (${sql.join(
        readings.map((r) => sql`(${r.deviceId}, ${r.channel}, ${instantText(r.at)})`),
        sql`, `,
      )})`,
    );
  await bulkInsert(tx.connection, 'reading', columns, readings.map(row), 'ON DUPLICATE KEY UPDATE unit = unit');
  const newest = new Map<string, Located>();
  for (const r of readings) {
    const key = `${r.deviceId}/${r.channel}`;
    const known = newest.get(key);
    if (!known || known.at < r.at) newest.set(key, r);
  }
  const latest = [...newest.values()];
  // `at` is compared before it is set: MariaDB assigns from left to right.
  await bulkInsert(
    tx.connection,
    'channel',
    columns,
    latest.map(row),
    'ON DUPLICATE KEY UPDATE value = IF(VALUES(at) >= at, VALUES(value), value), word = IF(VALUES(at) >= at, VALUES(word), word), unit = IF(VALUES(at) >= at, VALUES(unit), unit), at = GREATEST(at, VALUES(at))',
  );
  for (const deviceId of new Set(latest.map((r) => r.deviceId))) {
    const at = Math.max(...latest.filter((r) => r.deviceId === deviceId).map((r) => r.at)) as Instant;
    await tx.db
      .update(device)
      .set({ lastAt: sql`greatest(coalesce(${device.lastAt}, '1970-01-01'), ${instantText(at)})` })
      .where(eq(device.id, deviceId));
  }
  return Number(before?.n ?? 0);
}

/** Takes a parsed SenML pack: all of it or nothing, in one transaction. */
export async function takePack(database: Database, pack: unknown, now: Instant): Promise<Taken> {
  const { located: found, machines } = await locate(database, accept(readPack(pack, now)));
  const located = await inWatchedUnits(database, found, machines);
  return database.transact(async (tx) => {
    const alreadyHeld = await hold(tx, located);
    const byAsset = new Map<AssetId, Located[]>();
    for (const r of located) byAsset.set(r.assetId, [...(byAsset.get(r.assetId) ?? []), r]);
    let alerts = 0;
    const rules = await rulesOf(tx.db, [...machines.values()]);
    for (const [assetId, samples] of [...byAsset].sort((a, b) => a[0] - b[0])) {
      alerts += await judge(tx, rules(assetId), assetId, samples, now);
      await countMeters(tx, assetId, samples, now);
    }
    await announce(tx, postReadings);
    return { taken: located.length - alreadyHeld, alreadyHeld, alerts };
  });
}

export const newClientId = (): string => `stavok-${randomUUID().slice(0, 8)}`;
