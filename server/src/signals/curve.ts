// The curve of a channel over any span: readings where they are few, else the least, mean and most of each part of it.
import { asc } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { DAY, HOUR, instant, type Instant } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import { bareRows, type Db } from '../platform/database.ts';
import { tiesOf, type Tie } from './series.ts';
import { readingSummed } from './tables.ts';

export type Point = { readonly at: Instant; readonly value: number; readonly low: number; readonly high: number };

/** More points than that nobody can tell apart. */
const MOST_POINTS = 720;
/** Longer spans are drawn from sums by the hour, and still longer ones by the day. */
const RAW_MS = 4 * DAY + HOUR;
const HOURS_MS = 120 * DAY + HOUR;

type Sums = [ms: number, n: number, low: number, high: number, sum: number];
const pointOf = ([ms, n, low, high, sum]: Sums): Point => ({
  at: instant(Number(ms)),
  value: Number(sum) / Number(n),
  low: Number(low),
  high: Number(high),
});

/** What the devices of a machine said in (from, to], in parts of so many milliseconds. */
async function parts(
  db: Db,
  ties: readonly Tie[],
  channel: string,
  from: Instant,
  to: Instant,
  partMs: number,
  of: 'reading' | 'hour' | 'day',
): Promise<Sums[]> {
  if (ties.length === 0 || from >= to) return [];
  const [table, time] =
    of === 'reading' ? ['reading', 'at'] : of === 'hour' ? ['reading_hour', 'hour'] : ['reading_day', 'day'];
  const sums =
    of === 'reading' ? 'COUNT(*), MIN(value), MAX(value), SUM(value)' : 'SUM(n), MIN(low), MAX(high), SUM(sum)';
  const part = partMs / 1000;
  const one = ties.map(
    (t) =>
      `SELECT ${of === 'reading' ? 'at, value' : `${time} AS at, n, low, high, sum`} FROM ${table} WHERE device_id = ? AND channel = ? AND ${time} > ? AND ${time} <= ? AND ${time} >= ?${t.to === null ? '' : ` AND ${time} < ?`}${of === 'reading' ? ' AND value IS NOT NULL' : ''}`,
  );
  const values = ties.flatMap((t) => [
    ...[t.deviceId, channel, instantText(from), instantText(to), instantText(t.from)],
    ...(t.to === null ? [] : [instantText(t.to)]),
  ]);
  const text = `SELECT TIMESTAMPDIFF(MICROSECOND, '1970-01-01', MIN(at)) DIV 1000, ${sums} FROM (${one.join(' UNION ALL ')}) r GROUP BY FLOOR(TIMESTAMPDIFF(SECOND, '1970-01-01', at) / ${part}) ORDER BY 1`;
  return (await bareRows(db, text, values)) as Sums[];
}

/**
 * What a machine's devices said on a channel in (from, to], in at most so many parts. What has not been summed yet is drawn from readings,
 * so that the newest is always there.
 */
export async function curveBetween(
  db: Db,
  { assetId, channel }: { readonly assetId: AssetId; readonly channel: string },
  from: Instant,
  to: Instant,
  most = MOST_POINTS,
): Promise<Point[]> {
  const [ties, [summed]] = await Promise.all([
    tiesOf(db, [assetId]),
    db.select().from(readingSummed).orderBy(asc(readingSummed.id)).limit(1),
  ]);
  const span = to - from;
  const least = span / most;
  if (span <= RAW_MS || !summed) {
    const rows = await parts(db, ties, channel, from, to, Math.max(1000, Math.ceil(least / 1000) * 1000), 'reading');
    return rows.map(pointOf);
  }
  const by = span <= HOURS_MS ? HOUR : DAY;
  const part = Math.max(by, Math.ceil(least / by) * by);
  const known = by === HOUR ? summed.upTo : Math.floor(summed.upTo / DAY) * DAY;
  const upTo = instant(Math.min(known, to));
  const [old, fresh] = await Promise.all([
    parts(db, ties, channel, from, instant(upTo - 1), part, by === HOUR ? 'hour' : 'day'),
    parts(db, ties, channel, instant(Math.max(from, upTo - 1)), to, part, 'reading'),
  ]);
  return [...old, ...fresh].map(pointOf);
}

/** At most some hundred points of a channel over the last days. A clock may go ahead of ours. */
export const curveOf = (db: Db, assetId: AssetId, channel: string, days: number, now: Instant): Promise<Point[]> =>
  curveBetween(db, { assetId, channel }, instant(now - days * DAY), instant(now + HOUR));
