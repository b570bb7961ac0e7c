// What lies where: the shelves of a store, a part in all stores, its moves; and how a store keeps a part.
import { and, asc, count, desc, eq, gt, inArray, isNotNull, lt, ne, or, sql } from 'drizzle-orm';
import type { Asked, BodyOf } from '#api/contract.ts';
import type * as contracts from '#api/stock.ts';
import type { MoveOut, PartStock, ShelfOut } from '#api/stock.ts';
import type { PartId, StockMoveId, StoreId } from '#core/ids.ts';
import { seesMoney, type Role } from '#core/people.ts';
import { availableIn, unitAverage } from '#core/stores/index.ts';
import { bulkInsert, type Db } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { holdStocks, storesShared } from './ledger.ts';
import { isCalled } from './parts.ts';
import { purchase, purchaseLine, supplier } from './purchase-tables.ts';
import { storeColumns, withStoreNames } from './stores.ts';
import { moveSerial, part, serialUnit, shelf, stock, stockMove, store, storeAct } from './tables.ts';

type Lies = { readonly held: typeof stock.$inferSelect; readonly kept: typeof shelf.$inferSelect | null };

const counted = ({ held, kept }: Lies, money: boolean) => ({
  ...{ onHand: held.onHand, reserved: held.reserved, free: availableIn(held) },
  ...{ bin: kept?.bin ?? '', minimum: kept?.minimum ?? null, maximum: kept?.maximum ?? null },
  version: kept?.version ?? 0,
  average: money && held.average !== null ? unitAverage(held.average) : null,
  value: money ? held.value : null,
});

const ofShelf = and(eq(shelf.storeId, stock.storeId), eq(shelf.partId, stock.partId));
/** What lies there, or is kept there though nothing does just now. */
const isKept = or(ne(stock.onHand, 0), ne(stock.reserved, 0), isNotNull(shelf.partId));

type ShelvesQuery = Asked<typeof contracts.readShelves>['query'];

export async function shelvesOf(db: Db, id: StoreId, { q, below, after, limit = 60 }: ShelvesQuery, role: Role) {
  const [known] = await db.select({ id: store.id }).from(store).where(eq(store.id, id));
  if (!known) refuse('not-found', 'That store does not exist.');
  const isBelow = and(isNotNull(shelf.minimum), lt(sql`${stock.onHand} - ${stock.reserved}`, shelf.minimum));
  const which = and(eq(stock.storeId, id), isKept, below && isBelow, isCalled(q));
  const [[total], rows] = await Promise.all([
    db
      .select({ n: count() })
      .from(stock)
      .innerJoin(part, eq(part.id, stock.partId))
      .leftJoin(shelf, ofShelf)
      .where(which),
    db
      .select({ held: stock, kept: shelf, part })
      .from(stock)
      .innerJoin(part, eq(part.id, stock.partId))
      .leftJoin(shelf, ofShelf)
      .where(and(which, after === undefined ? undefined : gt(part.number, after)))
      .orderBy(asc(part.number))
      .limit(limit + 1),
  ]);
  const items = rows.slice(0, limit).map((r): ShelfOut => ({
    ...{ partId: r.part.id, number: r.part.number, name: r.part.name, unit: r.part.unit },
    ...{ serialTracked: r.part.serialTracked, ...counted(r, seesMoney(role)) },
  }));
  return { items, total: total?.n ?? 0, next: rows.length > limit ? (items.at(-1)?.number ?? null) : null };
}

const MOST_SERIALS = 200;
const MOST_ORDERED = 100;

