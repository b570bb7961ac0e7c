// What stands behind orders: their alerts, the rules as they were, who was told, and the readings around.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { OrderAlert } from '#api/order-alerts.ts';
import type { AlertId, OrderId } from '#core/ids.ts';
import { crossedLimit, drawnLimits, sayExcess, sayRuleWithDelays } from '#core/signals/index.ts';
import { HOUR, instant, type Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { curveBetween } from './curve.ts';
import { alert, alertRule, alertTold } from './tables.ts';

/** The curve of an alert begins so long before it was abnormal, and goes on so long after it ended. */
const BEFORE_ALERT = 6 * HOUR;
const AFTER_ALERT = HOUR;
/** As many as a phone's width shows. */
const POINTS = 170;

type Alert = typeof alert.$inferSelect;
type Rule = typeof alertRule.$inferSelect;

const curveAround = (db: Db, of: Alert, rule: Rule, now: Instant) =>
  curveBetween(
    db,
    { assetId: of.assetId, channel: (of.ruleThen ?? rule).channel },
    instant((of.since ?? of.startedAt) - BEFORE_ALERT),
    instant((of.endedAt ?? now) + AFTER_ALERT),
    POINTS,
  );

const alertsOf = (db: Db, orderIds: readonly OrderId[]) =>
  db
    .select({ alert, rule: alertRule, tag: asset.tag, model: asset.model, by: person.name })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .innerJoin(asset, eq(asset.id, alert.assetId))
    .leftJoin(person, eq(person.id, alert.acknowledgedBy))
    .where(inArray(alert.orderId, [...orderIds]))
    .orderBy(asc(alert.startedAt), asc(alert.id));

/** The alerts that an order was raised from or that joined it, the first first. */
export async function alertsOfOrder(db: Db, orderId: OrderId): Promise<OrderAlert[]> {
  const rows = await alertsOf(db, [orderId]);
  const ids = rows.map((r) => r.alert.id);
  const told =
    ids.length === 0
      ? []
      : await db
          .select({ alertId: alertTold.alertId, at: alertTold.at, name: person.name })
          .from(alertTold)
          .innerJoin(person, eq(person.id, alertTold.personId))
          .where(inArray(alertTold.alertId, ids))
          .orderBy(asc(alertTold.at), asc(alertTold.step));
  return rows.map(({ alert: of, rule, tag, model, by }) => {
    const then = of.ruleThen ?? rule;
    return {
      ...{ id: of.id, rule: rule.name, tag, model, assetId: of.assetId, channel: then.channel, unit: then.unit },
      ...{ said: sayRuleWithDelays(then), text: sayExcess(then, of.worst), limits: drawnLimits(then.condition) },
      ...{ since: of.since, startedAt: of.startedAt, endedAt: of.endedAt, withdrawn: of.withdrawnAt !== null },
      told: told.filter((t) => t.alertId === of.id).map(({ name, at }) => ({ name, at })),
      acknowledged: of.acknowledgedAt === null ? null : { at: of.acknowledgedAt, by: by ?? 'somebody who left' },
    };
  });
}

/** What was read around one alert: from hours before it was abnormal until an hour after it ended, or now. */
export async function curveOfAlert(db: Db, id: AlertId, now: Instant) {
  const [found] = await db
    .select({ alert, rule: alertRule })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .where(and(eq(alert.id, id)));
  if (!found) refuse('not-found', 'That alert does not exist.');
  return { now, points: await curveAround(db, found.alert, found.rule, now) };
}

/** So many alerts go with orders to a phone. */
const ON_A_PHONE = 40;

/** The alerts of some orders, each with the curve that led to it. */
export async function alertCurves(db: Db, orderIds: readonly OrderId[], now: Instant) {
  if (orderIds.length === 0) return [];
  const rows = (await alertsOf(db, orderIds)).slice(0, ON_A_PHONE);
  return Promise.all(
    rows.map(async ({ alert: of, rule, tag }) => {
      const then = of.ruleThen ?? rule;
      const points = await curveAround(db, of, rule, now);
      return {
        ...{ orderId: of.orderId as OrderId, rule: rule.name, tag, channel: then.channel, unit: then.unit },
        ...{ limit: crossedLimit(then.condition, of.worst), startedAt: of.startedAt, endedAt: of.endedAt },
        points: points.map(({ at, value }) => ({ at, value })),
      };
    }),
  );
}
