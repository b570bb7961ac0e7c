// The routes of a whole place’s upkeep.
import type { FastifyInstance } from 'fastify';
import * as contracts from '#api/facility.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { readFacility, setFacility } from './facility.ts';
import { onThread } from './pool.ts';

export function facilityRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  const url = house.config.databaseUrl;
  serve(app, house, contracts.readFacility, ({ query, who, now }) =>
    readFacility(db, query.place, localDateAt(who.zone, now)),
  );
  serve(app, house, contracts.previewFacility, ({ body, who, now }) =>
    onThread('facility', { url, ask: body, today: localDateAt(who.zone, now) }),
  );
  serve(app, house, contracts.setFacility, async ({ body, write, who, now }) => ({
    added: await setFacility(write, body, localDateAt(who.zone, now)),
  }));
}
