// Rows of needs and of what is held for them, changed together with what lies in the stores.
import { and, asc, eq, inArray, type SQL } from 'drizzle-orm';
import { group, sum } from 'd3-array';
import type { NeedId, OrderId, OrderLineId, PartId, StoreId } from '#core/ids.ts';
import { letGoOfStock, openOf, useOfNeed, type HeldAt } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, type Tx } from '../platform/database.ts';
import { workOrder } from '../orders/tables.ts';
import { holdStocks, keepStocks, stockKey } from './ledger.ts';
import { partNeed, stockHold, store } from './tables.ts';

export type NeedRow = typeof partNeed.$inferSelect;
export type HoldRow = typeof stockHold.$inferSelect;

export type HeldNeed = { readonly need: NeedRow; readonly holds: readonly HoldRow[] };

export async function withHolds(tx: Tx, needs: readonly NeedRow[]): Promise<HeldNeed[]> {
  if (needs.length === 0) return [];
  const holds = await tx.db
    .select()
    .from(stockHold)
    .where(
      inArray(
        stockHold.needId,
        needs.map((n) => n.id),
      ),
    )
    .for('update');
  const of = group(holds, (h) => h.needId);
  return needs.map((need) => ({ need, holds: of.get(need.id) ?? [] }));
}

/** Held by their keys: a lock on what is not there would hold up whoever writes beside it. */
export async function underLock(tx: Tx, which: SQL | undefined): Promise<HeldNeed[]> {
  const found = await tx.db.select({ id: partNeed.id }).from(partNeed).where(which).orderBy(asc(partNeed.id));
  const ids = found.map((f) => f.id);
  if (ids.length === 0) return [];
  const rows = await tx.db
    .select()
    .from(partNeed)
    .where(inArray(partNeed.id, ids))
    .orderBy(asc(partNeed.id))
    .for('update');
  return withHolds(tx, rows);
}

export const needUnderLock = async (tx: Tx, id: NeedId): Promise<HeldNeed | null> =>
  (await underLock(tx, eq(partNeed.id, id)))[0] ?? null;

/** The need of a line for a part, held until the end; null: it asks for none of it. */
export const needOfLine = async (tx: Tx, lineId: OrderLineId, partId: PartId): Promise<HeldNeed | null> => {
  // Asked by every use of a part, and mostly there is none.
  const [found] = await tx.connection.query('SELECT id FROM part_need WHERE order_line_id = ? AND part_id = ?', [
    ...[lineId, partId],
  ]);
  const [row] = found as { id: NeedId }[];
  return row ? needUnderLock(tx, row.id) : null;
};

/** All needs of an order, held until the end. */
export const needsOfOrder = (tx: Tx, orderId: OrderId): Promise<HeldNeed[]> =>
  underLock(tx, eq(partNeed.orderId, orderId));

/** Needs with what is held for them, as they are to be from now on: what is held and open follows. */
export async function keepNeeds(
  tx: Tx,
  all: readonly { readonly before: HeldNeed; readonly need: NeedRow; readonly holds: readonly HeldAt[] }[],
): Promise<void> {
  if (all.length === 0) return;
  for (const { before, need, holds } of all) {
    const held = sum(holds, (h) => h.thousandths);
    const open = need.over ? 0 : openOf({ ...need, held });
    await tx.db
      .update(partNeed)
      .set({
        ...{ wanted: need.wanted, used: need.used, held, open, over: need.over, version: need.version },
        ...{ anyway: need.anyway, anywayBy: need.anywayBy, notPicked: need.notPicked },
      })
      .where(eq(partNeed.id, need.id));
    const stays = new Set(holds.map((h) => h.storeId));
    const gone = before.holds.map((h) => h.storeId).filter((id) => !stays.has(id));
    if (gone.length > 0)
      await tx.db.delete(stockHold).where(and(eq(stockHold.needId, need.id), inArray(stockHold.storeId, gone)));
  }
  await bulkInsert(
    tx.connection,
    'stock_hold',
    ['need_id', 'store_id', 'part_id', 'thousandths'],
    all.flatMap(({ need, holds }) => holds.map((h) => [need.id, h.storeId, need.partId, h.thousandths])),
    'ON DUPLICATE KEY UPDATE thousandths = VALUES(thousandths)',
  );
}

