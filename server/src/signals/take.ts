// Taking readings: held once, in the unit their channel is watched in, and judged by the rules of their machine. What several send at
// once is written together; whoever sent it is answered when it is durable.
import { group } from 'd3-array';
import { eq, inArray, sql } from 'drizzle-orm';
import { postReadings } from '#api/signals.ts';
import type { AssetId, DeviceId } from '#core/ids.ts';
import { asSample, convertUnit, readPack, splitName, type RecordRead, type Sample } from '#core/signals/index.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Database, type Db, type Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { accept, Refused } from '../platform/refuse.ts';
import { countMeters } from './count-meters.ts';
import { goOn } from './judging.ts';
import { samplesAfter } from './series.ts';
import { shardOf } from './shards.ts';
import { channel, device, deviceTie } from './tables.ts';
import { noteUnknown } from './unknown.ts';
import { inTurn, judgeLater, watchOf, type Turn, type Watch } from './watch.ts';
import type { WatchedMachine } from './watched.ts';

export type Taken = {
  readonly taken: number;
  readonly alreadyHeld: number;
  readonly alerts: number;
  /** Records that were not taken, each with why. */
  readonly setAside: readonly Refusal[];
};

/** A pack that waits to be written, and whoever waits for that. */
type Waiting = {
  readonly readings: readonly RecordRead[];
  readonly setAside: Refusal[];
  readonly now: Instant;
  readonly done: (taken: Taken) => void;
  readonly failed: (error: unknown) => void;
};
type Located = RecordRead & {
  readonly channel: string;
  readonly deviceId: DeviceId;
  readonly assetId: AssetId;
  readonly pack: Waiting;
};

const leave = (pack: Waiting, record: number, code: Refusal['code'], message: string): void => {
  pack.setAside.push(refusal(code, `Record ${record + 1}: ${message}`, `pack.${record}`));
};

/** Finds each reading's device and the machine it is on; what no machine is known for is set aside, and waits by name to be tied to one. */
async function locate(
  db: Db,
  packs: readonly Waiting[],
): Promise<{ located: Located[]; machines: Map<AssetId, WatchedMachine> }> {
  const split = packs.flatMap((pack) => pack.readings.map((r) => ({ pack, reading: r, parts: splitName(r.name) })));
  const keys = [...new Set(split.flatMap((s) => (s.parts ? [s.parts.device] : [])))];
  const rows =
    keys.length === 0
      ? []
      : await db
          .select({
            ...{
              id: device.id,
              key: device.deviceKey,
              assetId: deviceTie.assetId,
              from: deviceTie.from,
              to: deviceTie.to,
            },
            ...{ classId: asset.classId, model: asset.model, state: asset.state },
          })
          .from(device)
          .innerJoin(deviceTie, eq(deviceTie.deviceId, device.id))
          .innerJoin(asset, eq(asset.id, deviceTie.assetId))
          .where(inArray(device.deviceKey, keys));
  // Keys are compared as the database does, without regard to case.
  const byKey = group(rows, (r) => r.key.toLowerCase());
  const unknown: { key: string; channel: string; at: Instant; now: Instant }[] = [];
  const located = split.flatMap(({ pack, reading, parts }): Located[] => {
    const ties = parts ? (byKey.get(parts.device.toLowerCase()) ?? []) : [];
    // What a device says is of the machine it was on at the time.
    const found = ties.find((t) => t.from <= reading.at && (t.to === null || reading.at < t.to));
    if (parts && found && parts.channel.length <= 40)
      return [{ ...reading, channel: parts.channel, deviceId: found.id, assetId: found.assetId, pack }];
    if (found) leave(pack, reading.record, 'malformed', 'the channel name is longer than 40 characters.');
    else if (ties.length > 0)
      leave(pack, reading.record, 'unknown-device', 'its device was on no machine at that time.');
    else {
      const name = parts?.device ?? reading.name;
      leave(
        pack,
        reading.record,
        'unknown-device',
        `no device is registered as “${name}”; it waits in Signals to be tied to its machine.`,
      );
      if (parts) unknown.push({ key: parts.device, channel: parts.channel, at: reading.at, now: pack.now });
    }
    return [];
  });
  await noteUnknown(db, unknown);
  const machines = new Map(
    rows.map((r) => [r.assetId, { id: r.assetId, classId: r.classId, model: r.model, state: r.state }]),
  );
  return { located, machines };
}

