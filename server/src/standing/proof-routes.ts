// The routes by which a figure is proven: months that are closed, clocks line by line and act by act, corrections, and the statement of
// a customer.
import fp from 'fastify-plugin';
import { correctOrder, previewCorrection, readClockHistory } from '#api/corrections.ts';
import { readDerivations } from '#api/derivations.ts';
import * as contracts from '#api/standing.ts';
import { closeStandingMonth, readAdjustments, readStandingMonths } from '#api/standing-months.ts';
import { refusal } from '#core/refusal.ts';
import { sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { sendJsonFile } from '../platform/json-file.ts';
import { onThreads } from '../platform/threads.ts';
import { closeMonth } from './closing.ts';
import { clockHistoryOf, correct, previewCorrectionOf } from './corrections.ts';
import { derivationsOf } from './derivations.ts';
import { adjustmentsOf, standingMonths } from './months.ts';
import { periodOf } from './period.ts';
import { STATEMENT_HEAD, statementPieces, statementRows } from './statement.ts';
import type * as thread from './thread.ts';

const onThread = onThreads<Pick<typeof thread, 'statement'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'That is too much to be drawn at once; choose a shorter period.', 'to'),
);

export const proofRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, readStandingMonths, ({ now }) => standingMonths(db, now));
    serve(app, house, readAdjustments, (asking) => adjustmentsOf(db, periodOf(asking)));
    serve(app, house, closeStandingMonth, async ({ body, who, now, write }) => {
      await closeMonth(write, body, who.id, now);
      return { done: true as const };
    });

    serve(app, house, contracts.statementPaper, async (asking): Promise<never> => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const ask = { url: house.config.databaseUrl, customer: query.customer, period };
      const paper = Buffer.from(await onThread('statement', ask));
      const name = `statement-${query.customer}-${period.from}-${period.to}.pdf`;
      return reply
        .type('application/pdf')
        .header('content-disposition', `inline; filename="${name}"`)
        .send(paper) as never;
    });
    serve(app, house, contracts.statementCsv, (asking): Promise<never> => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const name = `statement-${query.customer}-${period.from}-${period.to}.csv`;
      return Promise.resolve(sendCsv(reply, name, STATEMENT_HEAD, statementRows(db, query.customer, period)));
    });
    serve(app, house, contracts.statementData, (asking) => {
      const { query, reply } = asking;
      const period = periodOf(asking);
      const name = `statement-${query.customer}-${period.from}-${period.to}.json`;
      return sendJsonFile(reply, name, statementPieces(db, query.customer, period));
    });
    serve(app, house, readClockHistory, ({ params, now }) => clockHistoryOf(db, params.id, now));
    serve(app, house, previewCorrection, ({ params, body, who, now }) =>
      previewCorrectionOf(house.database, who, params.id, body, now),
    );
    serve(app, house, correctOrder, async ({ params, body, who, now, write }) => {
      await correct(write, who, params.id, body, now);
      return { done: true as const };
    });
    serve(app, house, readDerivations, ({ params, query, now }) => derivationsOf(db, params.id, query, now));
  },
  { name: 'stavok-proof-routes', dependencies: ['stavok-authentication'] },
);
