// The routes of a part's own page: over time, what stands in for it, where it is used, its units; and how stores do.
import fp from 'fastify-plugin';
import * as contracts from '#api/part-life.ts';
import * as figures from '#api/store-figures.ts';
import { announce } from '../platform/live.ts';
import { serve, type House } from '../platform/http.ts';
import { leaveJob } from '../platform/jobs.ts';
import { courseOf } from './course.ts';
import { deadStockOf, figuresOf } from './figures.ts';
import { WORKING_OUT } from './jobs.ts';
import { partUseOf, setAlternativesOf } from './part-use.ts';
import { becomeAssetOf, builtInto, unitLifeOf, unitsOf } from './units.ts';

export const partRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    const done = { done: true as const };
    serve(app, house, contracts.readCourse, ({ params, query, who, now }) =>
      courseOf(db, params.id, query.store, { zone: who.zone, now }),
    );
    serve(app, house, contracts.readPartUse, ({ params }) => partUseOf(db, params.id));
    serve(app, house, contracts.setAlternatives, async ({ params, body, write }) => {
      await setAlternativesOf(write, params.id, body);
      return done;
    });
    serve(app, house, contracts.listUnits, ({ params, query }) => unitsOf(db, params.id, query));
    serve(app, house, contracts.readUnit, ({ params, query, who }) =>
      unitLifeOf(db, params.id, query.serial, who.zone),
    );
    serve(app, house, contracts.readBuiltIn, ({ params, who }) => builtInto(db, params.id, who.zone));
    serve(app, house, contracts.becomeAsset, ({ params, body, write, who, now }) =>
      becomeAssetOf(db, write, who, params.id, body, now),
    );
    serve(app, house, figures.readStoreFigures, ({ who, now }) => figuresOf(db, who.zone, now));
    serve(app, house, figures.readDeadStock, ({ query }) => deadStockOf(db, query));
    serve(app, house, figures.workOutFigures, async () => {
      await database.transact(async (tx) => {
        await leaveJob(tx, WORKING_OUT, {});
        await announce(tx, figures.workOutFigures);
      });
      return done;
    });
  },
  { name: 'stavok-part-routes', dependencies: ['stavok-authentication'] },
);
