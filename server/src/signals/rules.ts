// Alert rules of classes, and the devices that report.
import fp from 'fastify-plugin';
import { and, asc, eq, ne } from 'drizzle-orm';
import * as contracts from '#api/setup.ts';
import type { AlertRuleId, AssetClassId } from '#core/ids.ts';
import { asset } from '../assets/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { writeNamed } from '../platform/writing.ts';
import { alertRule, device } from './tables.ts';

type Named = { readonly assetClassId: AssetClassId; readonly name: string; readonly id?: AlertRuleId };

/** Two rules of one name in a class would alert, and raise, twice. The class is locked: of two people at once one is told. */
async function mustBeNewToClass(tx: Tx, { assetClassId, name, id }: Named): Promise<void> {
  const [known] = await tx.db
    .select({ id: assetClass.id })
    .from(assetClass)
    .where(eq(assetClass.id, assetClassId))
    .for('update');
  if (!known) refuse('not-found', 'That asset class does not exist; choose another.', 'assetClassId');
  const [same] = await tx.db
    .select({ id: alertRule.id })
    .from(alertRule)
    .where(
      and(
        eq(alertRule.assetClassId, assetClassId),
        eq(alertRule.name, name),
        id === undefined ? undefined : ne(alertRule.id, id),
      ),
    );
  if (same) refuse('taken', 'The class has a rule of that name; change that one, or choose another name.', 'name');
}

export const alertRuleRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listAlertRules, async () => {
      const rows = await db
        .select({ rule: alertRule, className: assetClass.name })
        .from(alertRule)
        .innerJoin(assetClass, eq(assetClass.id, alertRule.assetClassId))
        .orderBy(asc(assetClass.name), asc(alertRule.name))
        .limit(500);
      return { items: rows.map(({ rule, className }) => ({ ...rule, limit: rule.threshold, className })) };
    });
    serve(app, house, contracts.addAlertRule, ({ body: { limit, ...body }, write }) =>
      writeNamed(write, 'alert rule', `added ${body.name}`, async (tx) => {
        await mustBeNewToClass(tx, body);
        const [row] = await tx.db
          .insert(alertRule)
          .values({ ...body, threshold: limit })
          .$returningId();
        return { id: row?.id as number };
      }),
    );
    serve(
      app,
      house,
      contracts.changeAlertRule,
      async ({ params, body: { limit, version: _, ...body }, body: { version }, write }) => {
        await writeNamed(write, 'alert rule', `changed ${body.name}`, async (tx) => {
          const [row] = await tx.db.select().from(alertRule).where(eq(alertRule.id, params.id)).for('update');
          if (!row) refuse('not-found', 'That alert rule does not exist.');
          if (row.version !== version) stale({ ...row, limit: row.threshold });
          await mustBeNewToClass(tx, { ...body, id: row.id });
          await tx.db
            .update(alertRule)
            .set({ ...body, threshold: limit, version: row.version + 1 })
            .where(eq(alertRule.id, params.id));
          return { id: params.id };
        });
        return { done: true as const };
      },
    );
    serve(app, house, contracts.addDevice, async ({ body, write }) => {
      try {
        return await writeNamed(write, 'device', `registered ${body.key}`, async (tx) => {
          const [found] = await tx.db.select({ id: asset.id }).from(asset).where(eq(asset.id, body.assetId));
          if (!found) refuse('not-found', 'That asset does not exist.', 'assetId');
          const [row] = await tx.db
            .insert(device)
            .values({ assetId: body.assetId, deviceKey: body.key })
            .$returningId();
          return { id: row?.id as number };
        });
      } catch (error) {
        if (error instanceof Refused && error.refusals[0]?.code === 'taken')
          refuse('taken', 'Another asset’s device uses that key already.', 'key');
        throw error;
      }
    });
  },
  { name: 'stavok-alert-rule-routes', dependencies: ['stavok-authentication'] },
);
