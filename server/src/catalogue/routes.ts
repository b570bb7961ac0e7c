// The catalogue's routes: asset classes with their job plans and meters, and makers’ models with the warranty they come with.
import { asc, count, eq } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/catalogue.ts';
import { asset } from '../assets/tables.ts';
import { serve, type House } from '../platform/http.ts';
import { unlessNamed } from '../platform/writing.ts';
import * as commands from './commands.ts';
import { assetClass, assetModel, classJobPlan, classMeter, classWord, jobPlan, wordsByKind } from './tables.ts';

const DONE = { done: true as const };

export const catalogueRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readCatalogue, async () => {
      const [classes, plans, meters, words, models, byClass, byModel] = await Promise.all([
        db.select().from(assetClass).orderBy(asc(assetClass.name)).limit(500),
        db
          .select({ classId: classJobPlan.classId, id: jobPlan.id, name: jobPlan.name })
          .from(classJobPlan)
          .innerJoin(jobPlan, eq(jobPlan.id, classJobPlan.jobPlanId))
          .orderBy(asc(jobPlan.name)),
        db.select().from(classMeter).orderBy(asc(classMeter.name)),
        db.select().from(classWord).orderBy(asc(classWord.position)),
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
          words: wordsByKind(words.filter((w) => w.classId === c.id)),
          meters: meters.filter((m) => m.classId === c.id).map(({ classId: _, ...m }) => m),
        })),
        models: models.map(({ model: m, className }) => ({
          ...m,
          className,
          assets: byModel.find((x) => x.maker === m.maker && x.model === m.name)?.n ?? 0,
        })),
      };
    });

    serve(app, house, contracts.addClass, ({ body, write }) =>
      unlessNamed('class', () => write((tx, told) => commands.addClass(tx, told, body))),
    );
    serve(app, house, contracts.changeClass, async ({ params, body, write }) => {
      await unlessNamed('class', () =>
        write((tx, told) => commands.changeClass(tx, told, house.found, params.id, body)),
      );
      return DONE;
    });
    serve(app, house, contracts.addModel, ({ body, write }) =>
      unlessNamed('model', () => write((tx, told) => commands.addModel(tx, told, body))),
    );
    serve(app, house, contracts.changeModel, async ({ params, body, write }) => {
      await unlessNamed('model', () => write((tx, told) => commands.changeModel(tx, told, params.id, body)));
      return DONE;
    });
  },
  { name: 'stavok-catalogue-routes', dependencies: ['stavok-authentication'] },
);
