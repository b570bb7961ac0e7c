// What orders hand to the stores: needs of the lines that are raised, and what is let go once nobody goes any more.
import { and, asc, eq, gt, inArray, sql } from 'drizzle-orm';
import { asId, type AssetId, type OrderId, type OrderLineId, type PartId } from '#core/ids.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { Instant } from '#core/time/index.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Database, Tx } from '../platform/database.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { whenOrders, type RaisedLine } from '../platform/order-life.ts';
import { cover, leaveCovering } from './covering.ts';
import { askForParts, keepNeeds, letGo, needsOfOrder, orderNeedsNothing, type NewNeed } from './needs.ts';
import { part, partNeed, stock, store } from './tables.ts';

/** Stock is kept from the first store on. */
export async function keepsStock({ db }: Pick<Tx, 'db'>): Promise<boolean> {
  const [any] = await db.select({ id: store.id }).from(store).limit(1);
  return any !== undefined;
}

/** The machines of lines, by line. */
async function machinesOf({ db }: Tx, ids: readonly OrderLineId[]): Promise<Map<OrderLineId, AssetId | null>> {
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ id: orderLine.id, assetId: orderLine.assetId })
    .from(orderLine)
    .where(inArray(orderLine.id, [...ids]));
  return new Map(rows.map((r) => [r.id, r.assetId]));
}

/** What an order that goes on with another needs for its machine and did not use: it needs it no more, and nothing is held there for it. */
async function takeRest(
  tx: Tx,
  from: OrderId,
  assetId: AssetId | null,
): Promise<Omit<NewNeed, 'orderId' | 'lineId'>[]> {
  const all = await needsOfOrder(tx, from);
  const machines = await machinesOf(
    tx,
    all.map((n) => n.need.orderLineId),
  );
  const rest: Omit<NewNeed, 'orderId' | 'lineId'>[] = [];
  for (const before of all) {
    const { need, holds } = before;
    const thousandths = need.wanted - need.used;
    if (machines.get(need.orderLineId) !== assetId || thousandths <= 0) continue;
    await letGo(tx, need.partId, holds);
    await keepNeeds(tx, [{ before, need: { ...need, wanted: need.used, version: need.version + 1 }, holds: [] }]);
    rest.push({ partId: need.partId, thousandths });
  }
  return rest;
}

async function wantedBy(tx: Tx, lines: readonly RaisedLine[]): Promise<NewNeed[]> {
  const machines = await machinesOf(
    tx,
    lines.filter((l) => l.followsId !== null).map((l) => l.lineId),
  );
  const wanted: NewNeed[] = [];
  for (const { orderId, lineId, plan, followsId } of lines) {
    const asked =
      followsId === null
        ? (plan?.parts ?? []).map((p) => ({ partId: p.partId as PartId, thousandths: p.thousandths }))
        : await takeRest(tx, followsId, machines.get(lineId) ?? null);
    for (const n of asked) if (n.thousandths > 0) wanted.push({ orderId, lineId, ...n });
  }
  return wanted;
}

/** Consumables that lie in no store are brought along anyway; parts that are gone from the list are asked for by nobody. */
async function withoutUnkept(tx: Tx, needs: readonly NewNeed[]): Promise<NewNeed[]> {
  const ids = [...new Set(needs.map((n) => n.partId))];
  if (ids.length === 0) return [];
  const parts = await tx.db
    .select({ id: part.id, consumable: part.consumable })
    .from(part)
    .where(inArray(part.id, ids));
  const kept = await tx.db.selectDistinct({ id: stock.partId }).from(stock).where(inArray(stock.partId, ids));
  const isKept = new Set(kept.map((k) => k.id));
  const asked = new Set(parts.filter((p) => !p.consumable || isKept.has(p.id)).map((p) => p.id));
  return needs.filter((n) => asked.has(n.partId));
}

