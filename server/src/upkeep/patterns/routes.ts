// The routes of visit patterns.
import type { FastifyInstance } from 'fastify';
import * as contracts from '#api/patterns.ts';
import { serve, type House } from '../../platform/http.ts';
import { followersOf, followPattern } from './following.ts';
import { addPattern, applyPattern, candidatesOf, changePattern, listPatterns, removePattern } from './patterns.ts';

const SHOWN = 100;

export function patternRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, contracts.listPatterns, async () => ({ items: await listPatterns(db) }));
  serve(app, house, contracts.addPattern, ({ body, write }) => addPattern(write, body));
  serve(app, house, contracts.changePattern, ({ params, body, write }) => changePattern(write, params.id, body));
  serve(app, house, contracts.removePattern, async ({ params, write }) => {
    await removePattern(write, params.id);
    return { done: true as const };
  });
  serve(app, house, contracts.readCandidates, async ({ params, query }) => ({
    items: await candidatesOf(db, params.id, query.type),
  }));
  serve(app, house, contracts.applyPattern, async ({ params, body, write, who, now }) => ({
    added: await applyPattern(write, params.id, body.agreementIds, who, now),
  }));
  serve(app, house, contracts.readFollowers, ({ params, query }) =>
    followersOf(db, params.id, { from: query.from, after: Number(query.after ?? 0) || 0, limit: query.limit ?? SHOWN }),
  );
  serve(app, house, contracts.followPattern, async ({ params, body, write, who, now }) => ({
    followed: await followPattern(write, params.id, body, who, now),
  }));
}
