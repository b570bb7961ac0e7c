// The demo's devices: which machines report, their rules, a day of readings behind now, and what goes wrong.
import { HOUR, instant, MINUTE, type Instant } from '#core/time/index.ts';
import { bulkInsert, insertedIds, type Database, type Tx } from '#server/platform/database.ts';
import { takePack } from '#server/signals/index.ts';
import { packOf, START_AFTER, type DeviceScenario, type SimulatedDevice } from '#standins/devices.ts';
import type { DemoAsset, DemoRegister } from './register.ts';
import type { ClassKey } from './scenario.ts';

const KINDS: Partial<Record<ClassKey, { kind: SimulatedDevice['kind']; setPoint: number }>> = {
  ulf: { kind: 'freezer', setPoint: -80 },
  plf: { kind: 'freezer', setPoint: -38 },
  vr: { kind: 'refrigerator', setPoint: 4.8 },
  stc: { kind: 'steriliser', setPoint: 121 },
  bsc: { kind: 'cabinet', setPoint: 0.45 },
};
const HISTORY_HOURS = 24;
const STEP_MINUTES = 10;

type Chosen = { readonly asset: DemoAsset; readonly device: SimulatedDevice };

function choose(assets: readonly DemoAsset[]): Chosen[] {
  const chosen: Chosen[] = [];
  const take = (
    key: ClassKey,
    customer: string,
    count: number,
    scenario: (i: number) => DeviceScenario = () => 'healthy',
  ): void => {
    const kind = KINDS[key];
    if (!kind) return;
    const own = assets
      .filter((a) => a.classKey === key && a.customer === customer && !chosen.some((c) => c.asset.id === a.id))
      .slice(0, count);
    own.forEach((asset, i) =>
      chosen.push({
        asset,
        device: { key: `urn:dev:os:stavok-${asset.tag.toLowerCase()}`, ...kind, scenario: scenario(i) },
      }),
    );
  };
  take('ulf', 'Horta Nova Biobank', 8, (i) => (i === 3 ? 'slowly fails' : 'healthy'));
  take('vr', 'Encosta Vaccine Depot', 5, (i) => (i === 1 ? 'door left open' : 'healthy'));
  take('ulf', 'Encosta Vaccine Depot', 4, () => 'power cut');
  take('plf', 'Costabela Blood Centre', 5, (i) => (i === 4 ? 'falls silent' : 'healthy'));
  take('stc', 'Alvorim Hospitals', 3, (i) => (i === 2 ? 'stops mid-cycle' : 'healthy'));
  take('bsc', 'Alvaiz Pathology Group', 2);
  // A power cut there is one trouble, not one for each machine.
  for (const key of ['ulf', 'plf', 'vr'] as const) take(key, 'Encosta Vaccine Depot', 6, () => 'power cut');
  return chosen;
}

/** A refrigerator that warms because its door stands open is asked about first, and is no machine that is too warm. */
async function writeDoorRules(connection: Tx['connection'], classId: number): Promise<void> {
  const open = 'Warm with its door open';
  await bulkInsert(
    connection,
    'alert_rule',
    [
      'name',
      'asset_class_id',
      'channel',
      'unit',
      'condition',
      'on_delay_seconds',
      'priority',
      'part_only',
      'ask_first',
    ],
    [
      ['Door open', 'door', '', { kind: 'state', equals: '1' }, 180, 3, 1, 0],
      ['Warming', 'chamber', 'Cel', { kind: 'limit', side: 'above', limit: 6.5, deadband: 0.5 }, 60, 3, 1, 0],
      [open, 'chamber', 'Cel', { kind: 'parts', by: 'all', of: ['Door open', 'Warming'] }, 0, 3, 0, 1],
    ].map(([name, channel, unit, condition, ...rest]) => [
      name,
      classId,
      channel,
      unit,
      JSON.stringify(condition),
      ...rest,
    ]),
  );
  await connection.query(
    "UPDATE alert_rule SET likely_cause = 'a door left open: call them before anybody drives' WHERE name = ?",
    [open],
  );
  await connection.query(
    "UPDATE alert_rule SET suppressed_by = ? WHERE name = 'Chamber too warm' AND asset_class_id = ?",
    [JSON.stringify([open]), classId],
  );
  const [people] = (await connection.query(
    "SELECT id, name FROM person WHERE name IN ('Inês Teixeira', 'Carmen Rioboo')",
  )) as unknown as [{ id: number; name: string }[]];
  // The coordinator at once, the manager where nobody has acknowledged it after a quarter of an hour.
  const after = (name: string, afterMinutes: number) =>
    people.filter((p) => p.name === name).map((p) => ({ personId: p.id, afterMinutes, hours: null }));
  await connection.query("UPDATE alert_rule SET tells = ? WHERE asset_class_id = ? AND name LIKE 'Chamber too %'", [
    JSON.stringify([...after('Inês Teixeira', 0), ...after('Carmen Rioboo', 15)]),
    classId,
  ]);
}

