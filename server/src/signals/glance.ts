// The watch: places whose machines report, and the machines of one of them at a glance.
import { group } from 'd3-array';
import { and, asc, count, desc, eq, gt, inArray, isNotNull, like, lte, max, sql } from 'drizzle-orm';
import type { WatchedMachineOut } from '#api/signals.ts';
import type { AssetId, DeviceId, LocationId } from '#core/ids.ts';
import { drawnLimits, trendOf } from '#core/signals/index.ts';
import { HOUR, instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { instantText } from '../platform/columns.ts';
import type { Db } from '../platform/database.ts';
import { outOfService } from './out-of-service.ts';
import { goesOn } from './going-on.ts';
import { alert, alertRule, channel, device, reading } from './tables.ts';
import { rulesOf } from './watched.ts';

const SILENT_MS = HOUR;
const MACHINES_SHOWN = 300;
const top = sql<number>`cast(substring_index(substring(${location.path}, 2), '/', 1) as unsigned)`;

/** Places by their top, those where something goes on first. */
export async function watchedPlaces(db: Db, now: Instant) {
  const heard = db
    .select({ deviceId: channel.deviceId, at: max(channel.at).as('heard_at') })
    .from(channel)
    .groupBy(channel.deviceId)
    .as('heard');
  const active = db
    .select({ assetId: alert.assetId, n: count().as('active_n') })
    .from(alert)
    .where(goesOn)
    .groupBy(alert.assetId)
    .as('active');
  const rows = await db
    .select({
      id: top,
      machines: sql<number>`count(distinct ${asset.id})`,
      silent: sql<number>`count(distinct if(${heard.at} is null or ${heard.at} < ${instantText(instant(now - SILENT_MS))}, ${asset.id}, null))`,
      active: sql<number>`count(distinct if(${active.n} > 0, ${asset.id}, null))`,
      customer: sql<string>`min(${customer.name})`,
    })
    .from(device)
    .innerJoin(asset, eq(asset.id, device.assetId))
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .innerJoin(location, eq(location.id, asset.locationId))
    .leftJoin(heard, eq(heard.deviceId, device.id))
    .leftJoin(active, eq(active.assetId, asset.id))
    .groupBy(top);
  const names =
    rows.length === 0
      ? []
      : await db
          .select({ id: location.id, name: location.name })
          .from(location)
          .where(
            inArray(
              location.id,
              rows.map((r) => Number(r.id) as LocationId),
            ),
          );
  return rows
    .map((r) => ({
      ...{ id: Number(r.id), name: names.find((n) => n.id === Number(r.id))?.name ?? '', customer: r.customer },
      ...{ machines: Number(r.machines), silent: Number(r.silent), active: Number(r.active) },
    }))
    .sort((a, b) => b.active - a.active || b.silent - a.silent || a.name.localeCompare(b.name));
}

/** What each channel said an hour before; what said nothing near then has no trend. */
async function anHourAgo(db: Db, deviceIds: readonly DeviceId[], now: Instant) {
  if (deviceIds.length === 0) return new Map<string, number>();
  const rows = await db
    .select({ deviceId: reading.deviceId, channel: reading.channel, value: reading.value })
    .from(reading)
    .where(
      and(
        inArray(reading.deviceId, [...deviceIds]),
        isNotNull(reading.value),
        gt(reading.at, instant(now - 2 * HOUR)),
        lte(reading.at, instant(now - HOUR)),
      ),
    )
    .orderBy(asc(reading.at))
    .limit(20_000);
  // The newest of them stays.
  return new Map(rows.map((r) => [`${r.deviceId}/${r.channel}`, r.value as number]));
}

/** The machines of a place that report, those with an alert first. */
export async function machinesAt(db: Db, place: LocationId, now: Instant): Promise<WatchedMachineOut[]> {
  const rows = await db
    .select({
      ...{ id: asset.id, tag: asset.tag, model: asset.model, classId: asset.classId, state: asset.state },
      ...{ deviceId: device.id, locationId: asset.locationId, path: location.path },
    })
    .from(device)
    .innerJoin(asset, eq(asset.id, device.assetId))
    .innerJoin(location, eq(location.id, asset.locationId))
    .where(like(location.path, `/${place}/%`))
    .orderBy(asc(asset.tag))
    .limit(MACHINES_SHOWN);
  const ids = [...new Set(rows.map((r): AssetId => r.id))];
  const deviceIds = rows.map((r) => r.deviceId);
  if (ids.length === 0) return [];
  const [channels, before, rules, alerts, masks, places] = await Promise.all([
    db.select().from(channel).where(inArray(channel.deviceId, deviceIds)).orderBy(asc(channel.channel)),
    anHourAgo(db, deviceIds, now),
    rulesOf(db, rows),
    db
      .select({ alert, rule: alertRule })
      .from(alert)
      .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
      .where(and(inArray(alert.assetId, ids), goesOn))
      .orderBy(asc(alertRule.priority), desc(alert.startedAt)),
    outOfService(db, ids, instant(now - HOUR)),
    placesOf(
      db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    ),
  ]);
  const byDevice = group(channels, (c) => c.deviceId);
  const machines = [...group(rows, (r) => r.id)].map(([id, own]) => {
    const [first] = own as [(typeof rows)[number]];
    const said = own.flatMap((o) => byDevice.get(o.deviceId) ?? []);
    return {
      ...{ assetId: id, tag: first.tag, model: first.model, where: places.of(first.locationId).label },
      lastAt: said.length === 0 ? null : instant(Math.max(...said.map((c) => c.at))),
      outOfService: (masks.get(id) ?? []).some((m) => m.from <= now && now < m.to),
      channels: said.map((c) => {
        const limits = rules(id)
          .filter((r) => r.channel === c.channel)
          .flatMap((r) => drawnLimits(r.condition));
        const [low, high] = (['below', 'above'] as const).map(
          (side) => limits.find((l) => l.side === side)?.limit ?? null,
        ) as [number | null, number | null];
        const own = alerts.find((a) => a.alert.assetId === id && a.rule.channel === c.channel);
        const then = before.get(`${c.deviceId}/${c.channel}`);
        const band = low !== null && high !== null ? high - low : null;
        return {
          ...{ channel: c.channel, unit: c.unit, value: c.value, word: c.word, at: c.at, low, high },
          trend: c.value === null || then === undefined ? null : trendOf(c.value, then, band),
          alert: own
            ? {
                id: own.alert.id,
                rule: own.rule.name,
                acknowledged: own.alert.acknowledgedAt !== null,
                held: own.alert.toldAt === null,
              }
            : null,
        };
      }),
    };
  });
  const weight = (m: WatchedMachineOut): number =>
    m.channels.some((c) => c.alert) ? 0 : m.lastAt === null || now - m.lastAt > SILENT_MS ? 1 : 2;
  return machines.sort((a, b) => weight(a) - weight(b) || a.tag.localeCompare(b.tag));
}
