// Importing customers, contacts, places, meters and readings: what the register holds of them, and writing the core’s plans.
import { and, eq, inArray } from 'drizzle-orm';
import type { AssetId, ContactId, CustomerId, LocationId, MeterId } from '#core/ids.ts';
import {
  namesOf,
  planContacts,
  planCustomers,
  planMeters,
  planPlaces,
  planReadings,
  SEPARATOR,
  type HeldMeter,
  type ImportSettings,
  type NewPlace,
  type PlannedChange,
  type PlannedLocation,
  type TableRemark,
  type TableRow,
} from '#core/register/index.ts';
import { asZone, type Instant } from '#core/time/index.ts';
import { bulkInsert, type Db, type Tx } from '../platform/database.ts';
import { indexCustomers, indexNewPlaces, indexPlaces } from '../platform/finder-index.ts';
import { placesOf } from '../platform/places.ts';
import {
  asset,
  contact,
  customer,
  importBefore,
  instantText,
  location,
  meter,
  meterReading,
} from '../platform/tables/index.ts';
import { chunked, writeLocations, type Origin } from './import-assets.ts';

/** A plan ready to be carried out in steps; each step is one transaction. */
export type Prepared = {
  readonly created: Readonly<Record<string, number>>;
  readonly updated: number;
  readonly unchanged: number;
  readonly bad: readonly TableRemark[];
  readonly notes: readonly TableRemark[];
  readonly steps: readonly { readonly rows: number; readonly write: (tx: Tx, origin: Origin) => Promise<void> }[];
};

const STEP = 2500;
/** Up to this many rows all is written in one transaction: all of them or none. */
export const ONE_STEP = 5000;

export function inSteps<T>(rows: readonly T[]): T[][] {
  if (rows.length <= ONE_STEP) return rows.length === 0 ? [] : [[...rows]];
  return Array.from({ length: Math.ceil(rows.length / STEP) }, (_, i) => rows.slice(i * STEP, (i + 1) * STEP));
}

const wordsIn = (rows: readonly TableRow[], column: string): string[] => [
  ...new Set(rows.map((r) => r.cells[column] ?? '').filter((s) => s !== '')),
];

type Subject = 'customer' | 'contact' | 'location';
const TABLES = { customer, contact, location } as const;

/** Carries changes out and keeps what was before. A row changed since the dry run is left to whoever changed it. */
async function change(
  tx: Tx,
  subject: Subject,
  changes: readonly PlannedChange<number>[],
  { importId }: Origin,
): Promise<void> {
  const table = TABLES[subject];
  for (const { id, changes: set } of changes) {
    const [row] = await tx.db
      .select()
      .from(table)
      .where(eq(table.id, id as never))
      .for('update');
    if (!row) continue;
    const held = row as unknown as Record<string, unknown> & { version: number };
    await tx.db
      .update(table)
      .set({ ...set, version: held.version + 1 })
      .where(eq(table.id, id as never));
    if (importId !== null)
      await tx.db.insert(importBefore).values({
        importId,
        subject,
        subjectId: id,
        version: held.version + 1,
        values: Object.fromEntries(Object.keys(set).map((key) => [key, held[key]])),
      });
  }
}

async function customersBy(db: Db, names: readonly string[]) {
  const rows = await chunked(names, (list) => db.select().from(customer).where(inArray(customer.name, list)));
  return new Map(rows.map((r) => [r.name.toLowerCase(), r]));
}

async function prepareCustomers(db: Db, rows: readonly TableRow[]): Promise<Prepared> {
  const plan = planCustomers<CustomerId>(rows, await customersBy(db, wordsIn(rows, 'name')));
  return {
    created: { customers: plan.creates.length },
    updated: plan.updates.length,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: [
      ...inSteps(plan.creates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, { importId }: Origin) => {
          await bulkInsert(
            tx.connection,
            'customer',
            ['name', 'service_address', 'credit_days', 'credit_limit', 'import_id'],
            slice.map((c) => [c.name, c.serviceAddress, c.creditDays, c.creditLimit, importId]),
          );
          const made = await customersBy(
            tx.db,
            slice.map((c) => c.name),
          );
          await indexCustomers(
            tx,
            [...made.values()].map((c) => c.id),
            false,
          );
        },
      })),
      ...inSteps(plan.updates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, origin: Origin) => {
          await change(tx, 'customer', slice, origin);
          await indexCustomers(
            tx,
            slice.map((u) => u.id),
            false,
          );
        },
      })),
    ],
  };
}

