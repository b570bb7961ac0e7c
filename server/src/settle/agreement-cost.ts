// What an agreement earned and cost over a period, in all and by machine, from what was approved.
import { and, eq, gte, lte, sql } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { earnedIn } from '#core/settle/index.ts';
import type { Db } from '../platform/database.ts';
import { orderCharge, orderLook } from './document-tables.ts';
import { creditedIn, periodsOf, type Period, type Row } from './margin-sums.ts';

export type AgreementCost = {
  /** Fees by the day, less service credits of periods that ended. Minor units. */
  readonly earned: number;
  readonly cost: number;
  readonly byMachine: ReadonlyMap<AssetId, number>;
};

export async function agreementCost(db: Db, row: Row, period: Period): Promise<AgreementCost> {
  const [periods, credited, charges] = await Promise.all([
    periodsOf(db, [row], period.to),
    creditedIn(db, [row.id], period),
    db
      .select({ assetId: orderCharge.assetId, cost: sql<string>`sum(${orderCharge.cost})` })
      .from(orderCharge)
      .innerJoin(orderLook, eq(orderLook.orderId, orderCharge.orderId))
      .where(
        and(eq(orderCharge.agreementId, row.id), gte(orderLook.doneOn, period.from), lte(orderLook.doneOn, period.to)),
      )
      .groupBy(orderCharge.assetId),
  ]);
  return {
    earned: earnedIn(periods.get(row.id) ?? [], period.from, period.to) + credited.reduce((sum, c) => sum + c.minor, 0),
    cost: charges.reduce((sum, c) => sum + Number(c.cost), 0),
    byMachine: new Map(charges.flatMap((c) => (c.assetId === null ? [] : [[c.assetId, Number(c.cost)] as const]))),
  };
}
