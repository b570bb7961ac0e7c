// Questions about cover: one machine at any instant, and the whole register on a day. Everybody signed in may ask.
import fp from 'fastify-plugin';
import type { Asked } from '#api/contract.ts';
import * as contracts from '#api/entitlement.ts';
import { calendarBook } from '../calendars/index.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { askMany } from './ask-many.ts';
import { coversOf } from './covers.ts';
import { sendCsv } from '../platform/csv.ts';
import { answerRows, askAll } from './questions.ts';
import { takeDecision, verdictOutOf } from './verdicts.ts';

const WARRANTY_DAYS = 60;

const ANSWER_HEAD = ['tag', 'class', 'model', 'customer', 'place', 'answer'];

export const entitlementRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.askCover, async ({ query, who }) => {
      const subject = (await coversOf(db, [query.asset])).get(query.asset);
      if (!subject) refuse('not-found', 'That asset does not exist.', 'asset');
      return verdictOutOf(
        await takeDecision(db, await calendarBook(db), subject, {
          at: query.at,
          kind: query.kind,
          cause: query.cause,
          priority: query.priority ?? 1,
          part: query.part ?? null,
          fallbackZone: who.zone,
        }),
      );
    });
    serve(app, house, contracts.askMany, ({ query, who }) => {
      const { location, customer, at, kind, cause, priority, part } = query;
      return askMany(
        db,
        { ...(location && { location }), ...(customer && { customer }) },
        { at, kind, cause, priority: priority ?? 1, part: part ?? null, fallbackZone: who.zone },
      );
    });
    const asked = ({ question, on, days, customer }: Asked<typeof contracts.askAllCsv>['query']) => ({
      ...{ question, on },
      days: days ?? WARRANTY_DAYS,
      customer: customer ?? null,
    });
    serve(app, house, contracts.askAll, ({ query }) => askAll(db, { ...asked(query), offset: query.offset ?? 0 }));
    serve(app, house, contracts.askAllCsv, ({ query, reply }): Promise<never> =>
      sendCsv(reply, `cover-${query.on}.csv`, ANSWER_HEAD, answerRows(db, asked(query))),
    );
  },
  { name: 'stavok-entitlement-routes', dependencies: ['stavok-authentication'] },
);
