// What may be taken instead of a part, which job plans take it, and on which machines it was used.
import { and, asc, countDistinct, desc, eq, gt, inArray, max, sql } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { PartUse, setAlternatives } from '#api/part-life.ts';
import type { PartId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { assetClass, jobPlan } from '../catalogue/tables.ts';
import { orderLine } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { part, partAlternative, stock, store, usedPart } from './tables.ts';

const MODELS_SHOWN = 30;

/** How much of some parts is free in stores from which it may be taken. */
export async function freeOfParts(db: Db, ids: readonly PartId[]): Promise<(id: PartId) => number> {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select({ id: stock.partId, n: sql<string>`sum(${stock.onHand} - ${stock.reserved})` })
          .from(stock)
          .innerJoin(store, and(eq(store.id, stock.storeId), eq(store.retired, false)))
          .where(
            and(inArray(stock.partId, [...ids]), gt(stock.onHand, stock.reserved), sql`${store.kind} <> 'quarantine'`),
          )
          .groupBy(stock.partId);
  const free = new Map(rows.map((r) => [r.id, Number(r.n)]));
  return (id) => free.get(id) ?? 0;
}

export async function partUseOf(db: Db, id: PartId): Promise<PartUse> {
  const [known] = await db.select({ id: part.id }).from(part).where(eq(part.id, id));
  if (!known) refuse('not-found', 'That part does not exist.');
  const columns = { id: part.id, name: part.name, number: part.number, retired: part.retired };
  const [instead, standsInFor, plans, models] = await Promise.all([
    db
      .select(columns)
      .from(partAlternative)
      .innerJoin(part, eq(part.id, partAlternative.otherId))
      .where(eq(partAlternative.partId, id))
      .orderBy(asc(part.number)),
    db
      .select(columns)
      .from(partAlternative)
      .innerJoin(part, eq(part.id, partAlternative.partId))
      .where(eq(partAlternative.otherId, id))
      .orderBy(asc(part.number)),
    // A house has some hundred job plans.
    db.select({ id: jobPlan.id, name: jobPlan.name, parts: jobPlan.parts }).from(jobPlan).orderBy(asc(jobPlan.name)),
    db
      .select({
        ...{ className: assetClass.name, maker: asset.maker, model: asset.model },
        orders: countDistinct(usedPart.orderId),
        thousandths: sql<string>`sum(${usedPart.thousandths})`,
        lastAt: max(usedPart.at),
      })
      .from(usedPart)
      .innerJoin(orderLine, eq(orderLine.id, usedPart.orderLineId))
      .innerJoin(asset, eq(asset.id, orderLine.assetId))
      .innerJoin(assetClass, eq(assetClass.id, asset.classId))
      .where(eq(usedPart.partId, id))
      .groupBy(assetClass.name, asset.maker, asset.model)
      .orderBy(desc(countDistinct(usedPart.orderId)), asc(asset.model))
      .limit(MODELS_SHOWN),
  ]);
  const freeOf = await freeOfParts(
    db,
    [...instead, ...standsInFor].map((p) => p.id),
  );
  const withFree = (p: (typeof instead)[number]) => ({ ...p, free: freeOf(p.id) });
  return {
    instead: instead.map(withFree),
    standsInFor: standsInFor.map(withFree),
    plans: plans.flatMap((p) => {
      const thousandths = (p.parts ?? []).reduce((sum, w) => sum + (w.partId === id ? w.thousandths : 0), 0);
      return thousandths === 0 ? [] : [{ id: p.id, name: p.name, thousandths }];
    }),
    models: models.map((m) => ({ ...m, thousandths: Number(m.thousandths), lastAt: m.lastAt as Instant })),
  };
}

export const setAlternativesOf = (
  write: Write,
  id: PartId,
  { others, seen }: BodyOf<typeof setAlternatives>,
): Promise<void> =>
  write(async (tx, told) => {
    const [known] = await tx.db.select().from(part).where(eq(part.id, id)).for('update');
    if (!known) refuse('not-found', 'That part does not exist.');
    const rows = await tx.db
      .select({ id: partAlternative.otherId })
      .from(partAlternative)
      .where(eq(partAlternative.partId, id));
    const held = new Set(rows.map((r) => r.id));
    if (held.size !== seen.length || seen.some((s) => !held.has(s))) stale({ others: [...held] });
    const wanted = new Set(others);
    if (wanted.has(id)) refuse('invalid', 'A part does not stand in for itself; choose another.', 'others');
    const found =
      wanted.size === 0
        ? []
        : await tx.db
            .select({ id: part.id, number: part.number, unit: part.unit })
            .from(part)
            .where(inArray(part.id, [...wanted]));
    if (found.length < wanted.size) refuse('not-found', 'One of these parts does not exist; choose another.', 'others');
    const other = found.find((f) => f.unit !== known.unit);
    if (other)
      refuse('invalid', `${other.number} is counted in ${other.unit}, ${known.number} in ${known.unit}.`, 'others');
    const gone = [...held].filter((h) => !wanted.has(h));
    if (gone.length > 0)
      await tx.db
        .delete(partAlternative)
        .where(and(eq(partAlternative.partId, id), inArray(partAlternative.otherId, gone)));
    const more = [...wanted].filter((w) => !held.has(w));
    if (more.length > 0) await tx.db.insert(partAlternative).values(more.map((otherId) => ({ partId: id, otherId })));
    const said = found.map((f) => f.number).join(', ');
    told({ subject: 'part', id, text: said === '' ? 'nothing stands in for it' : `instead of it: ${said}` });
  });
