// The routes of labour: rates for the office, time for oneself and by the office for others.
import fp from 'fastify-plugin';
import { readMonth as monthContract } from '#api/labour-month.ts';
import * as contracts from '#api/labour.ts';
import { asId, type AssetId } from '#core/ids.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { addCraft, addRateCard, changeCraft, changeRateCard, readRates } from './cards.ts';
import { addEntry, changeEntry, counterEntry, removeEntry } from './entries.ts';
import { indicationFor } from './indication.ts';
import { runningOf, startOn, stopRunning } from './running.ts';
import { findLines } from './lines.ts';
import { readMonth } from './month.ts';
import { actOnWeek, listSheets, readWeek } from './sheets.ts';

export const labourRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    const done = { done: true as const };
    serve(app, house, contracts.readRates, () => readRates(db));
    serve(app, house, contracts.addCraft, ({ body, write }) => addCraft(write, body.name));
    serve(app, house, contracts.changeCraft, async ({ params, body, write }) => {
      await changeCraft(write, params.id, body);
      return done;
    });
    serve(app, house, contracts.addRateCard, ({ body, write }) => addRateCard(write, body));
    serve(app, house, contracts.changeRateCard, async ({ params, body, write }) => {
      await changeRateCard(write, params.id, body);
      return done;
    });
    serve(app, house, contracts.addEntry, ({ body, write, who, now }) => addEntry(database, write, who, body, now));
    serve(app, house, contracts.changeEntry, async ({ params, body, write, who, now }) => {
      await changeEntry(write, who, params.id, body, now);
      return done;
    });
    serve(app, house, contracts.removeEntry, async ({ params, write, who }) => {
      await removeEntry(write, who, params.id);
      return done;
    });
    serve(app, house, contracts.counterEntry, ({ params, body, write, who, now }) =>
      counterEntry(write, who, params.id, body.reason, now),
    );
    serve(app, house, contracts.readWeek, ({ params, who, now }) => readWeek(db, who, params.person, params.week, now));
    serve(app, house, contracts.actOnSheet, ({ params, body, write, who, now }) =>
      actOnWeek(write, who, params, body, now),
    );
    serve(app, house, contracts.findLines, ({ query }) => findLines(db, query.q ?? '', query.person));
    serve(app, house, contracts.listSheets, ({ query }) => listSheets(db, query.week));
    serve(app, house, monthContract, ({ query }) => readMonth(db, query.month));
    serve(app, house, contracts.readRunning, async ({ who }) => ({ running: await runningOf(db, who) }));
    serve(app, house, contracts.startTime, async ({ body, write, who, now }) => {
      await startOn(write, who, body, now);
      return done;
    });
    serve(app, house, contracts.stopTime, ({ body, write, who, now }) => stopRunning(database, write, who, body, now));
    serve(app, house, contracts.readIndication, ({ query, who, now }) =>
      indicationFor(
        db,
        query.assets.split(',').map((x) => asId<AssetId>(Number(x))),
        localDateAt(who.zone, now),
      ),
    );
  },
  { name: 'stavok-labour-routes', dependencies: ['stavok-authentication'] },
);
