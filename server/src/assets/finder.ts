// What the finder knows assets by: tag, serial, model, maker, class, customer, place and address.
import { eq, inArray, like, or, type SQL } from 'drizzle-orm';
import type { AssetId } from '#core/ids.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { keepFound, keepNewlyFound } from '../platform/finder-index.ts';
import { idsBehind, identifier, shown, shownIdentifier, text, type FinderSource } from '../platform/finder-source.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { assetRows } from './rows.ts';
import { asset } from './tables.ts';

const idsWhere = async (db: Db, where: SQL | undefined): Promise<number[]> =>
  (
    await db.select({ id: asset.id }).from(asset).leftJoin(location, eq(location.id, asset.locationId)).where(where)
  ).map((r) => r.id);

export const assetsFound: FinderSource = {
  kind: 'asset',
  async knownOf(db, ids) {
    const rows = await db
      .select({
        id: asset.id,
        tag: asset.tag,
        serial: asset.serial,
        maker: asset.maker,
        model: asset.model,
        className: assetClass.name,
        customer: customer.name,
        locationId: asset.locationId,
        path: location.path,
      })
      .from(asset)
      .innerJoin(assetClass, eq(assetClass.id, asset.classId))
      .innerJoin(customer, eq(customer.id, asset.customerId))
      .leftJoin(location, eq(location.id, asset.locationId))
      .where(inArray(asset.id, ids as AssetId[]));
    const places = await placesOf(
      db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    );
    return rows.map((r) => {
      const place = places.of(r.locationId);
      return {
        id: r.id,
        by: [
          shownIdentifier(r.tag),
          identifier('serial', r.serial),
          shown(`${r.className} ${r.customer} ${place.path.map((n) => n.name).join(' ')}`),
          identifier('model', r.model),
          text('maker', r.maker),
          text('address', place.address?.value ?? null),
        ],
      };
    });
  },
  page: (db, after, limit) => idsBehind(db, asset.id, after, limit),
  async under(db, { customers = [], classes = [], places = [] }) {
    return [
      ...(customers.length === 0 ? [] : await idsWhere(db, inArray(asset.customerId, [...customers]))),
      ...(classes.length === 0 ? [] : await idsWhere(db, inArray(asset.classId, [...classes]))),
      ...(places.length === 0 ? [] : await idsWhere(db, or(...places.map((p) => like(location.path, `${p}%`))))),
    ];
  },
  async show(db, ids, { now, today, lanes }) {
    const rows = await assetRows(db, lanes, ids as AssetId[], today, now);
    return rows.map((r) => ({
      id: r.id,
      mark: r.tag,
      title: r.className,
      beside: `${r.customerName} · ${r.place}`,
      state: r.coverNow,
      under: null,
      ribbon: r.ribbon,
    }));
  },
};

export const indexAssets = (tx: Tx, ids: readonly AssetId[]): Promise<void> => keepFound(tx, assetsFound, ids);
/** Assets that were just registered. */
export const indexNewAssets = (tx: Tx, ids: readonly AssetId[]): Promise<void> => keepNewlyFound(tx, assetsFound, ids);
