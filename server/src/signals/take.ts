// Taking readings: held once, in the unit their channel is watched in, and judged by the rules of their machine. What several send at
// once is written together; whoever sent it is answered when it is durable.
import { group } from 'd3-array';
import { inArray, sql } from 'drizzle-orm';
import { postReadings } from '#api/signals.ts';
import type { AssetId, DeviceId } from '#core/ids.ts';
import { convertUnit, readPack, splitName, type RecordRead, type Sample } from '#core/signals/index.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import { HOUR, instant, type Instant } from '#core/time/index.ts';
import { instantOfText, instantText } from '../platform/columns.ts';
import { bareRows, bulkInsert, type Database, type Db, type Tx } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { accept, Refused } from '../platform/refuse.ts';
import { countMeters } from './count-meters.ts';
import { goOn } from './judging.ts';
import { samplesAfter } from './series.ts';
import { shardOf } from './shards.ts';
import { SUMMED_AFTER } from './storing.ts';
import { channel } from './tables.ts';
import { noteUnknown } from './unknown.ts';
import { inTurn, judgeLater, laneOf, watchOf, type Turn, type Watch } from './watch.ts';
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
/** What one device says on one channel of the machine it is on. */
type Spoken = {
  readonly deviceId: DeviceId;
  readonly assetId: AssetId;
  readonly channel: string;
  readonly machine: WatchedMachine;
  readonly readings: Located[];
};
type Located = {
  readonly record: number;
  readonly at: Instant;
  readonly value: number | string;
  readonly unit: string | null;
  readonly pack: Waiting;
};

const leave = (pack: Waiting, record: number, code: Refusal['code'], message: string): void => {
  const field = `pack.${record}`;
  // A transaction that is done once more finds it once more.
  if (pack.setAside.every((s) => s.field !== field))
    pack.setAside.push(refusal(code, `Record ${record + 1}: ${message}`, field));
};

/** Names come again and again: split once, by a device in lower case, for keys are compared as the database does. */
const MOST_NAMES = 100_000;
const names = new Map<string, { readonly device: string; readonly key: string; readonly channel: string } | null>();
function named(name: string) {
  const known = names.get(name);
  if (known !== undefined) return known;
  if (names.size >= MOST_NAMES) names.clear();
  const parts = splitName(name);
  const made = parts && { ...parts, key: parts.device.toLowerCase() };
  names.set(name, made);
  return made;
}

type TieRow = [
  DeviceId,
  string,
  string,
  string | null,
  AssetId,
  WatchedMachine['classId'],
  string,
  WatchedMachine['state'],
];

/** The machines that devices are and were on, by their keys. Asked for with every lot: the driver's bare rows. */
async function tiesByKey(db: Db, keys: readonly string[]) {
  const rows =
    keys.length === 0
      ? []
      : ((await bareRows(
          db,
          `SELECT d.id, d.device_key, t.from, t.to, a.id, a.class_id, a.model, a.state FROM device d
           JOIN device_tie t ON t.device_id = d.id JOIN asset a ON a.id = t.asset_id WHERE d.device_key IN (?)`,
          [keys],
        )) as TieRow[]);
  const machines = new Map<AssetId, WatchedMachine>();
  const ties = rows.map(([id, key, from, to, assetId, classId, model, state]) => {
    const machine = machines.get(assetId) ?? { id: assetId, classId, model, state };
    machines.set(assetId, machine);
    return {
      id,
      key: key.toLowerCase(),
      from: instantOfText(from),
      to: to === null ? null : instantOfText(to),
      machine,
    };
  });
  return group(ties, (t) => t.key);
}

const asValue = (value: RecordRead['value']): number | string => (typeof value === 'boolean' ? Number(value) : value);

