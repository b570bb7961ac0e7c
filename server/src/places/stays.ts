// Where assets stood and for whom: kept when one moves, so that a question about a past day is answered by the place of that day.
import { asc, eq, gt, inArray, type SQL } from 'drizzle-orm';
import type { AssetId, CustomerId, LocationId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
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
