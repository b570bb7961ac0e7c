// Places: adding, changing, moving, merging, retiring and sharing the nodes of the tree.
import fp from 'fastify-plugin';
import * as contracts from '#api/places.ts';
import { toGeoJson } from '#core/places/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { mergeIn, moveIn } from './acts.ts';
import { addPlace, changePlace, retirePlace, sharePlace } from './commands.ts';
import { readPlace, readTree, sitesOf } from './queries.ts';

export const placeRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readTree, ({ params }) => readTree(db, params.id));
    serve(app, house, contracts.readPlace, ({ params }) => readPlace(db, params.id));
    serve(app, house, contracts.listSites, async ({ params }) => {
      const items = await sitesOf(db, params.id);
      const { nodes } = await readTree(db, params.id);
      const ids = new Set(items.map((i) => i.id as number));
      return { items, without: nodes.filter((n) => n.parentId === null && !ids.has(n.id)).length };
    });
    serve(app, house, contracts.sitesGeoJson, async ({ params, reply }) => {
      const sites = await sitesOf(db, params.id);
      void reply
        .type('application/geo+json')
        .header('content-disposition', `attachment; filename="sites-${params.id}.geojson"`);
      return toGeoJson(
        sites.map(({ latitude, longitude, ...properties }) => ({ latitude, longitude, properties })),
      ) as never;
    });

    serve(app, house, contracts.addLocation, ({ body, write }) => write((tx, told) => addPlace(tx, body, told)));

    serve(app, house, contracts.changeLocation, ({ params, body, write }) =>
      write((tx, told) => changePlace(tx, params.id, body, house.found, told)),
    );

    serve(app, house, contracts.moveLocation, ({ params, body, write }) =>
      write(async (tx, told) => {
        const { row, to } = await moveIn(tx, house.found, params.id, body);
        told({ subject: 'location', id: params.id, text: `moved ${row.fullName} to ${to}` });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.mergeLocation, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        const { row, to } = await mergeIn(tx, house, params.id, body, localDateAt(who.zone, now), {
          id: who.id,
          now,
        });
        told({ subject: 'location', id: params.id, text: `merged ${row.fullName} into ${to}` });
        return { done: true as const };
      }),
    );

    serve(app, house, contracts.retireLocation, ({ params, body, who, now, write }) =>
      write((tx, told) => retirePlace(tx, params.id, body, localDateAt(who.zone, now), house.found, told)),
    );
    serve(app, house, contracts.shareLocation, ({ params, body, write }) =>
      write((tx, told) => sharePlace(tx, params.id, body, told)),
    );
  },
  { name: 'stavok-place-routes', dependencies: ['stavok-authentication'] },
);