/** Finds each reading's device and the machine it was on; what no machine is known for is set aside, and waits by name to be tied to one. */
async function locate(db: Db, packs: readonly Waiting[]): Promise<Spoken[]> {
  const keys = new Set<string>();
  for (const { readings } of packs)
    for (const r of readings) {
      const parts = named(r.name);
      if (parts) keys.add(parts.device);
    }
  const byKey = await tiesByKey(db, [...keys]);
  const unknown: { key: string; channel: string; at: Instant; now: Instant }[] = [];
  const spoken = new Map<object, Map<string, Spoken>>();
  for (const pack of packs)
    for (const { name, record, at, value, unit } of pack.readings) {
      const parts = named(name);
      const ties = (parts && byKey.get(parts.key)) ?? [];
      // What a device says is of the machine it was on at the time.
      const tie = ties.find((t) => t.from <= at && (t.to === null || at < t.to));
      if (!parts || !tie) {
        if (ties.length > 0) leave(pack, record, 'unknown-device', 'its device was on no machine at that time.');
        else {
          const said = `no device is registered as “${parts?.device ?? name}”; it waits in Signals to be tied to its machine.`;
          leave(pack, record, 'unknown-device', said);
          if (parts) unknown.push({ key: parts.device, channel: parts.channel, at, now: pack.now });
        }
        continue;
      }
      if (parts.channel.length > 40) {
        leave(pack, record, 'malformed', 'the channel name is longer than 40 characters.');
        continue;
      }
      const own = spoken.get(tie) ?? new Map<string, Spoken>();
      spoken.set(tie, own);
      const { machine } = tie;
      const series = own.get(parts.channel) ?? {
        ...{ deviceId: tie.id, assetId: machine.id, channel: parts.channel, machine, readings: [] },
      };
      own.set(parts.channel, series);
      series.readings.push({ record, at, value: asValue(value), unit, pack });
    }
  await noteUnknown(db, unknown);
  return [...spoken.values()].flatMap((own) => [...own.values()]).sort((a, b) => a.assetId - b.assetId);
}

/** The unit a channel is held in, where no rule says in which it is watched. */
async function heldUnits(db: Db, all: readonly Spoken[]): Promise<(of: Spoken) => string | null> {
  if (all.length === 0) return () => null;
  const held = await db
    .select({ deviceId: channel.deviceId, channel: channel.channel, unit: channel.unit })
    .from(channel)
    .where(inArray(channel.deviceId, [...new Set(all.map((s) => s.deviceId))]));
  const units = new Map(held.map((h) => [`${h.deviceId}/${h.channel}`, h.unit]));
  return (of) => units.get(`${of.deviceId}/${of.channel}`) ?? null;
}

/**
 * Values in the unit their channel is watched in: that of the rules of the machine, else that of what is held already. One that does not
 * convert is set aside; a reading without a unit is in the channel's.
 */
async function inWatchedUnits(turn: Turn, all: readonly Spoken[]): Promise<readonly Spoken[]> {
  const isGiven = (r: Located): boolean => r.unit !== null && typeof r.value === 'number';
  const given = new Set(all.filter((s) => s.readings.some(isGiven)));
  if (given.size === 0) return all;
  const ruled = (s: Spoken): string | null =>
    turn.rulesOf(s.machine).find((rule) => rule.channel === s.channel)?.unit ?? null;
  const held = await heldUnits(
    turn.tx.db,
    [...given].filter((s) => ruled(s) === null),
  );
  return all
    .map((s) => {
      const to = given.has(s) ? (ruled(s) ?? held(s)) : null;
      if (to === null || to === '') return s;
      const readings = s.readings.flatMap((r): Located[] => {
        if (!isGiven(r) || r.unit === to) return [r];
        const value = convertUnit(r.value as number, r.unit as string, to);
        if (value.ok) return [{ ...r, value: value.value, unit: to }];
        for (const x of value.refusals) leave(r.pack, r.record, x.code, x.message);
        return [];
      });
      return { ...s, readings };
    })
    .filter((s) => s.readings.length > 0);
}

