// Devices, readings, alert rules and alerts.
import { double, index, int, mysqlEnum, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { AlertId, AlertRuleId, AssetClassId, AssetId, DeviceId, OrderId } from '#core/ids.ts';
import type { Priority } from '#core/service-levels/index.ts';
import type { RuleState } from '#core/signals/index.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { assetClass } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';

export const device = mysqlTable(
  'device',
  {
    id: rowId<DeviceId>(),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    deviceKey: varchar({ length: 100 }).notNull(),
    lastAt: instantColumn(),
  },
  (t) => [uniqueIndex('device_key').on(t.deviceKey), index('device_asset').on(t.assetId)],
);

/** One value of one channel at one instant; sent twice, it is held once. */
export const reading = mysqlTable(
  'reading',
  {
    deviceId: reference<DeviceId>().notNull(),
    channel: varchar({ length: 40 }).notNull(),
    at: instantColumn().notNull(),
    value: double(),
    word: varchar({ length: 120 }),
    unit: varchar({ length: 20 }),
  },
  (t) => [primaryKey({ columns: [t.deviceId, t.channel, t.at] })],
);

/** The newest reading of each channel, for lists. */
export const channel = mysqlTable(
  'channel',
  {
    deviceId: reference<DeviceId>().notNull(),
    channel: varchar({ length: 40 }).notNull(),
    at: instantColumn().notNull(),
    value: double(),
    word: varchar({ length: 120 }),
    unit: varchar({ length: 20 }),
  },
  (t) => [primaryKey({ columns: [t.deviceId, t.channel] })],
);

export const alertRule = mysqlTable(
  'alert_rule',
  {
    id: rowId<AlertRuleId>(),
    name: varchar({ length: 120 }).notNull(),
    assetClassId: reference<AssetClassId>()
      .notNull()
      .references(() => assetClass.id),
    channel: varchar({ length: 40 }).notNull(),
    unit: varchar({ length: 20 }).notNull(),
    side: mysqlEnum(['above', 'below']).notNull(),
    threshold: double().notNull(),
    deadband: double().notNull(),
    onDelaySeconds: int().notNull(),
    priority: int().notNull().$type<Priority>(),
    version: int().notNull().default(1),
  },
  (t) => [index('alert_rule_class').on(t.assetClassId, t.channel)],
);

/** Where each rule stands with each asset between two readings. */
export const ruleState = mysqlTable(
  'rule_state',
  {
    ruleId: reference<AlertRuleId>().notNull(),
    assetId: reference<AssetId>().notNull(),
    lastAt: instantColumn().notNull(),
    state: jsonColumn<RuleState>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.ruleId] })],
);

export const alert = mysqlTable(
  'alert',
  {
    id: rowId<AlertId>(),
    ruleId: reference<AlertRuleId>()
      .notNull()
      .references(() => alertRule.id),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    startedAt: instantColumn().notNull(),
    endedAt: instantColumn(),
    worst: double().notNull(),
    orderId: reference<OrderId>(),
    joined: int().notNull().default(0),
  },
  (t) => [
    uniqueIndex('alert_identity').on(t.ruleId, t.assetId, t.startedAt),
    index('alert_active').on(t.endedAt, t.startedAt),
    index('alert_asset').on(t.assetId, t.ruleId, t.startedAt),
  ],
);
