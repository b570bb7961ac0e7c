// Reading signals: alerts of late with where their machines stand, devices with what each channel said last, and readings.
import { and, asc, desc, eq, gt, inArray, isNull, lt, max, or, sql } from 'drizzle-orm';
import type { AssetId, OrderId } from '#core/ids.ts';
import { DAY, HOUR, instant, type Instant } from '#core/time/index.ts';
import { crossedLimit, drawnLimits } from '#core/signals/index.ts';
import { alertRows } from './alert-rows.ts';
import { curveOf } from './curve.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import type { Db } from '../platform/database.ts';
import { alert, alertRule, channel, device, reading } from './tables.ts';
import { readWhile, tiesOf } from './series.ts';
import { rulesOf } from './watched.ts';

const ALERTS_SHOWN = 200;
const DEVICES_SHOWN = 200;

/** Alerts that are active, and those of the last week; the active ones first. */
export const recentAlerts = (db: Db, now: Instant) =>
  alertRows(
    db,
    or(isNull(alert.endedAt), gt(alert.startedAt, instant(now - 7 * DAY))),
    [sql`${alert.endedAt} is null desc`, desc(alert.startedAt), desc(alert.id)],
    ALERTS_SHOWN,
    now,
  );

/** Devices, the longest silent first, each with the last word of its channels. */
export async function devicesWithChannels(db: Db) {
  const heard = db
    .select({ deviceId: channel.deviceId, at: max(channel.at).as('heard_at') })
    .from(channel)
    .groupBy(channel.deviceId)
    .as('heard');
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
    .orderBy(asc(heard.at), asc(device.id))
    .limit(DEVICES_SHOWN);
  const ids = devices.map((d) => d.id);
  const channels =
    ids.length === 0
      ? []
      : await db.select().from(channel).where(inArray(channel.deviceId, ids)).orderBy(asc(channel.channel));
  return devices.map((d) => ({
    ...d,
    channels: channels
      .filter((c) => c.deviceId === d.id)
      .map((c) => ({ channel: c.channel, unit: c.unit, value: c.word ?? String(c.value), at: c.at })),
  }));
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
