// What lies in a store as a file: given out, and loaded again as bins, limits and a count of now.
import { sum } from 'd3-array';
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { importShelves, ShelvesEffect } from '#api/stores.ts';
import type { PartId, StoreId } from '#core/ids.ts';
import { seesMoney } from '#core/people.ts';
import { EMPTY_STOCK, moveStock, sayQuantity, type ListRead, type ShelfRow, type Stock } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { bulkInsert, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, Refused } from '../platform/refuse.ts';
import { contentOf } from '../platform/request-key.ts';
import type { Write } from '../platform/writing.ts';
import { letGoOfLast } from './approving.ts';
import { thenCover } from './covering.ts';
import { readShelvesIn } from './jobs.ts';
import { appendMoves, holdStocks, sentBefore, stockKey, storesShared, type Asked } from './ledger.ts';
import { pricesOf } from './moving.ts';
import { SHOWN_REMARKS } from './parts.ts';
import { part, shelf, stock, store } from './tables.ts';

const AT_ONCE = 1000;
/** Moves of one act. */
const MOVES_AT_ONCE = 500;

const inChunks = <T>(all: readonly T[], size = AT_ONCE): T[][] =>
  Array.from({ length: Math.ceil(all.length / size) }, (_, i) => all.slice(i * size, (i + 1) * size));

type Known = Pick<typeof part.$inferSelect, 'id' | 'number' | 'name' | 'unit' | 'serialTracked'>;
type Line = { readonly row: ShelfRow; readonly part: Known };
type StocksOf = (ids: readonly PartId[]) => Promise<ReadonlyMap<PartId, Stock>>;

const looking =
  (db: Db, storeId: StoreId): StocksOf =>
  async (ids) => {
    const found = new Map<PartId, Stock>();
    for (const chunk of inChunks(ids))
      for (const s of await db
        .select()
        .from(stock)
        .where(and(eq(stock.storeId, storeId), inArray(stock.partId, chunk))))
        found.set(s.partId, s);
    return found;
  };

const holding =
  (tx: Tx, storeId: StoreId): StocksOf =>
  async (ids) => {
    const found = new Map<PartId, Stock>();
    const inOrder = [...ids].sort((a, b) => a - b);
    for (const chunk of inChunks(inOrder)) {
      const held = await holdStocks(
        tx,
        chunk.map((partId) => ({ storeId, partId })),
      );
      for (const id of chunk) found.set(id, held.get(stockKey(storeId, id)) ?? EMPTY_STOCK);
    }
    return found;
  };

/** The parts that rows name, and what is wrong with those that fit nothing here. */
async function linesOf(db: Db, rows: readonly ShelfRow[], bad: ShelvesEffect['bad']): Promise<Line[]> {
  const known = new Map<string, Known>();
  for (const chunk of inChunks(rows))
    for (const p of await db
      .select({
        ...{ id: part.id, number: part.number, name: part.name, unit: part.unit },
        serialTracked: part.serialTracked,
      })
      .from(part)
      .where(
        inArray(
          part.number,
          chunk.map((r) => r.number),
        ),
      ))
      known.set(p.number.toLowerCase(), p);
  return rows.flatMap((row): Line[] => {
    const own = known.get(row.number.toLowerCase());
    const say = (column: string, message: string): Line[] => {
      bad.push({ line: row.line, column, message });
      return [];
    };
    if (!own) return say('number', `There is no part ${row.number}; load it with the parts list first.`);
    if (row.unit !== '' && row.unit.toLowerCase() !== own.unit.toLowerCase())
      return say('unit', `${own.number} is counted in ${own.unit}, not in ${row.unit}.`);
    if (row.counted !== null && own.serialTracked)
      return say('counted', `${own.number} is kept by serial: count it in the store, unit by unit.`);
    return [{ row, part: own }];
  });
}