const COLUMNS = ['device_id', 'channel', 'at', 'value', 'word', 'unit'];
const row = ({ deviceId, channel: of }: Spoken, { at, value, unit }: Located): unknown[] => [
  ...[deviceId, of, instantText(at)],
  ...(typeof value === 'number' ? [value, null] : [null, value.slice(0, 120)]),
  unit?.slice(0, 20) ?? null,
];
const keyOf = (deviceId: number, of: string, at: Instant): string => `${deviceId}/${at}/${of.toLowerCase()}`;

async function insert({ connection }: Tx, all: readonly Spoken[]): Promise<number> {
  const rows = all.flatMap((s) => s.readings.map((r) => row(s, r)));
  if (rows.length === 0) return 0;
  const [result] = await connection.query('INSERT IGNORE INTO reading (??) VALUES ?', [COLUMNS, rows]);
  return (result as { affectedRows: number }).affectedRows;
}

const readingsIn = (all: readonly Spoken[]): number => all.reduce((n, s) => n + s.readings.length, 0);

/** Writes readings that are not held yet; gives those. Of two values for one instant the first received stays. */
async function hold(tx: Tx, all: readonly Spoken[]): Promise<readonly Spoken[]> {
  await tx.connection.query('SAVEPOINT held');
  if ((await insert(tx, all)) === readingsIn(all)) return all;
  // Some are held already, or came twice: which, nobody can tell afterwards.
  await tx.connection.query('ROLLBACK TO SAVEPOINT held');
  const tuples = all.flatMap((s) => s.readings.map((r) => sql`(${s.deviceId}, ${s.channel}, ${instantText(r.at)})`));
  const [rows] = (await tx.db.execute(
    sql`select device_id, channel, at from reading where (device_id, channel, at) in (${sql.join(tuples, sql`, `)}) for update`,
  )) as unknown as [{ device_id: number; channel: string; at: string }[]];
  const known = new Set(rows.map((r) => keyOf(r.device_id, r.channel, instantOfText(r.at))));
  const fresh = all.map((s) => ({
    ...s,
    readings: s.readings.filter((r) => {
      const key = keyOf(s.deviceId, s.channel, r.at);
      return !known.has(key) && known.add(key);
    }),
  }));
  await insert(tx, fresh);
  return fresh.filter((s) => s.readings.length > 0);
}

