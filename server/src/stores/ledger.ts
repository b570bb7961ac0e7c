// The ledger of stock: moves are appended, and what lies in each store follows from them in the same transaction.
import { group } from 'd3-array';
import { and, eq, inArray } from 'drizzle-orm';
import type {
  OrderId,
  PartId,
  PersonId,
  PurchaseId,
  PurchaseLineId,
  StoreActId,
  StoreId,
  UsedPartId,
} from '#core/ids.ts';
import { refusal } from '#core/refusal.ts';
import {
  EMPTY_STOCK,
  moveStock,
  THOUSANDTHS,
  type Move,
  type Stock,
  type STORE_ACTS,
  type ToMove,
} from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { instantText } from '../platform/columns.ts';
import { bulkInsert, insertedIds, type Tx } from '../platform/database.ts';
import { Refused, refuse } from '../platform/refuse.ts';
import { mustBeSame } from '../platform/request-key.ts';
import { serialUnit, storeAct, type part, type Served, type store } from './tables.ts';

export type Act = {
  readonly kind: (typeof STORE_ACTS)[number];
  readonly personId: PersonId | null;
  readonly orderId: OrderId | null;
  readonly text: string;
  readonly at: Instant;
  readonly purchaseId?: PurchaseId;
  readonly served?: readonly Served[];
  readonly requestKey: string | null;
  readonly requestContent: string | null;
};

export type KnownPart = Pick<typeof part.$inferSelect, 'id' | 'name' | 'serialTracked'>;

/** One move that is asked for, and where in the request it stands. */
export type Asked = {
  readonly storeId: StoreId;
  readonly partId: PartId;
  readonly move: ToMove;
  readonly serials: readonly string[];
  readonly unitPrice?: number | null;
  readonly usedPartId?: UsedPartId | null;
  readonly purchaseLineId?: PurchaseLineId;
  /** The line of the request in which a wrong field is, and the field of its store. */
  readonly field: string;
  readonly storeField?: string;
  readonly serialField?: string;
  /** The part, where whoever asks has read it. */
  readonly known?: KnownPart;
};

/** What goes over from one store to another: it arrives with exactly the money that left. `held`: so much of it was held for whom it goes. */
export const carried = (
  from: StoreId,
  to: StoreId,
  of: Pick<Asked, 'partId' | 'serials' | 'field'> & { readonly thousandths: number; readonly held?: number },
): Asked[] => {
  const { thousandths, held = 0, ...what } = of;
  return [
    { ...what, storeId: from, storeField: 'fromId', move: { kind: 'transfer out', thousandths, held } },
    { ...what, storeId: to, storeField: 'toId', move: { kind: 'transfer in', thousandths, money: 0 } },
  ];
};

/** The act of a request that was sent before; null: it is new. Refused: the key was used for something else. */
export async function sentBefore(tx: Tx, requestKey: string, requestContent: string): Promise<StoreActId | null> {
  const [sent] = await tx.db.select().from(storeAct).where(eq(storeAct.requestKey, requestKey));
  if (!sent) return null;
  mustBeSame(sent.requestContent, requestContent);
  return sent.id;
}

export const stockKey = (storeId: StoreId, partId: PartId): string => `${storeId} ${partId}`;

type Place = { readonly storeId: StoreId; readonly partId: PartId };
type Lying = [StoreId, PartId, number, number, number, number | null, number | null];

/** Rows that are there, held in one order for everybody; read as plainly as can be, for every move of stock asks for them. */
async function heldRows(tx: Tx, wanted: readonly Place[]): Promise<Map<string, Stock>> {
  const byStore = [...group(wanted, (p) => p.storeId)];
  const [rows] = await tx.connection.query({
    sql: `SELECT store_id, part_id, on_hand, reserved, value, average, last_price FROM stock
      WHERE ${byStore.map(() => '(store_id = ? AND part_id IN (?))').join(' OR ')} ORDER BY store_id, part_id FOR UPDATE`,
    values: byStore.flatMap(([storeId, of]) => [storeId, of.map((p) => p.partId)]),
    rowsAsArray: true,
  });
  return new Map(
    (rows as unknown as Lying[]).map(([storeId, partId, onHand, reserved, value, average, lastPrice]) => [
      stockKey(storeId, partId),
      { onHand, reserved, value, average, lastPrice },
    ]),
  );
}