/** The rules, the devices and a day of quiet readings. */
export async function writeDevices(tx: Tx, register: DemoRegister): Promise<readonly SimulatedDevice[]> {
  const { connection } = tx;
  const { classIds } = register;
  await bulkInsert(
    connection,
    'alert_rule',
    ['name', 'asset_class_id', 'channel', 'unit', 'condition', 'on_delay_seconds', 'priority'],
    [
      ['Chamber too warm', classIds.ulf, 'chamber', 'Cel', 'above', -65, 2, 300, 1],
      ['Chamber too warm', classIds.plf, 'chamber', 'Cel', 'above', -30, 1, 300, 1],
      ['Chamber too warm', classIds.vr, 'chamber', 'Cel', 'above', 8, 0.5, 600, 1],
      ['Chamber too cold', classIds.vr, 'chamber', 'Cel', 'below', 2, 0.3, 600, 1],
      ['Cycle stopped', classIds.stc, 'chamber', 'Cel', 'below', 100, 5, 120, 2],
      ['Exhaust air too slow', classIds.bsc, 'airspeed', 'm/s', 'below', 0.36, 0.02, 120, 2],
    ].map(([name, classId, channel, unit, side, limit, deadband, delay, priority]) => [
      ...[name, classId, channel, unit, JSON.stringify({ kind: 'limit', side, limit, deadband }), delay, priority],
    ]),
  );
  await writeDoorRules(connection, classIds.vr);
  const chosen = choose(register.assets);
  const firstIds = await bulkInsert(
    connection,
    'device',
    ['asset_id', 'device_key'],
    chosen.map((c) => [c.asset.id, c.device.key]),
  );
  const ids = await insertedIds(connection, firstIds, chosen.length);
  await bulkInsert(
    connection,
    'device_tie',
    ['device_id', 'asset_id', 'from'],
    chosen.map((c, i) => [ids[i], c.asset.id, '1970-01-01']),
  );
  return chosen.map((c) => c.device);
}

/** A day of readings behind now, through the same door as live ones; one freezer has been failing for the last 40 minutes, one probe has been silent for 5 hours. */
export async function writeReadings(
  database: Database,
  devices: readonly SimulatedDevice[],
  now: Instant,
): Promise<void> {
  for (const device of devices) {
    for (let back = HISTORY_HOURS * 60; back > 0; back -= STEP_MINUTES * 30) {
      const pack: object[] = [];
      for (let m = back; m > back - STEP_MINUTES * 30 && m > 0; m -= STEP_MINUTES) {
        if (device.scenario === 'falls silent' && m < 5 * 60) continue;
        const moment = instant(now - m * MINUTE);
        const failing = device.scenario === 'slowly fails' && m <= 60;
        const records = packOf(
          { ...device, scenario: failing ? device.scenario : 'healthy' },
          failing ? (60 - m) * 0.45 + START_AFTER['slowly fails'] : -m,
          Math.floor(moment / 1000),
        );
        if (records)
          pack.push(
            ...(failing
              ? records.map((r, i) =>
                  i === 0 ? { ...r, v: Math.round(((r.v ?? 0) + (60 - m) * 0.1) * 100) / 100 } : r,
                )
              : records),
          );
      }
      if (pack.length > 0) await takePack(database, pack, instant(Math.min(now, now - back * MINUTE + HOUR * 6)));
    }
  }
}
