// What the register holds of the customers, places, tags and serials that a file of assets names.
import { eq, inArray, type SQL } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { LocationId } from '#core/ids.ts';
import { namesOf, SEPARATOR, serialKey, type HeldRegister, type RegisterRow } from '#core/imports/index.ts';
import type { Db } from '../platform/database.ts';
import { assetClass } from '../catalogue/tables.ts';
import { customer } from '../customers/tables.ts';
import { location, locationShare } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';

const IN_CHUNK = 2000;

export async function chunked<T, R>(values: readonly T[], ask: (slice: T[]) => Promise<R[]>): Promise<R[]> {
  const found: R[] = [];
  for (let i = 0; i < values.length; i += IN_CHUNK) found.push(...(await ask(values.slice(i, i + IN_CHUNK))));
  return found;
}

/** Every place on the way down each row’s path. */
function pathsOf(rows: readonly RegisterRow[]): string[] {
  const paths = new Set<string>();
  for (const { cells } of rows) {
    const names = namesOf(cells.location_path);
    const whole = names.length > 0 ? names : cells.address === '' ? [] : [cells.address.replaceAll('>', '-')];
    whole.forEach((_, i) => paths.add(whole.slice(0, i + 1).join(SEPARATOR)));
  }
  return [...paths];
}

/** What the register holds of the customers, places, tags and serials that the file names. */
export async function loadHeld(db: Db, rows: readonly RegisterRow[]): Promise<HeldRegister> {
  const distinct = (pick: (r: RegisterRow) => string): string[] => [...new Set(rows.map(pick).filter((s) => s !== ''))];
  const customers = await chunked(
    distinct((r) => r.cells.customer),
    (names) => db.select({ name: customer.name }).from(customer).where(inArray(customer.name, names)),
  );
  const classes = await chunked(
    distinct((r) => r.cells.class),
    (names) => db.select({ name: assetClass.name }).from(assetClass).where(inArray(assetClass.name, names)),
  );
  const places = await chunked(pathsOf(rows), (paths) =>
    db
      .select({ id: location.id, fullName: location.fullName, zone: location.zone, address: location.address })
      .from(location)
      .where(inArray(location.fullName, paths)),
  );
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
  const parent = alias(asset, 'parent');
  const held = (where: SQL) =>
    db
      .select({
        tag: asset.tag,
        maker: asset.maker,
        serial: asset.serial,
        customer: customer.name,
        className: assetClass.name,
        model: asset.model,
        owner: asset.owner,
        commissioned: asset.commissioned,
        warrantyUntil: asset.warrantyUntil,
        locationPath: location.fullName,
        parentTag: parent.tag,
      })
      .from(asset)
      .innerJoin(customer, eq(customer.id, asset.customerId))
      .innerJoin(assetClass, eq(assetClass.id, asset.classId))
      .leftJoin(location, eq(location.id, asset.locationId))
      .leftJoin(parent, eq(parent.id, asset.parentId))
      .where(where);
  const byTag = await chunked([...new Set(tags)], (list) => held(inArray(asset.tag, list)));
  const bySerial = await chunked(
    distinct((r) => r.cells.serial),
    (list) => held(inArray(asset.serial, list)),
  );
  return {
    customers: new Set(customers.map((c) => c.name)),
    classes: new Set(classes.map((c) => c.name.toLowerCase())),
    locations: new Map(
      places.map((p) => [
        p.fullName,
        { zone: p.zone, address: p.address, customers: sharing.get(p.id) ?? new Set<string>() },
      ]),
    ),
    tags: new Map([...bySerial, ...byTag].map((a) => [a.tag, a])),
    serials: new Map([...byTag, ...bySerial].map((a) => [serialKey(a.maker, a.serial), a.tag])),
  };
}