async function prepareContacts(db: Db, rows: readonly TableRow[]): Promise<Prepared> {
  const customers = await customersBy(db, wordsIn(rows, 'customer'));
  const held = await chunked([...customers.values()], (list) =>
    db
      .select({ contact, customer: customer.name })
      .from(contact)
      .innerJoin(customer, eq(customer.id, contact.customerId))
      .where(
        inArray(
          contact.customerId,
          list.map((c) => c.id),
        ),
      ),
  );
  const plan = planContacts<ContactId>(
    rows,
    new Set(customers.keys()),
    new Map(held.map((h) => [`${h.customer}|${h.contact.name}`.toLowerCase(), h.contact])),
  );
  const owners = (names: readonly string[]): CustomerId[] => [
    ...new Set(names.flatMap((n) => customers.get(n.toLowerCase())?.id ?? [])),
  ];
  return {
    created: { contacts: plan.creates.length },
    updated: plan.updates.length,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: [
      ...inSteps(plan.creates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, { importId }: Origin) => {
          await bulkInsert(
            tx.connection,
            'contact',
            ['customer_id', 'name', 'role', 'email', 'phone', 'preferred', 'import_id'],
            slice.map((c) => [
              customers.get(c.customer.toLowerCase())?.id,
              c.name,
              c.role,
              c.email,
              c.phone,
              c.preferred,
              importId,
            ]),
          );
          await indexCustomers(tx, owners(slice.map((c) => c.customer)), false);
        },
      })),
      ...inSteps(plan.updates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, origin: Origin) => {
          await change(tx, 'contact', slice, origin);
          const ids = new Set(slice.map((u) => u.id));
          await indexCustomers(
            tx,
            [...new Set(held.filter((h) => ids.has(h.contact.id)).map((h) => h.contact.customerId))],
            false,
          );
        },
      })),
    ],
  };
}

/** New places with the places above them that are not there yet, each once. */
function locationsOf(places: readonly NewPlace[], held: ReadonlySet<string>): PlannedLocation[] {
  const planned = new Map<string, PlannedLocation>();
  const bare = { address: null, zone: null, latitude: null, longitude: null, accessNote: null };
  for (const place of places) {
    const names = namesOf(place.path);
    names.forEach((name, i) => {
      const path = names.slice(0, i + 1).join(SEPARATOR);
      const own = i === names.length - 1;
      if (held.has(path) || (planned.has(path) && !own)) return;
      const { customer: _, ...said } = own ? place : { ...bare, customer: null };
      planned.set(path, {
        ...said,
        path,
        name,
        parentPath: i === 0 ? null : names.slice(0, i).join(SEPARATOR),
      });
    });
  }
  return [...planned.values()];
}

async function preparePlaces(db: Db, rows: readonly TableRow[]): Promise<Prepared> {
  const customers = await customersBy(db, wordsIn(rows, 'customer'));
  const paths = [
    ...new Set(
      wordsIn(rows, 'path').flatMap((path) => {
        const names = namesOf(path);
        return names.map((_, i) => names.slice(0, i + 1).join(SEPARATOR));
      }),
    ),
  ];
  const held = await chunked(paths, (list) => db.select().from(location).where(inArray(location.fullName, list)));
  const plan = planPlaces<LocationId>(rows, new Set(customers.keys()), new Map(held.map((l) => [l.fullName, l])));
  const made = locationsOf(plan.creates, new Set(held.map((l) => l.fullName)));
  const shares = plan.creates.filter((c) => c.customer !== null);
  return {
    created: { places: made.length },
    updated: plan.updates.length,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: [
      ...(made.length === 0
        ? []
        : [
            {
              rows: plan.creates.length,
              write: async (tx: Tx, { importId }: Origin) => {
                const ids = await writeLocations(tx, made, importId);
                if (shares.length > 0)
                  await bulkInsert(
                    tx.connection,
                    'location_share',
                    ['location_id', 'customer_id'],
                    shares.map((s) => [ids.get(s.path), customers.get((s.customer ?? '').toLowerCase())?.id]),
                    'ON DUPLICATE KEY UPDATE location_id = location_id',
                  );
                await indexNewPlaces(
                  tx,
                  made.flatMap((l) => ids.get(l.path) ?? []),
                );
              },
            },
          ]),
      ...inSteps(plan.updates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, origin: Origin) => {
          await change(tx, 'location', slice, origin);
          const changed = held.filter((l) => slice.some((u) => u.id === l.id && 'address' in u.changes));
          for (const batch of inSteps(changed))
            await indexPlaces(
              tx,
              batch.map((l) => l.path),
            );
        },
      })),
    ],
  };
}

