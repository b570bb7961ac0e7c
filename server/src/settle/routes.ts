// The routes of settle: taxes, other costs, and what an order comes to.
import fp from 'fastify-plugin';
import * as contracts from '#api/settle.ts';
import { serve, type House } from '../platform/http.ts';
import { chargesOf } from './of-order.ts';
import { addCostTo, changeCostOf, removeCostOf } from './others.ts';
import { takeCardFor } from './payments.ts';
import { addTaxTo, changeTaxOf, taxesOf } from './taxes.ts';

export const settleRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const done = { done: true as const };
    serve(app, house, contracts.readTaxes, async () => ({
      items: (await taxesOf(database.db)).map((t) => ({ ...t, isStandard: t.isStandard === true })),
    }));
    serve(app, house, contracts.addTax, ({ body, write }) => addTaxTo(write, body));
    serve(app, house, contracts.changeTax, async ({ params, body, write }) => {
      await changeTaxOf(write, params.id, body);
      return done;
    });
    serve(app, house, contracts.addCost, ({ params, body, write, who, now }) =>
      addCostTo(database, write, who, params.id, body, now),
    );
    serve(app, house, contracts.changeCost, async ({ params, body, write, who }) => {
      await changeCostOf(write, who, params.id, body);
      return done;
    });
    serve(app, house, contracts.removeCost, async ({ params, write, who }) => {
      await removeCostOf(write, who, params.id);
      return done;
    });
    serve(app, house, contracts.takeCard, async ({ params, body, write, who, now }) => {
      const { state, receipt } = await takeCardFor(house, write, who, params.id, body, now);
      return { state, receipt };
    });
    serve(app, house, contracts.readCharges, ({ params, who }) => chargesOf(database.db, params.id, who.role));
  },
  { name: 'stavok-settle-routes', dependencies: ['stavok-authentication'] },
);