/**
 * Values in the unit their channel is watched in: that of the rules of the machine, else that of what is held already. One that does not
 * convert is set aside; a reading without a unit is in the channel's.
 */
async function inWatchedUnits(
  turn: Turn,
  readings: readonly Located[],
  machines: ReadonlyMap<AssetId, WatchedMachine>,
): Promise<Located[]> {
  const ruled = (r: Located): string | null =>
    turn.rulesOf(machines.get(r.assetId) as WatchedMachine).find((x) => x.channel === r.channel)?.unit ?? null;
  const isGiven = (r: Located): boolean => r.unit !== null && typeof r.value === 'number';
  const asked = new Set(readings.filter((r) => isGiven(r) && ruled(r) === null).map((r) => r.deviceId));
  const held =
    asked.size === 0
      ? []
      : await turn.tx.db
          .select({ deviceId: channel.deviceId, channel: channel.channel, unit: channel.unit })
          .from(channel)
          .where(inArray(channel.deviceId, [...asked]));
  const heldUnits = new Map(held.map((h) => [`${h.deviceId}/${h.channel}`, h.unit]));
  return readings.flatMap((r): Located[] => {
    const to = isGiven(r) ? (ruled(r) ?? heldUnits.get(`${r.deviceId}/${r.channel}`) ?? null) : null;
    if (to === null || to === '' || r.unit === null || to === r.unit) return [r];
    const value = convertUnit(r.value as number, r.unit, to);
    if (value.ok) return [{ ...r, value: value.value, unit: to }];
    for (const x of value.refusals) leave(r.pack, r.record, x.code, x.message);
    return [];
  });
}

const COLUMNS = ['device_id', 'channel', 'at', 'value', 'word', 'unit'];
const row = (r: Located): unknown[] => [
  ...[r.deviceId, r.channel, instantText(r.at)],
  typeof r.value === 'number' ? r.value : typeof r.value === 'boolean' ? Number(r.value) : null,
  typeof r.value === 'string' ? r.value.slice(0, 120) : null,
  r.unit?.slice(0, 20) ?? null,
];
const keyOf = (r: { deviceId: number; channel: string; at: Instant }): string =>
  `${r.deviceId}/${r.at}/${r.channel.toLowerCase()}`;

/** Writes readings that are not held yet; gives those. Of two values for one instant the first received stays. */
async function hold(tx: Tx, readings: readonly Located[]): Promise<Located[]> {
  const first = new Map<string, Located>();
  for (const r of readings) if (!first.has(keyOf(r))) first.set(keyOf(r), r);
  const fresh = [...first.values()];
  const insert = async (some: readonly Located[]): Promise<number> => {
    if (some.length === 0) return 0;
    const [result] = await tx.connection.query('INSERT IGNORE INTO reading (??) VALUES ?', [COLUMNS, some.map(row)]);
    return (result as { affectedRows: number }).affectedRows;
  };
  await tx.connection.query('SAVEPOINT held');
  if ((await insert(fresh)) === fresh.length) return fresh;
  // Some are held already: which, nobody can tell afterwards.
  await tx.connection.query('ROLLBACK TO SAVEPOINT held');
  const [known] = (await tx.db.execute(
    sql`select device_id, channel, at from reading where (device_id, channel, at) in (${sql.join(
      fresh.map((r) => sql`(${r.deviceId}, ${r.channel}, ${instantText(r.at)})`),
      sql`, `,
    )}) for update`,
  )) as unknown as [{ device_id: number; channel: string; at: string }[]];
  const held = new Set(
    known.map((k) =>
      keyOf({ deviceId: k.device_id, channel: k.channel, at: instant(Date.parse(`${k.at.replace(' ', 'T')}Z`)) }),
    ),
  );
  const missing = fresh.filter((r) => !held.has(keyOf(r)));
  await insert(missing);
  return missing;
}

