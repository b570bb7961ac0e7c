// Reading signals: devices with what each channel said last, and readings.
import { and, asc, eq, inArray, like, max, or, sql } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { drawnLimits } from '#core/signals/index.ts';
import { curveOf } from './curve.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { instantText } from '../platform/columns.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { pageOf } from './newest-first.ts';
import { channel, device } from './tables.ts';
import { rulesOf } from './watched.ts';

const DEVICES_SHOWN = 50;

type DevicesAsked = {
  readonly search?: string | undefined;
  readonly after?: string | undefined;
  readonly limit?: number | undefined;
};

/** A page of devices, the longest silent first, each with the last word of its channels. */
export async function devicesPage(db: Db, { search, after, limit = DEVICES_SHOWN }: DevicesAsked) {
  const heard = db
    .select({ deviceId: channel.deviceId, at: max(channel.at).as('heard_at') })
    .from(channel)
    .groupBy(channel.deviceId)
    .as('heard');
  // Whoever never spoke has been silent longest.
  const lastHeard = sql`coalesce(${heard.at}, ${instantText(instant(0))})`;
  const [time = 0, last = 0] = (after ?? '').split('-').map(Number);
  const wanted = `%${escapeLike(search ?? '')}%`;
  const devices = await db
    .select({
      id: device.id,
      key: device.deviceKey,
      assetId: device.assetId,
      tag: asset.tag,
      model: asset.model,
      customer: customer.name,
      lastAt: heard.at,
    })
    .from(device)
    .innerJoin(asset, eq(asset.id, device.assetId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .leftJoin(heard, eq(heard.deviceId, device.id))
    .where(
      and(
        search === undefined ? undefined : or(like(device.deviceKey, wanted), like(asset.tag, wanted)),
        last ? sql`(${lastHeard}, ${device.id}) > (${instantText(instant(time))}, ${last})` : undefined,
      ),
    )
    .orderBy(asc(lastHeard), asc(device.id))
    .limit(limit + 1);
  const page = pageOf(devices, limit, (d) => ({ at: d.lastAt ?? instant(0), id: d.id }));
  const ids = page.items.map((d) => d.id);
  const channels =
    ids.length === 0
      ? []
      : await db.select().from(channel).where(inArray(channel.deviceId, ids)).orderBy(asc(channel.channel));
  const items = page.items.map((d) => ({
    ...d,
    channels: channels
      .filter((c) => c.deviceId === d.id)
      .map((c) => ({ channel: c.channel, unit: c.unit, value: c.word ?? String(c.value), at: c.at })),
  }));
  return { items, next: page.next };
}

/** The last days of one channel of an asset, with the limits it is watched by. */
export async function readingsOf(db: Db, assetId: AssetId, wanted: string, days: number, now: Instant) {
  const machines = await db
    .select({ id: asset.id, classId: asset.classId, model: asset.model, state: asset.state })
    .from(asset)
    .where(eq(asset.id, assetId));
  const [points, rules, [held]] = await Promise.all([
    curveOf(db, assetId, wanted, days, now),
    rulesOf(db, machines).then((of) => of(assetId)),
    db
      .select({ unit: channel.unit })
      .from(channel)
      .innerJoin(device, eq(device.id, channel.deviceId))
      .where(and(eq(device.assetId, assetId), eq(channel.channel, wanted)))
      .limit(1),
  ]);
  const own = rules.filter((r) => r.channel === wanted);
  return { unit: held?.unit ?? null, points, limits: own.flatMap((r) => drawnLimits(r.condition)) };
}
