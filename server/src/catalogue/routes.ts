// The catalogue: asset classes with their job plans and meters, and makers’ models with the warranty they come with.
import { asc, count, eq, inArray, sql } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/assets.ts';
import type { ClassIn } from '#api/assets.ts';
import type { AssetClassId, JobPlanId } from '#core/ids.ts';
import type { Tx } from '../platform/database.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { assetClass, assetModel, classJobPlan, classMeter, jobPlan } from './tables.ts';
import { asset } from '../assets/tables.ts';
import { meter } from '../meters/tables.ts';
import { unlessTaken } from '../platform/writing.ts';
import { keepRenamed } from '../platform/finder-index.ts';

async function mustBeClass(tx: Tx, id: AssetClassId): Promise<void> {
  const [known] = await tx.db.select({ id: assetClass.id }).from(assetClass).where(eq(assetClass.id, id));
  if (!known) refuse('not-found', 'That class does not exist; choose another.', 'classId');
}

async function writeClassParts(tx: Tx, id: AssetClassId, body: ClassIn): Promise<void> {
  const names = body.meters.map((m) => m.name.toLowerCase());
  if (new Set(names).size < names.length) refuse('taken', 'Two meters have the same name; rename one.', 'meters');
  await tx.db.delete(classJobPlan).where(eq(classJobPlan.classId, id));
  await tx.db.delete(classMeter).where(eq(classMeter.classId, id));
  const plans = [...new Set(body.jobPlanIds)] as JobPlanId[];
  if (plans.length > 0) {
    const known = await tx.db.select({ id: jobPlan.id }).from(jobPlan).where(inArray(jobPlan.id, plans));
    if (known.length < plans.length)
      refuse('not-found', 'One of these job plans does not exist; choose among those offered.', 'jobPlanIds');
    await tx.db.insert(classJobPlan).values(plans.map((jobPlanId) => ({ classId: id, jobPlanId })));
  }
  if (body.meters.length > 0)
    await tx.db.insert(classMeter).values(body.meters.map((m) => ({ ...m, channel: m.channel || null, classId: id })));
  await giveMeters(tx, id, body.meters);
}

/** Meters of a class reach the machines that are there already; one of that name that a machine has stays as it is. */
async function giveMeters(tx: Tx, classId: AssetClassId, meters: ClassIn['meters']): Promise<void> {
  for (const { name, unit, channel } of meters)
    await tx.db.execute(sql`
      insert into ${meter} (asset_id, name, unit, channel)
      select id, ${name}, ${unit}, ${channel || null} from ${asset}
      where class_id = ${classId} and state <> 'retired'
      on duplicate key update channel = coalesce(${meter.channel}, values(channel))`);
}

export const catalogueRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readCatalogue, async () => {
      const [classes, plans, meters, models, byClass, byModel] = await Promise.all([
        db.select().from(assetClass).orderBy(asc(assetClass.name)).limit(500),
        db
          .select({ classId: classJobPlan.classId, id: jobPlan.id, name: jobPlan.name })
          .from(classJobPlan)
          .innerJoin(jobPlan, eq(jobPlan.id, classJobPlan.jobPlanId))
          .orderBy(asc(jobPlan.name)),
        db.select().from(classMeter).orderBy(asc(classMeter.name)),
        db
          .select({ model: assetModel, className: assetClass.name })
          .from(assetModel)
          .innerJoin(assetClass, eq(assetClass.id, assetModel.classId))
          .orderBy(asc(assetModel.maker), asc(assetModel.name))
          .limit(2000),
        db.select({ id: asset.classId, n: count() }).from(asset).groupBy(asset.classId),
        db.select({ maker: asset.maker, model: asset.model, n: count() }).from(asset).groupBy(asset.maker, asset.model),
      ]);
      return {
        classes: classes.map((c) => ({
          ...c,
          assets: byClass.find((x) => x.id === c.id)?.n ?? 0,
          jobPlans: plans.filter((p) => p.classId === c.id).map(({ id, name }) => ({ id, name })),
          meters: meters.filter((m) => m.classId === c.id).map(({ name, unit, channel }) => ({ name, unit, channel })),
        })),
        models: models.map(({ model: m, className }) => ({
          ...m,
          className,
          assets: byModel.find((x) => x.maker === m.maker && x.model === m.name)?.n ?? 0,
        })),
      };
    });

    const once = <T>(work: () => Promise<T>, what: string): Promise<T> =>
      unlessTaken(`There is a ${what} of that name already.`, 'name', work);
    serve(app, house, contracts.addClass, ({ body, write }) =>
      once(
        () =>
          write(async (tx, told) => {
            const [made] = await tx.db.insert(assetClass).values({ name: body.name }).$returningId();
            const id = made?.id as AssetClassId;
            await writeClassParts(tx, id, body);
            told({ subject: 'asset class', id, text: `added ${body.name}` });
            return { id };
          }),
        'class',
      ),
    );
    serve(app, house, contracts.changeClass, ({ params, body, write }) =>
      once(
        () =>
          write(async (tx, told) => {
            const [row] = await tx.db.select().from(assetClass).where(eq(assetClass.id, params.id)).for('update');
            if (!row) refuse('not-found', 'That class does not exist.');
            if (row.version !== body.version) stale(row);
            await tx.db
              .update(assetClass)
              .set({ name: body.name, version: row.version + 1 })
              .where(eq(assetClass.id, params.id));
            await writeClassParts(tx, params.id, body);
            if (row.name !== body.name) await keepRenamed(tx, house.found, { classes: [params.id] });
            told({ subject: 'asset class', id: params.id, text: `changed ${body.name}` });
            return { done: true as const };
          }),
        'class',
      ),
    );
    serve(app, house, contracts.addModel, ({ body, write }) =>
      once(
        () =>
          write(async (tx, told) => {
            await mustBeClass(tx, body.classId);
            const [made] = await tx.db.insert(assetModel).values(body).$returningId();
            const id = made?.id as number;
            told({ subject: 'asset model', id, text: `added ${body.maker} ${body.name}` });
            return { id };
          }),
        'model',
      ),
    );
    serve(app, house, contracts.changeModel, ({ params, body, write }) =>
      once(
        () =>
          write(async (tx, told) => {
            const [row] = await tx.db.select().from(assetModel).where(eq(assetModel.id, params.id)).for('update');
            if (!row) refuse('not-found', 'That model does not exist.');
            if (row.version !== body.version) stale(row);
            await mustBeClass(tx, body.classId);
            await tx.db
              .update(assetModel)
              .set({ ...body, version: row.version + 1 })
              .where(eq(assetModel.id, params.id));
            told({ subject: 'asset model', id: params.id, text: `changed ${body.maker} ${body.name}` });
            return { done: true as const };
          }),
        'model',
      ),
    );
  },
  { name: 'stavok-catalogue-routes', dependencies: ['stavok-authentication'] },
);
