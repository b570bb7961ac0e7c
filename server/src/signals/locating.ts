// Whose readings are: the device that said them, the machine it was on, and the unit that is watched in.
import { group } from 'd3-array';
import { inArray } from 'drizzle-orm';
import type { AssetId, DeviceId } from '#core/ids.ts';
import { convertUnit, splitName, type RecordRead } from '#core/signals/index.ts';
import { refusal, type Refusal } from '#core/refusal.ts';
import type { Instant } from '#core/time/index.ts';
import { instantOfText } from '../platform/columns.ts';
import { bareRows, type Db } from '../platform/database.ts';
import { channel } from './tables.ts';
import { noteUnknown } from './unknown.ts';
import type { Turn } from './watch.ts';
import type { WatchedMachine } from './watched.ts';

/** Readings that came together, with what of them is set aside. */
export type Pack = { readonly readings: readonly RecordRead[]; readonly setAside: Refusal[]; readonly now: Instant };
/** What one device says on one channel of the machine it is on. */
export type Spoken = {
  readonly deviceId: DeviceId;
  readonly assetId: AssetId;
  readonly channel: string;
  readonly machine: WatchedMachine;
  readonly readings: Located[];
};
export type Located = {
  readonly record: number;
  readonly at: Instant;
  readonly value: number | string;
  readonly unit: string | null;
  readonly pack: Pack;
};
const leave = (pack: Pack, record: number, code: Refusal['code'], message: string): void => {
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
export async function locate(db: Db, packs: readonly Pack[]): Promise<Spoken[]> {
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
export async function inWatchedUnits(turn: Turn, all: readonly Spoken[]): Promise<readonly Spoken[]> {
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
