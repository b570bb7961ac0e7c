// The differences of a count stand: stock is as it was counted, and who loses what is not there waits for it again.
import { and, asc, eq, inArray, isNotNull } from 'drizzle-orm';
import { group } from 'd3-array';
import type { BodyOf } from '#api/contract.ts';
import type { approveCount } from '#api/counts.ts';
import type { CountId, OrderId, PartId, StoreId } from '#core/ids.ts';
import { keptOfHeld, THOUSANDTHS } from '#core/stores/index.ts';
import type { Instant } from '#core/time/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Database, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { countUnderLock, endCount } from './counts.ts';
import { thenCover } from './covering.ts';
import { appendMoves, holdStocks, keepStocks, stockKey, type Asked } from './ledger.ts';
import { pricesOf } from './moving.ts';
import { keepNeeds, underLock } from './needs.ts';
import { countLine, part, partNeed, stockHold } from './tables.ts';

type Line = typeof countLine.$inferSelect;

/** The moves of a line: of what is kept by serial those that are missing go, and those that were found come. */
function movesOf(storeId: StoreId, line: Line, isTracked: boolean, price: number | null): Asked[] {
  const { partId, missing, found } = line;
  const of = { storeId, partId, unitPrice: price, field: `parts.${partId}.` };
  const move = (difference: number, serials: readonly string[]): Asked => ({
    ...{ ...of, serials, move: { kind: 'count', difference, price } },
  });
  if (!isTracked) {
    const difference = (line.counted ?? 0) - (line.expected ?? 0);
    return difference === 0 ? [] : [move(difference, [])];
  }
  return [
    ...(missing && missing.length > 0 ? [move(-missing.length * THOUSANDTHS, missing)] : []),
    ...(found && found.length > 0 ? [move(found.length * THOUSANDTHS, found)] : []),
  ];
}

/** Where more is held than is there, those needed last lose theirs; gives their orders. */
export async function letGoOfLast(tx: Tx, storeId: StoreId, parts: readonly PartId[]): Promise<OrderId[]> {
  const stocks = await holdStocks(
    tx,
    parts.map((partId) => ({ storeId, partId })),
  );
  const short = parts.filter((partId) => {
    const there = stocks.get(stockKey(storeId, partId));
    return there !== undefined && there.reserved > there.onHand;
  });
  if (short.length === 0) return [];
  const holds = await tx.db
    .select({ needId: stockHold.needId })
    .from(stockHold)
    .where(and(eq(stockHold.storeId, storeId), inArray(stockHold.partId, short)))
    .orderBy(asc(stockHold.needId));
  const needs = await underLock(
    tx,
    inArray(
      partNeed.id,
      holds.map((h) => h.needId),
    ),
  );
  const orders = await tx.db
    .select()
    .from(workOrder)
    .where(
      inArray(
        workOrder.id,
        needs.map((n) => n.need.orderId),
      ),
    );
  const orderOf = new Map(orders.map((o) => [o.id, o]));
  const heldHere = (n: (typeof needs)[number]): number => n.holds.find((h) => h.storeId === storeId)?.thousandths ?? 0;
  const losing: OrderId[] = [];
  for (const [partId, own] of group(needs, (n) => n.need.partId)) {
    const key = stockKey(storeId, partId);
    const there = stocks.get(key);
    if (!there) continue;
    const kept = keptOfHeld(
      own.map(({ need, holds: all }) => {
        const order = orderOf.get(need.orderId);
        return {
          ...{ id: need.id, askedAt: need.askedAt, priority: order?.priority ?? 4 },
          day: order?.plannedFor ?? order?.wishedOn ?? order?.nextDue ?? null,
          held: heldHere({ need, holds: all }),
        };
      }),
      there.onHand,
    );
    for (const before of own) {
      const stays = kept.get(before.need.id) ?? 0;
      if (stays === heldHere(before)) continue;
      losing.push(before.need.orderId);
      const others = before.holds.filter((h) => h.storeId !== storeId);
      const holds_ = stays > 0 ? [...others, { storeId, thousandths: stays }] : others;
      await keepNeeds(tx, [{ before, need: before.need, holds: holds_ }]);
    }
    stocks.set(key, { ...there, reserved: there.onHand });
  }
  await keepStocks(tx, new Map([...stocks].filter(([key]) => short.some((p) => key === stockKey(storeId, p)))));
  return losing;
}

export const approveCountOf = (
  database: Database,
  write: Write,
  who: Person,
  id: CountId,
  { version, prices }: BodyOf<typeof approveCount>,
  now: Instant,
): Promise<void> =>
  thenCover(database, now, (follow) =>
    write(async (tx, told) => {
      const row = await countUnderLock(tx, id);
      if (row.version !== version) stale({ id, version: row.version });
      const lines = await tx.db
        .select({ line: countLine, isTracked: part.serialTracked })
        .from(countLine)
        .innerJoin(part, eq(part.id, countLine.partId))
        .where(and(eq(countLine.countId, id), isNotNull(countLine.counted)))
        .orderBy(asc(countLine.partId))
        .for('update');
      const parts = lines.map((l) => l.line.partId);
      const known = parts.length === 0 ? () => 0 : await pricesOf(tx, parts);
      const priceFor = (partId: PartId): number => prices.find((p) => p.partId === partId)?.price ?? known(partId);
      const moves = lines.flatMap(({ line, isTracked }) =>
        movesOf(row.storeId, line, isTracked, priceFor(line.partId)),
      );
      if (moves.length > 0) {
        const act = { kind: 'count' as const, personId: who.id, orderId: null, at: now };
        await appendMoves(tx, { ...act, text: `count ${id}`, requestKey: null, requestContent: null }, moves);
        const changed = [...new Set(moves.map((m) => m.partId))];
        const losing = await letGoOfLast(tx, row.storeId, changed);
        await follow(tx, { parts: changed });
        if (losing.length > 0) await follow(tx, { marks: losing });
      }
      await endCount(tx, row, 'approved', who, now);
      told({ subject: 'count', id, text: `${moves.length} differences of a count stand` });
    }),
  );
