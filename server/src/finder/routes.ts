// The finder's route.
import fp from 'fastify-plugin';
import * as contracts from '#api/finder.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { threadStretch } from '../platform/lanes.ts';
import { find } from './search.ts';

export const finderRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    serve(app, house, contracts.find, async ({ query, now, who }) => {
      const today = localDateAt(who.zone, now);
      const { from, to } = threadStretch(today, now);
      const sources = house.found.filter((s) => s.shownTo?.includes(who.role) ?? true);
      return {
        hits: await find(house.database, sources, query.q, { now, today, lanes: house.lanes }),
        from,
        to,
        now,
      };
    });
  },
  { name: 'stavok-finder-routes', dependencies: ['stavok-authentication'] },
);
