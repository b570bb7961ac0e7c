// The finder's index: which words each thing is known by. Kept in the transaction of every change, and rebuilt from the tables at any time.
import { asc, eq, gt, inArray, like, or, type SQL } from 'drizzle-orm';
import type { PoolConnection } from 'mysql2/promise';
import type { AgreementId, AssetId, CustomerId, LocationId, OrderId } from '#core/ids.ts';
import { gramsOf, identifierWords, wordsOf, type KnownBy } from '#core/register/index.ts';
import { bulkInsert, type Database, type Db, type Tx } from './database.ts';
import { placesOf } from './places.ts';
import {
  agreement,
  asset,
  assetClass,
  contact,
  customer,
  findPosting,
  location,
  workOrder,
  type FoundKind,
} from './tables/index.ts';

/** What a subject is known by; what its row in the finder shows anyway has no name. */
type Known = { readonly id: number; readonly by: readonly KnownBy[] };

const text = (what: string, value: string | null): KnownBy => ({
  what,
  value: value ?? '',
  words: wordsOf(value ?? ''),
});
const identifier = (what: string, value: string | null): KnownBy => ({
  what,
  value: value ?? '',
  words: identifierWords(value ?? ''),
});
const IN_ROW = '';

async function assetKnown(db: Db, where: SQL): Promise<Known[]> {
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
    .where(where);
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.locationId, path: r.path })),
  );
  return rows.map((r) => {
    const place = places.of(r.locationId);
    return {
      id: r.id,
      by: [
        identifier(IN_ROW, r.tag),
        identifier('serial', r.serial),
        text(IN_ROW, `${r.className} ${r.customer} ${place.path.map((n) => n.name).join(' ')}`),
        identifier('model', r.model),
        text('maker', r.maker),
        text('address', place.address?.value ?? null),
      ],
    };
  });
}

async function customerKnown(db: Db, ids: readonly CustomerId[]): Promise<Known[]> {
  const [rows, people] = await Promise.all([
    db
      .select({ id: customer.id, name: customer.name, address: customer.serviceAddress })
      .from(customer)
      .where(inArray(customer.id, [...ids])),
    db
      .select()
      .from(contact)
      .where(inArray(contact.customerId, [...ids])),
  ]);
  const contactsOf = new Map<CustomerId, (typeof contact.$inferSelect)[]>();
  for (const p of people) contactsOf.set(p.customerId, [...(contactsOf.get(p.customerId) ?? []), p]);
  return rows.map((r) => ({
    id: r.id,
    by: [
      text(IN_ROW, r.name),
      text('address', r.address),
      ...(contactsOf.get(r.id) ?? []).flatMap((p) => [
        text('contact', p.name),
        text(`${p.name},`, p.email),
        identifier(`${p.name},`, p.phone),
      ]),
    ],
  }));
}

async function locationKnown(db: Db, where: SQL): Promise<Known[]> {
  const rows = await db
    .select({ id: location.id, fullName: location.fullName, address: location.address, retiredOn: location.retiredOn })
    .from(location)
    .where(where);
  return rows.map((r) => ({
    id: r.id,
    by: r.retiredOn ? [] : [text(IN_ROW, r.fullName), text('address', r.address)],
  }));
}

async function agreementKnown(db: Db, ids: readonly AgreementId[]): Promise<Known[]> {
  const rows = await db
    .select({ id: agreement.id, number: agreement.number, name: agreement.name, customer: customer.name })
    .from(agreement)
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .where(inArray(agreement.id, [...ids]));
  return rows.map((r) => ({
    id: r.id,
    by: [identifier(IN_ROW, r.number), text(IN_ROW, `${r.name} ${r.customer}`)],
  }));
}

/** Titles of repairs; those of visits say no more than their job plan, and numbers are looked up as they are. */
async function orderKnown(db: Db, where: SQL): Promise<Known[]> {
  const rows = await db
    .select({ id: workOrder.id, kind: workOrder.kind, title: workOrder.title })
    .from(workOrder)
    .where(where);
  return rows.map((r) => ({ id: r.id, by: r.kind === 'preventive' ? [] : [text(IN_ROW, r.title)] }));
}

/**
 * Ids of the given words; new ones are added to the vocabulary with their letter groups. A word that somebody else added meanwhile
 * is not in this transaction's snapshot: after the insert it is read under lock, as it stands now.
 */
