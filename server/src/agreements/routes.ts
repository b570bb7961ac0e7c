// The agreements' routes: everybody signed in may look; coordinators, managers and administrators write.
import fp from 'fastify-plugin';
import * as contracts from '#api/agreements.ts';
import { agreementNumber } from '#api/shapes.ts';
import { localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import * as commands from './commands.ts';
import { listAgreements, readAgreement } from './queries.ts';

const WRITERS = ['coordinator', 'manager', 'administrator'] as const;

export const agreementRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    serve(app, house, contracts.listAgreements, 'signed in', ({ query, now }) =>
      listAgreements(database.db, query, query.after, query.limit ?? 100, now),
    );
    serve(app, house, contracts.agreementsCsv, 'signed in', ({ query, now, who, reply }): Promise<never> => {
      async function* rows() {
        for await (const page of pagesOf((after) => listAgreements(database.db, query, after, 200, now)))
          yield page.map((a) => [
            agreementNumber(a.id),
            a.name,
            a.customer.name,
            a.stage,
            a.from,
            a.to,
            a.noticeBy,
            a.lines,
            a.schedules,
          ]);
      }
      const head = ['number', 'name', 'customer', 'stage', 'from', 'to', 'notice by', 'coverage lines', 'schedules'];
      return Promise.resolve(sendCsv(reply, `agreements-${localDateAt(who.zone, now)}.csv`, head, rows()));
    });
    serve(app, house, contracts.readAgreement, 'signed in', ({ params, now, who }) =>
      readAgreement(database.db, params.id, now, who.zone),
    );
    serve(app, house, contracts.writeAgreement, WRITERS, async ({ body, who, now }) => ({
      id: await commands.writeAgreement(database, body, who, now),
    }));
    serve(app, house, contracts.changeAgreement, WRITERS, async ({ params, body, who, now }) => ({
      version: await commands.changeHeader(database, params.id, body, who, now),
    }));
    serve(app, house, contracts.addCoverage, WRITERS, async ({ params, body, who, now }) => ({
      added: await commands.addCoverageLines(database, params.id, body, who, now),
    }));
    serve(app, house, contracts.removeCoverage, WRITERS, async ({ params, who, now }) => {
      await commands.removeCoverageLine(database, params.id, params.line, who, now);
      return { done: true as const };
    });
    serve(app, house, contracts.addSchedules, WRITERS, async ({ params, body, who, now }) => ({
      added: await commands.addSchedules(database, params.id, body, who, now),
    }));
    serve(app, house, contracts.removeSchedule, WRITERS, async ({ params, who, now }) => {
      await commands.removeSchedule(database, params.id, params.schedule, who, now);
      return { done: true as const };
    });
    serve(app, house, contracts.putInForce, WRITERS, async ({ params, body, who, now }) => ({
      version: await commands.setInForce(database, params.id, body.version, who, now),
    }));
    serve(app, house, contracts.moveStage, WRITERS, async ({ params, body, who, now }) => ({
      version: await commands.moveStage(database, params.id, body, who, now),
    }));
  },
  { name: 'stavok-agreement-routes', dependencies: ['stavok-authentication'] },
);
