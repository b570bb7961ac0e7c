// The signals' routes: readings in (gateways, coordinators), alerts and devices out (everybody signed in).
import fp from 'fastify-plugin';
import { listOrderAlerts, readAlertCurve } from '#api/order-alerts.ts';
import * as contracts from '#api/signals.ts';
import { serve, type House } from '../platform/http.ts';
import type { LocationId } from '#core/ids.ts';
import { journalCounts, journalPage } from './alert-rows.ts';
import { devicesPage, readingsOf } from './queries.ts';
import { alertsOfOrder, curveOfAlert } from './evidence.ts';
import { alertFigures } from './figures.ts';
import { machinesAt, watchedPlaces } from './glance.ts';
import { formOf, readBytes } from './packs.ts';
import { takePack } from './take.ts';
import { activeAlerts } from './today.ts';

/** A span that shows what led to now. */
const USUAL_DAYS = 3;
/** So many of what was set aside are named to whoever sent it. */
const NAMED = 20;

export const signalRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;

    serve(app, house, contracts.postReadings, async ({ body, query, now }) => {
      const pack = Buffer.isBuffer(body) ? readBytes(body, formOf(body), query.device ?? null) : body;
      const { setAside, ...taken } = await takePack(database, pack, now);
      return { ...taken, setAside: setAside.slice(0, NAMED).map((s) => ({ ...s, field: s.field ?? null })) };
    });

    serve(app, house, contracts.readActiveAlerts, async ({ now }) => ({ now, items: await activeAlerts(db) }));
    serve(app, house, contracts.listDevices, async ({ query, now }) => ({ now, ...(await devicesPage(db, query)) }));
    serve(app, house, contracts.listAlerts, async ({ query, now }) => {
      const [page, counts] = await Promise.all([journalPage(db, query, now), journalCounts(db)]);
      return { ...page, counts, now };
    });
    serve(app, house, contracts.readAlertFigures, ({ query, who, now }) => alertFigures(db, query.days, now, who.zone));
    serve(app, house, contracts.readWatch, async ({ query, now }) => {
      const places = await watchedPlaces(db, now);
      const place = places.find((p) => p.id === (query.place ?? places[0]?.id)) ?? null;
      const machines = place ? await machinesAt(db, place.id as LocationId, now) : [];
      return { now, places, place: place && { id: place.id, name: place.name, customer: place.customer }, machines };
    });
    serve(app, house, listOrderAlerts, async ({ params }) => ({ items: await alertsOfOrder(db, params.id) }));
    serve(app, house, readAlertCurve, ({ params, now }) => curveOfAlert(db, params.id, now));
    serve(app, house, contracts.readReadings, ({ params, query, now }) =>
      readingsOf(db, params.id, query.channel, query.days ?? USUAL_DAYS, now),
    );
  },
  { name: 'stavok-signal-routes', dependencies: ['stavok-authentication'] },
);
