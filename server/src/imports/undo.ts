// Undoing an import as a whole, while nothing else depends on what it made or changed.
import { and, count, eq, inArray, isNull, ne, or, sql } from 'drizzle-orm';
import type { AssetId, ImportId, PersonId } from '#core/ids.ts';
import type { Instant, LocalDate } from '#core/time/index.ts';
import { refuse } from '../platform/refuse.ts';
import type { Tx } from '../platform/database.ts';
import type { visit } from '../upkeep/tables.ts';
import { contact, customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { meter, meterReading } from '../meters/tables.ts';
import { person } from '../platform/tables.ts';
import { travelChanged } from '../rota/index.ts';
import { absence, travelTime } from '../rota/tables.ts';
import { importBefore } from './tables.ts';
import { agreement, coverageLine } from '../agreements/tables.ts';
import { schedule } from '../upkeep/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { device } from '../signals/tables.ts';
import { changedSince, removeDrafts } from './agreements.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import { indexCustomers } from '../customers/index.ts';
import { placesFound } from '../places/index.ts';
import { assetsFound, indexAssets, recordFacts, type AssetRow, type AssetHappening } from '../assets/index.ts';

type Found = readonly { readonly name: string }[];

function mustBeNone(found: Found, what: string): void {
  if (found.length === 0) return;
  const names = found.slice(0, 5).map((f) => f.name);
  refuse(
    'conflict',
    `It cannot be undone any more: ${what} (${names.join(', ')}${found.length > 5 ? ', …' : ''}). Undo that first, or change the rows one by one.`,
  );
}

const SOME = 6;

/** Machines that came from elsewhere. */
const notOf = (id: ImportId) => or(isNull(asset.importId), ne(asset.importId, id));

/** What has come to depend on its assets and meters since. */
async function checkAssets(tx: Tx, id: ImportId): Promise<void> {
  const { db } = tx;
  const own = eq(asset.importId, id);
  const on = async (
    table: typeof orderLine | typeof visit | typeof schedule | typeof coverageLine | typeof device,
  ): Promise<Found> =>
    db.select({ name: asset.tag }).from(table).innerJoin(asset, eq(asset.id, table.assetId)).where(own).limit(SOME);
  mustBeNone(await changedSince(tx, id), 'its agreements were changed or put in force since');
  mustBeNone(await on(orderLine), 'orders were raised on its assets');
  mustBeNone(await on(schedule), 'schedules were written for its assets');
  mustBeNone(await on(coverageLine), 'agreements cover its assets');
  mustBeNone(await on(device), 'devices were connected to its assets');
  mustBeNone(
    await db
      .select({ name: asset.tag })
      .from(asset)
      .where(and(own, ne(asset.version, 1)))
      .limit(SOME),
    'its assets were changed since',
  );
  mustBeNone(
    await db
      .select({ name: asset.tag })
      .from(meter)
      .innerJoin(asset, eq(asset.id, meter.assetId))
      .where(and(own, or(isNull(meter.importId), ne(meter.importId, id))))
      .limit(SOME),
    'meters were added to its assets',
  );
  mustBeNone(
    await db
      .select({ name: meter.name })
      .from(meterReading)
      .innerJoin(meter, eq(meter.id, meterReading.meterId))
      .where(and(eq(meter.importId, id), or(isNull(meterReading.importId), ne(meterReading.importId, id))))
      .limit(SOME),
    'its meters were read since',
  );
}

/** What has come to depend on its places since. */
async function checkPlaces(tx: Tx, id: ImportId): Promise<void> {
  const { db } = tx;
  const foreign = notOf(id);
  mustBeNone(
    await db
      .select({ name: location.fullName })
      .from(asset)
      .innerJoin(location, eq(location.id, asset.locationId))
      .where(and(eq(location.importId, id), foreign))
      .limit(SOME),
    'other assets stand at its places',
  );
  mustBeNone(
    await db
      .select({ name: location.fullName })
      .from(coverageLine)
      .innerJoin(location, eq(location.id, coverageLine.locationId))
      .where(eq(location.importId, id))
      .limit(SOME),
    'agreements cover its places',
  );
  const [rows] = await tx.connection.query(
    'SELECT c.full_name AS name FROM location c JOIN location p ON p.id = c.parent_id WHERE p.import_id = ? AND (c.import_id IS NULL OR c.import_id <> ?) LIMIT ?',
    [id, id, SOME],
  );
  mustBeNone(rows as unknown as Found, 'other places were added below its places');
}

/** What has come to depend on its customers since. */
async function checkCustomers({ db }: Tx, id: ImportId): Promise<void> {
  const foreign = notOf(id);
  const ownCustomer = eq(customer.importId, id);
  mustBeNone(
    await db
      .select({ name: customer.name })
      .from(agreement)
      .innerJoin(customer, eq(customer.id, agreement.customerId))
      .where(ownCustomer)
      .limit(SOME),
    'agreements were written for its customers',
  );
  mustBeNone(
    await db
      .select({ name: customer.name })
      .from(workOrder)
      .innerJoin(customer, eq(customer.id, workOrder.customerId))
      .where(ownCustomer)
      .limit(SOME),
    'orders were raised for its customers',
  );
  mustBeNone(
    await db
      .select({ name: customer.name })
      .from(asset)
      .innerJoin(customer, eq(customer.id, asset.customerId))
      .where(and(ownCustomer, foreign))
      .limit(SOME),
    'its customers have other assets now',
  );
  mustBeNone(
    await db
      .select({ name: customer.name })
      .from(contact)
      .innerJoin(customer, eq(customer.id, contact.customerId))
      .where(and(ownCustomer, or(isNull(contact.importId), ne(contact.importId, id))))
      .limit(SOME),
    'contacts were added to its customers',
  );
}

/** Absences and times of travel that somebody changed since. */
async function checkRota({ db }: Tx, id: ImportId): Promise<void> {
  mustBeNone(
    await db
      .select({ name: person.name })
      .from(absence)
      .innerJoin(person, eq(person.id, absence.personId))
      .where(and(eq(absence.importId, id), ne(absence.version, 1)))
      .limit(SOME),
    'its absences were changed since',
  );
  mustBeNone(
    await db
      .select({ name: sql<string>`concat(${travelTime.fromSpot}, ' to ', ${travelTime.toSpot})` })
      .from(travelTime)
      .where(and(eq(travelTime.importId, id), ne(travelTime.version, 1)))
      .limit(SOME),
    'its travel times were changed since',
  );
}

/** Whatever has come to depend on the import’s rows since; the first of them is named. */
async function checkDependants(tx: Tx, id: ImportId): Promise<void> {
  await checkAssets(tx, id);
  await checkPlaces(tx, id);
  await checkCustomers(tx, id);
  await checkRota(tx, id);
}

const SUBJECTS = { customer, contact, location, 'travel time': travelTime } as const;

export type Undoing = { readonly id: PersonId; readonly now: Instant; readonly today: LocalDate };
type Before = typeof importBefore.$inferSelect;

/** An asset's own columns are put back; where it stood before the import it stands again from today. */
async function putAssetsBack(tx: Tx, before: readonly Before[], by: Undoing, changedAgain: () => never): Promise<void> {
  const told: AssetHappening[] = [];
  for (let i = 0; i < before.length; i += 1000) {
    const part = before.slice(i, i + 1000);
    const ids = part.map((b) => b.subjectId as AssetId);
    const rows = await tx.db.select().from(asset).where(inArray(asset.id, ids)).orderBy(asset.id).for('update');
    for (const { subjectId, version, values } of part) {
      const row = rows.find((r) => r.id === subjectId);
      if (row?.version !== version) return changedAgain();
      const { locationId, ...set } = values as Partial<AssetRow>;
      const base = { assetId: row.id, at: by.now, text: 'as before the import that was undone' };
      if (Object.keys(set).length > 0) told.push({ ...base, kind: 'changed', fact: { kind: 'changed', set } });
      if (locationId !== undefined) {
        const parentId = set.parentId === undefined ? row.parentId : set.parentId;
        told.push({ ...base, kind: 'moved', fact: { kind: 'moved', on: by.today, locationId, parentId } });
      }
    }
  }
  await recordFacts(tx, told, { by: by.id, now: by.now });
}

/** Puts back what the import changed, where nobody has changed it since. */
async function putBack(tx: Tx, id: ImportId, by: Undoing): Promise<void> {
  const before = await tx.db.select().from(importBefore).where(eq(importBefore.importId, id));
  const changedAgain = (subject: string): never =>
    refuse('conflict', `It cannot be undone any more: a changed ${subject} was changed again since.`);
  for (const { subject, subjectId, version, values } of before) {
    if (subject === 'asset') continue;
    const table = SUBJECTS[subject];
    const [changed] = await tx.db
      .update(table)
      .set({ ...values, version: version + 1 })
      .where(and(eq(table.id, subjectId as never), eq(table.version, version)));
    if (changed.affectedRows === 0) changedAgain(subject);
  }
  await putAssetsBack(
    tx,
    before.filter((b) => b.subject === 'asset'),
    by,
    () => changedAgain('asset'),
  );
  const ids = (subject: (typeof before)[number]['subject']): number[] =>
    before.filter((b) => b.subject === subject).map((b) => b.subjectId);
  await indexAssets(tx, ids('asset') as AssetId[]);
  await indexCustomers(tx, ids('customer') as never[]);
  if (ids('location').length > 0)
    await keepRenamed(tx, [placesFound, assetsFound], {
      places: (
        await tx.db
          .select({ path: location.path })
          .from(location)
          .where(inArray(location.id, ids('location') as never[]))
      ).map((l) => l.path),
    });
}

export async function undo(tx: Tx, id: ImportId, by: Undoing): Promise<void> {
  await checkDependants(tx, id);
  await putBack(tx, id, by);
  const { connection, db } = tx;
  await removeDrafts(tx, id);
  await db.delete(meterReading).where(eq(meterReading.importId, id));
  await db.delete(meter).where(eq(meter.importId, id));
  await db.delete(absence).where(eq(absence.importId, id));
  await db.delete(travelTime).where(eq(travelTime.importId, id));
  await travelChanged(tx);
  await connection.query(
    "DELETE p FROM find_posting p JOIN asset a ON a.id = p.subject_id WHERE p.kind = 'asset' AND a.import_id = ?",
    [id],
  );
  await connection.query('DELETE e FROM asset_event e JOIN asset a ON a.id = e.asset_id WHERE a.import_id = ?', [id]);
  // A part hangs under its parent, perhaps of the same file: loosened first, then all go.
  await db.update(asset).set({ parentId: null }).where(eq(asset.importId, id));
  const [foreign] = await db
    .select({ n: count() })
    .from(asset)
    .where(
      and(
        or(isNull(asset.importId), ne(asset.importId, id)),
        sql`${asset.parentId} in (select id from asset where import_id = ${id})`,
      ),
    );
  if (foreign && foreign.n > 0)
    refuse('conflict', 'It cannot be undone any more: other assets are parts of its assets.');
  await db.delete(asset).where(eq(asset.importId, id));
  await connection.query(
    "DELETE p FROM find_posting p JOIN location l ON l.id = p.subject_id WHERE p.kind = 'location' AND l.import_id = ?",
    [id],
  );
  await connection.query(
    'DELETE s FROM location_share s JOIN location l ON l.id = s.location_id WHERE l.import_id = ?',
    [id],
  );
  for (let left = true; left;) {
    const [leaves] = await connection.query(
      'SELECT l.id FROM location l LEFT JOIN location c ON c.parent_id = l.id WHERE l.import_id = ? AND c.id IS NULL LIMIT 5000',
      [id],
    );
    const ids = (leaves as { id: number }[]).map((l) => l.id);
    left = ids.length > 0;
    if (left) await connection.query('DELETE FROM location WHERE id IN (?)', [ids]);
  }
  const [owners] = await connection.query('SELECT DISTINCT customer_id AS id FROM contact WHERE import_id = ?', [id]);
  await db.delete(contact).where(eq(contact.importId, id));
  await connection.query(
    "DELETE p FROM find_posting p JOIN customer c ON c.id = p.subject_id WHERE p.kind = 'customer' AND c.import_id = ?",
    [id],
  );
  await connection.query(
    'DELETE s FROM location_share s JOIN customer c ON c.id = s.customer_id WHERE c.import_id = ?',
    [id],
  );
  await db.delete(customer).where(eq(customer.importId, id));
  await indexCustomers(
    tx,
    (owners as { id: number }[]).map((o) => o.id as never),
  );
}
