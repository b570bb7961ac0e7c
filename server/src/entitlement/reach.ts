// Reach: which assets the coverage lines of an agreement cover.
import { group } from 'd3-array';
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

type Reached = Pick<typeof asset.$inferSelect, 'id' | 'classId' | 'owner'> & { readonly path: string | null };

/** Whether a line reaches a machine of its agreement's customer. */
function reaches({ line, placePath }: Pick<Named, 'line' | 'placePath'>, machine: Reached): boolean {
  if (line.assetId !== null) return machine.id === line.assetId;
  if (placePath !== null) return machine.path?.startsWith(placePath) ?? false;
  return line.assetClassId !== null ? machine.classId === line.assetClassId : machine.owner === 'own fleet';
}
type Named = Awaited<ReturnType<typeof namedLines>>[number];

/** What is not retired. */
const KEPT = ['in service', 'out of service', 'in store'] as const;

const REACHED = {
  ...{ id: asset.id, path: location.path, classId: asset.classId, owner: asset.owner, customerId: asset.customerId },
  ...{ tag: asset.tag, model: asset.model },
};
export type Machine = Reached & { readonly customerId: CustomerId; readonly tag: string; readonly model: string };

/** The machines that some agreements reach now, each once, by tag; retired ones left out. Two questions, however many they are. */
export async function machinesReached(
  db: Db,
  agreements: readonly { readonly id: AgreementId; readonly customerId: CustomerId }[],
): Promise<Map<AgreementId, Machine[]>> {
  if (agreements.length === 0) return new Map();
  const [lines, machines] = await Promise.all([
    namedLines(
      db,
      agreements.map((a) => a.id),
    ),
    db
      .select(REACHED)
      .from(asset)
      .leftJoin(location, eq(location.id, asset.locationId))
      .where(
        and(
          inArray(asset.customerId, [...new Set(agreements.map((a) => a.customerId))]),
          inArray(asset.state, [...KEPT]),
        ),
      )
      .orderBy(asset.tag),
  ]);
  const linesOf = group(
    lines.filter((l) => everHeld(l.line)),
    (l) => l.line.agreementId,
  );
  const machinesOf = group(machines, (m) => m.customerId);
  return new Map(
    agreements.map(({ id, customerId }) => {
      const own = linesOf.get(id) ?? [];
      return [id, (machinesOf.get(customerId) ?? []).filter((m) => own.some((l) => reaches(l, m)))];
    }),
  );
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
          .where(and(eq(asset.customerId, customerId), inArray(asset.state, [...KEPT]), or(...wanted)))
          .orderBy(asset.tag);
  return rows.map((row) => ({
    ...{ line: row.line, label: row.label },
    assetIds: assets.filter((a) => reaches(row, a)).map((a) => a.id),
  }));
}
