// Reading signals: devices with what each channel said last, and readings.
import { and, asc, desc, eq, gt, inArray, like, lt, max, or, sql } from 'drizzle-orm';
import type { AssetId, OrderId } from '#core/ids.ts';
import { DAY, HOUR, instant, type Instant } from '#core/time/index.ts';
import { crossedLimit, drawnLimits } from '#core/signals/index.ts';
import { curveOf } from './curve.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { instantText } from '../platform/columns.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { pageOf } from './newest-first.ts';
import { alert, alertRule, channel, device, reading } from './tables.ts';
import { readWhile, tiesOf } from './series.ts';
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

const CURVE_POINTS = 200;
/** How long before an alert its curve begins. */
const BEFORE_ALERT = 6 * HOUR;

/** The alerts that orders were raised from or that joined them, each with the curve that led to it. */
export async function alertCurves(db: Db, orderIds: readonly OrderId[], now: Instant) {
  if (orderIds.length === 0) return [];
  const rows = await db
    .select({ alert, rule: alertRule, tag: asset.tag })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .innerJoin(asset, eq(asset.id, alert.assetId))
    .where(inArray(alert.orderId, [...orderIds]))
    .orderBy(asc(alert.startedAt))
    .limit(40);
  const ties = await tiesOf(db, [...new Set(rows.map((r) => r.alert.assetId))]);
  return Promise.all(
    rows.map(async ({ alert: of, rule, tag }) => {
      const points = await db
        .select({ at: reading.at, value: reading.value })
        .from(reading)
        .where(
          and(
            readWhile(ties.filter((t) => t.assetId === of.assetId)) ?? sql`false`,
            eq(reading.channel, rule.channel),
            gt(reading.at, instant(of.startedAt - BEFORE_ALERT)),
            lt(reading.at, instant((of.endedAt ?? now) + HOUR)),
          ),
        )
        .orderBy(desc(reading.at))
        .limit(CURVE_POINTS);
      return {
        ...{
          orderId: of.orderId as OrderId,
          rule: rule.name,
          tag,
          channel: rule.channel,
          unit: rule.unit,
          limit: crossedLimit(rule.condition, of.worst),
        },
        ...{ startedAt: of.startedAt, endedAt: of.endedAt, points: points.reverse() },
      };
    }),
  );
}