async function wordIds(connection: PoolConnection, words: readonly string[]): Promise<Map<string, number>> {
  const ids = new Map<string, number>();
  const look = async (list: readonly string[], lock = ''): Promise<void> => {
    for (let i = 0; i < list.length; i += 5000) {
      const [rows] = await connection.query(`SELECT id, word FROM find_word WHERE word IN (?) ${lock}`, [
        list.slice(i, i + 5000),
      ]);
      for (const row of rows as { id: number; word: string }[]) ids.set(row.word, row.id);
    }
  };
  await look(words);
  const fresh = words.filter((w) => !ids.has(w)).sort();
  if (fresh.length === 0) return ids;
  await bulkInsert(
    connection,
    'find_word',
    ['word'],
    fresh.map((w) => [w]),
    'ON DUPLICATE KEY UPDATE word = VALUES(word)',
  );
  await look(fresh, 'LOCK IN SHARE MODE');
  const grams = fresh
    .flatMap((w) => gramsOf(w).map((g) => [g, ids.get(w)] as const))
    .sort((a, b) => (a[0] < b[0] ? -1 : 1));
  if (grams.length > 0)
    await bulkInsert(connection, 'find_gram', ['gram', 'word_id'], grams, 'ON DUPLICATE KEY UPDATE gram = gram');
  return ids;
}

async function writePostings(tx: Tx, kind: FoundKind, known: readonly Known[]): Promise<void> {
  const wordsById = known.map((k) => ({ id: k.id, words: new Set(k.by.flatMap((b) => b.words)) }));
  const ids = await wordIds(tx.connection, [...new Set(wordsById.flatMap((k) => [...k.words]))]);
  const rows = wordsById.flatMap((k) => [...k.words].map((w) => [ids.get(w) as number, kind, k.id] as const));
  rows.sort((a, b) => a[0] - b[0] || a[2] - b[2]);
  if (rows.length > 0)
    await bulkInsert(
      tx.connection,
      'find_posting',
      ['word_id', 'kind', 'subject_id'],
      rows,
      'ON DUPLICATE KEY UPDATE kind = kind',
    );
}

async function replace(tx: Tx, kind: FoundKind, known: readonly Known[]): Promise<void> {
  if (known.length === 0) return;
  await tx.connection.query('DELETE FROM find_posting WHERE kind = ? AND subject_id IN (?)', [
    kind,
    known.map((k) => k.id),
  ]);
  await writePostings(tx, kind, known);
}

const BATCH = 2500;

async function inBatches<T>(ids: readonly T[], work: (batch: readonly T[]) => Promise<void>): Promise<void> {
  for (let i = 0; i < ids.length; i += BATCH) await work(ids.slice(i, i + BATCH));
}

/** What the things that were found are known by, by their id: assets, customers and places; the others' rows show all of it. */
export async function knownBy(
  db: Db,
  ids: {
    readonly assets: readonly AssetId[];
    readonly customers: readonly CustomerId[];
    readonly places: readonly LocationId[];
  },
): Promise<Record<'assets' | 'customers' | 'places', ReadonlyMap<number, readonly KnownBy[]>>> {
  const none: Known[] = [];
  const [assets, customers, places] = await Promise.all([
    ids.assets.length === 0 ? none : assetKnown(db, inArray(asset.id, [...ids.assets])),
    ids.customers.length === 0 ? none : customerKnown(db, ids.customers),
    ids.places.length === 0 ? none : locationKnown(db, inArray(location.id, [...ids.places])),
  ]);
  const byId = (known: readonly Known[]) => new Map(known.map((k) => [k.id, k.by]));
  return { assets: byId(assets), customers: byId(customers), places: byId(places) };
}

export const indexAssets = (tx: Tx, ids: readonly AssetId[]): Promise<void> =>
  inBatches(ids, async (batch) => replace(tx, 'asset', await assetKnown(tx.db, inArray(asset.id, [...batch]))));

/** Assets that were just registered: no words of theirs are held yet. */
export const indexNewAssets = (tx: Tx, ids: readonly AssetId[]): Promise<void> =>
  inBatches(ids, async (batch) => writePostings(tx, 'asset', await assetKnown(tx.db, inArray(asset.id, [...batch]))));

/** A customer's own words, and its name among those of its assets and agreements. */
export async function indexCustomers(tx: Tx, ids: readonly CustomerId[], renamed: boolean): Promise<void> {
  if (ids.length === 0) return;
  await inBatches(ids, async (batch) => replace(tx, 'customer', await customerKnown(tx.db, batch)));
  if (!renamed) return;
  const [assets, agreements] = await Promise.all([
    tx.db
      .select({ id: asset.id })
      .from(asset)
      .where(inArray(asset.customerId, [...ids])),
    tx.db
      .select({ id: agreement.id })
      .from(agreement)
      .where(inArray(agreement.customerId, [...ids])),
  ]);
  await indexAssets(
    tx,
    assets.map((a) => a.id),
  );
  await indexAgreements(
    tx,
    agreements.map((a) => a.id),
  );
}

