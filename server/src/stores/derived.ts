// What lies in stores, compared with what its moves come to; parts one after the other.
import { asc, eq, gt, inArray } from 'drizzle-orm';
import { group } from 'd3-array';
import type { PartId } from '#core/ids.ts';
import { EMPTY_STOCK, stockOf, type Stock } from '#core/stores/index.ts';
import { differences, type DerivedRows } from '../platform/derived.ts';
import { holdStocks, keepStocks, stockKey } from './ledger.ts';
import { part, stock, stockMove, store } from './tables.ts';

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
    const movesOf = group(moves, (m) => stockKey(m.storeId, m.partId));
    const wrong = kept.flatMap(({ held: { storeId, partId, ...row }, name }) => {
      const is = held?.get(stockKey(storeId, partId)) ?? row;
      const said: Stock = { ...stockOf(movesOf.get(stockKey(storeId, partId)) ?? []), reserved: is.reserved };
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
