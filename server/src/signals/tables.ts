// Devices, readings, alert rules and alerts.
import {
  boolean,
  double,
  index,
  int,
  mysqlEnum,
  mysqlTable,
  primaryKey,
  uniqueIndex,
  varchar,
} from 'drizzle-orm/mysql-core';
import type {
  AlertFloodId,
  AlertId,
  AlertRuleId,
  AlertShelfId,
  AssetClassId,
  AssetId,
  CalendarId,
  CustomerId,
  DeviceId,
  JobPlanId,
  LocationId,
  OrderId,
  PersonId,
  UnknownDeviceId,
} from '#core/ids.ts';
import type { Priority } from '#core/service-levels/index.ts';
import type { Condition, TellStep, Watching, WatchState } from '#core/signals/index.ts';
import { instantColumn, jsonColumn, reference, rowId } from '../platform/columns.ts';
import { calendar } from '../calendars/tables.ts';
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
  },
  (t) => [uniqueIndex('device_key').on(t.deviceKey), index('device_asset').on(t.assetId)],
);

/** Which machine a device was on, from an instant until it was on another; what it says is that machine's. Where it is now is told by `device`. */
export const deviceTie = mysqlTable(
  'device_tie',
  {
    deviceId: reference<DeviceId>()
      .notNull()
      .references(() => device.id),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    from: instantColumn().notNull(),
    to: instantColumn(),
  },
  (t) => [primaryKey({ columns: [t.deviceId, t.from] }), index('device_tie_asset').on(t.assetId)],
);

/** Who reports and is tied to no machine. */
export const unknownDevice = mysqlTable(
  'unknown_device',
  {
    id: rowId<UnknownDeviceId>(),
    deviceKey: varchar({ length: 100 }).notNull(),
    firstAt: instantColumn().notNull(),
    lastAt: instantColumn().notNull(),
    /** As often as was counted: once a minute at most. */
    records: int().notNull(),
    channels: varchar({ length: 200 }).notNull(),
    /** Nobody wants to hear of it again. */
    refusedAt: instantColumn(),
  },
  (t) => [uniqueIndex('unknown_device_key').on(t.deviceKey), index('unknown_device_last').on(t.refusedAt, t.lastAt)],
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

const SUMMED = {
  ...{ deviceId: reference<DeviceId>().notNull(), channel: varchar({ length: 40 }).notNull() },
  ...{ n: int().notNull(), low: double().notNull(), high: double().notNull(), sum: double().notNull() },
};
/** Numbers of a channel by the hour, for long spans: kept longer than readings are. */
export const readingHour = mysqlTable('reading_hour', { ...SUMMED, hour: instantColumn().notNull() }, (t) => [
  primaryKey({ columns: [t.deviceId, t.channel, t.hour] }),
]);
/** The same by the day, in UTC. */
export const readingDay = mysqlTable('reading_day', { ...SUMMED, day: instantColumn().notNull() }, (t) => [
  primaryKey({ columns: [t.deviceId, t.channel, t.day] }),
]);
/** Up to when readings are summed; one row. */
export const readingSummed = mysqlTable('reading_summed', { id: int().primaryKey(), upTo: instantColumn().notNull() });
/** Hours in which something was read after they may have been summed. */
export const staleHour = mysqlTable(
  'stale_hour',
  {
    ...{ deviceId: reference<DeviceId>().notNull(), channel: varchar({ length: 40 }).notNull() },
    hour: instantColumn().notNull(),
  },
  (t) => [primaryKey({ columns: [t.deviceId, t.channel, t.hour] })],
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
    /** What was read before is not judged by it: it watched something else then. Null: it never has. */
    watchedSince: instantColumn(),
    priority: int().notNull().$type<Priority>(),
    /** It counts for rules made of others: nobody is told of it, and nothing is raised. */
    partOnly: boolean().notNull().default(false),
    /** Somebody decides whether an order is raised. */
    askFirst: boolean().notNull().default(false),
    /** What the order says beside what was seen, what the cause is likely to be, and by which plan the work is done. */
    orderText: varchar({ length: 500 }).notNull().default(''),
    likelyCause: varchar({ length: 200 }).notNull().default(''),
    jobPlanId: reference<JobPlanId>(),
    /** When it watches; null: always. */
    watchCalendarId: reference<CalendarId>().references(() => calendar.id),
    /** Names of rules while whose alerts nobody is told of these. */
    suppressedBy: jsonColumn<readonly string[] | null>(),
    /** Who is told, in their order. */
    tells: jsonColumn<readonly TellStep[] | null>(),
    version: int().notNull().default(1),
  },
  (t) => [index('alert_rule_class').on(t.assetClassId, t.channel)],
);

/**
 * Where each rule stands with each asset, as of `lastAt`: all before has been looked at, what was read since may have been too. Nothing
 * happens by itself before `dueAt`.
 */
export const ruleState = mysqlTable(
  'rule_state',
  {
    ruleId: reference<AlertRuleId>().notNull(),
    assetId: reference<AssetId>().notNull(),
    lastAt: instantColumn().notNull(),
    dueAt: instantColumn(),
    /** The newest checkpoint of it. */
    checkpointAt: instantColumn(),
    state: jsonColumn<WatchState>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.ruleId] }), index('rule_state_due').on(t.dueAt)],
);

