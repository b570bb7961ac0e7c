// The signals' routes: readings in (gateways, coordinators), alerts and devices out (everybody signed in).
import { and, asc, desc, eq, gt, inArray, isNull, or, sql, count } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/signals.ts';
import type { DeviceId } from '#core/ids.ts';
import { instant, DAY } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { placesOf } from '../places/index.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { alert, alertRule, channel, device, reading } from './tables.ts';
import { activeAlerts } from './today.ts';
import { takePack } from './take.ts';

const ALERTS_SHOWN = 200;
const DEVICES_SHOWN = 200;
const POINTS_SHOWN = 720;

export const signalRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;

    serve(app, house, contracts.postReadings, ({ body, now }) => takePack(database, body, now));

    serve(app, house, contracts.readActiveAlerts, async ({ now }) => ({ now, items: await activeAlerts(db) }));
    serve(app, house, contracts.readSignals, async ({ now }) => {
      const [alerts, [active], devices] = await Promise.all([
        db
          .select({
            alert,
            rule: alertRule,
            tag: asset.tag,
            model: asset.model,
            customer: customer.name,
            locationId: asset.locationId,
            path: location.path,
          })
          .from(alert)
          .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
          .innerJoin(asset, eq(asset.id, alert.assetId))
          .innerJoin(customer, eq(customer.id, asset.customerId))
          .leftJoin(location, eq(location.id, asset.locationId))
          .where(or(isNull(alert.endedAt), gt(alert.startedAt, instant(now - 7 * DAY))))
          .orderBy(sql`${alert.endedAt} is null desc`, desc(alert.startedAt))
          .limit(ALERTS_SHOWN),
        db.select({ n: count() }).from(alert).where(isNull(alert.endedAt)),
        db
          .select({
            id: device.id,
            key: device.deviceKey,
            assetId: device.assetId,
            tag: asset.tag,
            model: asset.model,
            customer: customer.name,
            lastAt: device.lastAt,
          })
          .from(device)
          .innerJoin(asset, eq(asset.id, device.assetId))
          .innerJoin(customer, eq(customer.id, asset.customerId))
          .orderBy(asc(device.lastAt), asc(device.id))
          .limit(DEVICES_SHOWN),
      ]);
      const [places, channels] = await Promise.all([
        placesOf(
          db,
          alerts.map((a) => ({ id: a.locationId, path: a.path })),
        ),
        devices.length === 0
          ? []
          : db
              .select()
              .from(channel)
              .where(
                inArray(
                  channel.deviceId,
                  devices.map((d) => d.id),
                ),
              )
              .orderBy(asc(channel.channel)),
      ]);
      return {
        now,
        activeAlerts: active?.n ?? 0,
        alerts: alerts.map(({ alert: a, rule, tag, model, customer: name, locationId }) => ({
          id: a.id,
          rule: rule.name,
          assetId: a.assetId,
          tag,
          model,
          customer: name,
          place: places.of(locationId).label,
          channel: rule.channel,
          unit: rule.unit,
          limit: rule.threshold,
          side: rule.side,
          worst: a.worst,
          startedAt: a.startedAt,
          endedAt: a.endedAt,
          orderId: a.orderId,
          joined: a.joined === 1,
        })),
        devices: devices.map((d) => ({
          ...d,
          channels: channels
            .filter((c) => c.deviceId === d.id)
            .map((c) => ({ channel: c.channel, unit: c.unit, value: c.word ?? String(c.value), at: c.at })),
        })),
      };
    });

    serve(app, house, contracts.readReadings, async ({ params, query, now }) => {
      const devices = await db
        .select({ id: device.id, classId: asset.classId })
        .from(device)
        .innerJoin(asset, eq(asset.id, device.assetId))
        .where(eq(device.assetId, params.id));
      const ids = devices.map((d): DeviceId => d.id);
      const [rows, rules] =
        ids.length === 0
          ? [[], []]
          : await Promise.all([
              db
                .select()
                .from(reading)
                .where(
                  and(
                    inArray(reading.deviceId, ids),
                    eq(reading.channel, query.channel),
                    gt(reading.at, instant(now - 3 * DAY)),
                  ),
                )
                .orderBy(desc(reading.at))
                .limit(POINTS_SHOWN),
              db
                .select({ limit: alertRule.threshold, side: alertRule.side })
                .from(alertRule)
                .where(
                  and(
                    eq(alertRule.channel, query.channel),
                    inArray(
                      alertRule.assetClassId,
                      devices.map((d) => d.classId),
                    ),
                  ),
                ),
            ]);
      return {
        unit: rows[0]?.unit ?? null,
        points: rows.reverse().flatMap((r) => (r.value === null ? [] : [{ at: r.at, value: r.value }])),
        limits: rules,
      };
    });
  },
  { name: 'stavok-signal-routes', dependencies: ['stavok-authentication'] },
);
