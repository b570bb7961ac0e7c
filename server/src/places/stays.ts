// Where assets stood and for whom: kept when one moves, so that a question about a past day is answered by the place of that day.
import { and, asc, eq, gt, inArray, type SQL } from 'drizzle-orm';
import type { AssetId, CustomerId, LocationId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import { location } from './tables.ts';
import { assetPastStay } from '../assets/tables.ts';

export type PastStay = {
  readonly assetId: AssetId;
  /** The first day on which it stood there no more. */
  readonly until: LocalDate;
  readonly locationId: LocationId | null;
  readonly path: string | null;
  readonly customerId: CustomerId;
};

/** Earlier stays of assets, the oldest first. */
export const pastStaysOf = (db: Db, ids: readonly AssetId[]): Promise<PastStay[]> =>
  staysWhere(db, inArray(assetPastStay.assetId, [...ids]));

/** Stays that had not ended on a day, of all assets, the oldest first. */
export const staysUntilAfter = (db: Db, on: LocalDate): Promise<PastStay[]> =>
  staysWhere(db, gt(assetPastStay.until, on));

async function staysWhere(db: Db, where: SQL): Promise<PastStay[]> {
  return db
    .select({
      assetId: assetPastStay.assetId,
      until: assetPastStay.until,
      locationId: assetPastStay.locationId,
      path: location.path,
      customerId: assetPastStay.customerId,
    })
    .from(assetPastStay)
    .leftJoin(location, eq(location.id, assetPastStay.locationId))
    .where(where)
    .orderBy(asc(assetPastStay.assetId), asc(assetPastStay.until));
}

/**
 * Ends the present stays on a day, before their rows are changed: the new place counts from that day on. A move told for a day
 * before an earlier told one replaces it.
 */
export async function endStays(
  tx: Tx,
  stays: readonly { readonly id: AssetId; readonly locationId: LocationId | null; readonly customerId: CustomerId }[],
  on: LocalDate,
): Promise<void> {
  if (stays.length === 0) return;
  const ids = stays.map((s) => s.id);
  const replaced = await tx.db
    .select()
    .from(assetPastStay)
    .where(and(inArray(assetPastStay.assetId, ids), gt(assetPastStay.until, on)))
    .orderBy(asc(assetPastStay.until));
  if (replaced.length > 0)
    await tx.db.delete(assetPastStay).where(and(inArray(assetPastStay.assetId, ids), gt(assetPastStay.until, on)));
  const values = stays.map(({ id, locationId, customerId }) => {
    const stood = replaced.find((r) => r.assetId === id);
    return {
      assetId: id,
      until: on,
      locationId: stood ? stood.locationId : locationId,
      customerId: stood ? stood.customerId : customerId,
    };
  });
  // Moved twice on one day: where it stood before that day stays.
  await tx.db
    .insert(assetPastStay)
    .values(values)
    .onDuplicateKeyUpdate({ set: { until: on } });
}