export async function stockOfPart(db: Db, id: PartId, role: Role): Promise<PartStock> {
  const [known] = await db.select().from(part).where(eq(part.id, id));
  if (!known) refuse('not-found', 'That part does not exist.');
  const { depot, whose } = withStoreNames;
  const [rows, ordered, serials] = await Promise.all([
    db
      .select({ held: stock, kept: shelf, ...storeColumns })
      .from(stock)
      .innerJoin(store, eq(store.id, stock.storeId))
      .innerJoin(depot, eq(depot.id, store.depotId))
      .leftJoin(whose, eq(whose.id, store.personId))
      .leftJoin(shelf, ofShelf)
      .where(and(eq(stock.partId, id), isKept))
      .orderBy(asc(depot.name), asc(store.kind), asc(store.name)),
    db
      .select({ line: purchaseLine, order: purchase, from: supplier.name, to: store.name })
      .from(purchaseLine)
      .innerJoin(purchase, eq(purchase.id, purchaseLine.purchaseId))
      .innerJoin(supplier, eq(supplier.id, purchase.supplierId))
      .innerJoin(store, eq(store.id, purchase.storeId))
      .where(and(eq(purchaseLine.partId, id), gt(purchaseLine.toCome, 0)))
      .orderBy(asc(sql`coalesce(${purchaseLine.promisedOn}, '9999-12-31')`), asc(purchaseLine.id))
      .limit(MOST_ORDERED),
    db
      .select({ serial: serialUnit.serial, id: store.id, name: store.name })
      .from(serialUnit)
      .innerJoin(store, eq(store.id, serialUnit.storeId))
      .where(eq(serialUnit.partId, id))
      .orderBy(asc(serialUnit.serial))
      .limit(MOST_SERIALS),
  ]);
  const { number, name, unit, serialTracked, retired } = known;
  return {
    part: { id, number, name, unit, serialTracked, retired },
    stores: rows.map((r) => ({
      ...{ store: { id: r.id, name: r.name }, kind: r.kind, depot: { id: r.depotId, name: r.depot } },
      person: r.personId !== null && r.person !== null ? { id: r.personId, name: r.person } : null,
      ...counted(r, seesMoney(role)),
    })),
    ordered: ordered.map(({ line, order, from, to }) => ({
      ...{ purchaseId: order.id, store: { id: order.storeId, name: to } },
      ...{ supplier: { id: order.supplierId, name: from }, thousandths: line.toCome },
      ...{ promisedOn: line.promisedOn, sent: order.stage === 'sent' },
    })),
    serials: serials.map((s) => ({ serial: s.serial, store: { id: s.id, name: s.name } })),
  };
}

type MovesQuery = Asked<typeof contracts.readMoves>['query'];

export async function movesOf(db: Db, id: PartId, { store: of, after, limit = 60 }: MovesQuery, role: Role) {
  const rows = await db
    .select({ move: stockMove, act: storeAct, storeName: store.name, by: person.name })
    .from(stockMove)
    .innerJoin(storeAct, eq(storeAct.id, stockMove.actId))
    .innerJoin(store, eq(store.id, stockMove.storeId))
    .leftJoin(person, eq(person.id, storeAct.personId))
    .where(
      and(
        eq(stockMove.partId, id),
        of === undefined ? undefined : eq(stockMove.storeId, of),
        after === undefined ? undefined : lt(stockMove.id, Number(after) as StockMoveId),
      ),
    )
    .orderBy(desc(stockMove.id))
    .limit(limit + 1);
  const shown = rows.slice(0, limit);
  const serials =
    shown.length === 0
      ? []
      : await db
          .select()
          .from(moveSerial)
          .where(
            inArray(
              moveSerial.moveId,
              shown.map((r) => r.move.id),
            ),
          )
          .orderBy(asc(moveSerial.serial));
  return {
    items: shown.map(({ move, act, storeName, by }): MoveOut => ({
      ...{ id: move.id, at: act.at, kind: move.kind, store: { id: move.storeId, name: storeName }, by },
      ...{ thousandths: move.thousandths, money: seesMoney(role) ? move.money : null, text: act.text },
      ...{ serials: serials.filter((s) => s.moveId === move.id).map((s) => s.serial), orderId: act.orderId },
    })),
    next: rows.length > limit ? `${shown.at(-1)?.move.id}` : null,
  };
}

export const setShelfOf = (
  write: Write,
  storeId: StoreId,
  partId: PartId,
  { version, bin, minimum, maximum }: BodyOf<typeof contracts.setShelf>,
): Promise<void> =>
  write(async (tx, told) => {
    const [where] = await storesShared(tx, [storeId]);
    if (!where) refuse('not-found', 'That store does not exist.');
    const [what] = await tx.db.select().from(part).where(eq(part.id, partId));
    if (!what) refuse('not-found', 'That part does not exist.');
    if ((minimum === null) !== (maximum === null))
      refuse('missing', 'Give both, or neither.', minimum === null ? 'minimum' : 'maximum');
    if (minimum !== null && maximum !== null && maximum < minimum)
      refuse('invalid', 'The maximum is no less than the minimum.', 'maximum');
    const [row] = await tx.db
      .select()
      .from(shelf)
      .where(and(eq(shelf.storeId, storeId), eq(shelf.partId, partId)))
      .for('update');
    if ((row?.version ?? 0) !== version) stale({ id: partId, version: row?.version ?? 0 });
    // Kept there it is shown, with nothing on hand as well.
    await holdStocks(tx, [{ storeId, partId }]);
    await bulkInsert(
      tx.connection,
      'shelf',
      ['store_id', 'part_id', 'bin', 'minimum', 'maximum', 'version'],
      [[storeId, partId, bin, minimum, maximum, version + 1]],
      `ON DUPLICATE KEY UPDATE ${['bin', 'minimum', 'maximum', 'version'].map((c) => `${c} = VALUES(${c})`).join(', ')}`,
    );
    told({ subject: 'store', id: storeId, text: `${where.name} keeps ${what.number} in ${bin || 'no bin'}` });
  });
