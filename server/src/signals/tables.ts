// Devices, readings, alert rules and alerts.
import { boolean, double, index, int, mysqlTable, primaryKey, uniqueIndex, varchar } from 'drizzle-orm/mysql-core';
import type { AlertId, AlertRuleId, AssetClassId, AssetId, DeviceId, OrderId } from '#core/ids.ts';
import type { Priority } from '#core/service-levels/index.ts';
import type { Condition, WatchState } from '#core/signals/index.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { assetClass } from '../catalogue/tables.ts';
import { asset } from '../assets/tables.ts';

/** An hour: devices report every few minutes. */
export const HOLD_SECONDS = 3600;

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
    /** When it is abnormal. */
    condition: jsonColumn<Condition>().notNull(),
    ...{ onDelaySeconds: int().notNull(), offDelaySeconds: int().notNull().default(0) },
    /** How long a value counts where no other follows. */
    holdSeconds: int().notNull().default(HOLD_SECONDS),
    /** Of one model of the class only, or of one machine. */
    model: varchar({ length: 120 }),
    assetId: reference<AssetId>().references(() => asset.id),
    /** False: what a rule of the same name watches farther off is not watched here. */
    watched: boolean().notNull().default(true),
    priority: int().notNull().$type<Priority>(),
    version: int().notNull().default(1),
  },
  (t) => [index('alert_rule_class').on(t.assetClassId, t.channel)],
);

/** Where each rule stands with each asset: all before `lastAt` has been looked at, and at `dueAt` something happens by itself. */
export const ruleState = mysqlTable(
  'rule_state',
  {
    ruleId: reference<AlertRuleId>().notNull(),
    assetId: reference<AssetId>().notNull(),
    lastAt: instantColumn().notNull(),
    dueAt: instantColumn(),
    state: jsonColumn<WatchState>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.ruleId] }), index('rule_state_due').on(t.dueAt)],
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
    /** When it is active; abnormal since a delay before. */
    startedAt: instantColumn().notNull(),
    since: instantColumn(),
    endedAt: instantColumn(),
    /** Null while it goes on, and where it ended because it is not watched any more. */
    normalSince: instantColumn(),
    /** What was measured at its worst; null where nothing is measured. */
    worst: double(),
    orderId: reference<OrderId>(),
    joined: int().notNull().default(0),
  },
  (t) => [
    uniqueIndex('alert_identity').on(t.ruleId, t.assetId, t.startedAt),
    index('alert_active').on(t.endedAt, t.startedAt),
    index('alert_asset').on(t.assetId, t.ruleId, t.startedAt),
  ],
);
