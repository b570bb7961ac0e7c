// How stores do: worked out every night over all that moved in a year, and read from there; what waits is counted as it stands.
import { and, asc, count, desc, eq, gt, gte, inArray, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Asked } from '#api/contract.ts';
import type { DeadStock, readDeadStock, StoreFigures } from '#api/store-figures.ts';
import { turnoverOf } from '#core/stores/index.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import { addMonths, asLocalDate, DAY, localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { orderCourse, workOrder } from '../orders/tables.ts';
import { instantText } from '../platform/columns.ts';
import { bareRows, bulkInsert, type Database, type Db } from '../platform/database.ts';
import { announce } from '../platform/live.ts';
import { deadStock, storeFigure } from './purchase-tables.ts';
import { readWorthMark, sayWorthMark } from './row-mark.ts';
import { part, partNeed, store, usedPart } from './tables.ts';

const YEAR = 365;
const MONTHS = 12;

// All moves of a year are gone through: asked as plainly as can be, on a thread.
const WORTH = `SELECT w.id, COALESCE(SUM(s.value), 0), COUNT(IF(s.on_hand <> 0, 1, NULL))
  FROM store w LEFT JOIN stock s ON s.store_id = w.id GROUP BY w.id`;
const MOVED = `SELECT m.store_id, SUM(m.money), SUM(IF(m.kind IN ('issue', 'return'), -m.money, 0))
  FROM store_act a JOIN stock_move m ON m.act_id = a.id WHERE a.at >= ? GROUP BY m.store_id`;
const TAKEN = `SELECT DISTINCT m.store_id, m.part_id FROM store_act a JOIN stock_move m ON m.act_id = a.id
  WHERE a.at >= ? AND a.kind = 'issue' AND m.kind = 'issue'`;
const ends = (which: 'ASC' | 'DESC'): string => `(SELECT a.at FROM stock_move m JOIN store_act a ON a.id = m.act_id
  WHERE m.store_id = s.store_id AND m.part_id = s.part_id ORDER BY m.id ${which} LIMIT 1)`;
const DEAD = `SELECT s.store_id, s.part_id, s.on_hand, s.value, ${ends('DESC')} FROM stock s
  LEFT JOIN (${TAKEN}) t ON t.store_id = s.store_id AND t.part_id = s.part_id
  WHERE s.on_hand > 0 AND t.part_id IS NULL AND ${ends('ASC')} < ?`;

type Worth = [storeId: number, value: number | string, parts: number];
type Moved = [storeId: number, all: number | string, taken: number | string];
type Dead = [storeId: number, partId: number, onHand: number, value: number, lastMovedAt: unknown];

/** Works the figures of all stores out and writes them over those of before; gives how many stores there are. */
export async function keepFigures(database: Database, now: Instant): Promise<number> {
  const { db } = database;
  const since = instantText((now - YEAR * DAY) as Instant);
  const worth = (await bareRows(db, WORTH, [])) as Worth[];
  const moved = new Map(((await bareRows(db, MOVED, [since])) as Moved[]).map((m) => [m[0], m]));
  const dead = (await bareRows(db, DEAD, [since, since])) as Dead[];
  const deadOf = new Map<number, { value: number; parts: number }>();
  for (const [storeId, , , value] of dead) {
    const own = deadOf.get(storeId) ?? { value: 0, parts: 0 };
    deadOf.set(storeId, { value: own.value + value, parts: own.parts + 1 });
  }
  await database.transact(async (tx) => {
    await tx.db.delete(storeFigure);
    await tx.db.delete(deadStock);
    await bulkInsert(
      tx.connection,
      'store_figure',
      ['store_id', 'taken_worth', 'worth_before', 'value', 'parts', 'dead_value', 'dead_parts', 'made_at'],
      worth.map(([storeId, value, parts]) => {
        const [, all, taken] = moved.get(storeId) ?? [0, 0, 0];
        const own = deadOf.get(storeId) ?? { value: 0, parts: 0 };
        return [
          ...[storeId, Number(taken), Number(value) - Number(all), Number(value), parts],
          ...[own.value, own.parts, instantText(now)],
        ];
      }),
    );
    await bulkInsert(
      tx.connection,
      'dead_stock',
      ['store_id', 'part_id', 'on_hand', 'value', 'last_moved_at'],
      dead.map((d) => [...d]),
    );
    await announce(tx, { touches: ['stores'] });
  });
  return worth.length;
}

