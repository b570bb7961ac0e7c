// What was read of machines: by the devices that were on them at the time.
import { and, asc, eq, gt, inArray, or, sql, type SQL } from 'drizzle-orm';
import type { AssetId, DeviceId } from '#core/ids.ts';
import type { Sample } from '#core/signals/index.ts';
import type { Instant } from '#core/time/index.ts';
import { bareRows, type Db } from '../platform/database.ts';
import { instantOfText, instantText } from '../platform/columns.ts';
import { deviceTie, reading } from './tables.ts';

export type Tie = {
  readonly deviceId: DeviceId;
  readonly assetId: AssetId;
  readonly from: Instant;
  readonly to: Instant | null;
};

export const tiesOf = (db: Db, assetIds: readonly AssetId[]): Promise<Tie[]> =>
  assetIds.length === 0
    ? Promise.resolve([])
    : db
        .select()
        .from(deviceTie)
        .where(inArray(deviceTie.assetId, [...assetIds]))
        .orderBy(asc(deviceTie.deviceId));

/** Readings that a machine's devices gave while they were on it. */
export const readWhile = (ties: readonly Tie[]): SQL | undefined =>
  or(
    ...ties.map(({ deviceId, from, to }) =>
      and(
        eq(reading.deviceId, deviceId),
        sql`${reading.at} >= ${instantText(from)}`,
        to === null ? undefined : sql`${reading.at} < ${instantText(to)}`,
      ),
    ),
  );

export type Series = { readonly assetId: AssetId; readonly channel: string; readonly after: Instant };

const SERIES_AT_ONCE = 200;

/**
 * Readings of some series, each after an instant of its own and up to a common one, in their order: one for an instant. Of two devices
 * that spoke at one instant the one registered first counts.
 */
export async function samplesAfter(
  db: Db,
  all: readonly Series[],
  upTo: Instant | null = null,
): Promise<Map<AssetId, Map<string, Sample[]>>> {
  const found = new Map<AssetId, Map<string, Sample[]>>();
  for (let i = 0; i < all.length; i += SERIES_AT_ONCE) {
    const some = all.slice(i, i + SERIES_AT_ONCE);
    const ties = await tiesOf(db, [...new Set(some.map((s) => s.assetId))]);
    for (const { assetId, channel, after } of some) {
      const own = ties.filter((t) => t.assetId === assetId);
      if (own.length === 0) continue;
      const where = own.map((t) => [
        ...[t.deviceId, channel, instantText(after), instantText(t.from)],
        ...(t.to === null ? [] : [instantText(t.to)]),
        ...(upTo === null ? [] : [instantText(upTo)]),
      ]);
      // Asked for once for each series that a server takes up, or judges anew: the driver's bare rows, for there may be very many.
      const text = own
        .map(
          (t) =>
            `(SELECT at, value, word FROM reading WHERE device_id = ? AND channel = ? AND at > ? AND at >= ?` +
            `${t.to === null ? '' : ' AND at < ?'}${upTo === null ? '' : ' AND at <= ?'} ORDER BY at)`,
        )
        .join(' UNION ALL ');
      const rows = await bareRows(db, own.length === 1 ? text : `${text} ORDER BY at`, where.flat());
      const samples: Sample[] = [];
      for (const [at, value, word] of rows as [string, number | null, string | null][]) {
        const read = value ?? word;
        const moment = instantOfText(at);
        if (read !== null && samples.at(-1)?.at !== moment) samples.push({ at: moment, value: read });
      }
      if (samples.length > 0)
        found.set(assetId, (found.get(assetId) ?? new Map<string, Sample[]>()).set(channel, samples));
    }
  }
  return found;
}

/** When a series begins, at or after an instant; null: it has not. */
export async function firstRead(db: Db, { assetId, channel, after }: Series): Promise<Instant | null> {
  const ties = await tiesOf(db, [assetId]);
  if (ties.length === 0) return null;
  const [row] = await db
    .select({ at: reading.at })
    .from(reading)
    .where(and(eq(reading.channel, channel), gt(reading.at, after), readWhile(ties)))
    .orderBy(asc(reading.at))
    .limit(1);
  return row?.at ?? null;
}
