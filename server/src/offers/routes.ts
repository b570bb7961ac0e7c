// The routes of offers: for the office.
import fp from 'fastify-plugin';
import * as contracts from '#api/offers.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { acceptOfferOf } from './accept.ts';
import { addOfferOf, changeOfferOf, declineOfferOf, sendOfferOf, withdrawOfferOf } from './acts.ts';
import { drawOffer } from './drawing.ts';
import { proposalFor } from './propose.ts';
import { listOffersOf, readOfferOf, type When } from './queries.ts';

const done = { done: true as const };

export const offerRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    const at = ({ now, who }: { now: When['now']; who: { zone: Parameters<typeof localDateAt>[0] } }): When => ({
      now,
      today: localDateAt(who.zone, now),
    });
    serve(app, house, contracts.proposeOffer, ({ query, ...asking }) => proposalFor(db, query, at(asking).today));
    serve(app, house, contracts.listOffers, ({ query, ...asking }) => listOffersOf(db, query, at(asking)));
    serve(app, house, contracts.readOffer, ({ params, ...asking }) => readOfferOf(db, params.id, at(asking)));
    serve(app, house, contracts.addOffer, ({ body, write, ...asking }) =>
      addOfferOf(write, db, asking.who, body, at(asking)),
    );
    serve(app, house, contracts.changeOffer, async ({ params, body, write, ...asking }) => {
      await changeOfferOf(write, params.id, body, at(asking));
      return done;
    });
    serve(app, house, contracts.sendOffer, async ({ params, body, write, ...asking }) => {
      await sendOfferOf(database, write, asking.who, params.id, body, at(asking));
      house.ring();
      return done;
    });
    serve(app, house, contracts.acceptOffer, ({ params, body, ...asking }) =>
      acceptOfferOf(database, asking.who, params.id, body, at(asking)),
    );
    serve(app, house, contracts.declineOffer, async ({ params, body, write, ...asking }) => {
      await declineOfferOf(write, params.id, body.reason, at(asking));
      return done;
    });
    serve(app, house, contracts.withdrawOffer, async ({ params, body, write, ...asking }) => {
      await withdrawOfferOf(write, params.id, body.reason, at(asking));
      return done;
    });
    serve(app, house, contracts.offerPdf, async ({ params, reply, ...asking }): Promise<never> => {
      const page = await readOfferOf(db, params.id, at(asking));
      return reply
        .type('application/pdf')
        .header('content-disposition', `inline; filename="${contracts.offerNumber(page.id)}.pdf"`)
        .send(await drawOffer(page)) as never;
    });
  },
  { name: 'stavok-offer-routes', dependencies: ['stavok-authentication'] },
);
