// Covers: for many assets at once, every warranty and coverage line that may reach them.
import { and, eq, inArray, isNotNull, or } from 'drizzle-orm';
import { agreementNumber } from '#api/shapes.ts';
import type { Cover, CoveredAsset } from '#core/entitlement/index.ts';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { asLocalDate, sayDay, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { agreement, asset, coverageLine, location } from '../platform/tables/index.ts';
import { placesOf, type Place } from '../platform/places.ts';

export type CoverSubject = {
  readonly asset: CoveredAsset;
  readonly customerId: CustomerId;
  readonly tag: string;
  readonly model: string;
  readonly place: Place;
  readonly zone: Zone | null;
  readonly covers: readonly Cover[];
};

/** The first day a warranty is taken to run when no commissioning date is known. */
const LONG_AGO: LocalDate = asLocalDate('1990-01-01');

type LineRow = { line: typeof coverageLine.$inferSelect; agreement: typeof agreement.$inferSelect };

function coverOfLine({ line, agreement: held }: LineRow): Cover {
  const reach =
    line.assetId !== null
      ? ({ kind: 'asset', assetId: line.assetId } as const)
      : line.locationId !== null
        ? ({ kind: 'location', locationId: line.locationId } as const)
        : ({ kind: 'class', assetClassId: line.assetClassId as AssetClassId } as const);
  return {
    kind: 'coverage line',
    label: `${agreementNumber(held.id)} ${held.name}`,
    lineId: line.id,
    agreementId: held.id,
    stage: held.stage,
    agreementTerm: { from: held.termFrom, to: held.termTo },
    term: { from: line.termFrom, to: line.termTo },
    reach,
    shares: { labour: line.labour, parts: line.parts, travel: line.travel },
    serviceLevelId: line.serviceLevelId,
    kinds: line.kinds,
    excludedCauses: line.excludedCauses,
  };
}

type AssetRow = {
  id: AssetId;
  customerId: CustomerId;
  classId: AssetClassId;
  locationId: LocationId | null;
  path: string | null;
  tag: string;
  model: string;
  commissioned: LocalDate | null;
  warrantyFrom: LocalDate | null;
  warrantyUntil: LocalDate | null;
  warrantyLabour: number;
  warrantyParts: number;
  warrantyTravel: number;
};

async function linesReaching(
  db: Db,
  rows: readonly AssetRow[],
  locationIds: readonly LocationId[],
): Promise<LineRow[]> {
  const customers = [...new Set(rows.map((r) => r.customerId))];
  return db
    .select({ line: coverageLine, agreement })
    .from(coverageLine)
    .innerJoin(agreement, eq(agreement.id, coverageLine.agreementId))
    .where(
      and(
        inArray(agreement.customerId, customers),
        or(
          inArray(
            coverageLine.assetId,
            rows.map((r) => r.id),
          ),
          locationIds.length > 0 ? inArray(coverageLine.locationId, [...locationIds]) : undefined,
          isNotNull(coverageLine.assetClassId),
        ),
      ),
    );
}

/** What may cover each asset; a line counts for its own customer's assets only, even at a shared place. */
export async function coversOf(db: Db, assetIds: readonly AssetId[]): Promise<Map<AssetId, CoverSubject>> {
  const subjects = new Map<AssetId, CoverSubject>();
  if (assetIds.length === 0) return subjects;
  const rows: AssetRow[] = await db
    .select({
      id: asset.id,
      customerId: asset.customerId,
      classId: asset.classId,
      locationId: asset.locationId,
      path: location.path,
      tag: asset.tag,
      model: asset.model,
      commissioned: asset.commissioned,
      warrantyFrom: asset.warrantyFrom,
      warrantyUntil: asset.warrantyUntil,
      warrantyLabour: asset.warrantyLabour,
      warrantyParts: asset.warrantyParts,
      warrantyTravel: asset.warrantyTravel,
    })
    .from(asset)
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(inArray(asset.id, [...assetIds]));
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  const locationIds = [...new Set(rows.flatMap((r) => places.of(r.locationId).path.map((n) => n.id)))];
  const lines = rows.length > 0 ? await linesReaching(db, rows, locationIds) : [];
  const push = <K>(map: Map<K, LineRow[]>, key: K | null, row: LineRow): void => {
    if (key === null) return;
    const list = map.get(key);
    if (list) list.push(row);
    else map.set(key, [row]);
  };
  const [byAsset, byLocation, byClass] = [
    new Map<AssetId, LineRow[]>(),
    new Map<LocationId, LineRow[]>(),
    new Map<AssetClassId, LineRow[]>(),
  ];
  for (const row of lines) {
    push(byAsset, row.line.assetId, row);
    push(byLocation, row.line.locationId, row);
    push(byClass, row.line.assetClassId, row);
  }
  for (const row of rows) {
    const place = places.of(row.locationId);
    const reaching = [
      ...(byAsset.get(row.id) ?? []),
      ...place.path.flatMap((n) => byLocation.get(n.id) ?? []),
      ...(byClass.get(row.classId) ?? []),
    ].filter((l) => l.agreement.customerId === row.customerId);
    const covers: Cover[] = reaching.map(coverOfLine);
    if (row.warrantyUntil)
      covers.push({
        kind: 'warranty',
        label: `Warranty to ${sayDay(row.warrantyUntil)}`,
        assetId: row.id,
        term: { from: row.warrantyFrom ?? row.commissioned ?? LONG_AGO, to: row.warrantyUntil },
        shares: { labour: row.warrantyLabour, parts: row.warrantyParts, travel: row.warrantyTravel },
      });
    subjects.set(row.id, {
      asset: { id: row.id, classId: row.classId, locationPath: place.path.map((n) => n.id) },
      customerId: row.customerId,
      tag: row.tag,
      model: row.model,
      place,
      zone: place.zone,
      covers,
    });
  }
  return subjects;
}
