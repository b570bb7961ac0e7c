// The upkeep run’s routes: coordinators, managers and administrators decide; dispatchers may look ahead.
import fp from 'fastify-plugin';
import * as contracts from '#api/upkeep.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { holdVisits, releaseVisits } from './hold.ts';
import { onThread } from './pool.ts';
import { dueNow } from './today.ts';

export const upkeepRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const url = house.config.databaseUrl;
    serve(app, house, contracts.previewRun, ({ query, who, now }) =>
      onThread('preview', { url, to: query.to, today: localDateAt(who.zone, now) }),
    );
    serve(app, house, contracts.holdVisits, async ({ body, who }) => ({
      held: await holdVisits(database, body.visits, body.to, body.reason, who),
    }));
    serve(app, house, contracts.releaseVisits, async ({ body, who }) => {
      await releaseVisits(database, body.visits, who);
      return { done: true as const };
    });
    serve(app, house, contracts.commitRun, ({ body, who, now }) =>
      onThread('commit', { url, to: body.to, only: body.only, who, now, today: localDateAt(who.zone, now) }),
    );
    serve(app, house, contracts.readDue, ({ who, now }) => dueNow(database.db, localDateAt(who.zone, now)));
  },
  { name: 'stavok-upkeep-routes', dependencies: ['stavok-authentication'] },
);
