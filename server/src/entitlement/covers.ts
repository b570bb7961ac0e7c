// Covers: for many assets at once, every warranty and coverage line that may reach them.
import { and, eq, inArray, isNotNull, or } from 'drizzle-orm';
import { indexCovers, type Cover, type CoveredAsset, type LineCover } from '#core/entitlement/index.ts';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { asLocalDate, sayDay, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { agreement, asset, coverageLine, location } from '../platform/tables/index.ts';
import { placesOf, type Place } from '../platform/places.ts';
import { allowancesOf } from './allowances.ts';

export type CoverSubject = {
  readonly asset: CoveredAsset;
  readonly customerId: CustomerId;
  readonly tag: string;
  readonly model: string;
  readonly place: Place;
  readonly zone: Zone | null;
  /** What may cover it, whatever the date, without what was drawn from allowances. */
  readonly covers: readonly Cover[];
  /** The same with what is left of each allowance on a date. */
  coversOn(on: LocalDate): Cover[];
};

/** The first day a warranty is taken to run when no commissioning date is known. */
const LONG_AGO: LocalDate = asLocalDate('1990-01-01');

type LineRow = { line: typeof coverageLine.$inferSelect; agreement: typeof agreement.$inferSelect };

export function reachOfLine(
  line: Pick<LineRow['line'], 'assetId' | 'locationId' | 'assetClassId'>,
): LineCover['reach'] {
  if (line.assetId !== null) return { kind: 'asset', assetId: line.assetId };
  if (line.locationId !== null) return { kind: 'location', locationId: line.locationId };
  if (line.assetClassId !== null) return { kind: 'class', assetClassId: line.assetClassId };
  return { kind: 'own fleet' };
}

function coverOfLine({ line, agreement: held }: LineRow): LineCover {
  return {
    kind: 'coverage line',
    label: `${held.number} ${held.name}`,
    lineId: line.id,
    agreementId: held.id,
    stage: held.stage,
    coversSuspended: held.suspendedCover,
    agreementTerm: { from: held.termFrom, to: held.termTo },
    term: { from: line.termFrom, to: line.termTo },
    reach: reachOfLine(line),
    shares: { labour: line.labour, parts: line.parts, consumables: line.consumables, travel: line.travel },
    discounts: line.discounts ?? [],
    hours: line.hours,
    allowances: [],
    serviceLevelId: line.serviceLevelId,
    kinds: line.kinds,
    excludedCauses: line.excludedCauses,
    excludedParts: line.excludedParts ?? [],
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
  warrantyVisits: number;
  owner: CoveredAsset['owner'];
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
          eq(coverageLine.ownFleet, true),
        ),
      ),
    );
}

function warrantyOf(row: AssetRow): Cover[] {
  if (row.warrantyUntil === null) return [];
  return [
    {
      kind: 'warranty',
      label: `Warranty to ${sayDay(row.warrantyUntil)}`,
      assetId: row.id,
      term: { from: row.warrantyFrom ?? row.commissioned ?? LONG_AGO, to: row.warrantyUntil },
      shares: {
        labour: row.warrantyLabour,
        parts: row.warrantyParts,
        consumables: 0,
        travel: row.warrantyTravel,
      },
      visits: null,
    },
  ];
}

/** What may cover each asset; a line counts for its own customer's assets only, even at a shared place. */
export async function coversOf(
  db: Db,
  assetIds: readonly AssetId[],
  lock: 'look' | 'lock' = 'look',
): Promise<Map<AssetId, CoverSubject>> {
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
      warrantyVisits: asset.warrantyVisits,
      owner: asset.owner,
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
  const linesOf = new Map<CustomerId, LineCover[]>();
  for (const row of lines) {
    const list = linesOf.get(row.agreement.customerId);
    if (list) list.push(coverOfLine(row));
    else linesOf.set(row.agreement.customerId, [coverOfLine(row)]);
  }
  const indexes = new Map([...linesOf].map(([id, list]) => [id, indexCovers(list)]));
  const counted = await allowancesOf(
    db,
    [...new Set(lines.map((l) => l.agreement.id))],
    rows.filter((r) => r.warrantyUntil !== null && r.warrantyVisits > 0).map((r) => r.id),
    lock,
  );
  for (const row of rows) {
    const place = places.of(row.locationId);
    const covered: CoveredAsset = {
      id: row.id,
      classId: row.classId,
      owner: row.owner,
      locationPath: place.path.map((n) => n.id),
    };
    const warranty = warrantyOf(row);
    const covers = indexes.get(row.customerId)?.candidatesOf(covered, warranty) ?? warranty;
    subjects.set(row.id, {
      asset: covered,
      customerId: row.customerId,
      tag: row.tag,
      model: row.model,
      place,
      zone: place.zone,
      covers,
      coversOn: (on) => covers.map((cover) => counted.withAllowances(cover, on, row.warrantyVisits)),
    });
  }
  return subjects;
}
