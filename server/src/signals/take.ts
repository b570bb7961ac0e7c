// Taking readings: held once, judged by the rules of the asset's class, alerts raised and orders opened or joined.
import { and, asc, desc, eq, inArray, isNull, sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import { postReadings } from '#api/signals.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { AlertId, AssetId, DeviceId, OrderId } from '#core/ids.ts';
import {
  convertUnit,
  NORMAL,
  readPack,
  splitName,
  watch,
  type AlertChange,
  type Reading,
  type RuleState,
  sayExcess,
} from '#core/signals/index.ts';
import type { OrderAct } from '#core/orders/index.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import { asZone, type Instant } from '#core/time/index.ts';
import { bulkInsert, isTaken, type Database, type Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { accept, Refused } from '../platform/refuse.ts';
import { asset } from '../assets/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { alert, alertRule, channel, device, ruleState } from './tables.ts';
import { instantText } from '../platform/columns.ts';
import { raiseCallIn, recordActIn } from '../orders/index.ts';
import { countMeters } from './count-meters.ts';

type Located = Reading & { readonly channel: string; readonly deviceId: DeviceId; readonly assetId: AssetId };
type Rule = typeof alertRule.$inferSelect;
export type Taken = { readonly taken: number; readonly alreadyHeld: number; readonly alerts: number };

/** Finds each reading's device. One unknown device refuses the whole pack: nothing is half-written. */
async function locate(
  database: Database,
  readings: readonly Reading[],
): Promise<{ located: Located[]; classOf: Map<AssetId, number> }> {
  const split = readings.map((r) => ({ reading: r, parts: splitName(r.name) }));
  const keys = [...new Set(split.flatMap((s) => (s.parts ? [s.parts.device] : [])))];
  const rows =
    keys.length === 0
      ? []
      : await database.db
          .select({ id: device.id, key: device.deviceKey, assetId: device.assetId, classId: asset.classId })
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
  return { located, classOf: new Map(rows.map((r) => [r.assetId, r.classId])) };
}

/**
 * Values in the unit their channel is watched in: that of the rules of the asset's class, else that of what is held already.
 * One unit that does not convert refuses the whole pack by its name; a reading without a unit is in the channel's.
 */
async function inWatchedUnits(
  database: Database,
  readings: readonly Located[],
  classOf: ReadonlyMap<AssetId, number>,
): Promise<Located[]> {
  const given = readings.filter((r) => r.unit !== null && typeof r.value === 'number');
  if (given.length === 0) return [...readings];
  const [rules, held] = await Promise.all([
    database.db
      .select({ classId: alertRule.assetClassId, channel: alertRule.channel, unit: alertRule.unit })
      .from(alertRule)
      .where(inArray(alertRule.channel, [...new Set(given.map((r) => r.channel))])),
    database.db
      .select({ deviceId: channel.deviceId, channel: channel.channel, unit: channel.unit })
      .from(channel)
      .where(inArray(channel.deviceId, [...new Set(given.map((r) => r.deviceId))])),
  ]);
  const watched = (r: Located): string | null =>
    rules.find((x) => x.classId === classOf.get(r.assetId) && x.channel === r.channel)?.unit ??
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

/** A second alert of the same asset and rule joins the order that is still open; read under its lock, so that it cannot be finished meanwhile. */
async function openOrderOf(tx: Tx, rule: Rule, assetId: AssetId): Promise<{ id: OrderId; startedAt: Instant } | null> {
  const [row] = await tx.db
    .select({ id: workOrder.id, startedAt: workOrder.startedAt })
    .from(alert)
    .innerJoin(workOrder, eq(workOrder.id, alert.orderId))
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), inArray(workOrder.stage, [...OPEN_STAGES])))
    .orderBy(desc(workOrder.id))
    .limit(1)
    .for('update');
  return row ?? null;
}

/** Tells an order of an alert; an act of the house, recorded once however often a pack is sent. */
async function tellOrder(
  tx: Tx,
  order: { id: OrderId; startedAt: Instant },
  act: Extract<OrderAct, { kind: 'alert joined' | 'alert ended' }>,
  at: Instant,
  now: Instant,
): Promise<void> {
  const own = at < order.startedAt ? order.startedAt : at;
  const requestKey = `${act.kind === 'alert joined' ? 'joined' : 'ended'}-alert-${act.alertId}`;
  await recordActIn(tx, order.id, { at: own, act, requestKey, who: null }, now);
}

/** Ends the alert that is active and says so on its order. */
async function returned(
  tx: Tx,
  rule: Rule,
  assetId: AssetId,
  change: Extract<AlertChange, { kind: 'returned' }>,
  now: Instant,
): Promise<void> {
  const [row] = await tx.db
    .select({ id: alert.id, orderId: workOrder.id, startedAt: workOrder.startedAt })
    .from(alert)
    .leftJoin(workOrder, eq(workOrder.id, alert.orderId))
    .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), isNull(alert.endedAt)));
  if (!row) return;
  await tx.db.update(alert).set({ endedAt: change.at, worst: change.worst }).where(eq(alert.id, row.id));
  if (row.orderId === null || row.startedAt === null) return;
  const text = `${rule.name}: normal again; at its worst ${sayExcess(rule, change.worst)}`;
  const order = { id: row.orderId, startedAt: row.startedAt };
  await tellOrder(tx, order, { kind: 'alert ended', alertId: row.id, text }, change.at, now);
}