/** Places that were just made: nothing stands there yet. */
export const indexNewPlaces = (tx: Tx, ids: readonly LocationId[]): Promise<void> =>
  inBatches(ids, async (batch) =>
    replace(tx, 'location', await locationKnown(tx.db, inArray(location.id, [...batch]))),
  );

/** Places and everything below them, with the assets that stand there: names and addresses are inherited. */
export async function indexPlaces(tx: Tx, paths: readonly string[]): Promise<void> {
  if (paths.length === 0) return;
  const places = await tx.db
    .select({ id: location.id })
    .from(location)
    .where(or(...paths.map((p) => like(location.path, `${p}%`))));
  await inBatches(places, async (batch) => {
    const ids = batch.map((p) => p.id);
    await replace(tx, 'location', await locationKnown(tx.db, inArray(location.id, ids)));
    const assets = await tx.db.select({ id: asset.id }).from(asset).where(inArray(asset.locationId, ids));
    await indexAssets(
      tx,
      assets.map((a) => a.id),
    );
  });
}

export const indexAgreements = (tx: Tx, ids: readonly AgreementId[]): Promise<void> =>
  inBatches(ids, async (batch) => replace(tx, 'agreement', await agreementKnown(tx.db, batch)));

export const indexOrders = (tx: Tx, ids: readonly OrderId[]): Promise<void> =>
  inBatches(ids, async (batch) => replace(tx, 'order', await orderKnown(tx.db, inArray(workOrder.id, [...batch]))));

/** Builds the index anew from the tables, in batches with a transaction each. */
export async function rebuildFinder(database: Database): Promise<void> {
  for (const table of ['find_posting', 'find_gram', 'find_word'])
    await database.pool.query('TRUNCATE TABLE ??', [table]);
  const walk = async <T extends number>(
    kind: FoundKind,
    page: (after: T) => Promise<T[]>,
    knownOf: (ids: T[]) => Promise<Known[]>,
  ): Promise<void> => {
    for (let after = 0 as T; ;) {
      const ids = await page(after);
      const last = ids[ids.length - 1];
      if (last === undefined) return;
      await database.transact(async (tx) => writePostings(tx, kind, await knownOf(ids)));
      after = last;
    }
  };
  const { db } = database;
  const size = 4000;
  await walk<AssetId>(
    'asset',
    async (after) =>
      (await db.select({ id: asset.id }).from(asset).where(gt(asset.id, after)).orderBy(asc(asset.id)).limit(size)).map(
        (r) => r.id,
      ),
    (ids) => assetKnown(db, inArray(asset.id, ids)),
  );
  await walk<CustomerId>(
    'customer',
    async (after) =>
      (
        await db
          .select({ id: customer.id })
          .from(customer)
          .where(gt(customer.id, after))
          .orderBy(asc(customer.id))
          .limit(size)
      ).map((r) => r.id),
    (ids) => customerKnown(db, ids),
  );
  await walk<LocationId>(
    'location',
    async (after) =>
      (
        await db
          .select({ id: location.id })
          .from(location)
          .where(gt(location.id, after))
          .orderBy(asc(location.id))
          .limit(size)
      ).map((r) => r.id),
    (ids) => locationKnown(db, inArray(location.id, ids)),
  );
  await walk<AgreementId>(
    'agreement',
    async (after) =>
      (
        await db
          .select({ id: agreement.id })
          .from(agreement)
          .where(gt(agreement.id, after))
          .orderBy(asc(agreement.id))
          .limit(size)
      ).map((r) => r.id),
    (ids) => agreementKnown(db, ids),
  );
  await walk<OrderId>(
    'order',
    async (after) =>
      (
        await db
          .select({ id: workOrder.id })
          .from(workOrder)
          .where(gt(workOrder.id, after))
          .orderBy(asc(workOrder.id))
          .limit(size)
      ).map((r) => r.id),
    (ids) => orderKnown(db, inArray(workOrder.id, ids)),
  );
}

/** Builds the index once where a register from before the index is taken over. */
export async function ensureFinder(database: Database): Promise<void> {
  const [[indexed], [held]] = await Promise.all([
    database.db.select({ id: findPosting.subjectId }).from(findPosting).limit(1),
    database.db.select({ id: customer.id }).from(customer).limit(1),
  ]);
  if (!indexed && held) await rebuildFinder(database);
}
