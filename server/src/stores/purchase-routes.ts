// The routes of purchasing: suppliers, what is to be bought, purchase orders and what comes on them.
import fp from 'fastify-plugin';
import * as contracts from '#api/purchases.ts';
import * as suppliers from '#api/suppliers.ts';
import { serve, type House } from '../platform/http.ts';
import { leaveJob } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { receiveOn } from './deliveries.ts';
import { drawPurchase, LOOKING_FOR_LOW } from './jobs.ts';
import { lowShown } from './low.ts';
import { buyAll } from './buying.ts';
import { approve, callOff, closeShortOf, setInvoicedOf, setLineOf } from './purchases.ts';
import { purchasesShown, purchaseShown } from './purchase-read.ts';
import { sendOf } from './sending.ts';
import {
  addSupplierOf,
  changeSupplierOf,
  keepOfferedOf,
  offeredOf,
  removeOfferedOf,
  suppliersFound,
} from './suppliers.ts';
import { toBuyShown } from './to-buy.ts';

const done = { done: true as const };

export const purchaseRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    serve(app, house, suppliers.listSuppliers, ({ query }) => suppliersFound(db, query));
    serve(app, house, suppliers.addSupplier, ({ body, write }) => addSupplierOf(write, body));
    serve(app, house, suppliers.changeSupplier, async ({ params, body, write }) => {
      await changeSupplierOf(write, params.id, body);
      return done;
    });
    serve(app, house, suppliers.readOffered, ({ params, who }) => offeredOf(db, params.id, who.role));
    serve(app, house, suppliers.keepOffered, async ({ params, body, write }) => {
      await keepOfferedOf(write, params, body);
      return done;
    });
    serve(app, house, suppliers.removeOffered, async ({ params, write }) => {
      await removeOfferedOf(write, params);
      return done;
    });
    serve(app, house, contracts.readToBuy, ({ query, who, now }) => toBuyShown(db, query, who, now));
    serve(app, house, contracts.readLow, ({ query, who }) => lowShown(db, query, who.role));
    serve(app, house, contracts.lookForLow, async () => {
      await database.transact(async (tx) => {
        await leaveJob(tx, LOOKING_FOR_LOW, {});
        await announce(tx, contracts.lookForLow);
      });
      return done;
    });
    serve(app, house, contracts.buy, ({ body, write, who, now }) => buyAll(database, write, who, body, now));
    serve(app, house, contracts.listPurchases, ({ query, who, now }) => purchasesShown(db, query, who, now));
    serve(app, house, contracts.readPurchase, ({ params, who }) => purchaseShown(db, params.id, who.role));
    serve(app, house, contracts.purchasePaper, async ({ params, who, reply }): Promise<never> => {
      const paper = await drawPurchase(await purchaseShown(db, params.id, who.role));
      return reply
        .type('application/pdf')
        .header('content-disposition', `inline; filename="${contracts.purchaseNumber(params.id)}.pdf"`)
        .send(paper) as never;
    });
    serve(app, house, contracts.setPurchaseLine, async ({ params, body, write }) => {
      await setLineOf(write, params, body);
      return done;
    });
    serve(app, house, contracts.approvePurchase, async ({ params, body, write, who, now }) => {
      await approve(write, who, params.id, body.version, now);
      return done;
    });
    serve(app, house, contracts.sendPurchase, async ({ params, body, write, who, now }) => {
      await sendOf(database, write, who, params.id, body, now);
      return done;
    });
    serve(app, house, contracts.callOffPurchase, async ({ params, body, write }) => {
      await callOff(write, params.id, body);
      return done;
    });
    serve(app, house, contracts.closeShort, async ({ params, body, write }) => {
      await closeShortOf(write, params, body);
      return done;
    });
    serve(app, house, contracts.setInvoiced, async ({ params, body, write }) => {
      await setInvoicedOf(write, params, body);
      return done;
    });
    serve(app, house, contracts.receivePurchase, ({ params, body, write, who, now }) =>
      receiveOn(database, write, who, params.id, body, now),
    );
  },
  { name: 'stavok-purchase-routes', dependencies: ['stavok-authentication'] },
);