async function shelvesOf(db: Db, storeId: StoreId, ids: readonly PartId[]) {
  const found = new Map<PartId, typeof shelf.$inferSelect>();
  for (const chunk of inChunks(ids))
    for (const s of await db
      .select()
      .from(shelf)
      .where(and(eq(shelf.storeId, storeId), inArray(shelf.partId, chunk))))
      found.set(s.partId, s);
  return found;
}

/** What a file would do by what lies there now; looking at it first and loading it stand on the same. */
async function planOf(db: Db, storeId: StoreId, { rows, bad: misread }: ListRead<ShelfRow>, stocksOf: StocksOf) {
  const bad = [...misread];
  const lines = await linesOf(db, rows, bad);
  const was = await shelvesOf(
    db,
    storeId,
    lines.map((l) => l.part.id),
  );
  const kept = lines.flatMap(({ row, part: { id } }) => {
    const before = was.get(id);
    const is = {
      bin: row.bin ?? before?.bin ?? '',
      minimum: row.kept ? row.kept.minimum : (before?.minimum ?? null),
      maximum: row.kept ? row.kept.maximum : (before?.maximum ?? null),
    };
    const isSame =
      is.bin === (before?.bin ?? '') &&
      is.minimum === (before?.minimum ?? null) &&
      is.maximum === (before?.maximum ?? null);
    return isSame ? [] : [{ partId: id, ...is, version: (before?.version ?? 0) + 1 }];
  });
  const counting = lines.filter((l) => l.row.counted !== null);
  const stocks = await stocksOf(counting.map((l) => l.part.id));
  const priceOf =
    counting.length === 0
      ? () => 0
      : await pricesOf(
          { db },
          counting.map((l) => l.part.id),
        );
  const counts = counting.flatMap(({ row, part: own }) => {
    const there = stocks.get(own.id) ?? EMPTY_STOCK;
    const difference = (row.counted ?? 0) - there.onHand;
    if (difference === 0) return [];
    const price = priceOf(own.id);
    const moved = moveStock(there, { kind: 'count', difference, price });
    if (!moved.ok) {
      bad.push({ line: row.line, column: 'counted', message: moved.refusals[0]?.message ?? 'It cannot be counted.' });
      return [];
    }
    return [{ part: own, there, difference, price, worth: sum(moved.value.moves, (m) => m.money) }];
  });
  return { bad: bad.sort((a, b) => a.line - b.line), lines, kept, counting, counts };
}

type Plan = Awaited<ReturnType<typeof planOf>>;

function effectOf({ bad, lines, kept, counting, counts }: Plan, money: boolean): ShelvesEffect {
  const changing = new Set([...kept.map((k) => k.partId), ...counts.map((c) => c.part.id)]);
  return {
    ...{ kept: kept.length, counted: counting.length, differing: counts.length },
    unchanged: lines.length - changing.size,
    worth: money ? sum(counts, (c) => c.worth) : null,
    ...{ bad: bad.slice(0, SHOWN_REMARKS), wrong: bad.length },
    sample: counts.slice(0, 12).map(({ part: p, there, difference }) => ({
      ...{ number: p.number, name: p.name },
      says: `${sayQuantity(there.onHand)} there, ${sayQuantity(there.onHand + difference)} counted`,
    })),
  };
}

async function mustBeStore(db: Db, id: StoreId): Promise<void> {
  const [row] = await db.select({ id: store.id }).from(store).where(eq(store.id, id));
  if (!row) refuse('not-found', 'That store does not exist.');
}

export async function previewOfShelves(db: Db, storeId: StoreId, text: string, who: Person): Promise<ShelvesEffect> {
  await mustBeStore(db, storeId);
  const plan = await planOf(db, storeId, await readShelvesIn(text), looking(db, storeId));
  return effectOf(plan, seesMoney(who.role));
}

