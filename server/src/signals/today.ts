// What Today shows of signals: alerts that go on, and were told.
import { desc, eq } from 'drizzle-orm';
import { sayExcess } from '#core/signals/index.ts';
import { asset } from '../assets/tables.ts';
import type { Db } from '../platform/database.ts';
import { isToldOf } from './going-on.ts';
import { alert, alertRule } from './tables.ts';

const SHOWN = 10;

export async function activeAlerts(db: Db) {
  const rows = await db
    .select({ alert, rule: alertRule, tag: asset.tag, model: asset.model })
    .from(alert)
    .innerJoin(alertRule, eq(alertRule.id, alert.ruleId))
    .innerJoin(asset, eq(asset.id, alert.assetId))
    .where(isToldOf)
    .orderBy(desc(alert.startedAt), desc(alert.id))
    .limit(SHOWN);
  return rows.map(({ alert: { id, worst, assetId, startedAt, orderId, ruleThen }, rule, tag, model }) => ({
    ...{ id, tag, model, assetId, startedAt, orderId },
    text: sayExcess(ruleThen ?? rule, worst),
  }));
}