/** Notes the newest of each channel. `at` is compared before it is set: MariaDB assigns from left to right. */
async function noteNewest(tx: Tx, readings: readonly Located[]): Promise<void> {
  const newest = new Map<string, Located>();
  for (const r of readings) {
    const key = `${r.deviceId}/${r.channel}`;
    const known = newest.get(key);
    if (!known || known.at < r.at) newest.set(key, r);
  }
  await bulkInsert(
    tx.connection,
    'channel',
    COLUMNS,
    [...newest.values()].sort((a, b) => a.deviceId - b.deviceId || (a.channel < b.channel ? -1 : 1)).map(row),
    'ON DUPLICATE KEY UPDATE value = IF(VALUES(at) >= at, VALUES(value), value), word = IF(VALUES(at) >= at, VALUES(word), word), unit = IF(VALUES(at) >= at, VALUES(unit), unit), at = GREATEST(at, VALUES(at))',
  );
}

type Fresh = { readonly assetId: AssetId; readonly channel: string; readonly samples: Sample[] };

/** Series of what was taken, each in the order of its times, one value for an instant. */
function seriesOf(readings: readonly Located[]): Fresh[] {
  const found = new Map<string, Fresh>();
  for (const r of readings) {
    const key = `${r.assetId}/${r.channel}`;
    const own = found.get(key) ?? { assetId: r.assetId, channel: r.channel, samples: [] };
    own.samples.push(asSample(r));
    found.set(key, own);
  }
  for (const { samples } of found.values()) samples.sort((a, b) => a.at - b.at);
  return [...found.values()];
}

/** What a server has read since it kept where rules stand is looked at again by whoever takes them up. */
export async function takeUp(
  turn: Turn,
  ids: readonly AssetId[],
  machineOf: (id: AssetId) => WatchedMachine | undefined,
  now: Instant,
): Promise<number> {
  const loaded = await turn.load(ids);
  const going = loaded.flatMap(({ assetId, ruleId }) => {
    const machine = machineOf(assetId);
    const rule = machine && turn.rulesOf(machine).find((r) => r.id === ruleId);
    const standing = rule && turn.standing(ruleId, assetId);
    return rule && standing ? [{ rule, assetId, upTo: standing.state.upTo }] : [];
  });
  const read = await samplesAfter(
    turn.tx.db,
    going.map(({ rule, assetId, upTo }) => ({ assetId, channel: rule.channel, after: upTo })),
  );
  return goOn(
    turn,
    going.flatMap(({ rule, assetId, upTo }) => {
      const samples = (read.get(assetId)?.get(rule.channel) ?? []).filter((s) => s.at > upTo);
      return samples.length === 0 ? [] : [{ rule, assetId, samples, until: (samples.at(-1) as Sample).at }];
    }),
    now,
  );
}

/** Judges what was taken of machines that are this server's; the rest, and what comes late, is left to be judged. */
async function judge(
  turn: Turn,
  fresh: readonly Located[],
  machines: ReadonlyMap<AssetId, WatchedMachine>,
  now: Instant,
): Promise<Map<AssetId, number>> {
  const alerts = new Map<AssetId, number>();
  const later: { assetId: AssetId; channel: string; from: Instant }[] = [];
  const series = seriesOf(fresh);
  const byAsset = new Map<AssetId, Fresh[]>();
  for (const s of series) byAsset.set(s.assetId, [...(byAsset.get(s.assetId) ?? []), s]);
  for (const [assetId, own] of [...byAsset].sort((a, b) => a[0] - b[0])) {
    const rules = turn.rulesOf(machines.get(assetId) as WatchedMachine);
    const going = own.flatMap(({ channel: of, samples }) => {
      const watching = rules.filter((r) => r.channel === of);
      const [first, last] = [samples[0], samples.at(-1)];
      if (!first || !last || watching.length === 0) return [];
      if (!turn.holds(assetId)) {
        later.push({ assetId, channel: of, from: first.at });
        return [];
      }
      return watching.flatMap((rule) => {
        const standing = turn.standing(rule.id, assetId);
        const upTo = standing?.state.upTo ?? null;
        const isLate = upTo !== null && first.at <= upTo;
        if (isLate) later.push({ assetId, channel: of, from: first.at });
        const since = rule.watchedSince;
        const after = samples.filter((s) => (upTo === null || s.at > upTo) && (since === null || s.at >= since));
        return after.length === 0 ? [] : [{ rule, assetId, samples: after, until: last.at }];
      });
    });
    const n = await goOn(turn, going, now);
    if (n > 0) alerts.set(assetId, n);
  }
  const once = new Map(later.map((l) => [`${l.assetId}/${l.channel}`, l]));
  if (once.size > 0) await judgeLater(turn.tx, [...once.values()]);
  return alerts;
}

