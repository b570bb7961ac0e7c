// What a repair may cost, for whoever is asked on the telephone: by what the newest like repairs took.
import { and, desc, eq, inArray, isNotNull } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { indicate } from '#core/labour/index.ts';
import type { LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { cardFor } from './cards.ts';

/** Of past repairs of a class, the newest: what they took is like what this takes. */
const LIKE_WORK = 200;

export async function indicationFor(db: Db, assets: readonly AssetId[], today: LocalDate) {
  const classes = await db
    .selectDistinct({ id: asset.classId, customerId: asset.customerId })
    .from(asset)
    .where(inArray(asset.id, [...assets]));
  if (classes.length === 0) return { indication: null };
  const rows = await db
    .select({ minutes: orderLine.labourMinutes, partsCost: orderLine.partsCost })
    .from(orderLine)
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .innerJoin(workOrder, eq(workOrder.id, orderLine.orderId))
    .where(
      and(
        inArray(
          asset.classId,
          classes.map((c) => c.id),
        ),
        eq(workOrder.kind, 'repair'),
        isNotNull(orderLine.labourMinutes),
        isNotNull(workOrder.doneAt),
      ),
    )
    .orderBy(desc(orderLine.id))
    .limit(LIKE_WORK);
  const card = await cardFor(db, classes[0]?.customerId ?? null);
  const found = indicate(
    rows.map((r) => ({ minutes: r.minutes ?? 0, partsCost: r.partsCost ?? 0 })),
    card,
    today,
  );
  return { indication: found && { ...found, currency: card?.currency ?? 'EUR' } };
}
