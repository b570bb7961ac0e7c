// The register's routes for looking: assets, the asset page, the finder, lists as CSV, labels; and its parts that change it.
import { and, asc, inArray } from 'drizzle-orm';
import fp from 'fastify-plugin';
import { customersCsv } from '#api/customers.ts';
import * as contracts from '#api/register.ts';
import { OFFICE } from '#api/shapes.ts';
import type { AssetId } from '#core/ids.ts';
import { localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { seesMoney, serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { asset } from '../platform/tables/index.ts';
import { readAsset } from './asset-page.ts';
import { assetRoutes } from './assets.ts';
import { bulkRoutes } from './bulk.ts';
import { catalogueRoutes } from './catalogue.ts';
import { formRoutes } from './forms.ts';
import { customerRoutes, listCustomers } from './customers.ts';
import { fileRoutes } from './files.ts';
import { find } from './find.ts';
import { importRoutes } from './imports.ts';
import { labelSheet } from './labels.ts';
import { assetConditions, exportAssets, listAssets } from './lists.ts';
import { meterRoutes } from './meters.ts';
import { placeRoutes } from './places.ts';

const PAGE = 60;
const CSV_PAGE = 500;
const LABELS = 500;

export const registerRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    for (const part of [
      customerRoutes,
      placeRoutes,
      assetRoutes,
      meterRoutes,
      bulkRoutes,
      catalogueRoutes,
      formRoutes,
      fileRoutes,
      importRoutes,
    ])
      await app.register(part, { house });

    serve(app, house, contracts.listAssets, 'signed in', ({ query, now, who }) =>
      listAssets(
        db,
        query,
        { after: query.after, offset: query.offset, limit: query.limit ?? PAGE },
        localDateAt(who.zone, now),
        now,
      ),
    );
    serve(app, house, contracts.readAsset, 'signed in', async ({ params, now, who }) => {
      const page = await readAsset(house.database, params.id, now, who.zone);
      return seesMoney(who) ? page : { ...page, overSince: null };
    });
    serve(app, house, contracts.find, 'signed in', ({ query, now, who }) =>
      find(database, query.q, localDateAt(who.zone, now), now),
    );

    serve(app, house, contracts.assetsCsv, 'signed in', ({ query, now, who, reply }): Promise<never> => {
      const today = localDateAt(who.zone, now);
      async function* rows() {
        for await (const page of pagesOf((after) => exportAssets(db, query, after, CSV_PAGE, today)))
          yield page.map((a) => [
            a.tag,
            a.serial,
            a.className,
            a.maker,
            a.model,
            a.customer,
            a.place,
            a.address,
            a.state,
            a.owner,
            a.commissioned,
            a.warrantyUntil,
            a.cover,
          ]);
      }
      const head = [
        'tag',
        'serial',
        'class',
        'maker',
        'model',
        'customer',
        'place',
        'address',
        'state',
        'owner',
        'commissioned',
        'warranty until',
        'cover today',
      ];
      return Promise.resolve(sendCsv(reply, `assets-${today}.csv`, head, rows()));
    });
    serve(app, house, customersCsv, OFFICE, ({ query, reply, now, who }): Promise<never> => {
      async function* rows() {
        for await (const page of pagesOf((after) => listCustomers(db, after, 200, query.search)))
          yield page.map((c) => [c.name, c.serviceAddress, c.assets, c.overSince]);
      }
      const head = ['customer', 'service address', 'assets', 'over credit terms since'];
      return Promise.resolve(sendCsv(reply, `customers-${localDateAt(who.zone, now)}.csv`, head, rows()));
    });

    serve(app, house, contracts.labelsPdf, 'signed in', async ({ query, reply }): Promise<never> => {
      if (!query.ids && !query.customer && !query.location)
        refuse('missing', 'Say which assets: ids, a customer or a place.', 'ids');
      const wanted = await assetConditions(db, query);
      if (query.ids) wanted.push(inArray(asset.id, query.ids.split(',').map(Number) as AssetId[]));
      const rows = await db
        .select({ tag: asset.tag, serial: asset.serial, model: asset.model })
        .from(asset)
        .where(and(...wanted))
        .orderBy(asc(asset.tag))
        .limit(LABELS + 1);
      if (rows.length === 0) refuse('not-found', 'There is no asset to label.');
      if (rows.length > LABELS)
        refuse('too-large', `At most ${LABELS} labels are printed at once; choose a place further down.`, 'location');
      const pdf = await labelSheet(
        rows.map((r) => ({ ...r, link: `${house.config.publicAddress}/assets/tag/${encodeURIComponent(r.tag)}` })),
      );
      return reply
        .type('application/pdf')
        .header('content-disposition', 'inline; filename="labels.pdf"')
        .send(pdf) as never;
    });
  },
  { name: 'stavok-register-routes', dependencies: ['stavok-authentication'] },
);