async function raised(tx: Tx, lines: readonly RaisedLine[], now: Instant): Promise<void> {
  const asking = lines.filter((l) => l.followsId !== null || (l.plan?.parts.length ?? 0) > 0);
  if (asking.length === 0 || !(await keepsStock(tx))) return;
  const needs = await withoutUnkept(tx, await wantedBy(tx, asking));
  if (needs.length === 0) return;
  await askForParts(tx, needs, now);
  await leaveCovering(tx, { orders: [...new Set(needs.map((n) => n.orderId))] });
  const gone = asking.flatMap((l) => l.followsId ?? []);
  if (gone.length > 0) await leaveCovering(tx, { marks: [...new Set(gone)] });
}

async function planned(tx: Tx, id: OrderId): Promise<void> {
  const [any] = await tx.db
    .select({ id: partNeed.id })
    .from(partNeed)
    .where(and(eq(partNeed.orderId, id), gt(partNeed.wanted, 0)))
    .limit(1);
  if (any) await leaveCovering(tx, { orders: [id], planned: true });
}

async function over(tx: Tx, id: OrderId): Promise<void> {
  const parts = await orderNeedsNothing(tx, id);
  if (parts.length > 0) await leaveCovering(tx, { parts });
}

/** Orders looked at in one transaction. */
const AT_ONCE = 200;

/** The open orders after one, with the plans of their lines, that ask for nothing yet. */
const openLines = (tx: Tx, after: OrderId) =>
  tx.db
    .select({
      ...{ orderId: workOrder.id, lineId: orderLine.id, plan: orderLine.plan, followsId: workOrder.followsId },
      needId: partNeed.id,
    })
    .from(workOrder)
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .leftJoin(partNeed, eq(partNeed.orderLineId, orderLine.id))
    .where(
      and(
        gt(workOrder.id, after),
        inArray(workOrder.stage, [...OPEN_STAGES]),
        sql`json_length(${orderLine.plan}, '$.parts') > 0`,
      ),
    )
    .orderBy(asc(workOrder.id), asc(orderLine.id))
    .limit(AT_ONCE);

/** From the first store on, orders that are open already need their parts as well. Gives how many lines ask for some now. */
export async function askForOpenOrders(database: Database, now: Instant): Promise<number> {
  let asked = 0;
  for (let after: OrderId | null = asId<OrderId>(0); after !== null;) {
    const from: OrderId = after;
    const rows = await database.transact(async (tx) => {
      const found = await openLines(tx, from);
      const asking = found.filter((l) => l.needId === null);
      const needs = await withoutUnkept(tx, await wantedBy(tx, asking));
      await askForParts(tx, needs, now);
      await keepUses(tx, needs);
      asked += needs.length;
      return found;
    });
    after = rows.length < AT_ONCE ? null : (rows.at(-1)?.orderId ?? null);
  }
  await cover(database, {}, now);
  return asked;
}

/** What was used already is not asked for any more. */
async function keepUses(tx: Tx, needs: readonly NewNeed[]): Promise<void> {
  if (needs.length === 0) return;
  await tx.connection.query(
    `UPDATE part_need n JOIN (
       SELECT order_line_id, part_id, SUM(thousandths) AS used FROM used_part WHERE order_line_id IN (?) GROUP BY 1, 2
     ) u ON u.order_line_id = n.order_line_id AND u.part_id = n.part_id
     SET n.used = u.used, n.open = GREATEST(0, n.wanted - u.used - n.held)`,
    [[...new Set(needs.map((n) => n.lineId))]],
  );
}

export const ASKING = 'needs of open orders';
export const askingForOpenOrders = jobKind({
  kind: ASKING,
  says: 'Ask for the parts of orders that were open before there was a store',
  ask: NOTHING,
  async run({ database, readNow }) {
    return `${await askForOpenOrders(database, readNow())} needs`;
  },
});

/** Said once, where the room is loaded. */
export const answeringOrders = (): void => whenOrders({ raised, planned, over });
