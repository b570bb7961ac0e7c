// Lists of assets by place, class and words, with threads for screens and without for files.
import { and, count, eq, inArray, like, or, sql, type SQL } from 'drizzle-orm';
import type { ASSET_SORTS } from '#api/register.ts';
import type { AssetClassId, CustomerId, LocationId } from '#core/ids.ts';
import type { AssetState } from '#core/assets/index.ts';
import { type Instant, type LocalDate } from '#core/time/index.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { keyset } from '../platform/keyset.ts';
import { refuse } from '../platform/refuse.ts';
import { placesOf } from '../places/index.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from './tables.ts';
import { coversOf } from '../entitlement/index.ts';
import { threadStretch, type Lane } from '../platform/lanes.ts';
import { assetRows, coverNow } from './rows.ts';

export type AssetFilter = {
  readonly customer?: CustomerId;
  readonly location?: LocationId;
  readonly class?: AssetClassId;
  readonly search?: string;
  readonly state?: AssetState;
};

export async function assetConditions(db: Db, filter: AssetFilter): Promise<SQL[]> {
  const wanted: SQL[] = [];
  if (filter.customer) wanted.push(eq(asset.customerId, filter.customer));
  if (filter.state) wanted.push(eq(asset.state, filter.state));
  if (filter.class) wanted.push(eq(asset.classId, filter.class));
  if (filter.location) {
    const [node] = await db.select({ path: location.path }).from(location).where(eq(location.id, filter.location));
    if (!node) refuse('not-found', 'That place does not exist.', 'location');
    const below = await db
      .select({ id: location.id })
      .from(location)
      .where(like(location.path, `${node.path}%`));
    wanted.push(
      inArray(
        asset.locationId,
        below.map((b) => b.id),
      ),
    );
  }
  if (filter.search?.trim()) {
    const text = escapeLike(filter.search.trim());
    wanted.push(
      or(like(asset.tag, `${text}%`), like(asset.serial, `%${text}%`), like(asset.model, `%${text}%`)) as SQL,
    );
  }
  return wanted;
}

type Order = { readonly sort?: (typeof ASSET_SORTS)[number] | undefined; readonly down?: '1' | undefined };
const SORTED_BY = {
  asset: asset.tag,
  place: location.fullName,
  serial: asset.serialPlain,
  maker: asset.maker,
  customer: customer.name,
} as const;

/** By tags upward, unless somebody asks for another order. */
function orderOf({ sort = 'asset', down }: Order, after: string | undefined) {
  const by = SORTED_BY[sort];
  // A machine without a place stands last.
  const asked = { down: down !== undefined, after, hasEmpty: sort === 'place' };
  return { sortedBy: sql<string | null>`${by}`, ...keyset(by, asset.id, asked) };
}

/** Which assets a page holds. Outer joins: where nothing of theirs is asked for, the database leaves them out. */
async function pageOfIds(
  db: Db,
  filter: AssetFilter & Order,
  {
    after,
    offset = 0,
    limit,
  }: { readonly after?: string | undefined; readonly offset?: number; readonly limit: number },
) {
  const { sortedBy, behind, order, markOf } = orderOf(filter, after);
  const found = await db
    .select({ id: asset.id, sortedBy })
    .from(asset)
    .leftJoin(customer, eq(customer.id, asset.customerId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(and(...(await assetConditions(db, filter)), behind))
    .orderBy(...order)
    .limit(limit + 1)
    .offset(after === undefined ? offset : 0);
  const shown = found.slice(0, limit);
  const last = shown.at(-1);
  return {
    ids: shown.map((row) => row.id),
    next: found.length > limit && last ? markOf(last.sortedBy, last.id) : null,
  };
}

export async function listAssets(
  db: Db,
  lanes: readonly Lane[],
  filter: AssetFilter & Order,
  page: { readonly after?: string | undefined; readonly offset?: number | undefined; readonly limit: number },
  today: LocalDate,
  now: Instant,
) {
  const [[counted], { ids, next }] = await Promise.all([
    db
      .select({ total: count() })
      .from(asset)
      .where(and(...(await assetConditions(db, filter)))),
    pageOfIds(db, filter, { ...page, offset: page.offset ?? 0 }),
  ]);
  const items = await assetRows(db, lanes, ids, today, now);
  const { from, to } = threadStretch(today, now);
  return { items, next, total: counted?.total ?? 0, from, to, now };
}

/** The same list without threads, for files: one page at a time. */
export async function exportAssets(
  db: Db,
  filter: AssetFilter & Order,
  after: string | undefined,
  limit: number,
  today: LocalDate,
) {
  const { ids, next } = await pageOfIds(db, filter, { after, limit });
  const found =
    ids.length === 0
      ? []
      : await db
          .select({ asset, className: assetClass.name, customer: customer.name, path: location.path })
          .from(asset)
          .innerJoin(assetClass, eq(assetClass.id, asset.classId))
          .innerJoin(customer, eq(customer.id, asset.customerId))
          .leftJoin(location, eq(location.id, asset.locationId))
          .where(inArray(asset.id, ids));
  const byId = new Map(found.map((row) => [row.asset.id, row]));
  const page = ids.flatMap((id) => byId.get(id) ?? []);
  const [places, subjects] = await Promise.all([
    placesOf(
      db,
      page.map((r) => ({ id: r.asset.locationId, path: r.path })),
    ),
    coversOf(
      db,
      page.map((r) => r.asset.id),
    ),
  ]);
  return {
    items: page.map(({ asset: a, className, customer: owner }) => ({
      ...a,
      className,
      customer: owner,
      place: places.of(a.locationId).label,
      address: places.of(a.locationId).address?.value ?? null,
      cover: coverNow(subjects.get(a.id), today),
    })),
    next,
  };
}