/** Orders done in each month of a year for which parts were used: whether all came from a van, and nobody had to come again. */
async function completeSince(db: Db, from: LocalDate) {
  const at = alias(store, 'taken_from');
  const each = db
    .select({
      month: sql<string>`substr(${orderCourse.doneOn}, 1, 7)`.as('month'),
      isComplete: sql<number>`min(${orderCourse.atFirstGo} and coalesce(${at.kind} = 'van', false))`.as('is_complete'),
    })
    .from(orderCourse)
    .innerJoin(usedPart, eq(usedPart.orderId, orderCourse.orderId))
    .innerJoin(part, and(eq(part.id, usedPart.partId), eq(part.consumable, false)))
    .leftJoin(at, eq(at.id, usedPart.storeId))
    .where(gte(orderCourse.doneOn, from))
    .groupBy(orderCourse.orderId, orderCourse.doneOn)
    .as('each_order');
  return db
    .select({ month: each.month, orders: count(), complete: sql<string>`sum(${each.isComplete})` })
    .from(each)
    .groupBy(each.month)
    .orderBy(asc(each.month));
}

export async function figuresOf(db: Db, zone: Zone, now: Instant): Promise<StoreFigures> {
  const today = localDateAt(zone, now);
  const from = addMonths(asLocalDate(`${today.slice(0, 7)}-01`), 1 - MONTHS);
  const [rows, [open], [waiting], complete] = await Promise.all([
    db
      .select({ of: storeFigure, id: store.id, name: store.name, kind: store.kind })
      .from(storeFigure)
      .innerJoin(store, eq(store.id, storeFigure.storeId))
      .orderBy(asc(store.kind), asc(store.name)),
    db.select({ n: count() }).from(partNeed).where(gt(partNeed.open, 0)),
    db
      .select({ n: count() })
      .from(workOrder)
      .where(and(eq(workOrder.waitingFor, 'waiting for parts'), inArray(workOrder.stage, [...OPEN_STAGES]))),
    completeSince(db, from),
  ]);
  return {
    madeAt: rows[0]?.of.madeAt ?? null,
    stores: rows.map(({ of, id, name, kind }) => ({
      store: { id, name, kind },
      ...{ value: of.value, taken: of.takenWorth, parts: of.parts, deadValue: of.deadValue, deadParts: of.deadParts },
      turnover: turnoverOf(of.takenWorth, of.worthBefore, of.value),
    })),
    ...{ openNeeds: open?.n ?? 0, waiting: waiting?.n ?? 0 },
    complete: complete.map((c) => ({ ...c, complete: Number(c.complete) })),
  };
}

type DeadQuery = Asked<typeof readDeadStock>['query'];

export async function deadStockOf(db: Db, { store: at, after, limit = 60 }: DeadQuery) {
  const from = readWorthMark(after);
  const rows = await db
    .select({ of: deadStock, part, name: store.name })
    .from(deadStock)
    .innerJoin(part, eq(part.id, deadStock.partId))
    .innerJoin(store, eq(store.id, deadStock.storeId))
    .where(
      and(
        at === undefined ? undefined : eq(deadStock.storeId, at),
        from === null
          ? undefined
          : sql`(${deadStock.value} < ${from.worth} or (${deadStock.value} = ${from.worth} and (${deadStock.storeId}, ${deadStock.partId}) > (${from.storeId}, ${from.partId})))`,
      ),
    )
    .orderBy(desc(deadStock.value), asc(deadStock.storeId), asc(deadStock.partId))
    .limit(limit + 1);
  const shown = rows.slice(0, limit);
  const last = shown.at(-1)?.of;
  return {
    items: shown.map(({ of, part: p, name }): DeadStock => ({
      part: { id: p.id, name: p.name, number: p.number, unit: p.unit },
      ...{ store: { id: of.storeId, name }, onHand: of.onHand, value: of.value, lastMovedAt: of.lastMovedAt },
    })),
    next: rows.length > limit && last ? sayWorthMark({ worth: last.value, ...last }) : null,
  };
}
