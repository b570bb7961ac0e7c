// Lists of the register: assets by place, class and words; customers; the tree of places.
import { and, asc, count, eq, gt, inArray, like, or, type SQL } from 'drizzle-orm';
import type { TreeNode } from '#api/register.ts';
import type { AssetClassId, CustomerId, LocationId } from '#core/ids.ts';
import { type Instant, type LocalDate } from '#core/time/index.ts';
import { calendarBook } from '../platform/calendar-book.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { asset, customer, location, locationShare } from '../platform/tables/index.ts';
import { threadStretch } from '../ribbon/index.ts';

import { assetRows } from './rows.ts';

export type AssetFilter = {
  readonly customer?: CustomerId;
  readonly location?: LocationId;
  readonly class?: AssetClassId;
  readonly search?: string;
};

async function conditionsOf(db: Db, filter: AssetFilter): Promise<SQL[]> {
  const wanted: SQL[] = [];
  if (filter.customer) wanted.push(eq(asset.customerId, filter.customer));
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

export function escapeLike(text: string): string {
  return text.replace(/[\\%_]/g, (c) => `\\${c}`);
}

export async function listAssets(
  db: Db,
  filter: AssetFilter,
  after: string | undefined,
  limit: number,
  today: LocalDate,
  now: Instant,
) {
  const wanted = await conditionsOf(db, filter);
  const [[counted], ids] = await Promise.all([
    db
      .select({ total: count() })
      .from(asset)
      .where(and(...wanted)),
    db
      .select({ id: asset.id, tag: asset.tag })
      .from(asset)
      .where(and(...wanted, after === undefined ? undefined : gt(asset.tag, after)))
      .orderBy(asc(asset.tag))
      .limit(limit + 1),
  ]);
  const page = ids.slice(0, limit);
  const items = await assetRows(
    db,
    await calendarBook(db),
    page.map((r) => r.id),
    today,
    now,
  );
  const { from, to } = threadStretch(today, now);
  return {
    items,
    next: ids.length > limit ? (page[page.length - 1]?.tag ?? null) : null,
    total: counted?.total ?? 0,
    from,
    to,
    now,
  };
}

export async function listCustomers(db: Db, after: string | undefined, limit: number) {
  const rows = await db
    .select({ id: customer.id, name: customer.name, serviceAddress: customer.serviceAddress })
    .from(customer)
    .where(after === undefined ? undefined : gt(customer.name, after))
    .orderBy(asc(customer.name))
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const counts =
    page.length === 0
      ? []
      : await db
          .select({ id: asset.customerId, assets: count() })
          .from(asset)
          .where(
            inArray(
              asset.customerId,
              page.map((r) => r.id),
            ),
          )
          .groupBy(asset.customerId);
  const countOf = new Map(counts.map((c) => [c.id, c.assets]));
  return {
    items: page.map((r) => ({ ...r, assets: countOf.get(r.id) ?? 0 })),
    next: rows.length > limit ? (page[page.length - 1]?.name ?? null) : null,
  };
}

const TREE_LIMIT = 5000;

/** The places of a customer: those shared with it and everything below, with its own assets counted at each node. */
export async function readTree(
  db: Db,
  id: CustomerId,
): Promise<{ customer: { id: number; name: string }; nodes: TreeNode[]; withoutPlace: number }> {
  const [owner] = await db.select({ id: customer.id, name: customer.name }).from(customer).where(eq(customer.id, id));
  if (!owner) refuse('not-found', 'That customer does not exist.');
  const shared = await db
    .select({ path: location.path })
    .from(locationShare)
    .innerJoin(location, eq(location.id, locationShare.locationId))
    .where(eq(locationShare.customerId, id))
    .limit(500);
  const above = [
    ...new Set(
      shared.flatMap((s) =>
        s.path
          .split('/')
          .filter((x) => x !== '')
          .map(Number),
      ),
    ),
  ] as LocationId[];
  const pick = {
    id: location.id,
    parentId: location.parentId,
    name: location.name,
    zone: location.zone,
    address: location.address,
    version: location.version,
  };
  const nodes =
    shared.length === 0
      ? []
      : await db
          .select(pick)
          .from(location)
          .where(or(inArray(location.id, above), ...shared.map((s) => like(location.path, `${s.path}%`))))
          .orderBy(asc(location.fullName))
          .limit(TREE_LIMIT);
  const counts = await db
    .select({ id: asset.locationId, assets: count() })
    .from(asset)
    .where(eq(asset.customerId, id))
    .groupBy(asset.locationId);
  const countOf = new Map(counts.map((c) => [c.id, c.assets]));
  return {
    customer: owner,
    nodes: nodes.map((n) => ({ ...n, assets: countOf.get(n.id) ?? 0 })),
    withoutPlace: countOf.get(null) ?? 0,
  };
}
