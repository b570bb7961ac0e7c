// Parts that orders wait for: the day on which all of them are promised to be here, and whether the house plans such work all the same.
import { and, eq, gt, inArray, isNull } from 'drizzle-orm';
import { group } from 'd3-array';
import type { OrderId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import type { Db } from '../platform/database.ts';
import { purchaseFor, purchaseLine } from '../stores/purchase-tables.ts';
import { partNeed, storeSetting } from '../stores/tables.ts';

export type PartsOf = {
  /** The house plans work that waits for parts. */
  readonly planned: boolean;
  /** When the last of what an order waits for is here; null: some of it nobody promised. */
  readonly on: (id: OrderId) => LocalDate | null;
};

/** A day is known once all that is open of every need is bought, and promised for a day. */
export async function partsOf(db: Db, waiting: readonly OrderId[]): Promise<PartsOf> {
  if (waiting.length === 0) return { planned: false, on: () => null };
  const [[setting], rows] = await Promise.all([
    db.select({ planned: storeSetting.planWaiting }).from(storeSetting),
    db
      .select({
        ...{ orderId: partNeed.orderId, needId: partNeed.id, open: partNeed.open },
        ...{ bought: purchaseFor.thousandths, promisedOn: purchaseLine.promisedOn },
      })
      .from(partNeed)
      .leftJoin(purchaseFor, eq(purchaseFor.needId, partNeed.id))
      .leftJoin(purchaseLine, eq(purchaseLine.id, purchaseFor.lineId))
      .where(and(inArray(partNeed.orderId, [...waiting]), gt(partNeed.open, 0), isNull(partNeed.anyway))),
  ]);
  const days = new Map<OrderId, LocalDate | null>();
  for (const [orderId, own] of group(rows, (r) => r.orderId)) {
    const isAllPromised = [...group(own, (r) => r.needId).values()].every((of) => {
      const bought = of.reduce((sum, r) => sum + (r.bought !== null && r.promisedOn !== null ? r.bought : 0), 0);
      return bought >= (of[0]?.open ?? 0);
    });
    const last = own.flatMap((r) => r.promisedOn ?? []).sort();
    days.set(orderId, isAllPromised ? (last.at(-1) ?? null) : null);
  }
  return { planned: setting?.planned ?? false, on: (id) => days.get(id) ?? null };
}
