// What happens to assets, recorded: the event with its fact, and the row and the past stays that follow from it, in one transaction.
import { asc, inArray } from 'drizzle-orm';
import {
  afterFact,
  plainSerial,
  type AssetEventKind,
  type AssetFact,
  type AssetRecord,
  type KnownAsset,
  type PastStay,
  type Registration,
  sparingly,
} from '#core/assets/index.ts';
import type { AssetId, CustomerId, ImportId, LocationId, PersonId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import { bulkInsert, insertedIds, type Db, type Tx } from '../platform/database.ts';
import { instantText } from '../platform/columns.ts';
import { asset, assetEvent, assetPastStay } from './tables.ts';

export type AssetRow = typeof asset.$inferSelect;
export type Fact = AssetFact<AssetId, LocationId, CustomerId>;
export type Known = KnownAsset<AssetId, LocationId, CustomerId>;
type Stay = PastStay<LocationId, CustomerId>;

export type AssetHappening = {
  readonly assetId: AssetId;
  /** What is read in its life. */
  readonly kind: AssetEventKind;
  /** What follows for its row; null where nothing does. */
  readonly fact: Fact | null;
  readonly at: Instant;
  readonly text: string;
};

export type RecordedBy = { readonly by: PersonId | null; readonly now: Instant };

/** The columns of a row that follow from its facts. */
export function recordOf(row: AssetRow): AssetRecord<AssetId, LocationId, CustomerId> {
  const { customerId, locationId, parentId, classId, maker, model, serial, tag, owner, state, commissioned } = row;
  const { rentedSince, warrantyFrom, warrantyUntil } = row;
  const { warrantyLabour, warrantyParts, warrantyTravel, warrantyVisits } = row;
  return {
    ...{ customerId, locationId, parentId, classId, maker, model, serial, tag, owner, state, commissioned },
    ...{ rentedSince, warrantyFrom, warrantyUntil, warrantyLabour, warrantyParts, warrantyTravel, warrantyVisits },
  };
}

/** What of a row differs from what its facts say of it. */
export function differing(row: AssetRow, said: Known['asset']): Partial<AssetRow> {
  const held = recordOf(row);
  const plain = plainSerial(said.serial);
  return {
    ...Object.fromEntries(
      (Object.keys(held) as (keyof typeof held)[]).flatMap((key) =>
        held[key] === said[key] ? [] : [[key, said[key]]],
      ),
    ),
    ...(row.serialPlain !== plain && { serialPlain: plain }),
  };
}

export const sameStays = (a: readonly Stay[], b: readonly Stay[]): boolean =>
  a.length === b.length &&
  a.every((stay, i) => {
    const other = b[i] as Stay;
    return stay.until === other.until && stay.locationId === other.locationId && stay.customerId === other.customerId;
  });

/** Past stays of assets, the oldest first. */
export async function staysOf(db: Db, ids: readonly AssetId[]): Promise<Map<AssetId, Stay[]>> {
  const rows = await db
    .select()
    .from(assetPastStay)
    .where(inArray(assetPastStay.assetId, [...ids]))
    .orderBy(asc(assetPastStay.assetId), asc(assetPastStay.until));
  const of = new Map<AssetId, Stay[]>();
  for (const { assetId, ...stay } of rows) of.set(assetId, [...(of.get(assetId) ?? []), stay]);
  return of;
}

export async function writeStays(tx: Tx, of: ReadonlyMap<AssetId, readonly Stay[]>): Promise<void> {
  if (of.size === 0) return;
  await tx.db.delete(assetPastStay).where(inArray(assetPastStay.assetId, [...of.keys()]));
  await bulkInsert(
    tx.connection,
    'asset_past_stay',
    ['asset_id', 'until', 'location_id', 'customer_id'],
    [...of].flatMap(([id, stays]) => stays.map((s) => [id, s.until, s.locationId, s.customerId])),
  );
}

const EVENT_COLUMNS = ['asset_id', 'kind', 'at', 'recorded_at', 'person_id', 'text', 'fact'];

/** The events alone, for assets whose rows were just written as their first facts say. */
export async function writeEvents(
  tx: Tx,
  happenings: readonly AssetHappening[],
  { by, now }: RecordedBy,
): Promise<void> {
  await bulkInsert(
    tx.connection,
    'asset_event',
    EVENT_COLUMNS,
    happenings.map((t) => [
      t.assetId,
      t.kind,
      instantText(t.at),
      instantText(now),
      by,
      t.text.slice(0, 4000),
      t.fact === null ? null : JSON.stringify(t.fact),
    ]),
  );
}

/**
 * Records what happened to assets: events are appended, rows and past stays follow. Rows are locked in the order of their ids; each
 * changed row's version goes up by one, however many facts it took.
 */
export async function recordFacts(tx: Tx, happenings: readonly AssetHappening[], recorded: RecordedBy): Promise<void> {
  const facts = new Map<AssetId, Fact[]>();
  for (const { assetId, fact } of happenings)
    if (fact !== null) facts.set(assetId, [...(facts.get(assetId) ?? []), fact]);
  const ids = [...facts.keys()];
  if (ids.length > 0) {
    const rows = await tx.db.select().from(asset).where(inArray(asset.id, ids)).orderBy(asset.id).for('update');
    const stays = await staysOf(tx.db, ids);
    const sets = new Map<string, { set: Partial<AssetRow>; ids: AssetId[] }>();
    const moved = new Map<AssetId, readonly Stay[]>();
    for (const row of rows) {
      const was: Known = { asset: recordOf(row), stays: stays.get(row.id) ?? [] };
      const is = (facts.get(row.id) ?? []).reduce<Known>(afterFact, was);
      const set = differing(row, is.asset);
      const key = JSON.stringify([row.version, set]);
      const alike = sets.get(key);
      if (alike) alike.ids.push(row.id);
      else sets.set(key, { set: { ...set, version: row.version + 1 }, ids: [row.id] });
      if (!sameStays(was.stays, is.stays)) moved.set(row.id, is.stays);
    }
    for (const { set, ids: those } of sets.values()) await tx.db.update(asset).set(set).where(inArray(asset.id, those));
    await writeStays(tx, moved);
  }
  await writeEvents(tx, happenings, recorded);
}

/** Facts of assets in the order in which they were recorded. */
export async function factsOf(db: Db, ids: readonly AssetId[]): Promise<Map<AssetId, Fact[]>> {
  const rows = await db
    .select({ assetId: assetEvent.assetId, fact: assetEvent.fact })
    .from(assetEvent)
    .where(inArray(assetEvent.assetId, [...ids]))
    .orderBy(asc(assetEvent.id));
  const of = new Map<AssetId, Fact[]>();
  for (const { assetId, fact } of rows) if (fact !== null) of.set(assetId, [...(of.get(assetId) ?? []), fact]);
  return of;
}

const ROW_COLUMNS = {
  customerId: 'customer_id',
  locationId: 'location_id',
  parentId: 'parent_id',
  classId: 'class_id',
  maker: 'maker',
  model: 'model',
  serial: 'serial',
  tag: 'tag',
  owner: 'owner',
  state: 'state',
  commissioned: 'commissioned',
  rentedSince: 'rented_since',
  warrantyFrom: 'warranty_from',
  warrantyUntil: 'warranty_until',
  warrantyLabour: 'warranty_labour',
  warrantyParts: 'warranty_parts',
  warrantyTravel: 'warranty_travel',
  warrantyVisits: 'warranty_visits',
} as const satisfies Record<keyof Known['asset'], string>;

export type Registered = {
  readonly asset: Registration<AssetId, LocationId, CustomerId>;
  readonly at: Instant;
  readonly text: string;
};

/** Many assets registered at once, each with its first event; what their customers, places and classes are is written already. */
export async function registerMany(
  tx: Tx,
  registered: readonly Registered[],
  recorded: RecordedBy,
  importId: ImportId | null = null,
): Promise<AssetId[]> {
  if (registered.length === 0) return [];
  const facts = registered.map((r): Fact => ({ kind: 'registered', asset: sparingly(r.asset) }));
  const keys = Object.keys(ROW_COLUMNS) as (keyof typeof ROW_COLUMNS)[];
  const rows = facts.map((fact) => {
    const row = afterFact(null, fact).asset;
    return [...keys.map((key) => row[key]), plainSerial(row.serial), importId];
  });
  const ids = (await insertedIds(
    tx.connection,
    await bulkInsert(tx.connection, 'asset', [...Object.values(ROW_COLUMNS), 'serial_plain', 'import_id'], rows),
    rows.length,
  )) as AssetId[];
  await writeEvents(
    tx,
    registered.map(({ at, text }, i) => ({
      assetId: ids[i] as AssetId,
      kind: 'registered',
      fact: facts[i] as Fact,
      at,
      text,
    })),
    recorded,
  );
  return ids;
}
