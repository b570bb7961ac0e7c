// The routes of stock: stores, what lies in them, and what is done to it.
import type { FastifyInstance } from 'fastify';
import fp from 'fastify-plugin';
import * as counts from '#api/counts.ts';
import * as needs from '#api/needs.ts';
import * as picking from '#api/picking.ts';
import * as returns from '#api/returns.ts';
import * as contracts from '#api/stock.ts';
import * as vans from '#api/vans.ts';
import { serve, type House } from '../platform/http.ts';
import { receive, scrap, transfer } from './moving.ts';
import { approveCountOf } from './approving.ts';
import { begin, callOffCountOf, countOf, countsShown, countShown } from './counts.ts';
import { goAnywayOf, holdForNeedOf, needsShown, setNeedOf, takeInsteadOf } from './order-needs.ts';
import { answerReturnOf, returnsShown, sendBackTo, takeOld } from './returns.ts';
import { keepSettings, storeSettings } from './settings.ts';
import { bringBackTo, pickFrom, pickingOf, toBringTo } from './picking.ts';
import { movesOf, setShelfOf, shelvesOf, stockOfPart } from './shelves.ts';
import { addStoreOf, changeStoreOf, listStoresOf } from './stores.ts';
import { declineAsk, openAsks, sendAsk } from './van-asks.ts';

function vanRoutes(app: FastifyInstance, house: House): void {
  const { database } = house;
  const done = { done: true as const };
  serve(app, house, vans.listVanAsks, () => openAsks(database.db));
  serve(app, house, vans.sendVanAsk, async ({ params, body, write, who, now }) => {
    await sendAsk(database, write, who, params.id, body, now);
    return done;
  });
  serve(app, house, vans.declineVanAsk, async ({ params, body, write, now }) => {
    await declineAsk(write, params.id, body.text, now);
    return done;
  });
}

export const stockRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    const done = { done: true as const };
    vanRoutes(app, house);
    serve(app, house, contracts.listStores, ({ who }) => listStoresOf(db, who.role));
    serve(app, house, contracts.addStore, ({ body, write }) => addStoreOf(write, body));
    serve(app, house, contracts.changeStore, async ({ params, body, write }) => {
      await changeStoreOf(write, params.id, body);
      return done;
    });
    serve(app, house, contracts.readShelves, ({ params, query, who }) => shelvesOf(db, params.id, query, who.role));
    serve(app, house, contracts.setShelf, async ({ params, body, write }) => {
      await setShelfOf(write, params.id, params.part, body);
      return done;
    });
    serve(app, house, contracts.readPartStock, ({ params, who }) => stockOfPart(db, params.id, who.role));
    serve(app, house, contracts.readMoves, ({ params, query, who }) => movesOf(db, params.id, query, who.role));
    serve(app, house, contracts.receiveStock, ({ body, write, who, now }) => receive(database, write, who, body, now));
    serve(app, house, contracts.transferStock, ({ body, write, who, now }) =>
      transfer(database, write, who, body, now),
    );
    serve(app, house, contracts.scrapStock, ({ body, write, who, now }) => scrap(database, write, who, body, now));
    serve(app, house, returns.takeOldPart, ({ body, write, who, now }) => takeOld(database, write, who, body, now));
    serve(app, house, returns.listReturns, ({ query, who }) => returnsShown(db, query, who.role));
    serve(app, house, returns.sendBack, ({ body, write, who, now }) => sendBackTo(database, write, who, body, now));
    serve(app, house, returns.answerReturn, async ({ params, body, write, who, now }) => {
      await answerReturnOf(database, write, who, params.id, body, now);
      return done;
    });
    serve(app, house, contracts.readStoreSettings, () => storeSettings(db));
    serve(app, house, contracts.keepStoreSettings, async ({ body, write }) => {
      await keepSettings(write, body);
      return done;
    });
    serve(app, house, counts.listCounts, ({ query }) => countsShown(db, query));
    serve(app, house, counts.beginCount, ({ params, body, write, who, now }) =>
      begin(database, write, who, params.id, body, now),
    );
    serve(app, house, counts.readCount, ({ params, who }) => countShown(db, params.id, who.role));
    serve(app, house, counts.countPart, async ({ params, body, write, who, now }) => {
      await countOf(write, who, params, body, now);
      return done;
    });
    serve(app, house, counts.approveCount, async ({ params, body, write, who, now }) => {
      await approveCountOf(database, write, who, params.id, body, now);
      return done;
    });
    serve(app, house, counts.callOffCount, async ({ params, body, write, who, now }) => {
      await callOffCountOf(write, who, params.id, body.version, now);
      return done;
    });
    serve(app, house, picking.readPicking, ({ params, query }) => pickingOf(db, params.id, query.day));
    serve(app, house, picking.pick, ({ params, body, write, who, now }) =>
      pickFrom(database, write, who, params.id, body, now),
    );
    serve(app, house, picking.readToBring, ({ params }) => toBringTo(db, params.id));
    serve(app, house, picking.bringBack, ({ params, body, write, who, now }) =>
      bringBackTo(database, write, who, params.id, body, now),
    );
    serve(app, house, needs.readNeeds, ({ params }) => needsShown(db, params.id));
    serve(app, house, needs.setNeed, async ({ params, body, write, who, now }) => {
      await setNeedOf(database, write, who, params.id, body, now);
      return done;
    });
    serve(app, house, needs.holdForNeed, async ({ params, body, write, who, now }) => {
      await holdForNeedOf(database, write, who, params, body, now);
      return done;
    });
    serve(app, house, needs.takeInstead, async ({ params, body, write, who, now }) => {
      await takeInsteadOf(database, write, who, params.id, body, now);
      return done;
    });
    serve(app, house, needs.goAnyway, async ({ params, body, write, who, now }) => {
      await goAnywayOf(database, write, who, params.id, body, now);
      return done;
    });
  },
  { name: 'stavok-stock-routes', dependencies: ['stavok-authentication'] },
);