/** Stock that was held is free again. */
export async function letGo(tx: Tx, partId: PartId, holds: readonly HeldAt[]): Promise<void> {
  if (holds.length === 0) return;
  const stocks = await holdStocks(
    tx,
    holds.map((h) => ({ storeId: h.storeId, partId })),
  );
  for (const { storeId, thousandths } of holds) {
    const key = stockKey(storeId, partId);
    const there = stocks.get(key);
    if (there) stocks.set(key, letGoOfStock(there, thousandths));
  }
  await keepStocks(tx, stocks);
}

/** Stores in the turn in which what they hold is used up: the van of who goes first, depots after it, others' vans last. */
async function inTurn(tx: Tx, { need, holds }: HeldNeed): Promise<readonly HoldRow[]> {
  if (holds.length < 2) return holds;
  const [of] = await tx.db
    .select({ technicianId: workOrder.technicianId })
    .from(workOrder)
    .where(eq(workOrder.id, need.orderId));
  const stores = await tx.db
    .select({ id: store.id, kind: store.kind, personId: store.personId })
    .from(store)
    .where(
      inArray(
        store.id,
        holds.map((h) => h.storeId),
      ),
    );
  const turn = (id: StoreId): number => {
    const at = stores.find((s) => s.id === id);
    if (at?.kind === 'depot') return 1;
    return at?.personId === of?.technicianId ? 0 : 2;
  };
  return [...holds].sort((a, b) => turn(a.storeId) - turn(b.storeId) || a.storeId - b.storeId);
}

/** So much of what a line asks for was used, from a store or from none: what of that was held there. Null: the line asked for none of it. */
export async function usedOfLine(
  tx: Tx,
  lineId: OrderLineId,
  partId: PartId,
  storeId: StoreId | null,
  thousandths: number,
): Promise<{ readonly held: number } | null> {
  const before = await needOfLine(tx, lineId, partId);
  if (!before) return null;
  const { need } = before;
  const { fromHold, kept, letGo: free } = useOfNeed(need, await inTurn(tx, before), storeId, thousandths);
  await letGo(tx, partId, free);
  await keepNeeds(tx, [{ before, need: { ...need, used: need.used + thousandths }, holds: kept }]);
  return { held: fromHold };
}

/** So much was not used after all: the line wants it again. */
export async function unusedOfLine(tx: Tx, lineId: OrderLineId, partId: PartId, thousandths: number): Promise<void> {
  const before = await needOfLine(tx, lineId, partId);
  if (!before) return;
  const { need, holds } = before;
  await keepNeeds(tx, [{ before, need: { ...need, used: Math.max(0, need.used - thousandths) }, holds }]);
}

/** Nothing is held for an order that is over; gives the parts of which something is free again. */
export async function orderNeedsNothing(tx: Tx, orderId: OrderId): Promise<PartId[]> {
  const all = await needsOfOrder(tx, orderId);
  for (const before of all) {
    await letGo(tx, before.need.partId, before.holds);
    await keepNeeds(tx, [{ before, need: { ...before.need, over: true }, holds: [] }]);
  }
  return [...new Set(all.filter((n) => n.holds.length > 0).map((n) => n.need.partId))];
}

export type NewNeed = {
  readonly orderId: OrderId;
  readonly lineId: OrderLineId;
  readonly partId: PartId;
  readonly thousandths: number;
};

/** New needs, of which nothing is held yet; a line that asks for the part already asks for so much more. */
export async function askForParts(tx: Tx, needs: readonly NewNeed[], now: Instant): Promise<void> {
  await bulkInsert(
    tx.connection,
    'part_need',
    ['order_id', 'order_line_id', 'part_id', 'wanted', 'open', 'asked_at'],
    needs.map((n) => [n.orderId, n.lineId, n.partId, n.thousandths, n.thousandths, instantText(now)]),
    'ON DUPLICATE KEY UPDATE wanted = wanted + VALUES(wanted), open = GREATEST(0, wanted - used - held)',
  );
}