/** Holds what is moved until the end, in one order for everybody; what never lay there is empty. */
export async function holdStocks(tx: Tx, of: readonly Place[]): Promise<Map<string, Stock>> {
  const wanted = [...new Map(of.map((p) => [stockKey(p.storeId, p.partId), p])).values()].sort(
    (a, b) => a.storeId - b.storeId || a.partId - b.partId,
  );
  if (wanted.length === 0) return new Map();
  const there = await heldRows(tx, wanted);
  const missing = wanted.filter((p) => !there.has(stockKey(p.storeId, p.partId)));
  if (missing.length === 0) return there;
  // What is not there is made: two who take the first of a part wait for each other.
  await bulkInsert(
    tx.connection,
    'stock',
    ['store_id', 'part_id', 'on_hand', 'reserved', 'value'],
    missing.map((p) => [p.storeId, p.partId, 0, 0, 0]),
    'ON DUPLICATE KEY UPDATE on_hand = on_hand',
  );
  return heldRows(tx, wanted);
}

type Shared = Pick<typeof store.$inferSelect, 'id' | 'name' | 'retired'>;

/** Stores that nobody takes out of use until the end; others may move stock in them meanwhile. */
export async function storesShared(tx: Tx, ids: readonly StoreId[]): Promise<Shared[]> {
  const [rows] = await tx.connection.query(
    'SELECT id, name, retired FROM store WHERE id IN (?) ORDER BY id LOCK IN SHARE MODE',
    [[...new Set(ids)]],
  );
  return (rows as { id: StoreId; name: string; retired: number }[]).map((r) => ({ ...r, retired: r.retired === 1 }));
}

async function partsOf(tx: Tx, all: readonly Asked[]): Promise<KnownPart[]> {
  const known = all.flatMap((a) => a.known ?? []);
  const unread = all.filter((a) => !a.known).map((a) => a.partId);
  if (unread.length === 0) return known;
  const [found] = await tx.connection.query('SELECT id, name, serial_tracked FROM part WHERE id IN (?)', [
    [...new Set(unread)],
  ]);
  const read = (found as { id: PartId; name: string; serial_tracked: number }[]).map((p) => ({
    ...{ id: p.id, name: p.name, serialTracked: p.serial_tracked === 1 },
  }));
  return [...known, ...read];
}

/** Refused: stores that are not, or into which nothing comes any more; parts that are not. */
async function mustBeKnown(tx: Tx, all: readonly Asked[]) {
  const stores = await storesShared(
    tx,
    all.map((a) => a.storeId),
  );
  const parts = await partsOf(tx, all);
  const storeOf = new Map(stores.map((s) => [s.id, s]));
  const partOf = new Map(parts.map((p) => [p.id, p]));
  for (const { storeId, partId, move, field, storeField = 'storeId' } of all) {
    const where = storeOf.get(storeId);
    if (!where) refuse('not-found', 'That store does not exist; choose another.', storeField);
    if (where.retired && (move.kind === 'receipt' || move.kind === 'transfer in'))
      refuse('conflict', `Nothing comes into ${where.name} any more; choose another store.`, storeField);
    if (!partOf.has(partId)) refuse('not-found', 'That part does not exist; choose another.', `${field}partId`);
  }
  return { storeOf, partOf };
}

type Known = Awaited<ReturnType<typeof mustBeKnown>>;

const comesIn = ({ move }: Asked): boolean =>
  move.kind === 'receipt' ||
  move.kind === 'return' ||
  move.kind === 'transfer in' ||
  (move.kind === 'count' && move.difference > 0);
const amountOf = ({ move }: Asked): number => Math.abs(move.kind === 'count' ? move.difference : move.thousandths);

/** Refused: not as many serials as units, one that is in a store already, or one that is not in the store it goes out of. */
async function moveSerials(tx: Tx, { storeOf, partOf }: Known, all: readonly Asked[]): Promise<void> {
  for (const asked of all) {
    const { partId, storeId, serials, field } = asked;
    const serialField = `${field}${asked.serialField ?? 'serials'}`;
    const known = partOf.get(partId);
    const units = known?.serialTracked ? amountOf(asked) / THOUSANDTHS : 0;
    if (serials.length !== units)
      throw new Refused([
        known?.serialTracked
          ? refusal('missing', `${known.name} is kept by serial: give one for each, ${units} in all.`, serialField)
          : refusal('unsupported', `${known?.name} is not kept by serial; leave it empty.`, serialField),
      ]);
    if (new Set(serials).size < serials.length) refuse('invalid', 'Each serial stands once.', serialField);
    if (serials.length === 0) continue;
    const held = await tx.db
      .select()
      .from(serialUnit)
      .where(and(eq(serialUnit.partId, partId), inArray(serialUnit.serial, [...serials])))
      .for('update');
    const whereOf = new Map(held.map((u) => [u.serial, u.storeId]));
    for (const serial of serials) {
      const where = whereOf.get(serial) ?? null;
      if (comesIn(asked) && where !== null)
        refuse('conflict', `${serial} is in ${storeOf.get(where)?.name ?? 'another store'} already.`, serialField);
      if (!comesIn(asked) && where !== storeId)
        refuse('conflict', `${serial} is not in this store; look at the number again.`, serialField);
    }
    const to = comesIn(asked) ? storeId : null;
    await bulkInsert(
      tx.connection,
      'serial_unit',
      ['part_id', 'serial', 'store_id'],
      serials.map((serial) => [partId, serial, to]),
      'ON DUPLICATE KEY UPDATE store_id = VALUES(store_id)',
    );
  }
}

