// Importing assets with their customers and places: what the register holds of them, and writing the core’s plan.
import { eq, inArray } from 'drizzle-orm';
import { plainSerial } from '#core/assets/index.ts';
import { runImport } from '#api/register.ts';
import type { ImportSummary } from '#api/register.ts';
import type { AssetClassId, AssetId, CustomerId, ImportId, LocationId } from '#core/ids.ts';
import {
  checkColumns,
  planImport,
  REGISTER_COLUMNS,
  type ImportPlan,
  type PlannedLocation,
  type RegisterRow,
  type TableRow,
} from '#core/imports/index.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { note } from '../platform/audit.ts';
import { bulkInsert, insertedIds, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { readTable, refuseFile } from './file.ts';
import { chunked, loadHeld } from './held.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset, assetEvent } from '../assets/tables.ts';
import { importBefore } from './tables.ts';
import { instantText } from '../platform/columns.ts';
import { indexCustomers } from '../customers/index.ts';
import { indexNewPlaces } from '../places/index.ts';
import { indexAssets, indexNewAssets } from '../assets/index.ts';

/** Rows taken at a time by the one-step route; larger files go by an import that shows its progress. */
export const MAX_ROWS = 20_000;

/** Rows of a register file with all its columns, by name. */
export function readRows(text: string): RegisterRow[] {
  if (text.includes('\u0000') || text.includes('\uFFFD'))
    refuseFile('This is not a text file in UTF-8; save it as CSV in UTF-8 and choose it again.');
  const { head, records } = readTable(text, ',', MAX_ROWS);
  const names = head.map((name) => name.toLowerCase());
  const wrong = checkColumns(names);
  if (wrong.length > 0) return refuseFile(`${wrong.join(' ')} The first line must be: ${REGISTER_COLUMNS.join(',')}`);
  return records.map(({ line, cells }) => ({
    line,
    cells: Object.fromEntries(names.map((name, i) => [name, cells[i] ?? ''])) as RegisterRow['cells'],
  }));
}

/** Rows of a mapped file; columns that are not mapped say nothing. */
export function registerRows(rows: readonly TableRow[]): RegisterRow[] {
  return rows.map(({ line, cells }) => ({
    line,
    cells: Object.fromEntries(REGISTER_COLUMNS.map((c) => [c, cells[c] ?? ''])) as RegisterRow['cells'],
  }));
}

function summarise(rows: number, plan: ImportPlan): ImportSummary {
  return {
    rows,
    customers: plan.customers.map((c) => c.name),
    classes: [...plan.newClasses],
    locations: plan.locations.length,
    assets: plan.assets.length,
    alreadyHeld: plan.alreadyHeld,
    updated: plan.updates.length,
    bad: [...plan.bad],
    notes: [...plan.notes],
    sample: plan.assets.slice(0, 8).map((a) => ({
      line: a.line,
      tag: a.tag,
      model: `${a.className} ${a.model}`,
      customer: a.customer,
      place: a.locationPath,
    })),
  };
}

export async function previewRegister(db: Db, text: string, today: LocalDate): Promise<ImportSummary> {
  const rows = readRows(text);
  return summarise(rows.length, planImport(rows, await loadHeld(db, rows), today));
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

const ASSET_COLUMNS = [
  'customer_id',
  'location_id',
  'class_id',
  'maker',
  'model',
  'serial',
  'tag',
  'serial_plain',
  'owner',
  'state',
  'commissioned',
  'warranty_from',
  'warranty_until',
  'import_id',
];

/** Assets of the plan with their first event; their ground is written already. */
export async function writeAssets(tx: Tx, plan: ImportPlan, origin: Origin): Promise<void> {
  if (plan.assets.length === 0) return;
  const { connection } = tx;
  const { customers, locations, classes } = await groundOf(tx.db, plan);
  const rows = plan.assets.map((a) => [
    customers.get(a.customer),
    a.locationPath === null ? null : locations.get(a.locationPath),
    classes.get(a.className.toLowerCase()),
    a.maker,
    a.model,
    a.serial,
    a.tag,
    plainSerial(a.serial),
    a.owner,
    'in service',
    a.commissioned,
    a.warrantyUntil === null ? null : a.commissioned,
    a.warrantyUntil,
    origin.importId,
  ]);
  const ids = (await insertedIds(
    connection,
    await bulkInsert(connection, 'asset', ASSET_COLUMNS, rows),
    rows.length,
  )) as AssetId[];
  const at = instantText(origin.now);
  await indexNewAssets(tx, ids);
  await bulkInsert(
    connection,
    'asset_event',
    ['asset_id', 'kind', 'at', 'recorded_at', 'person_id', 'text'],
    ids.map((id, i) => [
      id,
      'registered',
      at,
      at,
      origin.who.id,
      `registered from ${origin.fileName}, line ${plan.assets[i]?.line}`,
    ]),
  );
}

/** Hangs parts under their parents, once all of them are written. */
export async function hangChildren(tx: Tx, plan: ImportPlan): Promise<void> {
  const children = plan.assets.filter((a) => a.parentTag !== null);
  const tags = [...new Set(children.flatMap((c) => [c.tag, c.parentTag as string]))];
  const ids = new Map(
    (
      await chunked(tags, (list) =>
        tx.db.select({ id: asset.id, tag: asset.tag }).from(asset).where(inArray(asset.tag, list)),
      )
    ).map((a) => [a.tag, a.id]),
  );
  for (const child of children)
    await tx.db
      .update(asset)
      .set({ parentId: ids.get(child.parentTag as string) ?? null })
      .where(eq(asset.tag, child.tag));
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
  const parents = new Map(
    (
      await chunked(
        plan.updates.flatMap((u) => u.changes.parentTag ?? []),
        (tags) => db.select({ id: asset.id, tag: asset.tag }).from(asset).where(inArray(asset.tag, tags)),
      )
    ).map((a) => [a.tag, a.id]),
  );
  const changed: AssetId[] = [];
  for (const { tag, changes, line } of plan.updates) {
    const row = held.get(tag);
    if (!row) continue;
    const { className, locationPath, parentTag, ...plain } = changes;
    const set: Partial<typeof asset.$inferInsert> = {
      ...(plain as Partial<typeof asset.$inferInsert>),
      ...(changes.serial !== undefined && { serialPlain: plainSerial(changes.serial) }),
      ...(className !== undefined && { classId: classes.get(className.toLowerCase()) }),
      ...(locationPath !== undefined && { locationId: locations.get(locationPath) }),
      ...(parentTag !== undefined && { parentId: parents.get(parentTag) ?? null }),
    };
    const before = Object.fromEntries(Object.keys(set).map((key) => [key, row[key as keyof typeof row]]));
    await db
      .update(asset)
      .set({ ...set, version: row.version + 1 })
      .where(eq(asset.id, row.id));
    if (origin.importId !== null)
      await db.insert(importBefore).values({
        importId: origin.importId,
        subject: 'asset',
        subjectId: row.id,
        version: row.version + 1,
        values: before,
      });
    await db.insert(assetEvent).values({
      assetId: row.id,
      kind: 'changed',
      at: origin.now,
      recordedAt: origin.now,
      personId: origin.who.id,
      text: `${Object.entries(changes)
        .map(([key, value]) => `${key} → ${value}`)
        .join('; ')} (${origin.fileName}, line ${line})`,
    });
    changed.push(row.id);
  }
  await indexAssets(tx, changed);
}

/** Loads the good rows of a file, all in one transaction, and says what it did. */
export async function importRegister(
  database: Database,
  who: Person,
  fileName: string,
  text: string,
  now: Instant,
  today: LocalDate,
): Promise<ImportSummary> {
  const rows = readRows(text);
  return database.transact(async (tx) => {
    const plan = planImport(rows, await loadHeld(tx.db, rows), today);
    const origin = { who, now, fileName, importId: null };
    await writeGround(tx, plan, origin);
    await writeAssets(tx, plan, origin);
    await hangChildren(tx, plan);
    await writeUpdates(tx, plan, origin);
    await note(
      tx,
      who,
      'import',
      0,
      `imported ${fileName}: ${plan.assets.length} assets, ${plan.bad.length} rows refused`,
    );
    await announce(tx, runImport);
    return summarise(rows.length, plan);
  });
}