async function writePlan(tx: Tx, storeId: StoreId, { kept, counts }: Plan, act: Parameters<typeof appendMoves>[1]) {
  await bulkInsert(
    tx.connection,
    'stock',
    ['store_id', 'part_id', 'on_hand', 'reserved', 'value'],
    [...kept].sort((a, b) => a.partId - b.partId).map((k) => [storeId, k.partId, 0, 0, 0]),
    'ON DUPLICATE KEY UPDATE on_hand = on_hand',
  );
  await bulkInsert(
    tx.connection,
    'shelf',
    ['store_id', 'part_id', 'bin', 'minimum', 'maximum', 'version'],
    kept.map((k) => [storeId, k.partId, k.bin, k.minimum, k.maximum, k.version]),
    `ON DUPLICATE KEY UPDATE ${['bin', 'minimum', 'maximum', 'version'].map((c) => `${c} = VALUES(${c})`).join(', ')}`,
  );
  const moves = counts.map(({ part: p, difference, price }): Asked => ({
    ...{ storeId, partId: p.id, serials: [], unitPrice: price, field: '' },
    move: { kind: 'count', difference, price },
  }));
  // The first act carries the key of the request, so that the same file sent again is the same.
  const [first = [], ...more] = inChunks(moves, MOVES_AT_ONCE);
  await appendMoves(tx, act, first);
  for (const some of more) await appendMoves(tx, { ...act, requestKey: null, requestContent: null }, some);
}

/** Refused as a whole while a row is wrong, unless as many are left out as were seen to be. */
export async function importShelvesOf(
  database: Database,
  write: Write,
  who: Person,
  storeId: StoreId,
  { requestKey, text, without }: BodyOf<typeof importShelves>,
  now: Instant,
): Promise<ShelvesEffect> {
  const read = await readShelvesIn(text);
  const requestContent = contentOf({ storeId, text, without });
  return thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const [where] = await storesShared(tx, [storeId]);
      if (!where) refuse('not-found', 'That store does not exist.');
      const isSent = (await sentBefore(tx, requestKey, requestContent)) !== null;
      const plan = await planOf(tx.db, storeId, read, holding(tx, storeId));
      const effect = effectOf(plan, seesMoney(who.role));
      if (isSent) return effect;
      const [first] = plan.bad;
      if (first && plan.bad.length !== without)
        throw new Refused([
          { code: 'invalid', field: 'text', message: `Line ${first.line}, ${first.column}: ${first.message}` },
        ]);
      await writePlan(tx, storeId, plan, {
        ...{ kind: 'count', personId: who.id, orderId: null, text: 'counted by a list', at: now },
        ...{ requestKey, requestContent },
      });
      const changed = plan.counts.map((c) => c.part.id);
      const losing = changed.length === 0 ? [] : await letGoOfLast(tx, storeId, changed);
      if (changed.length > 0) await follow(tx, { parts: changed });
      if (losing.length > 0) await follow(tx, { marks: losing });
      const said = `${plan.kept.length} shelves changed, ${plan.counts.length} counted otherwise, ${plan.bad.length} left out`;
      told({ subject: 'store', id: storeId, text: `loaded a list of ${where.name}: ${said}` });
      return effect;
    }),
  );
}

/** Labels of what a store keeps, by bin, or of named parts. */
export async function labelled(db: Db, ids: readonly PartId[], storeId: StoreId | undefined, most: number) {
  if (storeId === undefined) {
    const rows = await db
      .select({ number: part.number, name: part.name, unit: part.unit })
      .from(part)
      .where(inArray(part.id, [...ids]))
      .orderBy(asc(part.number))
      .limit(most);
    return rows.map(({ unit, ...r }) => ({ ...r, beside: unit }));
  }
  const rows = await db
    .select({ number: part.number, name: part.name, unit: part.unit, bin: shelf.bin })
    .from(shelf)
    .innerJoin(part, eq(part.id, shelf.partId))
    .where(and(eq(shelf.storeId, storeId), ids.length === 0 ? undefined : inArray(shelf.partId, [...ids])))
    .orderBy(asc(shelf.bin), asc(part.number))
    .limit(most);
  return rows.map(({ unit, bin, ...r }) => ({ ...r, beside: bin || unit }));
}
