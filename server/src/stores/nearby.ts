// How far what is free is from where it is needed: a depot's store stands at its depot, a van is where its person is on site, else there too.
import { and, asc, eq, gt, inArray } from 'drizzle-orm';
import type { OrderLineId, PartId, PersonId } from '#core/ids.ts';
import { distanceKm, type Position } from '#core/places/index.ts';
import { asset } from '../assets/tables.ts';
import { depot } from '../depots/tables.ts';
import { lineLocation, orderLine, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { spotsOf } from '../rota/index.ts';
import { stock, store } from './tables.ts';

const placed = { lineId: orderLine.id, locationId: lineLocation, path: location.path } as const;

/** What of some parts is free somewhere. */
const freeOf = (db: Db, parts: readonly PartId[]) =>
  db
    .select({
      ...{ stock, name: store.name, kind: store.kind, personId: store.personId },
      ...{ latitude: depot.latitude, longitude: depot.longitude },
    })
    .from(stock)
    .innerJoin(store, eq(store.id, stock.storeId))
    .innerJoin(depot, eq(depot.id, store.depotId))
    .where(and(inArray(stock.partId, [...parts]), gt(stock.onHand, stock.reserved), eq(store.retired, false)))
    .orderBy(asc(store.kind), asc(store.name));

/** Where people are on site now. */
async function onSite(db: Db, people: readonly PersonId[]): Promise<ReadonlyMap<PersonId, Position | null>> {
  if (people.length === 0) return new Map();
  const rows = await db
    .select({ ...placed, personId: workOrder.technicianId })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .where(and(eq(workOrder.stage, 'on site'), inArray(workOrder.technicianId, [...people])))
    .orderBy(asc(workOrder.id));
  const spotOf = await spotsOf(db, rows);
  return new Map(rows.flatMap((r) => (r.personId === null ? [] : [[r.personId, spotOf(r).at] as const])));
}

export type FreeNear = Awaited<ReturnType<typeof freeOf>>[number] & { readonly km: number | null };

/** What of some parts is free, for each line the nearest first; what lies in quarantine last. Kilometres in a straight line; null: not known. */
export async function freeNear(
  db: Db,
  parts: readonly PartId[],
  lines: readonly OrderLineId[],
): Promise<(partId: PartId, lineId: OrderLineId) => FreeNear[]> {
  if (parts.length === 0) return () => [];
  const [free, places] = await Promise.all([
    freeOf(db, parts),
    db
      .select(placed)
      .from(orderLine)
      .leftJoin(asset, eq(asset.id, orderLine.assetId))
      .leftJoin(location, eq(location.id, lineLocation))
      .where(inArray(orderLine.id, [...lines])),
  ]);
  const [spotOf, there] = await Promise.all([
    spotsOf(db, places),
    onSite(db, [...new Set(free.flatMap((f) => f.personId ?? []))]),
  ]);
  const lineAt = new Map(places.map((p) => [p.lineId, spotOf(p).at]));
  const storeAt = ({ personId, latitude, longitude }: (typeof free)[number]): Position | null => {
    const site = personId === null ? null : there.get(personId);
    if (site) return site;
    return latitude === null || longitude === null ? null : { latitude, longitude };
  };
  return (partId, lineId) => {
    const to = lineAt.get(lineId) ?? null;
    const own = free.filter((f) => f.stock.partId === partId);
    const far = own.map((f): FreeNear => {
      const from = storeAt(f);
      return { ...f, km: to && from ? distanceKm(to, from) : null };
    });
    const rank = (f: FreeNear): number => (f.kind === 'quarantine' ? Infinity : (f.km ?? Number.MAX_VALUE));
    return far.sort((a, b) => (rank(a) === rank(b) ? 0 : rank(a) - rank(b)));
  };
}
