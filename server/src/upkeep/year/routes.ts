// The routes of the year plan and of calendar feeds.
import type { FastifyInstance } from 'fastify';
import * as contracts from '#api/year.ts';
import { localDateAt, type Instant } from '#core/time/index.ts';
import { serve, type House, type Person } from '../../platform/http.ts';
import type { Asked } from '#api/contract.ts';
import { onThread } from '../pool.ts';
import { scopeOf } from '../scope.ts';
import { addFeed, listFeeds, revokeFeed } from './feeds.ts';

type YearQuery = Asked<typeof contracts.readYear>['query'];

export function yearRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  const url = house.config.databaseUrl;
  const askOf = (query: YearQuery, who: Person, now: Instant) => ({
    ...{ url, year: query.year, scope: scopeOf(query) },
    today: localDateAt(who.zone, now),
  });
  serve(app, house, contracts.readYear, ({ query, who, now }) => onThread('year', askOf(query, who, now)));
  serve(app, house, contracts.yearPdf, async ({ query, who, now, reply }): Promise<never> => {
    const drawn = await onThread('yearDocument', askOf(query, who, now));
    return reply
      .type('application/pdf')
      .header('content-disposition', `inline; filename="upkeep-${query.year}.pdf"`)
      .send(Buffer.from(drawn)) as never;
  });
  serve(app, house, contracts.listFeeds, async () => ({ items: await listFeeds(db) }));
  serve(app, house, contracts.addFeed, ({ body, who, write, now }) => addFeed(db, write, body, who, now));
  serve(app, house, contracts.revokeFeed, async ({ params, write, now }) => {
    await revokeFeed(write, params.id, now);
    return { done: true as const };
  });
  serve(app, house, contracts.readFeed, async ({ params, now, reply }): Promise<never> => {
    const calendar = await onThread('feed', { url, secret: params.secret, now });
    return reply
      .type('text/calendar; charset=utf-8')
      .header('cache-control', 'private, max-age=900')
      .send(calendar) as never;
  });
}
