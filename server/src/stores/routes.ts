// The routes of stores: the parts list, and what was used on orders.
import fp from 'fastify-plugin';
import * as contracts from '#api/stores.ts';
import { PARTS_HEAD } from '#core/stores/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { addPartTo, changePartOf, importPartsFrom, pageOfParts, partsFound, previewOfParts } from './parts.ts';
import { changeUseOf, removeUseOf, useOn, usePlannedOn } from './used.ts';

const CSV_PAGE = 500;
const amount = (minor: number | null): string => ((minor ?? 0) / 100).toFixed(2);
const yes = (is: boolean): string => (is ? 'yes' : 'no');

export const storesRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    const done = { done: true as const };
    serve(app, house, contracts.listParts, ({ query, who }) => partsFound(db, query, who.role));
    serve(app, house, contracts.partsCsv, ({ query, who, now, reply }): Promise<never> => {
      async function* rows() {
        for await (const page of pagesOf((after) => pageOfParts(db, query, after, CSV_PAGE, who.role)))
          yield page.map((p) => [
            ...[p.number, p.name, p.unit, amount(p.listPrice), amount(p.cost), yes(p.consumable), yes(p.serialTracked)],
            p.tax,
          ]);
      }
      return sendCsv(reply, `parts-${localDateAt(who.zone, now)}.csv`, PARTS_HEAD, rows());
    });
    serve(app, house, contracts.addPart, ({ body, write }) => addPartTo(write, body));
    serve(app, house, contracts.changePart, async ({ params, body, write }) => {
      await changePartOf(write, params.id, body);
      return done;
    });
    serve(app, house, contracts.previewParts, ({ body }) => previewOfParts(db, body.text));
    serve(app, house, contracts.importParts, ({ body, write }) => importPartsFrom(write, body.text));
    serve(app, house, contracts.usePart, ({ params, body, write, who, now }) =>
      useOn(database, write, who, params.id, body, now),
    );
    serve(app, house, contracts.usePlanned, ({ params, write, who, now }) =>
      usePlannedOn(database, write, who, params.id, now),
    );
    serve(app, house, contracts.changeUse, async ({ params, body, write, who, now }) => {
      await changeUseOf(database, write, who, params.id, body, now);
      return done;
    });
    serve(app, house, contracts.removeUse, async ({ params, write, who, now }) => {
      await removeUseOf(database, write, who, params.id, now);
      return done;
    });
  },
  { name: 'stavok-stores-routes', dependencies: ['stavok-authentication'] },
);
