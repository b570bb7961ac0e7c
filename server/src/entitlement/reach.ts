// Reach: which assets the coverage lines of an agreement cover.
import { and, eq, inArray, isNotNull, like, or, type SQL } from 'drizzle-orm';
import type { AgreementId, AssetId, CustomerId } from '#core/ids.ts';
import type { Db } from '../platform/database.ts';
import { assetClass } from '../catalogue/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { coverageLine } from '../agreements/tables.ts';

/** Whether a line ever held at all. */
export const everHeld = (line: Pick<typeof coverageLine.$inferSelect, 'termFrom' | 'termTo'>): boolean =>
  line.termTo === null || line.termTo >= line.termFrom;

export type LineReach = {
  readonly line: typeof coverageLine.$inferSelect;
  readonly label: string;
  readonly assetIds: readonly AssetId[];
};

/** The lines of agreements with a name for people; only those that have a price of their own, where that is asked. */
export async function namedLines(db: Db, ids: readonly AgreementId[], priced = false) {
  const rows = await db
    .select({
      line: coverageLine,
      tag: asset.tag,
      model: asset.model,
      place: location.fullName,
      placePath: location.path,
      className: assetClass.name,
    })
    .from(coverageLine)
    .leftJoin(asset, eq(asset.id, coverageLine.assetId))
    .leftJoin(location, eq(location.id, coverageLine.locationId))
    .leftJoin(assetClass, eq(assetClass.id, coverageLine.assetClassId))
    .where(and(inArray(coverageLine.agreementId, [...ids]), priced ? isNotNull(coverageLine.priceMinor) : undefined))
    .orderBy(coverageLine.id);
  return rows.map(({ line, tag, model, place, placePath, className }) => ({
    ...{ line, placePath },
    label:
      line.assetId !== null
        ? `${model} ${tag}`
        : placePath !== null
          ? `Everything below ${place}`
          : line.assetClassId !== null
            ? `Every ${className?.toLowerCase()} of the customer`
            : 'Our own fleet at the customer',
  }));
}

/** Each line of an agreement with a name for people and the assets it reaches now, retired ones left out. */
export async function reachOf(
  db: Db,
  agreementId: AgreementId,
  customerId: CustomerId,
  wants: (line: LineReach['line']) => boolean = everHeld,
): Promise<LineReach[]> {
  const all = await namedLines(db, [agreementId]);
  const rows = all.filter((r) => wants(r.line));
  const wanted: SQL[] = rows.flatMap(({ line, placePath }): SQL[] => {
    if (line.assetId !== null) return [eq(asset.id, line.assetId)];
    if (placePath !== null) return [like(location.path, `${placePath}%`)];
    return [line.assetClassId !== null ? eq(asset.classId, line.assetClassId) : eq(asset.owner, 'own fleet')];
  });
  const assets =
    wanted.length === 0
      ? []
      : await db
          .select({ id: asset.id, path: location.path, classId: asset.classId, owner: asset.owner })
          .from(asset)
          .leftJoin(location, eq(location.id, asset.locationId))
          .where(
            and(
              eq(asset.customerId, customerId),
              inArray(asset.state, ['in service', 'out of service', 'in store']),
              or(...wanted),
            ),
          )
          .orderBy(asset.tag);
  return rows.map(({ line, label, placePath }) => ({
    ...{ line, label },
    assetIds: assets
      .filter((a) =>
        line.assetId !== null
          ? a.id === line.assetId
          : placePath !== null
            ? a.path?.startsWith(placePath)
            : line.assetClassId !== null
              ? a.classId === line.assetClassId
              : a.owner === 'own fleet',
      )
      .map((a) => a.id),
  }));
}
