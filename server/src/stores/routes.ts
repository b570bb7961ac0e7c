// The routes of stores: the parts list, and what was used on orders.
import fp from 'fastify-plugin';
import * as contracts from '#api/stores.ts';
import { PARTS_HEAD, sayQuantity, SHELVES_HEAD } from '#core/stores/index.ts';
import { localDateAt } from '#core/time/index.ts';
import type { PartId } from '#core/ids.ts';
import { drawLabels } from '../platform/label-drawing.ts';
import { refuse } from '../platform/refuse.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { addPartTo, changePartOf, importPartsFrom, pageOfParts, partsFound, previewOfParts } from './parts.ts';
import { importShelvesOf, labelled, previewOfShelves } from './shelf-file.ts';
import { shelvesOf } from './shelves.ts';
import { changeUseOf, removeUseOf, useOn, usePlannedOn } from './used.ts';

const CSV_PAGE = 500;
const LABELS = 1000;
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
            ...[p.tax, p.warrantyMonths],
          ]);
      }
      return sendCsv(reply, `parts-${localDateAt(who.zone, now)}.csv`, PARTS_HEAD, rows());
    });
    serve(app, house, contracts.shelvesCsv, ({ params, who, now, reply }): Promise<never> => {
      const plain = (thousandths: number | null): string => (thousandths === null ? '' : sayQuantity(thousandths));
      const money = (minor: number | null): string => (minor === null ? '' : (minor / 100).toFixed(2));
      async function* rows() {
        for await (const page of pagesOf((after) =>
          shelvesOf(db, params.id, { limit: CSV_PAGE, ...(after !== undefined && { after }) }, who.role),
        ))
          yield page.map((s) => [
            ...[s.number, s.name, s.unit, s.bin, plain(s.minimum), plain(s.maximum)],
            ...[plain(s.onHand), plain(s.reserved), plain(s.free), money(s.average), money(s.value)],
          ]);
      }
      return sendCsv(reply, `store-${params.id}-${localDateAt(who.zone, now)}.csv`, SHELVES_HEAD, rows());
    });
    serve(app, house, contracts.previewShelves, ({ params, body, who }) =>
      previewOfShelves(db, params.id, body.text, who),
    );
    serve(app, house, contracts.importShelves, ({ params, body, write, who, now }) =>
      importShelvesOf(database, write, who, params.id, body, now),
    );
    serve(app, house, contracts.storeLabels, async ({ query, reply }): Promise<never> => {
      const ids = (query.ids ?? '').split(',').flatMap((id) => (id === '' ? [] : [Number(id) as PartId]));
      if (ids.length === 0 && query.store === undefined) refuse('missing', 'Say which parts: ids, or a store.', 'ids');
      const found = await labelled(db, ids, query.store, LABELS + 1);
      if (found.length === 0) refuse('not-found', 'There is nothing to label.');
      if (found.length > LABELS) refuse('too-large', `At most ${LABELS} labels are printed at once; tick some.`, 'ids');
      const pdf = await drawLabels(
        found.map((f) => ({
          ...{ mark: f.number, name: f.name, beside: f.beside },
          link: `${house.config.publicAddress}/stores/scan/${encodeURIComponent(f.number)}`,
        })),
      );
      return reply
        .type('application/pdf')
        .header('content-disposition', 'inline; filename="labels.pdf"')
        .send(pdf) as never;
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
