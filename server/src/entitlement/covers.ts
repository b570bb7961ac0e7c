// Covers: for many assets at once, every warranty and coverage line that may reach them.
import { and, eq, inArray, isNotNull, or } from 'drizzle-orm';
import { indexCovers, type Cover, type CoveredAsset, type LineCover } from '#core/entitlement/index.ts';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import { addDays, asLocalDate, sayDay, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { placesOf, type Place, type Places } from '../places/index.ts';
import { pastStaysOf, type PastStay } from '../places/index.ts';
import { allowancesOf } from './allowances.ts';

export type CoverSubject = {
  readonly asset: CoveredAsset;
  readonly customerId: CustomerId;
  readonly tag: string;
  readonly model: string;
  readonly place: Place;
  readonly zone: Zone | null;
  /** The asset as it stood on a date: at the place, and for the customer, of that day. */
  assetOn(on: LocalDate): CoveredAsset;
  /** What may cover it, whatever the date, without what was drawn from allowances; each cut to the days it stood where it is reached. */
  readonly covers: readonly Cover[];
  /** What may cover it where it stood on a date, with what is left of each allowance; draws dated later do not count unless it is booked. */
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
  customers: readonly CustomerId[],
  assetIds: readonly AssetId[],
  locationIds: readonly LocationId[],
): Promise<LineRow[]> {
  return db
    .select({ line: coverageLine, agreement })
    .from(coverageLine)
    .innerJoin(agreement, eq(agreement.id, coverageLine.agreementId))
    .where(
      and(
        inArray(agreement.customerId, [...customers]),
        or(
          inArray(coverageLine.assetId, [...assetIds]),
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

/** A stretch at one place for one customer; the last one has no end. */
type Stay = Omit<PastStay, 'assetId' | 'until'> & { readonly until: LocalDate | null };

const earlier = (a: LocalDate | null, b: LocalDate | null): LocalDate | null =>
  a === null ? b : b === null || a < b ? a : b;

/** The covers of all stays, each line as long as the asset stood where it is reached by it. */
function cutToStays(
  stood: readonly { readonly stay: Stay; readonly covers: readonly Cover[] }[],
  warranty: readonly Cover[],
): Cover[] {
  const cut: { cover: LineCover; lastStay: number }[] = [];
  stood.forEach(({ stay, covers }, i) => {
    const since = stood[i - 1]?.stay.until ?? null;
    const last = stay.until === null ? null : addDays(stay.until, -1);
    for (const cover of covers) {
      if (cover.kind !== 'coverage line') continue;
      const to = earlier(cover.term.to, last);
      const going = cut.find((c) => c.lastStay === i - 1 && c.cover.lineId === cover.lineId);
      if (going) {
        going.cover = { ...cover, term: { from: going.cover.term.from, to } };
        going.lastStay = i;
      } else {
        const from = since !== null && since > cover.term.from ? since : cover.term.from;
        cut.push({ cover: { ...cover, term: { from, to } }, lastStay: i });
      }
    }
  });
  return [...warranty, ...cut.map((c) => c.cover).filter(({ term }) => term.to === null || term.to >= term.from)];
}

async function assetRowsOf(db: Db, assetIds: readonly AssetId[]): Promise<AssetRow[]> {
  return db
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
}

/** The lines of each customer, ready to be asked which of them reach a machine. */
function indexedByCustomer(lines: readonly LineRow[]) {
  const linesOf = new Map<CustomerId, LineCover[]>();
  for (const row of lines) {
    const list = linesOf.get(row.agreement.customerId);
    if (list) list.push(coverOfLine(row));
    else linesOf.set(row.agreement.customerId, [coverOfLine(row)]);
  }
  return new Map([...linesOf].map(([id, list]) => [id, indexCovers(list)]));
}

/** One machine with what may cover it, on any day of its stays. */
function subjectOf(
  row: AssetRow,
  stays: readonly Stay[],
  places: Places,
  indexes: ReturnType<typeof indexedByCustomer>,
  counted: Awaited<ReturnType<typeof allowancesOf>>,
  purpose: 'ask' | 'book',
): CoverSubject {
  const place = places.of(row.locationId);
  const warranty = warrantyOf(row);
  const stood = stays.map((stay) => {
    const covered: CoveredAsset = {
      id: row.id,
      classId: row.classId,
      owner: row.owner,
      locationPath: places.of(stay.locationId).path.map((n) => n.id),
    };
    return { stay, covered, covers: indexes.get(stay.customerId)?.candidatesOf(covered, warranty) ?? warranty };
  });
  const now = stood.at(-1) as (typeof stood)[number];
  const on = (date: LocalDate) => stood.find((s) => s.stay.until === null || date < s.stay.until) ?? now;
  return {
    asset: now.covered,
    customerId: row.customerId,
    tag: row.tag,
    model: row.model,
    place,
    zone: place.zone,
    assetOn: (date) => on(date).covered,
    covers: stood.length === 1 ? now.covers : cutToStays(stood, warranty),
    coversOn: (date) =>
      on(date).covers.map((cover) => counted.withAllowances(cover, date, row.warrantyVisits, purpose === 'book')),
  };
}

/** What may cover each asset; a line counts for its own customer's assets only, even at a shared place. */
export async function coversOf(
  db: Db,
  assetIds: readonly AssetId[],
  lock: 'look' | 'lock' = 'look',
  purpose: 'ask' | 'book' = lock === 'lock' ? 'book' : 'ask',
): Promise<Map<AssetId, CoverSubject>> {
  const subjects = new Map<AssetId, CoverSubject>();
  if (assetIds.length === 0) return subjects;
  const rows = await assetRowsOf(db, assetIds);
  const past = await pastStaysOf(db, assetIds);
  const staysOf = (row: AssetRow): Stay[] => [
    ...past.filter((p) => p.assetId === row.id),
    { until: null, locationId: row.locationId, path: row.path, customerId: row.customerId },
  ];
  const places = await placesOf(
    db,
    [...rows, ...past].map((r) => ({ id: r.locationId, path: r.path })),
  );
  const locationIds = [...new Set([...rows, ...past].flatMap((r) => places.of(r.locationId).path.map((n) => n.id)))];
  const customers = [...new Set([...rows, ...past].map((r) => r.customerId))];
  const lines = rows.length > 0 ? await linesReaching(db, customers, assetIds, locationIds) : [];
  const indexes = indexedByCustomer(lines);
  const counted = await allowancesOf(
    db,
    [...new Set(lines.map((l) => l.agreement.id))],
    rows.filter((r) => r.warrantyUntil !== null && r.warrantyVisits > 0).map((r) => r.id),
    lock,
  );
  for (const row of rows) subjects.set(row.id, subjectOf(row, staysOf(row), places, indexes, counted, purpose));
  return subjects;
}