/** Notes the newest of each channel. `at` is compared before it is set: MariaDB assigns from left to right. */
async function noteNewest(tx: Tx, all: readonly Spoken[]): Promise<void> {
  const newest = (s: Spoken): Located => s.readings.reduce((a, b) => (b.at > a.at ? b : a));
  await bulkInsert(
    tx.connection,
    'channel',
    COLUMNS,
    all.map((s) => row(s, newest(s))),
    'ON DUPLICATE KEY UPDATE value = IF(VALUES(at) >= at, VALUES(value), value), word = IF(VALUES(at) >= at, VALUES(word), word), unit = IF(VALUES(at) >= at, VALUES(unit), unit), at = GREATEST(at, VALUES(at))',
  );
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

/** What comes so late that its hour may have been summed is summed again. */
async function noteStale(tx: Tx, all: readonly Spoken[], now: Instant): Promise<void> {
  const hours = new Map<string, unknown[]>();
  for (const { deviceId, channel: of, readings } of all)
    for (const { at } of readings) {
      const hour = Math.floor(at / HOUR) * HOUR;
      if (hour + HOUR <= now - SUMMED_AFTER)
        hours.set(`${deviceId}/${hour}/${of}`, [deviceId, of, instantText(instant(hour))]);
    }
  if (hours.size > 0)
    await bulkInsert(
      tx.connection,
      'stale_hour',
      ['device_id', 'channel', 'hour'],
      [...hours.values()],
      'ON DUPLICATE KEY UPDATE hour = VALUES(hour)',
    );
}

const inOrder = (a: Sample, b: Sample): number => a.at - b.at;

/** What was taken of one machine's channel, in the order of its times. Of two devices that spoke at one instant the first counts. */
function samplesOf(spoken: readonly Spoken[]): Sample[] {
  const [only, ...more] = spoken;
  if (only && more.length === 0) return only.readings.toSorted(inOrder);
  const all = spoken.toSorted((a, b) => a.deviceId - b.deviceId).flatMap((s) => s.readings);
  return all.toSorted(inOrder).filter((r, i, sorted) => r.at !== sorted[i - 1]?.at);
}

type Later = { readonly assetId: AssetId; readonly channel: string; readonly from: Instant };

/** Judges what was taken of machines that are this server's; the rest, and what comes late, is left to be judged. */
async function judge(turn: Turn, fresh: readonly Spoken[], now: Instant): Promise<Map<AssetId, number>> {
  const alerts = new Map<AssetId, number>();
  const later: Later[] = [];
  for (const [assetId, own] of group(fresh, (s) => s.assetId)) {
    const rules = turn.rulesOf((own[0] as Spoken).machine);
    if (rules.length === 0) continue;
    const going: Parameters<typeof goOn>[1][number][] = [];
    for (const [of, spoken] of group(own, (s) => s.channel)) {
      const watching = rules.filter((r) => r.channel === of);
      const samples = watching.length === 0 ? [] : samplesOf(spoken);
      const [first, last] = [samples[0], samples.at(-1)];
      if (!first || !last) continue;
      const ends = turn.holds(assetId)
        ? watching.map((r) => turn.standing(r.id, assetId)?.state.upTo ?? null)
        : [last.at];
      if (ends.some((upTo) => upTo !== null && first.at <= upTo)) later.push({ assetId, channel: of, from: first.at });
      if (!turn.holds(assetId)) continue;
      watching.forEach((rule, i) => {
        const upTo = ends[i] ?? null;
        const isNew = (s: Sample): boolean =>
          (upTo === null || s.at > upTo) && (rule.watchedSince === null || s.at >= rule.watchedSince);
        const after = isNew(first) ? samples : samples.filter(isNew);
        if (after.length > 0) going.push({ rule, assetId, samples: after, until: last.at });
      });
    }
    const n = await goOn(turn, going, now);
    if (n > 0) alerts.set(assetId, n);
  }
  if (later.length > 0) await judgeLater(turn.tx, later);
  return alerts;
}

/** Screens are told of readings that set off nothing at most so often. */
const TELL_EVERY_MS = 2000;
let toldAt = 0;

type Counts = { taken: number; alreadyHeld: number; alerts: number };

/** Adds up what became of what, for those who sent it. */
function count(
  counts: ReadonlyMap<Waiting, Counts>,
  located: readonly Spoken[],
  fresh: readonly Spoken[],
  alerts: ReadonlyMap<AssetId, number>,
): void {
  const told = new Map(alerts);
  for (const { assetId, readings } of located)
    for (const r of readings) {
      const own = counts.get(r.pack) as Counts;
      own.alreadyHeld += 1;
      own.alerts += told.get(assetId) ?? 0;
      told.delete(assetId);
    }
  for (const { readings } of fresh)
    for (const r of readings) {
      const own = counts.get(r.pack) as Counts;
      own.taken += 1;
      own.alreadyHeld -= 1;
    }
}

/** A lot's place in the line: after the one before, and ahead of the next once it is taken. */
type Place = { readonly before: Promise<void>; readonly taken: () => void };

/** Writes some packs together, in one transaction; each is answered for itself. */
async function write(
  database: Database,
  watch: Watch,
  packs: readonly Waiting[],
  place: Place,
): Promise<Map<Waiting, Taken>> {
  const now = instant(Math.max(...packs.map((p) => p.now)));
  const all = await locate(database.db, packs);
  await place.before;
  const counts = new Map(packs.map((p): [Waiting, Counts] => [p, { taken: 0, alreadyHeld: 0, alerts: 0 }]));
  let toTell = Date.now() - toldAt > TELL_EVERY_MS;
  if (toTell) toldAt = Date.now();
  const writeLane = async (own: readonly Spoken[]): Promise<void> => {
    const machines = new Map(own.map((s) => [s.assetId, s.machine]));
    const shards = [...new Set(own.map((s) => shardOf(s.assetId)))];
    const { located, fresh, alerts } = await inTurn(database, watch, shards, now, async (turn) => {
      const ids = [...machines.keys()].filter((id) => turn.holds(id));
      await takeUp(turn, ids, (id) => machines.get(id), now);
      const spoken = await inWatchedUnits(turn, own);
      const held = await hold(turn.tx, spoken);
      await noteNewest(turn.tx, held);
      await noteStale(turn.tx, held, now);
      const started = await judge(turn, held, now);
      await countMeters(turn.tx, held, now);
      if (started.size > 0 || toTell) await announce(turn.tx, postReadings);
      return { located: spoken, fresh: held, alerts: started };
    });
    toTell = false;
    count(counts, located, fresh, alerts);
  };
  const lanes = [...group(all, (s) => laneOf(shardOf(s.assetId))).values()].map(writeLane);
  place.taken();
  await Promise.all(lanes);
  return new Map([...counts].map(([pack, n]) => [pack, { ...n, setAside: pack.setAside }]));
}

/** So many readings are written together at most. */
const AT_ONCE = 2000;

/** So many lots are under way at a time: while one is written, the next is located. */
const LOTS = 2;

type Intake = {
  waiting: Waiting[];
  running: number;
  /** Whether the lot before has its place in the line: what came first is judged first. */
  inLine: Promise<void>;
};
const intakes = new WeakMap<Database, Intake>();

async function writeSome(database: Database, watch: Watch, packs: readonly Waiting[], place: Place): Promise<void> {
  try {
    const answers = await write(database, watch, packs, place);
    for (const [pack, taken] of answers)
      if (taken.taken + taken.alreadyHeld === 0) pack.failed(new Refused(taken.setAside.slice(0, 20)));
      else pack.done(taken);
  } catch (error) {
    // One of them may be what breaks it: each by itself.
    if (packs.length === 1) packs[0]?.failed(error);
    else for (const pack of packs) await writeSome(database, watch, [pack], place);
  } finally {
    place.taken();
  }
}

async function writeWaiting(database: Database, watch: Watch, intake: Intake): Promise<void> {
  while (intake.waiting.length > 0) {
    // Whatever has come by now is written with it.
    await new Promise((next) => setImmediate(next));
    if (intake.waiting.length === 0) break;
    let n = 0;
    const end = intake.waiting.findIndex((p, i) => (n += p.readings.length) > AT_ONCE && i > 0);
    const packs = intake.waiting.splice(0, end < 0 ? intake.waiting.length : end);
    const before = intake.inLine;
    let taken = (): void => undefined;
    intake.inLine = new Promise((done) => (taken = done));
    await writeSome(database, watch, packs, { before, taken });
    watch.wake();
  }
  intake.running -= 1;
}

/** Takes a parsed SenML pack: what of it can be read is held, in one transaction with what it sets off; the rest is named. */
export async function takePack(database: Database, pack: unknown, now: Instant): Promise<Taken> {
  const { readings, setAside } = accept(readPack(pack, now));
  const intake = intakes.get(database) ?? { waiting: [], running: 0, inLine: Promise.resolve() };
  intakes.set(database, intake);
  return new Promise((done, failed) => {
    intake.waiting.push({ readings, setAside: [...setAside], now, done, failed });
    if (intake.running >= LOTS) return;
    intake.running += 1;
    void writeWaiting(database, watchOf(database), intake);
  });
}