/** Where a rule stood with an asset at an instant: what is read late is judged again from there. */
export const ruleCheckpoint = mysqlTable(
  'rule_checkpoint',
  {
    ruleId: reference<AlertRuleId>().notNull(),
    assetId: reference<AssetId>().notNull(),
    at: instantColumn().notNull(),
    state: jsonColumn<WatchState>().notNull(),
  },
  (t) => [primaryKey({ columns: [t.assetId, t.ruleId, t.at] }), index('rule_checkpoint_at').on(t.at)],
);

/**
 * Machines are watched in shards, each by one server at a time: it keeps in memory where rules stand, until somebody else may take the
 * shard, or its epoch says that rules have changed. One more shard is the link to the broker.
 */
export const signalShard = mysqlTable('signal_shard', {
  id: int().primaryKey(),
  holder: varchar({ length: 36 }),
  epoch: int().notNull().default(1),
  /** How often it was taken: who held it before, and holds it again, does not know what happened between. */
  taken: int().notNull().default(0),
});

/** Servers that watch, each until when it holds what it holds: a row of its own, so that going on waits for nothing that is being written. */
export const watchServer = mysqlTable('watch_server', {
  id: varchar({ length: 36 }).primaryKey(),
  until: instantColumn().notNull(),
});

/** What was read by a server that does not watch the machine, or late: whoever watches it judges it from there. */
export const toJudge = mysqlTable(
  'to_judge',
  {
    id: rowId<number>(),
    shard: int().notNull(),
    assetId: reference<AssetId>().notNull(),
    /** Null: by every rule of the machine. */
    channel: varchar({ length: 40 }),
    from: instantColumn().notNull(),
  },
  (t) => [index('to_judge_shard').on(t.shard, t.id)],
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
    /** The rule as it was; null: found before that was kept. */
    ruleThen: jsonColumn<Watching | null>(),
    /** When it is active; abnormal since a delay before. */
    startedAt: instantColumn().notNull(),
    since: instantColumn(),
    endedAt: instantColumn(),
    /** Null while it goes on, and where it ended because it is not watched any more. */
    normalSince: instantColumn(),
    /** What was read late showed that there was none: it is told as such, and its order stays. */
    withdrawnAt: instantColumn(),
    /** What was measured at its worst; null where nothing is measured. */
    worst: double(),
    orderId: reference<OrderId>(),
    /** Why it raised no order by itself. */
    noOrder: varchar({ length: 300 }),
    /** From when people are told of it; null: they are not, for something holds it. */
    toldAt: instantColumn(),
    heldBy: mysqlEnum(['shelved', 'suppressed', 'part']),
    acknowledgedAt: instantColumn(),
    acknowledgedBy: reference<PersonId>(),
    floodId: reference<AlertFloodId>(),
    joined: int().notNull().default(0),
  },
  (t) => [
    uniqueIndex('alert_identity').on(t.ruleId, t.assetId, t.startedAt),
    index('alert_active').on(t.endedAt, t.startedAt),
    index('alert_asset').on(t.assetId, t.ruleId, t.startedAt),
    index('alert_started').on(t.startedAt),
    index('alert_untold').on(t.toldAt, t.endedAt),
    index('alert_order').on(t.orderId),
    index('alert_answered').on(t.acknowledgedAt, t.toldAt),
  ],
);

/** While it lasts nobody is told of a rule's alerts of a machine. */
export const alertShelf = mysqlTable(
  'alert_shelf',
  {
    id: rowId<AlertShelfId>(),
    ruleId: reference<AlertRuleId>()
      .notNull()
      .references(() => alertRule.id),
    assetId: reference<AssetId>()
      .notNull()
      .references(() => asset.id),
    from: instantColumn().notNull(),
    /** When it ends; put earlier by whoever takes it off. */
    until: instantColumn().notNull(),
    reason: varchar({ length: 300 }).notNull(),
    personId: reference<PersonId>().notNull(),
    endedBy: reference<PersonId>(),
  },
  (t) => [index('alert_shelf_asset').on(t.assetId, t.ruleId, t.until), index('alert_shelf_until').on(t.until)],
);

/** Many machines of one place within minutes: one order for all of them. */
export const alertFlood = mysqlTable(
  'alert_flood',
  {
    id: rowId<AlertFloodId>(),
    /** The top of the place, and whose machines stand there. */
    locationId: reference<LocationId>().notNull(),
    customerId: reference<CustomerId>().notNull(),
    from: instantColumn().notNull(),
    until: instantColumn(),
    orderId: reference<OrderId>(),
  },
  (t) => [uniqueIndex('alert_flood_identity').on(t.locationId, t.customerId, t.from)],
);

/** What those who tell alerts of a place lock, so that one sees what the other told. */
export const alertPlace = mysqlTable(
  'alert_place',
  { locationId: reference<LocationId>().notNull(), customerId: reference<CustomerId>().notNull() },
  (t) => [primaryKey({ columns: [t.locationId, t.customerId] })],
);

/** Who was told of an alert, by which step of its rule: each once. */
export const alertTold = mysqlTable(
  'alert_told',
  {
    alertId: reference<AlertId>()
      .notNull()
      .references(() => alert.id),
    step: int().notNull(),
    personId: reference<PersonId>().notNull(),
    at: instantColumn().notNull(),
  },
  (t) => [primaryKey({ columns: [t.alertId, t.step] })],
);
