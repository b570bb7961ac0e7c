// Importing assets with their customers and places: writing the core’s plan.
import { inArray } from 'drizzle-orm';
import type { AssetClassId, AssetId, CustomerId, ImportId, LocationId } from '#core/ids.ts';
import {
  REGISTER_COLUMNS,
  type ImportPlan,
  type PlannedLocation,
  type RegisterRow,
  type TableRow,
} from '#core/imports/index.ts';
import { localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { bulkInsert, insertedIds, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { chunked } from './held.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { importBefore } from './tables.ts';
import { indexCustomers } from '../customers/index.ts';
import { indexNewPlaces } from '../places/index.ts';
import {
  indexAssets,
  indexNewAssets,
  recordFacts,
  registerMany,
  writeEvents,
  type AssetRow,
  type Fact,
  type AssetHappening,
} from '../assets/index.ts';

/** Rows of a mapped file; columns that are not mapped say nothing. */
export function registerRows(rows: readonly TableRow[]): RegisterRow[] {
  return rows.map(({ line, cells }) => ({
    line,
    cells: Object.fromEntries(REGISTER_COLUMNS.map((c) => [c, cells[c] ?? ''])) as RegisterRow['cells'],
  }));
}

/** Makes places level by level, so that each knows its parent. */
export async function writeLocations(
  tx: Tx,
  planned: readonly PlannedLocation[],
  importId: ImportId | null,
): Promise<Map<string, LocationId>> {
  const ids = new Map<string, LocationId>();
  const named = [...new Set(planned.flatMap((l) => l.parentPath ?? []))];
  for (const held of await chunked(named, (list) =>
    tx.db
      .select({ id: location.id, fullName: location.fullName })
      .from(location)
      .where(inArray(location.fullName, list)),
  ))
    ids.set(held.fullName, held.id);
  const depthOf = (path: string): number => path.split(' > ').length;
  for (let depth = 1, left = planned.length; left > 0; depth += 1) {
    const level = planned.filter((l) => depthOf(l.path) === depth);
    left -= level.length;
    if (level.length === 0) continue;
    const rows = level.map((l) => [
      l.parentPath === null ? null : ids.get(l.parentPath),
      l.name,
      l.address,
      l.zone,
      l.latitude,
      l.longitude,
      '',
      l.path,
      importId,
    ]);
    const made = await insertedIds(
      tx.connection,
      await bulkInsert(
        tx.connection,
        'location',
        ['parent_id', 'name', 'address', 'zone', 'latitude', 'longitude', 'path', 'full_name', 'import_id'],
        rows,
      ),
      level.length,
    );
    level.forEach((l, i) => ids.set(l.path, made[i] as LocationId));
    await tx.connection.query(
      "UPDATE location l LEFT JOIN location p ON p.id = l.parent_id SET l.path = CONCAT(COALESCE(p.path, '/'), l.id, '/') WHERE l.path = '' AND l.id IN (?)",
      [made],
    );
  }
  return ids;
}

/** Who loads what: written with every row, so that an import can be undone. */
export type Origin = {
  readonly who: Person;
  readonly now: Instant;
  readonly fileName: string;
  readonly importId: ImportId | null;
};

type Ground = {
  readonly customers: ReadonlyMap<string, CustomerId>;
  readonly locations: ReadonlyMap<string, LocationId>;
  readonly classes: ReadonlyMap<string, AssetClassId>;
};

/** Ids of the customers, places and classes that assets of the plan name. */
async function groundOf(db: Db, plan: ImportPlan): Promise<Ground> {
  const names = [...new Set([...plan.assets.map((a) => a.customer), ...plan.shares.map((s) => s.customer)])];
  const paths = [
    ...new Set([
      ...plan.assets.flatMap((a) => a.locationPath ?? []),
      ...plan.updates.flatMap((u) => u.changes.locationPath ?? []),
      ...plan.shares.map((s) => s.path),
    ]),
  ];
  const [customers, locations, classes] = await Promise.all([
    chunked(names, (list) =>
      db.select({ id: customer.id, name: customer.name }).from(customer).where(inArray(customer.name, list)),
    ),
    chunked(paths, (list) =>
      db.select({ id: location.id, name: location.fullName }).from(location).where(inArray(location.fullName, list)),
    ),
    db.select().from(assetClass),
  ]);
  return {
    customers: new Map(customers.map((c) => [c.name, c.id])),
    locations: new Map(locations.map((l) => [l.name, l.id])),
    classes: new Map(classes.map((c) => [c.name.toLowerCase(), c.id])),
  };
}

/** Customers, classes, places and who may use them: what assets of the plan stand on. */
export async function writeGround(tx: Tx, plan: ImportPlan, { importId }: Origin): Promise<void> {
  const { connection, db } = tx;
  if (plan.customers.length > 0)
    await bulkInsert(
      connection,
      'customer',
      ['name', 'service_address', 'import_id'],
      plan.customers.map((c) => [c.name, c.serviceAddress, importId]),
    );
  if (plan.classes.length > 0)
    await bulkInsert(
      connection,
      'asset_class',
      ['name'],
      plan.classes.map((c) => [c]),
      'ON DUPLICATE KEY UPDATE name = name',
    );
  const made = await writeLocations(tx, plan.locations, importId);
  const { customers, locations } = await groundOf(db, plan);
  if (plan.shares.length > 0)
    await bulkInsert(
      connection,
      'location_share',
      ['location_id', 'customer_id'],
      plan.shares.map((s) => [locations.get(s.path), customers.get(s.customer)]),
      'ON DUPLICATE KEY UPDATE location_id = location_id',
    );
  await indexCustomers(
    tx,
    plan.customers.flatMap((c) => customers.get(c.name) ?? []),
  );
  await indexNewPlaces(
    tx,
    plan.locations.flatMap((l) => made.get(l.path) ?? []),
  );
}

/** Assets of the plan with their first event; their ground is written already. */
export async function writeAssets(tx: Tx, plan: ImportPlan, origin: Origin): Promise<void> {
  if (plan.assets.length === 0) return;
  const { customers, locations, classes } = await groundOf(tx.db, plan);
  const ids = await registerMany(
    tx,
    plan.assets.map((a) => ({
      asset: {
        customerId: customers.get(a.customer) as CustomerId,
        locationId: a.locationPath === null ? null : (locations.get(a.locationPath) ?? null),
        classId: classes.get(a.className.toLowerCase()) as AssetClassId,
        maker: a.maker,
        model: a.model,
        serial: a.serial,
        tag: a.tag,
        owner: a.owner,
        commissioned: a.commissioned,
        warrantyFrom: a.warrantyUntil === null ? null : a.commissioned,
        warrantyUntil: a.warrantyUntil,
      },
      at: origin.now,
      text: `registered from ${origin.fileName}, line ${a.line}`,
    })),
    { by: origin.who.id, now: origin.now },
    origin.importId,
  );
  await indexNewAssets(tx, ids);
}

const idsByTag = async (db: Db, tags: readonly string[]): Promise<Map<string, AssetId>> =>
  new Map(
    (
      await chunked([...new Set(tags)], (list) =>
        db.select({ id: asset.id, tag: asset.tag }).from(asset).where(inArray(asset.tag, list)),
      )
    ).map((a) => [a.tag, a.id]),
  );

/** Hangs parts under their parents, once all of them are written. */
export async function hangChildren(tx: Tx, plan: ImportPlan, origin: Origin): Promise<void> {
  const children = plan.assets.filter((a) => a.parentTag !== null);
  const ids = await idsByTag(
    tx.db,
    children.flatMap((c) => [c.tag, c.parentTag as string]),
  );
  const hung = children.flatMap((child) => {
    const assetId = ids.get(child.tag);
    const parentId = ids.get(child.parentTag as string) ?? null;
    return assetId === undefined ? [] : [{ assetId, parentId, of: child.parentTag as string }];
  });
  // Part of being registered: their version stays the first, which says that nobody changed them since.
  for (const parentId of new Set(hung.map((h) => h.parentId)))
    await chunked(
      hung.filter((h) => h.parentId === parentId),
      async (those) => {
        await tx.db
          .update(asset)
          .set({ parentId })
          .where(
            inArray(
              asset.id,
              those.map((h) => h.assetId),
            ),
          );
        return [];
      },
    );
  await writeEvents(
    tx,
    hung.map(({ assetId, parentId, of }) => ({
      assetId,
      kind: 'changed',
      fact: { kind: 'changed', set: { parentId } },
      at: origin.now,
      text: `part of ${of}`,
    })),
    { by: origin.who.id, now: origin.now },
  );
}

/** What a line changes of an asset that is held: its attributes, and where it stands from today on. */
function factsOfUpdate(
  { changes }: ImportPlan['updates'][number],
  row: AssetRow,
  on: LocalDate,
  known: {
    readonly locations: ReadonlyMap<string, LocationId>;
    readonly classes: ReadonlyMap<string, AssetClassId>;
    readonly parents: ReadonlyMap<string, AssetId>;
  },
): Fact[] {
  const { className, locationPath, parentTag, ...plain } = changes;
  const parentId = parentTag === undefined ? row.parentId : (known.parents.get(parentTag) ?? null);
  const set = {
    // The plan has read these: an owner is one of the two, a date is a date.
    ...(plain as Partial<AssetRow>),
    ...(className !== undefined && { classId: known.classes.get(className.toLowerCase()) as AssetClassId }),
    ...(parentTag !== undefined && { parentId }),
  };
  const locationId = locationPath === undefined ? row.locationId : (known.locations.get(locationPath) ?? null);
  return [
    ...(Object.keys(set).length > 0 ? [{ kind: 'changed' as const, set }] : []),
    ...(locationId !== row.locationId ? [{ kind: 'moved' as const, on, locationId, parentId }] : []),
  ];
}

/** Changes assets that are held; what they were before is kept for undoing. */
export async function writeUpdates(tx: Tx, plan: ImportPlan, origin: Origin): Promise<void> {
  if (plan.updates.length === 0) return;
  const { db } = tx;
  const { locations, classes } = await groundOf(db, plan);
  const held = new Map(
    (
      await chunked(
        plan.updates.map((u) => u.tag),
        (tags) => db.select().from(asset).where(inArray(asset.tag, tags)).for('update'),
      )
    ).map((a) => [a.tag, a]),
  );
  const parents = await idsByTag(
    db,
    plan.updates.flatMap((u) => u.changes.parentTag ?? []),
  );
  const today = localDateAt(origin.who.zone, origin.now);
  const told: AssetHappening[] = [];
  const before: (typeof importBefore.$inferInsert)[] = [];
  for (const update of plan.updates) {
    const row = held.get(update.tag);
    if (!row) continue;
    const facts = factsOfUpdate(update, row, today, { locations, classes, parents });
    if (facts.length === 0) continue;
    const text = `${Object.entries(update.changes)
      .map(([key, value]) => `${key} → ${value}`)
      .join('; ')} (${origin.fileName}, line ${update.line})`;
    for (const fact of facts)
      told.push({
        assetId: row.id,
        kind: fact.kind === 'moved' ? 'moved' : 'changed',
        fact,
        at: origin.now,
        text: fact === facts[0] ? text : `moved with ${origin.fileName}, line ${update.line}`,
      });
    if (origin.importId !== null)
      before.push({
        importId: origin.importId,
        subject: 'asset',
        subjectId: row.id,
        version: row.version + 1,
        values: undoing(row, facts),
      });
  }
  await recordFacts(tx, told, { by: origin.who.id, now: origin.now });
  for (let i = 0; i < before.length; i += 500) await db.insert(importBefore).values(before.slice(i, i + 500));
  await indexAssets(tx, [...new Set(told.map((t) => t.assetId))]);
}

/** What the facts’ columns held before them. */
function undoing(row: AssetRow, facts: readonly Fact[]): Record<string, unknown> {
  const keys = facts.flatMap((fact) =>
    fact.kind === 'changed' ? Object.keys(fact.set) : ['locationId'],
  ) as (keyof AssetRow)[];
  return Object.fromEntries(keys.map((key) => [key, row[key]]));
}
