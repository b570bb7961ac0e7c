// Cover and promises of the machines an order is for, and what its place is worth knowing for; previews and acts stand on the same.
import { and, eq, inArray } from 'drizzle-orm';
import type { Cause, Verdict } from '#core/entitlement/index.ts';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import type { OrderKind } from '#core/orders/index.ts';
import type { GivenPromises, Priority } from '#core/service-levels/index.ts';
import type { Instant, Zone } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { classWord } from '../catalogue/tables.ts';
import type { CalendarBook } from '../calendars/index.ts';
import { coversOf, takeDecisions, type CoverSubject, type Taken } from '../entitlement/index.ts';
import { placesOf, type Place } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';

export type DecidedLine = {
  /** Null: the place itself. */
  readonly assetId: AssetId | null;
  readonly locationId: LocationId | null;
  readonly tag: string | null;
  readonly model: string;
  readonly classId: AssetClassId | null;
  readonly customerId: CustomerId;
  readonly ownFleet: boolean;
  readonly place: Place;
  readonly zone: Zone;
  readonly subject: CoverSubject | null;
  readonly taken: Taken | null;
};

export type LineAsk = {
  readonly assetId: AssetId | null;
  readonly cause: Cause;
};

type Ask = {
  readonly kind: OrderKind;
  readonly priority: Priority;
  readonly at: Instant;
  readonly fallbackZone: Zone;
};

/**
 * Decides cover and promises of some machines, in the order asked; each with its own cause. Refused at its field: machines that do
 * not exist. `book` also reads allowances under lock: of two orders raised at once the second sees what the first drew.
 */
export async function decideLines(
  db: Db,
  book: CalendarBook,
  lines: readonly LineAsk[],
  ask: Ask,
  lock: 'look' | 'lock',
  field: (i: number) => string = () => 'assetIds',
): Promise<DecidedLine[]> {
  const ids = [...new Set(lines.flatMap((l) => l.assetId ?? []))];
  if (ids.length === 0) return [];
  const subjects = await coversOf(db, ids, lock, 'book');
  const rows = await db
    .select({
      id: asset.id,
      classId: asset.classId,
      locationId: asset.locationId,
      owner: asset.owner,
      state: asset.state,
    })
    .from(asset)
    .where(inArray(asset.id, ids));
  const known = new Map(rows.map((r) => [r.id, r]));
  const taken = new Map<Cause, Map<AssetId, Taken>>();
  for (const cause of new Set(lines.map((l) => l.cause))) {
    const own = ids.flatMap((id) => subjects.get(id) ?? []);
    const decided = await takeDecisions(db, book, own, { ...ask, cause });
    taken.set(cause, new Map(own.map((s, i) => [s.asset.id, decided[i] as Taken])));
  }
  return lines.flatMap(({ assetId, cause }, i): DecidedLine[] => {
    if (assetId === null) return [];
    const subject = subjects.get(assetId);
    const row = known.get(assetId);
    if (!subject || !row) refuse('not-found', 'That asset does not exist.', field(i));
    const own = taken.get(cause)?.get(assetId) as Taken;
    return [
      {
        assetId,
        locationId: row.locationId,
        tag: subject.tag,
        model: subject.model,
        classId: row.classId,
        customerId: subject.customerId,
        ownFleet: row.owner === 'own fleet',
        place: subject.place,
        zone: own.zone,
        subject,
        taken: own,
      },
    ];
  });
}

/** A place as a line of its own, while no machine is known: nobody bears it and nothing is promised yet. */
export async function placeLine(
  db: Db,
  id: LocationId,
  customerId: CustomerId,
  fallbackZone: Zone,
): Promise<DecidedLine> {
  const [row] = await db
    .select({ id: location.id, name: location.fullName, path: location.path })
    .from(location)
    .where(eq(location.id, id));
  if (!row) refuse('not-found', 'That place does not exist.', 'locationId');
  const place = (await placesOf(db, [{ id, path: row.path }])).of(id);
  return {
    ...{ assetId: null, locationId: id, tag: null, model: row.name, classId: null, customerId, ownFleet: false },
    ...{ place, zone: place.zone ?? fallbackZone, subject: null, taken: null },
  };
}

/** Work on a machine of the own fleet is internal unless it is rented out under an agreement. */
export const isInternal = ({ ownFleet, taken }: DecidedLine): boolean =>
  ownFleet && (taken?.verdict.agreementId ?? null) === null;

/** What a line keeps of its decision. */
export const keptOf = ({ taken }: DecidedLine): { verdict: StoredTaken; promises: GivenPromises } => ({
  verdict: taken && { verdict: taken.verdict, sentence: taken.sentence, promise: taken.promise },
  promises: taken?.promises ?? {},
});
/** Where a line is, and the top of the tree above it. */
export const stoodAt = ({ locationId, place }: DecidedLine) => ({
  placeId: locationId,
  siteId: place.path[0]?.id ?? null,
});

type StoredTaken = { readonly verdict: Verdict; readonly sentence: string; readonly promise: string } | null;

/** Classes that name causes and remedies: a repair of theirs is not done before both are said. */
export async function classesAskingFindings(db: Db, ids: readonly AssetClassId[]): Promise<ReadonlySet<AssetClassId>> {
  if (ids.length === 0) return new Set();
  const rows = await db
    .selectDistinct({ classId: classWord.classId })
    .from(classWord)
    .where(and(inArray(classWord.classId, [...ids]), inArray(classWord.kind, ['cause', 'remedy'])));
  return new Set(rows.map((r) => r.classId));
}
