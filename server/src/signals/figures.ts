// How alerts behave over some days, and what came of them.
import { and, count, countDistinct, eq, gte, inArray, isNotNull, isNull, lt } from 'drizzle-orm';
import type { AlertFigures } from '#api/signals.ts';
import { alertRates, daysBefore } from '#core/signals/index.ts';
import { localDateAt, type Instant, type Zone } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import type { Db } from '../platform/database.ts';
import { isItsOwn } from './going-on.ts';
import { alert, alertRule } from './tables.ts';

/** More than that in the time asked for are counted from the newest back. */
const MOST = 50_000;

export async function alertFigures(db: Db, days: number, now: Instant, zone: Zone): Promise<AlertFigures> {
  const period = daysBefore(now, days);
  const inPeriod = and(gte(alert.startedAt, period.from), lt(alert.startedAt, period.to), isItsOwn);
  const told = and(inPeriod, isNotNull(alert.toldAt), isNull(alert.withdrawnAt));
  const [rows, [sums], [settled], [faults]] = await Promise.all([
    db
      .select({
        ...{ ruleId: alert.ruleId, assetId: alert.assetId, from: alert.startedAt, to: alert.endedAt },
        ...{ toldAt: alert.toldAt, acknowledgedAt: alert.acknowledgedAt, withdrawnAt: alert.withdrawnAt },
      })
      .from(alert)
      .where(inPeriod)
      .limit(MOST),
    db
      .select({ told: count(), ordered: count(alert.orderId) })
      .from(alert)
      .where(told),
    db
      .select({ n: countDistinct(workOrder.id) })
      .from(alert)
      .innerJoin(workOrder, eq(workOrder.id, alert.orderId))
      .where(and(told, inArray(workOrder.stage, ['done', 'settled']))),
    db
      .select({ n: countDistinct(workOrder.id) })
      .from(alert)
      .innerJoin(workOrder, eq(workOrder.id, alert.orderId))
      .innerJoin(orderLine, and(eq(orderLine.orderId, workOrder.id), eq(orderLine.assetId, alert.assetId)))
      .where(and(told, inArray(workOrder.stage, ['done', 'settled']), isNotNull(orderLine.fault))),
  ]);
  const { top, ...rates } = alertRates(
    rows.map(({ withdrawnAt, ...a }) => ({ ...a, isWithdrawn: withdrawnAt !== null })),
    period,
    now,
  );
  const named = await namesOf(
    db,
    top.map((t) => t.ruleId),
    top.map((t) => t.assetId),
  );
  const byDay = new Map<string, number>();
  for (let at = period.from; at <= now; at = (at + 43_200_000) as Instant) byDay.set(localDateAt(zone, at), 0);
  for (const a of rows)
    if (a.withdrawnAt === null) byDay.set(localDateAt(zone, a.from), (byDay.get(localDateAt(zone, a.from)) ?? 0) + 1);
  return {
    now,
    ...rates,
    ...{ told: sums?.told ?? 0, ordered: sums?.ordered ?? 0, settledOrders: settled?.n ?? 0, faults: faults?.n ?? 0 },
    top: top.map((t) => ({ ...t, ...named(t.ruleId, t.assetId) })),
    days: [...byDay].sort(([a], [b]) => (a < b ? -1 : 1)).map(([day, alerts]) => ({ day, alerts })),
  };
}

async function namesOf(db: Db, ruleIds: readonly number[], assetIds: readonly number[]) {
  const [rules, machines] =
    ruleIds.length === 0
      ? [[], []]
      : await Promise.all([
          db
            .select({ id: alertRule.id, name: alertRule.name })
            .from(alertRule)
            .where(inArray(alertRule.id, [...ruleIds] as never[])),
          db
            .select({ id: asset.id, tag: asset.tag, model: asset.model })
            .from(asset)
            .where(inArray(asset.id, [...assetIds] as never[])),
        ]);
  return (ruleId: number, assetId: number) => {
    const machine = machines.find((m) => m.id === assetId);
    return {
      rule: rules.find((r) => r.id === ruleId)?.name ?? '',
      tag: machine?.tag ?? '',
      model: machine?.model ?? '',
    };
  };
}