async function becameActive(
  tx: Tx,
  rule: Rule,
  assetId: AssetId,
  change: Extract<AlertChange, { kind: 'became active' }>,
  now: Instant,
): Promise<boolean> {
  try {
    const [made] = await tx.db
      .insert(alert)
      .values({ ruleId: rule.id, assetId, startedAt: change.since, worst: change.worst })
      .$returningId();
    const alertId = made?.id as AlertId;
    const open = await openOrderOf(tx, rule, assetId);
    const text = `${rule.name}: ${sayExcess(rule, change.worst)}`;
    if (open !== null) {
      await tellOrder(tx, open, { kind: 'alert joined', alertId, text }, change.since, now);
      await tx.db.update(alert).set({ orderId: open.id, joined: 1 }).where(eq(alert.id, alertId));
      return true;
    }
    const orderId = await raiseCallIn(
      tx,
      {
        kind: 'repair',
        assetIds: [assetId],
        priority: rule.priority,
        cause: 'unknown',
        startedAt: change.since,
        title: rule.name,
        raisedText: `alert: ${text}`,
        requestKey: null,
        who: null,
        role: null,
        fallbackZone: asZone('UTC'),
      },
      now,
    );
    await tx.db.update(alert).set({ orderId }).where(eq(alert.id, alertId));
    return true;
  } catch (error) {
    if (isTaken(error)) return false;
    throw error;
  }
}

async function judge(
  tx: Tx,
  rules: readonly Rule[],
  assetId: AssetId,
  samples: readonly Located[],
  now: Instant,
): Promise<number> {
  let alerts = 0;
  for (const rule of rules) {
    const own = samples
      .filter((s) => s.channel === rule.channel && typeof s.value === 'number')
      .sort((a, b) => a.at - b.at);
    if (own.length === 0) continue;
    const [held] = await tx.db
      .select()
      .from(ruleState)
      .where(and(eq(ruleState.assetId, assetId), eq(ruleState.ruleId, rule.id)))
      .for('update');
    let state: RuleState = held?.state ?? NORMAL;
    let lastAt = held?.lastAt ?? (0 as Instant);
    for (const sample of own) {
      // Late readings are held, but the rule has moved on.
      if (sample.at <= lastAt) continue;
      const next = watch(
        { side: rule.side, limit: rule.threshold, deadband: rule.deadband, onDelayMs: rule.onDelaySeconds * 1000 },
        state,
        { at: sample.at, value: sample.value as number },
      );
      state = next.state;
      lastAt = sample.at;
      if (next.change?.kind === 'became active')
        alerts += (await becameActive(tx, rule, assetId, next.change, now)) ? 1 : 0;
      if (next.change?.kind === 'returned') await returned(tx, rule, assetId, next.change, now);
      else if (state.kind === 'active')
        await tx.db
          .update(alert)
          .set({ worst: state.worst })
          .where(and(eq(alert.ruleId, rule.id), eq(alert.assetId, assetId), isNull(alert.endedAt)));
    }
    await tx.db
      .insert(ruleState)
      .values({ ruleId: rule.id, assetId, lastAt, state })
      .onDuplicateKeyUpdate({ set: { lastAt, state } });
  }
  return alerts;
}

/** Takes a parsed SenML pack: all of it or nothing, in one transaction. */
export async function takePack(database: Database, pack: unknown, now: Instant): Promise<Taken> {
  const { located: found, classOf } = await locate(database, accept(readPack(pack, now)));
  const located = await inWatchedUnits(database, found, classOf);
  return database.transact(async (tx) => {
    const alreadyHeld = await hold(tx, located);
    const byAsset = new Map<AssetId, Located[]>();
    for (const r of located) byAsset.set(r.assetId, [...(byAsset.get(r.assetId) ?? []), r]);
    let alerts = 0;
    for (const [assetId, samples] of [...byAsset].sort((a, b) => a[0] - b[0])) {
      const rules = await tx.db
        .select()
        .from(alertRule)
        .where(
          and(
            eq(alertRule.assetClassId, classOf.get(assetId) as Rule['assetClassId']),
            inArray(alertRule.channel, [...new Set(samples.map((s) => s.channel))]),
          ),
        )
        .orderBy(asc(alertRule.id));
      alerts += await judge(tx, rules, assetId, samples, now);
      await countMeters(tx, assetId, samples, now);
    }
    await announce(tx, postReadings);
    return { taken: located.length - alreadyHeld, alreadyHeld, alerts };
  });
}

export const newClientId = (): string => `stavok-${randomUUID().slice(0, 8)}`;