async function assetsByTag(db: Db, tags: readonly string[]) {
  return chunked(tags, (list) =>
    db
      .select({ id: asset.id, tag: asset.tag, locationId: asset.locationId, path: location.path })
      .from(asset)
      .leftJoin(location, eq(location.id, asset.locationId))
      .where(inArray(asset.tag, list)),
  );
}

async function prepareMeters(db: Db, rows: readonly TableRow[]): Promise<Prepared> {
  const assets = await assetsByTag(db, wordsIn(rows, 'tag'));
  const tagOf = new Map(assets.map((a) => [a.id, a.tag]));
  const meters = await chunked(
    assets.map((a) => a.id),
    (ids) => db.select().from(meter).where(inArray(meter.assetId, ids)),
  );
  const plan = planMeters<AssetId>(
    rows,
    new Map(assets.map((a) => [a.tag, a.id])),
    new Map(meters.map((m) => [`${tagOf.get(m.assetId)}|${m.name}`.toLowerCase(), m])),
  );
  return {
    created: { meters: plan.creates.length },
    updated: 0,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: inSteps(plan.creates).map((slice) => ({
      rows: slice.length,
      write: async (tx: Tx, { importId }: Origin) => {
        await bulkInsert(
          tx.connection,
          'meter',
          ['asset_id', 'name', 'unit', 'import_id'],
          slice.map((m) => [m.assetId, m.name, m.unit, importId]),
        );
      },
    })),
  };
}

async function prepareReadings(
  db: Db,
  rows: readonly TableRow[],
  settings: ImportSettings,
  now: Instant,
  fallbackZone: string,
): Promise<Prepared> {
  const assets = await assetsByTag(db, wordsIn(rows, 'tag'));
  const [places, meters] = await Promise.all([
    placesOf(
      db,
      assets.map((a) => ({ id: a.locationId, path: a.path })),
    ),
    chunked(
      assets.map((a) => a.id),
      (ids) => db.select().from(meter).where(inArray(meter.assetId, ids)),
    ),
  ]);
  const readings = await chunked(
    meters.map((m) => m.id),
    (ids) =>
      db
        .select({
          meterId: meterReading.meterId,
          at: meterReading.at,
          value: meterReading.value,
          anew: meterReading.anew,
        })
        .from(meterReading)
        .where(and(inArray(meterReading.meterId, ids), eq(meterReading.struckOut, false)))
        .orderBy(meterReading.at, meterReading.id),
  );
  const readingsOf = new Map<MeterId, { at: Instant; value: number }[]>();
  // Since a counter last began anew.
  for (const { meterId, at, value, anew } of readings)
    readingsOf.set(meterId, [...(anew ? [] : (readingsOf.get(meterId) ?? [])), { at, value }]);
  const assetOf = new Map(assets.map((a) => [a.id, a]));
  const held = new Map<string, HeldMeter<MeterId>>();
  for (const m of meters) {
    const of = assetOf.get(m.assetId);
    if (of)
      held.set(`${of.tag}|${m.name}`.toLowerCase(), {
        id: m.id,
        zone: places.of(of.locationId).zone ?? asZone(fallbackZone),
        readings: readingsOf.get(m.id) ?? [],
      });
  }
  const plan = planReadings<MeterId>(rows, held, settings.dateFormat, now);
  return {
    created: { readings: plan.creates.length },
    updated: 0,
    unchanged: plan.unchanged,
    bad: plan.bad,
    notes: [],
    steps: inSteps(plan.creates).map((slice) => ({
      rows: slice.length,
      write: async (tx: Tx, { importId, who }: Origin) => {
        await bulkInsert(
          tx.connection,
          'meter_reading',
          ['meter_id', 'at', 'value', 'source', 'person_id', 'import_id'],
          slice.map((r) => [r.meterId, instantText(r.at), r.value, 'import', who.id, importId]),
        );
      },
    })),
  };
}

export function prepareTable(
  db: Db,
  kind: 'customers' | 'contacts' | 'locations' | 'meters' | 'readings',
  rows: readonly TableRow[],
  settings: ImportSettings,
  now: Instant,
  zone: string,
): Promise<Prepared> {
  switch (kind) {
    case 'customers':
      return prepareCustomers(db, rows);
    case 'contacts':
      return prepareContacts(db, rows);
    case 'locations':
      return preparePlaces(db, rows);
    case 'meters':
      return prepareMeters(db, rows);
    case 'readings':
      return prepareReadings(db, rows, settings, now, zone);
  }
}
