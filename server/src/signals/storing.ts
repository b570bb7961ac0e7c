// How readings are kept: by the week, so that what is old goes as a whole; and summed by the hour and the day, for long spans.
import { asc, sql } from 'drizzle-orm';
import { RETENTION_MS } from '#core/signals/index.ts';
import { DAY, HOUR, instant, MINUTE, type Instant } from '#core/time/index.ts';
import { instantOfText, instantText } from '../platform/columns.ts';
import type { Database, Db } from '../platform/database.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { channel, readingSummed, staleHour } from './tables.ts';

const WEEK = 7 * DAY;
/** A Monday. */
const FIRST_WEEK = Date.UTC(2024, 0, 1);
const weekOf = (at: number): number => FIRST_WEEK + Math.floor((at - FIRST_WEEK) / WEEK) * WEEK;
/** So many weeks ahead there is room. */
const WEEKS_AHEAD = 5;
const OPEN = 'p_open';

type Part = { readonly name: string; readonly below: Instant | null };

async function partsOf({ db }: Pick<Database, 'db'>): Promise<Part[]> {
  const [rows] = (await db.execute(sql`
    select partition_name as name, partition_description as below from information_schema.partitions
    where table_schema = database() and table_name = 'reading' order by partition_ordinal_position`)) as unknown as [
    { name: string | null; below: string | null }[],
  ];
  return rows.flatMap(({ name, below }) =>
    name === null
      ? []
      : [{ name, below: below && below !== 'MAXVALUE' ? instantOfText(below.replaceAll("'", '')) : null }],
  );
}

const nameOf = (below: number): string => `p_${new Date(below).toISOString().slice(0, 10).replaceAll('-', '')}`;

/** Makes room for the weeks to come, and drops the weeks that are older than readings are kept; gives how many it made and dropped. */
export async function keepWeeks(
  database: Pick<Database, 'db' | 'pool'>,
  now: Instant,
): Promise<{ made: number; dropped: number }> {
  const parts = await partsOf(database);
  const known = parts.flatMap((p) => p.below ?? []);
  const last = known.length > 0 ? Math.max(...known) : weekOf(now);
  const wanted: number[] = [];
  for (let below = last + WEEK; below <= weekOf(now) + WEEKS_AHEAD * WEEK; below += WEEK) wanted.push(below);
  if (wanted.length > 0)
    await database.pool.query(
      `ALTER TABLE reading REORGANIZE PARTITION ${OPEN} INTO (${wanted
        .map((below) => `PARTITION ${nameOf(below)} VALUES LESS THAN ('${instantText(instant(below))}')`)
        .join(', ')}, PARTITION ${OPEN} VALUES LESS THAN (MAXVALUE))`,
    );
  const old = parts.filter((p) => p.below !== null && p.below <= now - RETENTION_MS);
  if (old.length > 0)
    await database.pool.query(`ALTER TABLE reading DROP PARTITION ${old.map((p) => p.name).join(', ')}`);
  return { made: wanted.length, dropped: old.length };
}

/** What is read longer after its hour than that may have missed the sum: it is noted, and summed again. */
export const SUMMED_AFTER = HOUR;
const SETTLED = SUMMED_AFTER + 5 * MINUTE;
const DEVICES_AT_ONCE = 500;

const SUM_HOURS = `
  INSERT INTO reading_hour (device_id, channel, hour, n, low, high, sum)
  SELECT r.device_id, r.channel, TIMESTAMP(DATE(r.at), MAKETIME(HOUR(r.at), 0, 0)) AS hour, COUNT(*), MIN(r.value), MAX(r.value), SUM(r.value)
  FROM channel c JOIN reading r ON r.device_id = c.device_id AND r.channel = c.channel AND r.at >= ? AND r.at < ?
  WHERE c.device_id BETWEEN ? AND ? AND r.value IS NOT NULL
  GROUP BY r.device_id, r.channel, hour
  ON DUPLICATE KEY UPDATE n = VALUES(n), low = VALUES(low), high = VALUES(high), sum = VALUES(sum)`;