/** Screens are told of readings that set off nothing at most so often. */
const TELL_EVERY_MS = 2000;
let toldAt = 0;

/** Writes some packs together, in one transaction; each is answered for itself. */
async function write(database: Database, watch: Watch, packs: readonly Waiting[]): Promise<Map<Waiting, Taken>> {
  const now = instant(Math.max(...packs.map((p) => p.now)));
  const { located: all, machines } = await locate(database.db, packs);
  const shards = [...new Set(all.map((r) => shardOf(r.assetId)))];
  const counts = new Map(packs.map((p) => [p, { taken: 0, alreadyHeld: 0, alerts: 0 }]));
  const before = new Map(packs.map((p) => [p, p.setAside.length]));
  if (all.length > 0)
    await inTurn(database, watch, shards, now, async (turn) => {
      // Done once more where the database says so: from the beginning.
      for (const p of packs) {
        p.setAside.length = before.get(p) as number;
        counts.set(p, { taken: 0, alreadyHeld: 0, alerts: 0 });
      }
      const ids = [...machines.keys()].filter((id) => turn.holds(id));
      await takeUp(turn, ids, (id) => machines.get(id), now);
      const located = await inWatchedUnits(turn, all, machines);
      const fresh = await hold(turn.tx, located);
      await noteNewest(turn.tx, fresh);
      const alerts = await judge(turn, fresh, machines, now);
      await countMeters(turn.tx, fresh, now);
      const taken = new Set(fresh);
      for (const r of located) {
        const own = counts.get(r.pack) as { taken: number; alreadyHeld: number; alerts: number };
        if (taken.has(r)) own.taken += 1;
        else own.alreadyHeld += 1;
        own.alerts += alerts.get(r.assetId) ?? 0;
        alerts.delete(r.assetId);
      }
      if (alerts.size > 0 || [...counts.values()].some((c) => c.alerts > 0) || Date.now() - toldAt > TELL_EVERY_MS) {
        toldAt = Date.now();
        await announce(turn.tx, postReadings);
      }
    });
  return new Map([...counts].map(([pack, n]) => [pack, { ...n, setAside: pack.setAside }]));
}

/** So many readings are written together at most. */
const AT_ONCE = 2000;

type Intake = { waiting: Waiting[]; running: Promise<void> | null };
const intakes = new WeakMap<Database, Intake>();

async function writeSome(database: Database, watch: Watch, packs: readonly Waiting[]): Promise<void> {
  try {
    const answers = await write(database, watch, packs);
    for (const [pack, taken] of answers)
      if (taken.taken + taken.alreadyHeld === 0) pack.failed(new Refused(taken.setAside.slice(0, 20)));
      else pack.done(taken);
  } catch (error) {
    // One of them may be what breaks it: each by itself.
    if (packs.length === 1) packs[0]?.failed(error);
    else for (const pack of packs) await writeSome(database, watch, [pack]);
  }
}

async function writeWaiting(database: Database, watch: Watch, intake: Intake): Promise<void> {
  while (intake.waiting.length > 0) {
    let n = 0;
    const end = intake.waiting.findIndex((p, i) => (n += p.readings.length) > AT_ONCE && i > 0);
    const packs = intake.waiting.splice(0, end < 0 ? intake.waiting.length : end);
    await writeSome(database, watch, packs);
    watch.wake();
  }
  intake.running = null;
}

/** Takes a parsed SenML pack: what of it can be read is held, in one transaction with what it sets off; the rest is named. */
export async function takePack(database: Database, pack: unknown, now: Instant): Promise<Taken> {
  const { readings, setAside } = accept(readPack(pack, now));
  const intake = intakes.get(database) ?? { waiting: [], running: null };
  intakes.set(database, intake);
  return new Promise((done, failed) => {
    intake.waiting.push({ readings, setAside: [...setAside], now, done, failed });
    intake.running ??= writeWaiting(database, watchOf(database), intake);
  });
}
