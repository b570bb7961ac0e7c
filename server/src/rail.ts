// The numbers beside the rooms, asked of each.
import fp from 'fastify-plugin';
import * as contracts from '#api/house.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from './platform/http.ts';
import type { Room } from './room.ts';

export const railRoutes = fp<{ house: House; rooms: readonly Room[] }>(
  async (app, { house, rooms }) => {
    serve(app, house, contracts.readCounts, async ({ now, who }) => {
      const at = { now, today: localDateAt(who.zone, now) };
      const counted = rooms.flatMap(({ name, count }) => (count ? [{ name, count }] : []));
      const numbers = await Promise.all(counted.map(({ count }) => count(house.database.db, at)));
      return Object.fromEntries(counted.map(({ name }, i) => [name, numbers[i] ?? 0]));
    });
  },
  { name: 'stavok-rail-routes', dependencies: ['stavok-authentication'] },
);
