// What lies in stores, compared with what its moves come to; parts one after the other.
import { asc, eq, gt, inArray } from 'drizzle-orm';
import { group, rollup, sum } from 'd3-array';
import type { NeedId, PartId } from '#core/ids.ts';
import { EMPTY_STOCK, openOf, stockOf, type Stock } from '#core/stores/index.ts';
import { differences, type DerivedRows } from '../platform/derived.ts';
import { holdStocks, keepStocks, stockKey } from './ledger.ts';
import { part, partNeed, stock, stockHold, stockMove, store, usedPart } from './tables.ts';

const AT_ONCE = 50;

export const stockDerived: DerivedRows = {
  what: 'stock of parts in stores',
  async look(tx, after, _now, mend) {
    const parts = await tx.db
      .select({ id: part.id, number: part.number })
      .from(part)
      .where(gt(part.id, after as PartId))
      .orderBy(asc(part.id))
      .limit(AT_ONCE);
    const ids = parts.map((p) => p.id);
    if (ids.length === 0) return { last: null, seen: 0, differing: [] };
    const kept = await tx.db
      .select({ held: stock, name: store.name })
      .from(stock)
      .innerJoin(store, eq(store.id, stock.storeId))
      .where(inArray(stock.partId, ids));
    const held =
      mend && kept.length > 0
        ? await holdStocks(
            tx,
            kept.map((k) => k.held),
          )
        : null;
    const moves = await tx.db.select().from(stockMove).where(inArray(stockMove.partId, ids)).orderBy(asc(stockMove.id));
    const heldAt = rollup(
      await tx.db.select().from(stockHold).where(inArray(stockHold.partId, ids)),
      (holds) => sum(holds, (h) => h.thousandths),
      (h) => stockKey(h.storeId, h.partId),
    );
    const movesOf = group(moves, (m) => stockKey(m.storeId, m.partId));
    const wrong = kept.flatMap(({ held: { storeId, partId, ...row }, name }) => {
      const is = held?.get(stockKey(storeId, partId)) ?? row;
      const reserved = heldAt.get(stockKey(storeId, partId)) ?? 0;
      const said: Stock = { ...stockOf(movesOf.get(stockKey(storeId, partId)) ?? []), reserved };
      const apart = differences({ ...EMPTY_STOCK, ...is }, { ...said });
      return apart.length === 0 ? [] : [{ key: stockKey(storeId, partId), said, apart, partId, name }];
    });
    if (mend && wrong.length > 0) await keepStocks(tx, new Map(wrong.map((w) => [w.key, w.said])));
    const numberOf = new Map(parts.map((p) => [p.id, p.number]));
    return {
      last: ids.length < AT_ONCE ? null : (ids.at(-1) as number),
      seen: kept.length,
      differing: wrong.map((w) => `${numberOf.get(w.partId)} in ${w.name}: ${w.apart.join('; ')}`),
    };
  },
};

/** What is used of needs by the uses of their lines, what is held by the holds, and what is open after both. */
export const needsDerived: DerivedRows = {
  what: 'needs of parts',
  async look(tx, after, _now, mend) {
    const query = tx.db
      .select()
      .from(partNeed)
      .where(gt(partNeed.id, after as NeedId))
      .orderBy(asc(partNeed.id))
      .limit(AT_ONCE);
    const rows = await (mend ? query.for('update') : query);
    if (rows.length === 0) return { last: null, seen: 0, differing: [] };
    const key = (lineId: number, partId: number): string => `${lineId} ${partId}`;
    const lines = rows.map((r) => r.orderLineId);
    const usedOf = rollup(
      await tx.db.select().from(usedPart).where(inArray(usedPart.orderLineId, lines)),
      (uses) => sum(uses, (u) => u.thousandths),
      (u) => key(u.orderLineId, u.partId),
    );
    const heldOf = rollup(
      await tx.db
        .select()
        .from(stockHold)
        .where(
          inArray(
            stockHold.needId,
            rows.map((r) => r.id),
          ),
        ),
      (holds) => sum(holds, (h) => h.thousandths),
      (h) => h.needId,
    );
    const wrong = rows.flatMap((row) => {
      const used = usedOf.get(key(row.orderLineId, row.partId)) ?? 0;
      const held = heldOf.get(row.id) ?? 0;
      const said = { used, held, open: row.over ? 0 : openOf({ wanted: row.wanted, used, held }) };
      const apart = differences({ used: row.used, held: row.held, open: row.open }, said);
      return apart.length === 0 ? [] : [{ row, said, apart }];
    });
    if (mend) for (const { row, said } of wrong) await tx.db.update(partNeed).set(said).where(eq(partNeed.id, row.id));
    return {
      last: rows.length < AT_ONCE ? null : (rows.at(-1)?.id ?? null),
      seen: rows.length,
      differing: wrong.map(({ row, apart }) => `need ${row.id}: ${apart.join('; ')}`),
    };
  },
};
