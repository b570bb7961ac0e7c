// What runs low, as it was last worked out, with what lies there now.
import { and, asc, count, eq, max, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { LowOut, readLow } from '#api/purchases.ts';
import { seesMoney, type Role } from '#core/people.ts';
import { availableIn, usualSupplier } from '#core/stores/index.ts';
import type { Db } from '../platform/database.ts';
import { readMark, sayMark } from './row-mark.ts';
import { offersOf } from './suppliers.ts';
import { reorderProposal } from './purchase-tables.ts';
import { part, stock, store } from './tables.ts';

export async function lowShown(
  db: Db,
  { store: at, kind, after, limit = 60 }: Asked<typeof readLow>['query'],
  role: Role,
) {
  const from = readMark(after);
  const which = and(
    at === undefined ? undefined : eq(reorderProposal.storeId, at),
    kind === undefined ? undefined : eq(store.kind, kind),
  );
  const isBehind =
    from &&
    sql`(${reorderProposal.belowOn}, ${reorderProposal.partId}, ${reorderProposal.storeId}) > (${from.day}, ${from.partId}, ${from.storeId})`;
  const [[counted], rows] = await Promise.all([
    db
      .select({ n: count(), madeAt: max(reorderProposal.madeAt) })
      .from(reorderProposal)
      .innerJoin(store, eq(store.id, reorderProposal.storeId))
      .where(which),
    db
      .select({ of: reorderProposal, part, store, held: stock })
      .from(reorderProposal)
      .innerJoin(store, eq(store.id, reorderProposal.storeId))
      .innerJoin(part, eq(part.id, reorderProposal.partId))
      .leftJoin(stock, and(eq(stock.storeId, reorderProposal.storeId), eq(stock.partId, reorderProposal.partId)))
      .where(and(which, isBehind ?? undefined))
      .orderBy(asc(reorderProposal.belowOn), asc(reorderProposal.partId), asc(reorderProposal.storeId))
      .limit(limit + 1),
  ]);
  const shown = rows.slice(0, limit);
  const offers = await offersOf({ db }, [...new Set(shown.map((r) => r.part.id))]);
  const last = shown.at(-1)?.of;
  return {
    items: shown.map(({ of, part: p, store: s, held }): LowOut => {
      const own = offers.get(p.id) ?? [];
      const usual = usualSupplier(own) as (typeof own)[number] | null;
      return {
        part: { id: p.id, name: p.name, number: p.number, unit: p.unit },
        store: { id: s.id, name: s.name, kind: s.kind },
        ...{ free: held ? availableIn(held) : 0, minimum: of.minimum, maximum: of.maximum },
        ...{ needed: of.needed, coming: of.coming, propose: of.propose, belowOn: of.belowOn, leadDays: of.leadDays },
        ...{ fromDay: of.fromDay, curve: of.curve },
        supplier: usual && {
          ...{ id: usual.supplierId, name: usual.name, unitPrice: seesMoney(role) ? usual.unitPrice : null },
        },
      };
    }),
    total: counted?.n ?? 0,
    madeAt: counted?.madeAt ?? null,
    next: rows.length > limit && last ? sayMark({ ...last, day: last.belowOn }) : null,
  };
}