const SUM_DAYS = `
  INSERT INTO reading_day (device_id, channel, day, n, low, high, sum)
  SELECT h.device_id, h.channel, DATE(h.hour) AS day, SUM(h.n), MIN(h.low), MAX(h.high), SUM(h.sum)
  FROM channel c JOIN reading_hour h ON h.device_id = c.device_id AND h.channel = c.channel AND h.hour >= ? AND h.hour < ?
  WHERE c.device_id BETWEEN ? AND ?
  GROUP BY h.device_id, h.channel, day
  ON DUPLICATE KEY UPDATE n = VALUES(n), low = VALUES(low), high = VALUES(high), sum = VALUES(sum)`;

/** Devices in ranges of their ids, so that no statement is long. */
async function deviceRanges(db: Db): Promise<[number, number][]> {
  const rows = await db.selectDistinct({ id: channel.deviceId }).from(channel).orderBy(asc(channel.deviceId));
  const ranges: [number, number][] = [];
  for (let i = 0; i < rows.length; i += DEVICES_AT_ONCE) {
    const some = rows.slice(i, i + DEVICES_AT_ONCE);
    ranges.push([some[0]?.id ?? 0, some.at(-1)?.id ?? 0]);
  }
  return ranges;
}

const dayOf = (at: number): number => Math.floor(at / DAY) * DAY;
const hourOf = (at: number): Instant => instant(Math.floor(at / HOUR) * HOUR);

/** Sums every hour that has settled since it was last done, and the days they are of. Gives how many hours. */
async function sumOn({ db, pool }: Pick<Database, 'db' | 'pool'>, now: Instant): Promise<number> {
  const to = hourOf(now - SETTLED);
  const [known] = await db.select().from(readingSummed);
  const from = known?.upTo ?? instant(dayOf(now - RETENTION_MS));
  if (from >= to) return 0;
  for (const range of await deviceRanges(db)) {
    await pool.query(SUM_HOURS, [instantText(from), instantText(to), ...range]);
    await pool.query(SUM_DAYS, [instantText(instant(dayOf(from))), instantText(instant(dayOf(to) + DAY)), ...range]);
  }
  await db
    .insert(readingSummed)
    .values({ id: 1, upTo: to })
    .onDuplicateKeyUpdate({ set: { upTo: to } });
  return (to - from) / HOUR;
}

const STALE_AT_ONCE = 1000;

/** Sums hours again in which something was read late; gives how many. What is noted meanwhile stays noted. */
async function sumStale(database: Pick<Database, 'db' | 'pool' | 'transact'>): Promise<number> {
  return database.transact(async (tx) => {
    const rows = await tx.db.select().from(staleHour).orderBy(asc(staleHour.hour)).limit(STALE_AT_ONCE).for('update');
    for (const { deviceId, channel: of, hour } of rows) {
      const one = [deviceId, deviceId];
      await tx.connection.query(SUM_HOURS.replace('WHERE', 'WHERE c.channel = ? AND'), [
        ...[instantText(hour), instantText(instant(hour + HOUR)), of, ...one],
      ]);
      const day = dayOf(hour);
      await tx.connection.query(SUM_DAYS.replace('WHERE', 'WHERE c.channel = ? AND'), [
        ...[instantText(instant(day)), instantText(instant(day + DAY)), of, ...one],
      ]);
      await tx.db
        .delete(staleHour)
        .where(
          sql`${staleHour.deviceId} = ${deviceId} and ${staleHour.channel} = ${of} and ${staleHour.hour} = ${instantText(hour)}`,
        );
    }
    return rows.length;
  });
}

/** Brings the sums up to now; gives how many hours were summed, and how many again. */
export async function sumReadings(
  database: Pick<Database, 'db' | 'pool' | 'transact'>,
  now: Instant,
): Promise<{ hours: number; again: number }> {
  const hours = await sumOn(database, now);
  let again = 0;
  for (let done = await sumStale(database); done > 0; done = done < STALE_AT_ONCE ? 0 : await sumStale(database))
    again += done;
  return { hours, again };
}

export const keepingReadings = jobKind({
  kind: 'readings',
  says: 'Sum readings by the hour and day, make room for the weeks to come and drop those that are kept no longer',
  every: { cron: '12 * * * *', says: 'every hour' },
  atStart: true,
  ask: NOTHING,
  run: async ({ database }, _ask, { now }) => {
    const { made, dropped } = await keepWeeks(database, now);
    const { hours, again } = await sumReadings(database, now);
    return `${hours} hours summed, ${again} again; ${made} weeks made, ${dropped} dropped`;
  },
});
