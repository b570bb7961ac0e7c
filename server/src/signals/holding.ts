// Holding readings: each once, the newest of each channel beside them, and what is to be summed again.
import { sql } from 'drizzle-orm';
import { HOUR, instant, type Instant } from '#core/time/index.ts';
import { instantOfText, instantText } from '../platform/columns.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import type { Located, Spoken } from './locating.ts';
import { SUMMED_AFTER } from './storing.ts';

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
export async function hold(tx: Tx, all: readonly Spoken[]): Promise<readonly Spoken[]> {
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
export async function noteNewest(tx: Tx, all: readonly Spoken[]): Promise<void> {
  const newest = (s: Spoken): Located => s.readings.reduce((a, b) => (b.at > a.at ? b : a));
  await bulkInsert(
    tx.connection,
    'channel',
    COLUMNS,
    all.map((s) => row(s, newest(s))),
    'ON DUPLICATE KEY UPDATE value = IF(VALUES(at) >= at, VALUES(value), value), word = IF(VALUES(at) >= at, VALUES(word), word), unit = IF(VALUES(at) >= at, VALUES(unit), unit), at = GREATEST(at, VALUES(at))',
  );
}

/** What comes so late that its hour may have been summed is summed again. */
export async function noteStale(tx: Tx, all: readonly Spoken[], now: Instant): Promise<void> {
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
