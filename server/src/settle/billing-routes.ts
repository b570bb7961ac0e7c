// The routes of billing: orders looked through and approved, how customers are billed, runs and documents.
import fp from 'fastify-plugin';
import type { FastifyInstance } from 'fastify';
import * as contracts from '#api/billing.ts';
import * as documents from '#api/documents.ts';
import { readContent } from '../platform/content.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { onThreads } from '../platform/threads.ts';
import { refusal } from '#core/refusal.ts';
import { approveIn, approveSecondIn, correctIn, removeCorrectionIn, withdrawIn } from './approving.ts';
import { billingOf, shownSettings } from './billing-settings.ts';
import { changeBilling, changeSettings } from './change-settings.ts';
import { creditOf, discardDraft, issueOne } from './documents.ts';
import { readLookOf, readLooks } from './look-pages.ts';
import { paperOf } from './papers.ts';
import type * as thread from './thread.ts';
import { keptPaper, readDocuments, readOne } from './reading.ts';
import { beginBilling, runsOf } from './runs.ts';
import { readToday } from './today.ts';
import { ublOf } from './ubl.ts';

const done = { done: true as const };

const onThread = onThreads<Pick<typeof thread, 'preview'>>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'That is too much to look at at once; bill fewer.'),
);

function orderRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, contracts.readSettleToday, () => readToday(db));
  serve(app, house, contracts.listLooks, ({ query, who }) => readLooks(db, who.role, query));
  serve(app, house, contracts.readLook, ({ params, who }) => readLookOf(db, who.role, params.id));
  serve(app, house, contracts.approveOrders, ({ body, write, who, now }) =>
    write((tx, told) => approveIn(tx, told, who, body.orders, now)),
  );
  serve(app, house, contracts.approveSecond, async ({ params, write, who, now }) => {
    await approveSecondIn(write, who, params.id, now);
    return done;
  });
  serve(app, house, contracts.withdrawApproval, async ({ params, write, who, now }) => {
    await withdrawIn(write, params.id, who, now);
    return done;
  });
  serve(app, house, contracts.addCorrection, ({ params, body, write, who, now }) =>
    correctIn(write, who, params.id, body, now),
  );
  serve(app, house, contracts.removeCorrection, async ({ params, write }) => {
    await removeCorrectionIn(write, params.id, params.correction);
    return done;
  });
}

function settingRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, contracts.readSettleSettings, () => shownSettings(db));
  serve(app, house, contracts.changeSettleSettings, async ({ body, write }) => {
    await changeSettings(write, body);
    return done;
  });
  serve(app, house, contracts.readCustomerBilling, async ({ params }) => (await billingOf(db, [params.id]))(params.id));
  serve(app, house, contracts.changeCustomerBilling, async ({ params, body, write }) => {
    await changeBilling(write, params.id, body);
    return done;
  });
}

function documentRoutes(app: FastifyInstance, house: House): void {
  const { db } = house.database;
  serve(app, house, documents.listDocuments, ({ query }) => readDocuments(db, query));
  serve(app, house, documents.readDocument, ({ params }) => readOne(db, params.id));
  serve(app, house, documents.issueDocument, async ({ params, body, write, who, now }) => {
    await issueOne(write, params.id, body.version, who, now);
    return done;
  });
  serve(app, house, documents.discardDocument, async ({ params, body, write, who, now }) => {
    await discardDraft(write, params.id, body.version, who, now);
    return done;
  });
  serve(app, house, documents.creditDocument, ({ params, body, write, who, now }) =>
    creditOf(write, db, params.id, body, who, now),
  );
  serve(app, house, documents.documentFile, async ({ params, query, reply }): Promise<never> => {
    const page = await readOne(db, params.id);
    const name = page.number ?? `draft-${page.id}`;
    if (query.as === 'ubl') {
      if (page.state === 'draft') refuse('wrong-stage', 'A draft has no file yet; issue it first.', 'as');
      return reply
        .type('application/xml; charset=utf-8')
        .header('content-disposition', `attachment; filename="${name}.xml"`)
        .send(ublOf(page)) as never;
    }
    const kept = await keptPaper(db, params.id);
    return reply
      .type('application/pdf')
      .header('content-disposition', `inline; filename="${name}.pdf"`)
      .send(kept === null ? await paperOf(page) : await readContent(db, kept)) as never;
  });
}

export const billingRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    settingRoutes(app, house);
    orderRoutes(app, house);
    serve(app, house, documents.previewBilling, ({ body, now }) =>
      onThread('preview', { url: house.config.databaseUrl, ask: body, now }),
    );
    serve(app, house, documents.startBilling, async ({ body, write, who, now }) => {
      const run = await beginBilling(write, house.database.db, body, who, now);
      house.ring();
      return run;
    });
    serve(app, house, documents.listRuns, async () => ({ items: await runsOf(house.database.db) }));
    documentRoutes(app, house);
  },
  { name: 'stavok-billing-routes', dependencies: ['stavok-authentication'] },
);
