// Importing customers, contacts and places: what the register holds of them, and writing the core’s plans.
import { eq, inArray } from 'drizzle-orm';
import type { ContactId, CustomerId, LocationId } from '#core/ids.ts';
import {
  namesOf,
  planContacts,
  planCustomers,
  planPlaces,
  SEPARATOR,
  type ImportKind,
  type ImportSettings,
  type NewPlace,
  type PlannedLocation,
  type TableRow,
} from '#core/imports/index.ts';
import type { Instant } from '#core/time/index.ts';
import { bulkInsert, type Db, type Tx } from '../platform/database.ts';
import { assetsFound } from '../assets/index.ts';
import { indexCustomers } from '../customers/index.ts';
import { contact, customer } from '../customers/tables.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import { indexNewPlaces, placesFound } from '../places/index.ts';
import { location } from '../places/tables.ts';
import { writeLocations, type Origin } from './assets.ts';
import { chunked } from './held.ts';
import { prepareMeters, prepareReadings } from './meters.ts';
import { prepareAbsences, prepareTravelTimes } from './rota.ts';
import { change } from './changes.ts';
import { inSteps, wordsIn, type Prepared } from './steps.ts';

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
          await indexCustomers(tx, owners(slice.map((c) => c.customer)));
        },
      })),
      ...inSteps(plan.updates).map((slice) => ({
        rows: slice.length,
        write: async (tx: Tx, origin: Origin) => {
          await change(tx, 'contact', slice, origin);
          const ids = new Set(slice.map((u) => u.id));
          await indexCustomers(tx, [
            ...new Set(held.filter((h) => ids.has(h.contact.id)).map((h) => h.contact.customerId)),
          ]);
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
            await keepRenamed(tx, [placesFound, assetsFound], { places: batch.map((l) => l.path) });
        },
      })),
    ],
  };
}

export function prepareTable(
  db: Db,
  kind: Exclude<ImportKind, 'assets' | 'agreements'>,
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
    case 'absences':
      return prepareAbsences(db, rows, settings, now);
    case 'travel times':
      return prepareTravelTimes(db, rows);
  }
}
