// Import: reads a register file, plans it with the core, and writes the plan in one transaction.
import { parse } from 'csv-parse/sync';
import fp from 'fastify-plugin';
import * as contracts from '#api/register.ts';
import { and, eq, inArray, sql } from 'drizzle-orm';
import type { ImportSummary } from '#api/register.ts';
import type { AssetClassId, AssetId, CustomerId, LocationId } from '#core/ids.ts';
import {
  checkColumns,
  planImport,
  REGISTER_COLUMNS,
  serialKey,
  type HeldRegister,
  type ImportPlan,
  type RegisterRow,
} from '#core/register/index.ts';
import { refusal } from '#core/refusal.ts';
import { localDateAt, type Instant, type LocalDate } from '#core/time/index.ts';
import { note } from '../platform/audit.ts';
import { indexAssets, indexCustomers, indexNewPlaces } from '../platform/finder-index.ts';
import { bulkInsert, insertedIds, type Database, type Db, type Tx } from '../platform/database.ts';
import { serve, type House, type Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { Refused } from '../platform/refuse.ts';
import { asset, assetClass, customer, instantText, location, locationShare } from '../platform/tables/index.ts';

export const MAX_ROWS = 20_000;

const refuseFile = (message: string): never => {
  throw new Refused([refusal('malformed', message, 'file')]);
};

/** Rows of a comma-separated file (RFC 4180, an UTF-8 byte order mark allowed), each with its line number. */
export function readRows(text: string): RegisterRow[] {
  if (text.includes('\u0000') || text.includes('\uFFFD'))
    refuseFile('This is not a text file in UTF-8; save it as CSV in UTF-8 and choose it again.');
  let records: { record: string[]; info: { lines: number } }[];
  try {
    records = parse(text, {
      bom: true,
      trim: true,
      skip_empty_lines: true,
      relax_column_count: true,
      info: true,
    }) as unknown as typeof records;
  } catch (error) {
    return refuseFile(`The file cannot be read as CSV: ${(error as Error).message}.`);
  }
  const [head, ...body] = records;
  if (!head) return refuseFile('The file is empty; its first line names the columns.');
  const names = head.record.map((name) => name.toLowerCase());
  const wrong = checkColumns(names);
  if (wrong.length > 0) return refuseFile(`${wrong.join(' ')} The first line must be: ${REGISTER_COLUMNS.join(',')}`);
  if (body.length > MAX_ROWS)
    return refuseFile(`The file has ${body.length} rows; at most ${MAX_ROWS} are taken at a time. Split it.`);
  return body.map(({ record, info }) => {
    if (record.length !== names.length)
      refuseFile(
        `Line ${info.lines} has ${record.length} cells instead of ${names.length}; put texts that hold a comma in double quotes.`,
      );
    return {
      line: info.lines,
      cells: Object.fromEntries(names.map((name, i) => [name, record[i] ?? ''])) as RegisterRow['cells'],
    };
  });
}

const IN_CHUNK = 2000;

async function chunked<T, R>(values: readonly T[], ask: (slice: T[]) => Promise<R[]>): Promise<R[]> {
  const found: R[] = [];
  for (let i = 0; i < values.length; i += IN_CHUNK) found.push(...(await ask(values.slice(i, i + IN_CHUNK))));
  return found;
}

const rootsOf = (rows: readonly RegisterRow[]): string[] => [
  ...new Set(
    rows
      .map((r) => (r.cells.location_path === '' ? r.cells.address : r.cells.location_path).split('>')[0]?.trim() ?? '')
      .filter((s) => s !== ''),
  ),
];

/** What the register holds of the customers, places, tags and serials that the file names. */
async function loadHeld(db: Db, rows: readonly RegisterRow[]): Promise<HeldRegister> {
  const distinct = (pick: (r: RegisterRow) => string): string[] => [...new Set(rows.map(pick).filter((s) => s !== ''))];
  const customers = await chunked(
    distinct((r) => r.cells.customer),
    (names) => db.select({ name: customer.name }).from(customer).where(inArray(customer.name, names)),
  );
  const roots = await chunked(rootsOf(rows), (names) =>
    db
      .select({ path: location.path })
      .from(location)
      .where(and(inArray(location.name, names), sql`${location.parentId} is null`)),
  );
  const places = (
    await Promise.all(
      roots.map((root) =>
        db
          .select({ id: location.id, fullName: location.fullName, zone: location.zone, address: location.address })
          .from(location)
          .where(sql`${location.path} like concat(${root.path}, '%')`),
      ),
    )
  ).flat();
  const shares = await chunked(
    places.map((p) => p.id),
    (ids) =>
      db
        .select({ locationId: locationShare.locationId, customer: customer.name })
        .from(locationShare)
        .innerJoin(customer, eq(customer.id, locationShare.customerId))
        .where(inArray(locationShare.locationId, ids)),
  );
  const sharing = new Map<LocationId, Set<string>>();
  for (const share of shares)
    sharing.set(share.locationId, (sharing.get(share.locationId) ?? new Set()).add(share.customer));
  const tags = distinct((r) => r.cells.tag).concat(distinct((r) => r.cells.parent_tag));
  const pick = { tag: asset.tag, maker: asset.maker, serial: asset.serial, customer: customer.name };
  const byTag = await chunked([...new Set(tags)], (list) =>
    db.select(pick).from(asset).innerJoin(customer, eq(customer.id, asset.customerId)).where(inArray(asset.tag, list)),
  );
  const bySerial = await chunked(
    distinct((r) => r.cells.serial),
    (list) =>
      db
        .select(pick)
        .from(asset)
        .innerJoin(customer, eq(customer.id, asset.customerId))
        .where(inArray(asset.serial, list)),
  );
  return {
    customers: new Set(customers.map((c) => c.name)),
    locations: new Map(
      places.map((p) => [
        p.fullName,
        { zone: p.zone, address: p.address, customers: sharing.get(p.id) ?? new Set<string>() },
      ]),
    ),
    tags: new Map(byTag.map((a) => [a.tag, a])),
    serials: new Map([...byTag, ...bySerial].map((a) => [serialKey(a.maker, a.serial), a.tag])),
  };
}

function summarise(rows: number, plan: ImportPlan): ImportSummary {
  return {
    rows,
    customers: plan.customers.map((c) => c.name),
    classes: [...plan.classes],
    locations: plan.locations.length,
    assets: plan.assets.length,
    alreadyHeld: plan.alreadyHeld,
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

async function writeLocations(tx: Tx, plan: ImportPlan): Promise<Map<string, LocationId>> {
  const ids = new Map<string, LocationId>();
  const named = [
    ...new Set([
      ...plan.locations.flatMap((l) => (l.parentPath === null ? [] : [l.parentPath])),
      ...plan.shares.map((s) => s.path),
      ...plan.assets.flatMap((a) => (a.locationPath === null ? [] : [a.locationPath])),
    ]),
  ];
  for (const held of await chunked(named, (list) =>
    tx.db
      .select({ id: location.id, fullName: location.fullName })
      .from(location)
      .where(inArray(location.fullName, list)),
  ))
    ids.set(held.fullName, held.id);
  const depthOf = (path: string): number => path.split(' > ').length;
  for (let depth = 1, left = plan.locations.length; left > 0; depth += 1) {
    const level = plan.locations.filter((l) => depthOf(l.path) === depth);
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
    ]);
    const made = await insertedIds(
      tx.connection,
      await bulkInsert(
        tx.connection,
        'location',
        ['parent_id', 'name', 'address', 'zone', 'latitude', 'longitude', 'path', 'full_name'],
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

async function writePlan(tx: Tx, plan: ImportPlan, who: Person, now: Instant, fileName: string): Promise<void> {
  const { connection, db } = tx;
  if (plan.customers.length > 0)
    await bulkInsert(
      connection,
      'customer',
      ['name', 'service_address'],
      plan.customers.map((c) => [c.name, c.serviceAddress]),
    );
  if (plan.classes.length > 0)
    await bulkInsert(
      connection,
      'asset_class',
      ['name'],
      plan.classes.map((c) => [c]),
      'ON DUPLICATE KEY UPDATE name = name',
    );
  const locations = await writeLocations(tx, plan);
  const customerNames = [...new Set([...plan.assets.map((a) => a.customer), ...plan.shares.map((s) => s.customer)])];
  const customers = new Map<string, CustomerId>(
    (
      await chunked(customerNames, (names) =>
        db.select({ id: customer.id, name: customer.name }).from(customer).where(inArray(customer.name, names)),
      )
    ).map((c) => [c.name, c.id]),
  );
  const classes = new Map<string, AssetClassId>(
    (await db.select().from(assetClass)).map((c) => [c.name.toLowerCase(), c.id]),
  );
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
    false,
  );
  await indexNewPlaces(
    tx,
    plan.locations.flatMap((l) => locations.get(l.path) ?? []),
  );
  if (plan.assets.length === 0) return;
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
    a.warrantyUntil,
  ]);
  const ids = await insertedIds(
    connection,
    await bulkInsert(
      connection,
      'asset',
      [
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
        'warranty_until',
      ],
      rows,
    ),
    rows.length,
  );
  const children = plan.assets.flatMap((a, i) =>
    a.parentTag === null ? [] : [{ id: ids[i] as AssetId, parentTag: a.parentTag }],
  );
  const parents = new Map(
    (
      await chunked(
        children.map((c) => c.parentTag),
        (tags) => db.select({ id: asset.id, tag: asset.tag }).from(asset).where(inArray(asset.tag, tags)),
      )
    ).map((p) => [p.tag, p.id]),
  );
  for (const child of children)
    await db
      .update(asset)
      .set({ parentId: parents.get(child.parentTag) ?? null })
      .where(eq(asset.id, child.id));
  const at = instantText(now);
  await indexAssets(tx, ids as AssetId[]);
  await bulkInsert(
    connection,
    'asset_event',
    ['asset_id', 'kind', 'at', 'recorded_at', 'person_id', 'text'],
    ids.map((id, i) => [id, 'registered', at, at, who.id, `registered from ${fileName}, line ${plan.assets[i]?.line}`]),
  );
}

export function plainSerial(serial: string): string {
  return serial.toLowerCase().replace(/[^a-z0-9]/g, '');
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
    await writePlan(tx, plan, who, now, fileName);
    await note(
      tx,
      who,
      'import',
      0,
      `imported ${fileName}: ${plan.assets.length} assets, ${plan.bad.length} rows refused`,
    );
    await announce(tx, 'register');
    return summarise(rows.length, plan);
  });
}

const WRITERS = ['coordinator', 'manager', 'administrator'] as const;

export const importRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    serve(app, house, contracts.previewImport, WRITERS, ({ body, now, who }) =>
      previewRegister(database.db, body.text, localDateAt(who.zone, now)),
    );
    serve(app, house, contracts.runImport, WRITERS, ({ body, now, who }) =>
      importRegister(database, who, body.fileName, body.text, now, localDateAt(who.zone, now)),
    );
  },
  { name: 'stavok-import-routes', dependencies: ['stavok-authentication'] },
);