type Written = { readonly asked: Asked; readonly move: Move };

/** Moves one after the other, each on what the one before left; what is refused names its field. */
function movedOn(stocks: Map<string, Stock>, all: readonly Asked[]): Written[] {
  const written: Written[] = [];
  let left = 0;
  for (const asked of all) {
    const key = stockKey(asked.storeId, asked.partId);
    // What was carried off brings exactly its money where it arrives.
    const move = asked.move.kind === 'transfer in' ? { ...asked.move, money: left } : asked.move;
    const moved = moveStock(stocks.get(key) ?? EMPTY_STOCK, move);
    if (!moved.ok)
      throw new Refused(moved.refusals.map((r) => ({ ...r, ...(r.field && { field: `${asked.field}${r.field}` }) })));
    stocks.set(key, moved.value.stock);
    for (const m of moved.value.moves) written.push({ asked, move: m });
    left = -(moved.value.moves[0]?.money ?? 0);
  }
  return written;
}

/** Writes what lies in stores after moves or holds. */
export async function keepStocks(tx: Tx, stocks: ReadonlyMap<string, Stock>): Promise<void> {
  await bulkInsert(
    tx.connection,
    'stock',
    ['store_id', 'part_id', 'on_hand', 'reserved', 'value', 'average', 'last_price'],
    [...stocks].map(([key, s]) => [
      ...key.split(' ').map(Number),
      s.onHand,
      s.reserved,
      s.value,
      s.average,
      s.lastPrice,
    ]),
    `ON DUPLICATE KEY UPDATE ${['on_hand', 'reserved', 'value', 'average', 'last_price'].map((c) => `${c} = VALUES(${c})`).join(', ')}`,
  );
}

const MOVE_COLUMNS = [
  'act_id',
  'store_id',
  'part_id',
  'kind',
  'thousandths',
  'money',
  'unit_price',
  'used_part_id',
  'purchase_line_id',
];

async function writeMoves(tx: Tx, actId: StoreActId, written: readonly Written[]): Promise<void> {
  const firsts = await bulkInsert(
    tx.connection,
    'stock_move',
    MOVE_COLUMNS,
    written.map(({ asked, move }) => [
      ...[actId, asked.storeId, asked.partId, move.kind, move.thousandths, move.money],
      ...[move.kind === 'variance' ? null : (asked.unitPrice ?? null), asked.usedPartId ?? null],
      asked.purchaseLineId ?? null,
    ]),
  );
  if (written.every(({ asked }) => asked.serials.length === 0)) return;
  const ids = await insertedIds(tx.connection, firsts, written.length);
  const serials = written.flatMap(({ asked, move }, i) =>
    move.kind === 'variance' ? [] : asked.serials.map((serial) => [ids[i], serial]),
  );
  await bulkInsert(tx.connection, 'move_serial', ['move_id', 'serial'], serials);
}

const ACT_COLUMNS = [
  ...['kind', 'person_id', 'order_id', 'text', 'at', 'purchase_id', 'served', 'request_key', 'request_content'],
];

/** An act that was appended, and its moves in their order. */
export type Appended = { readonly id: StoreActId; readonly moves: readonly Move[] };

/**
 * Appends an act with its moves, in their order, and keeps what lies in the stores by them. Refused as a whole: anything core refuses, a
 * store or part that is not, serials that do not fit. An arrival from another store stands right after what left there.
 */
export async function appendMoves(tx: Tx, act: Act, all: readonly Asked[]): Promise<Appended> {
  const insert = async (): Promise<StoreActId> => {
    const [id] = await bulkInsert(tx.connection, 'store_act', ACT_COLUMNS, [
      [
        ...[act.kind, act.personId, act.orderId, act.text, instantText(act.at), act.purchaseId ?? null],
        ...[act.served ? JSON.stringify(act.served) : null, act.requestKey, act.requestContent],
      ],
    ]);
    return id as StoreActId;
  };
  if (all.length === 0) return { id: await insert(), moves: [] };
  const known = await mustBeKnown(tx, all);
  const stocks = await holdStocks(tx, all);
  const written = movedOn(stocks, all);
  await moveSerials(tx, known, all);
  const id = await insert();
  await writeMoves(tx, id, written);
  await keepStocks(tx, stocks);
  return { id, moves: written.map((w) => w.move) };
}
