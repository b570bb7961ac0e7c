// Looking at assets: lists, the asset page, CSV, labels.
import { and, asc, inArray } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/register.ts';
import type { AssetId } from '#core/ids.ts';
import { localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { seesMoney } from '#core/people.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { asset } from './tables.ts';
import { readAsset } from './page.ts';
import { drawLabels } from '../platform/label-drawing.ts';
import { assetConditions, exportAssets, listAssets } from './lists.ts';

const PAGE = 60;
const CSV_PAGE = 500;
const LABELS = 500;

export const assetLookRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listAssets, ({ query, now, who }) =>
      listAssets(
        db,
        house.lanes,
        query,
        { after: query.after, offset: query.offset, limit: query.limit ?? PAGE },
        localDateAt(who.zone, now),
        now,
      ),
    );
    serve(app, house, contracts.readAsset, async ({ params, now, who }) => {
      const page = await readAsset(house.database, params.id, now, who.zone, house.lanes);
      return seesMoney(who.role) ? page : { ...page, overSince: null };
    });
    serve(app, house, contracts.assetsCsv, ({ query, now, who, reply }): Promise<never> => {
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
    serve(app, house, contracts.labelsPdf, async ({ query, reply }): Promise<never> => {
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
      const pdf = await drawLabels(
        rows.map((r) => ({
          ...{ mark: r.tag, name: r.model, beside: r.serial },
          link: `${house.config.publicAddress}/assets/tag/${encodeURIComponent(r.tag)}`,
        })),
      );
      return reply
        .type('application/pdf')
        .header('content-disposition', 'inline; filename="labels.pdf"')
        .send(pdf) as never;
    });
  },
  { name: 'stavok-asset-look-routes', dependencies: ['stavok-authentication'] },
);
