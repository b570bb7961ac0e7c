// Assets: registering and changing them one by one and many at once, the acts of their lives, twins, past work, and what a scanned code names.
import { eq } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/assets.ts';
import { orderNumber } from '#api/shapes.ts';
import { planSwap } from '#core/assets/index.ts';
import { seesMoney } from '#core/people.ts';
import { localDateAt } from '#core/time/index.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { changeAsset, livingOf, orTaken, recordLife, registerAsset, swapAsset } from './commands.ts';
import { changeMany, planMany } from './bulk.ts';
import { goingOver } from './hand-over.ts';
import { PAST_WORK_HEAD, pastWorkRows, searchHistory } from './history.ts';
import { asset } from './tables.ts';
import { scanned } from './scanned.ts';
import { listTwins, mergeAssets } from './twins.ts';

export const assetRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;

    serve(app, house, contracts.changeAsset, ({ params, body, who, now, write }) =>
      orTaken(db, body, () => write((tx, told) => changeAsset(tx, params.id, body, { who, now, told }))),
    );
    serve(app, house, contracts.addAsset, ({ body, who, now, write }) =>
      orTaken(db, body, () => write((tx, told) => registerAsset(tx, body, { who, now, told }))),
    );
    serve(app, house, contracts.recordLife, ({ params, body, who, now, write }) =>
      write((tx, told) => recordLife(tx, params.id, body, { who, now, told })),
    );
    serve(app, house, contracts.swapAsset, ({ params, body, who, now, write }) =>
      write((tx, told) => swapAsset(tx, params.id, body, { who, now, told })),
    );

    serve(app, house, contracts.previewSwap, async ({ params, body, who, now }) => {
      const [[old], [fresh]] = await Promise.all([
        db.select().from(asset).where(eq(asset.id, params.id)),
        db.select().from(asset).where(eq(asset.id, body.newAssetId)),
      ]);
      if (!old) refuse('not-found', 'That asset does not exist.');
      if (!fresh) refuse('not-found', 'That asset does not exist; choose another.', 'newAssetId');
      accept(planSwap(livingOf(old), livingOf(fresh), body.oldGoes, body.on, localDateAt(who.zone, now)));
      const { lines, schedules, orders } = await goingOver(db, params.id, body.on);
      const [node] =
        old.locationId === null
          ? []
          : await db
              .select({ id: location.id, path: location.path })
              .from(location)
              .where(eq(location.id, old.locationId));
      return {
        place: (await placesOf(db, node ? [node] : [])).of(node?.id ?? null).label,
        coverageLines: lines.map((l) => `${l.agreement.number} ${l.agreement.name}`),
        schedules: schedules.map((s) => `${s.jobPlan}, ${s.agreement.number}`),
        openOrders: orders.map((o) => `${orderNumber(o.id)} ${o.title}`),
      };
    });

    serve(app, house, contracts.previewBulk, ({ body, who, now }) =>
      house.database.transact(
        async (tx) => (await planMany(tx, body.ids, body.change, localDateAt(who.zone, now))).effect,
      ),
    );
    serve(app, house, contracts.changeMany, ({ body, who, now, write }) =>
      write((tx, told) => changeMany(tx, body.ids, body.change, { who, now, told })),
    );
    serve(app, house, contracts.listTwins, ({ query }) => listTwins(db, query.customer));
    serve(app, house, contracts.mergeAssets, ({ body, who, now, write }) =>
      write(async (tx, told) => {
        await mergeAssets(tx, body.keptId, body.goneId, { who, now, told });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.historyCsv, async ({ query, who, now, reply }): Promise<never> => {
      const rows = await pastWorkRows(db, query, seesMoney(who.role), who.zone);
      async function* pages() {
        yield await Promise.resolve(rows);
      }
      return sendCsv(reply, `past-work-${localDateAt(who.zone, now)}.csv`, PAST_WORK_HEAD, pages());
    });
    serve(app, house, contracts.searchHistory, ({ query, who }) => searchHistory(db, query, seesMoney(who.role)));

    serve(app, house, contracts.readScan, ({ query }) => scanned(db, query.code));
  },
  { name: 'stavok-asset-routes', dependencies: ['stavok-authentication'] },
);
