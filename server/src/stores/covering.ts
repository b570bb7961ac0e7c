// Covering needs: what stores have free is held for the orders whose turn it is, and their marks follow.
import { and, asc, eq, exists, gt, inArray, isNotNull, isNull, lte, ne, or, sql } from 'drizzle-orm';
import { group } from 'd3-array';
import * as v from 'valibot';
import type { NeedId, OrderId, PartId, StoreId } from '#core/ids.ts';
import { distanceKm, type Position } from '#core/places/index.ts';
import { coverNeeds, holdStock, isSoon, type HeldAt, type OpenNeed, type Shelf } from '#core/stores/index.ts';
import { addDays, instant, localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { depot } from '../depots/tables.ts';
import { lineLocation, orderLine, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import { recordActIn } from '../orders/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { jobKind } from '../platform/job-kind.ts';
import { forgetJob, leaveJob } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { accept } from '../platform/refuse.ts';
import { spotsOf } from '../rota/index.ts';
import { keepStocks, stockKey } from './ledger.ts';
import { markOfOrder } from './marks.ts';
import { keepNeeds, letGo, needsOfOrder, withHolds, type NeedRow } from './needs.ts';
import { storeSettings } from './settings.ts';
import { part, partNeed, stock, store } from './tables.ts';

const TOUCHING = { touches: ['stores'] } as const;
const PARTS_AT_ONCE = 20;

/** Stores that give by themselves. */
const gives = and(inArray(store.kind, ['depot', 'van']), eq(store.retired, false));

/** Parts with open needs of which something lies free in a store that gives. */
async function partsToGive(db: Db, of: ToCover): Promise<PartId[]> {
  if (of.parts?.length === 0 && of.orders?.length === 0) return [];
  const rows = await db
    .selectDistinct({ id: partNeed.partId })
    .from(partNeed)
    .where(
      and(
        gt(partNeed.open, 0),
        of.parts || of.orders
          ? or(inArray(partNeed.partId, [...(of.parts ?? [])]), inArray(partNeed.orderId, [...(of.orders ?? [])]))
          : undefined,
        exists(
          db
            .select({ one: sql`1` })
            .from(stock)
            .innerJoin(store, eq(store.id, stock.storeId))
            .where(and(eq(stock.partId, partNeed.partId), gt(stock.onHand, stock.reserved), gives)),
        ),
      ),
    )
    .orderBy(asc(partNeed.partId));
  return rows.map((r) => r.id);
}

type AboutNeed = {
  readonly day: LocalDate | null;
  readonly today: LocalDate;
  readonly priority: number;
  readonly technicianId: OpenNeed['technicianId'];
  readonly at: Position | null;
};

/** What of their orders decides whose turn it is, and where the work is. */
async function aboutNeeds(db: Db, needs: readonly NeedRow[], now: Instant): Promise<Map<NeedId, AboutNeed>> {
  const lines = await db
    .select({
      ...{ lineId: orderLine.id, plannedFor: workOrder.plannedFor, wishedOn: workOrder.wishedOn },
      ...{ nextDue: workOrder.nextDue, zone: workOrder.zone, priority: workOrder.priority },
      ...{ technicianId: workOrder.technicianId, locationId: lineLocation, path: location.path },
    })
    .from(orderLine)
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .where(inArray(orderLine.id, [...new Set(needs.map((n) => n.orderLineId))]));
  const spotOf = await spotsOf(db, lines);
  const of = new Map(
    lines.map((l) => [
      l.lineId,
      {
        ...{ day: l.plannedFor ?? l.wishedOn ?? l.nextDue, today: localDateAt(l.zone, now), priority: l.priority },
        ...{ technicianId: l.technicianId, at: spotOf(l).at },
      },
    ]),
  );
  return new Map(needs.flatMap((n) => (of.has(n.orderLineId) ? [[n.id, of.get(n.orderLineId) as AboutNeed]] : [])));
}

type Giving = {
  readonly id: StoreId;
  readonly kind: Shelf['kind'];
  readonly personId: Shelf['personId'];
  readonly at: Position | null;
};

async function givingStores(db: Db): Promise<Map<StoreId, Giving>> {
  const rows = await db
    .select({
      ...{ id: store.id, kind: store.kind, personId: store.personId },
      ...{ latitude: depot.latitude, longitude: depot.longitude },
    })
    .from(store)
    .innerJoin(depot, eq(depot.id, store.depotId))
    .where(gives);
  return new Map(
    rows.map(({ latitude, longitude, ...r }) => [
      r.id,
      { ...r, at: latitude === null || longitude === null ? null : { latitude, longitude } },
    ]),
  );
}

function openNeed(need: NeedRow, about: AboutNeed, stores: ReadonlyMap<StoreId, Giving>): OpenNeed {
  const kmTo = new Map<StoreId, number>();
  for (const { id, kind, at } of stores.values())
    if (kind === 'depot' && at && about.at) kmTo.set(id, distanceKm(about.at, at));
  const { day, priority, technicianId } = about;
  const { id, partId, open: thousandths, askedAt } = need;
  return { id, partId, thousandths, askedAt, day, priority, technicianId, kmTo };
}

/** One transaction of covering: holds what is free of some parts for their open needs; gives the orders for which more is held now. */
async function coverParts(tx: Tx, parts: readonly PartId[], now: Instant): Promise<OrderId[]> {
  const needs = await tx.db
    .select()
    .from(partNeed)
    .where(and(inArray(partNeed.partId, [...parts]), gt(partNeed.open, 0)))
    .orderBy(asc(partNeed.id))
    .for('update');
  if (needs.length === 0) return [];
  const rows = await tx.db
    .select()
    .from(stock)
    .where(inArray(stock.partId, [...parts]))
    .orderBy(asc(stock.storeId), asc(stock.partId))
    .for('update');
  const [stores, { holdDays }, about, bySerial] = [
    await givingStores(tx.db),
    await storeSettings(tx.db),
    await aboutNeeds(tx.db, needs, now),
    await tx.db
      .select({ id: part.id })
      .from(part)
      .where(and(inArray(part.id, [...parts]), eq(part.serialTracked, true))),
  ];
  const shelves = rows.flatMap((r): Shelf[] => {
    const at = stores.get(r.storeId);
    return at ? [{ ...at, storeId: r.storeId, partId: r.partId, available: r.onHand - r.reserved }] : [];
  });
  const open = needs.flatMap((need) => {
    const of = about.get(need.id);
    return of && isSoon(of.day, addDays(of.today, holdDays)) ? [openNeed(need, of, stores)] : [];
  });
  const { held } = coverNeeds(open, shelves, new Set(bySerial.map((p) => p.id)));
  if (held.length === 0) return [];
  const stocks = new Map(rows.map((r) => [stockKey(r.storeId, r.partId), r]));
  const given = group(held, (h) => h.needId);
  for (const need of needs)
    for (const { storeId, thousandths } of given.get(need.id) ?? []) {
      const key = stockKey(storeId, need.partId);
      const there = stocks.get(key);
      if (there) stocks.set(key, { ...there, ...accept(holdStock(there, thousandths)) });
    }
  const changed = new Set(needs.flatMap((n) => (given.get(n.id) ?? []).map((h) => stockKey(h.storeId, n.partId))));
  await keepStocks(tx, new Map([...stocks].filter(([key]) => changed.has(key))));
  const held0 = await withHolds(
    tx,
    needs.filter((n) => given.has(n.id)),
  );
  await keepNeeds(
    tx,
    held0.map((before) => ({
      ...{ before, need: before.need },
      holds: added(before.holds, given.get(before.need.id) ?? []),
    })),
  );
  await announce(tx, TOUCHING);
  return [...new Set(held0.map((h) => h.need.orderId))];
}

function added(holds: readonly HeldAt[], more: readonly HeldAt[]): HeldAt[] {
  const at = new Map(holds.map((h) => [h.storeId, h.thousandths]));
  for (const { storeId, thousandths } of more) at.set(storeId, (at.get(storeId) ?? 0) + thousandths);
  return [...at].map(([storeId, thousandths]) => ({ storeId, thousandths }));
}

/** What is held in the van of somebody who does not go is free again. */
async function letGoOfOtherVans(tx: Tx, orderId: OrderId): Promise<void> {
  const all = await needsOfOrder(tx, orderId);
  const storeIds = [...new Set(all.flatMap((n) => n.holds.map((h) => h.storeId)))];
  if (storeIds.length === 0) return;
  const [order] = await tx.db
    .select({ technicianId: workOrder.technicianId })
    .from(workOrder)
    .where(eq(workOrder.id, orderId));
  const technicianId = order?.technicianId ?? null;
  if (technicianId === null) return;
  const others = new Set(
    (
      await tx.db
        .select({ id: store.id })
        .from(store)
        .where(
          and(
            inArray(store.id, storeIds),
            eq(store.kind, 'van'),
            isNotNull(store.personId),
            ne(store.personId, technicianId),
          ),
        )
    ).map((s) => s.id),
  );
  for (const before of all) {
    const gone = before.holds.filter((h) => others.has(h.storeId));
    if (gone.length === 0) continue;
    await letGo(tx, before.need.partId, gone);
    await keepNeeds(tx, [{ before, need: before.need, holds: before.holds.filter((h) => !others.has(h.storeId)) }]);
  }
}

export type ToCover = {
  readonly parts?: readonly PartId[];
  readonly orders?: readonly OrderId[];
  /** Nothing is to be given: only whether they wait is looked at. */
  readonly marks?: readonly OrderId[];
  /** Who goes is another now: what is held in vans is looked at again. */
  readonly planned?: boolean;
};

/** Orders that begin to wait by the day alone: their work is near now, and a need of them is open. */
async function ordersToMark(db: Db, now: Instant): Promise<OrderId[]> {
  const { holdDays } = await storeSettings(db);
  const day = sql`coalesce(${workOrder.plannedFor}, ${workOrder.wishedOn}, ${workOrder.nextDue})`;
  const rows = await db
    .selectDistinct({ id: partNeed.orderId })
    .from(partNeed)
    .innerJoin(workOrder, eq(workOrder.id, partNeed.orderId))
    .where(
      and(
        gt(partNeed.open, 0),
        isNull(partNeed.anyway),
        isNull(workOrder.pausedSince),
        isNull(workOrder.restoredAt),
        // A day more than any zone is ahead of another: each is looked at again by its own.
        lte(day, addDays(localDateAt('UTC' as Zone, now), holdDays + 1)),
      ),
    );
  return rows.map((r) => r.id);
}

/** Sets the mark of each of these orders by its needs, each in a transaction of its own. */
export async function settleMarks(database: Database, ids: readonly OrderId[], now: Instant): Promise<void> {
  for (const id of [...new Set(ids)].sort((a, b) => a - b))
    await database.transact(async (tx) => {
      const ask = await markOfOrder(tx, id, now);
      if (ask) await recordActIn(tx, id, ask, now);
    });
}

/** Covers what can be covered of the needs of these parts or orders, and settles the marks of the orders concerned. */
export async function cover(database: Database, of: ToCover, now: Instant): Promise<number> {
  if (of.marks) {
    await settleMarks(database, of.marks, now);
    return 0;
  }
  if (of.planned) for (const id of of.orders ?? []) await database.transact((tx) => letGoOfOtherVans(tx, id));
  const parts = await partsToGive(database.db, of);
  const orders = [...(of.orders ?? (of.parts ? [] : await ordersToMark(database.db, now)))];
  for (let i = 0; i < parts.length; i += PARTS_AT_ONCE) {
    const some = parts.slice(i, i + PARTS_AT_ONCE);
    orders.push(...(await database.transact((tx) => coverParts(tx, some, now))));
  }
  await settleMarks(database, orders, now);
  return parts.length;
}

/** Left in the transaction of the change, so that it is done whatever becomes of this server. */
export const leaveCovering = (tx: Tx, of: ToCover, at?: Instant): Promise<number> =>
  leaveJob(tx, COVERING, of, at === undefined ? {} : { at });

/** By then what was committed is covered by whoever committed it, or nobody will. */
const NET_MS = 5000;

/** Runs a write that says what is to be covered after it; that is done at once, and by its job where this server ends before. */
export async function thenCover<T>(
  database: Database,
  now: Instant,
  work: (follow: (tx: Tx, of: ToCover) => Promise<void>) => Promise<T>,
): Promise<T> {
  // A transaction that ran again said the same again.
  const left = new Map<string, { readonly of: ToCover; readonly job: number }>();
  const result = await work(async (tx, of) => {
    left.set(JSON.stringify(of), { of, job: await leaveCovering(tx, of, instant(Date.now() + NET_MS)) });
  });
  for (const { of, job } of left.values())
    try {
      await cover(database, of, now);
      await forgetJob(database.db, job);
    } catch {
      // What was written stands, whatever becomes of this: the job does it again and says why it fails.
    }
  return result;
}

const COVERING = 'cover needs';
const ids = v.optional(v.array(v.number()));
export const coveringNeeds = jobKind({
  kind: COVERING,
  says: 'Hold parts for the orders that need them',
  every: { cron: '17 * * * *', says: 'every hour' },
  atStart: true,
  ask: v.object({ parts: ids, orders: ids, marks: ids, planned: v.optional(v.boolean()) }),
  async run({ database, readNow }, of) {
    const n = await cover(database, of as ToCover, readNow());
    return n === 0 ? 'nothing to give' : `${n} ${n === 1 ? 'part' : 'parts'} given`;
  },
});
