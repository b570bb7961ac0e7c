// The routes of stock: stores, what lies in them, and what is done to it.
import fp from 'fastify-plugin';
import * as contracts from '#api/stock.ts';
import { serve, type House } from '../platform/http.ts';
import { receive, scrap, transfer } from './moving.ts';
import { movesOf, setShelfOf, shelvesOf, stockOfPart } from './shelves.ts';
import { addStoreOf, changeStoreOf, listStoresOf } from './stores.ts';

export const stockRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    const done = { done: true as const };
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
  },
  { name: 'stavok-stock-routes', dependencies: ['stavok-authentication'] },
);
