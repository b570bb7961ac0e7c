// What is done to one place: added, changed, retired and taken back, shared with a customer. Moving and merging stand in acts.ts.
import { and, count, eq, like, ne, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type * as contracts from '#api/places.ts';
import type { LocationId } from '#core/ids.ts';
import type { LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import type { Tx } from '../platform/database.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import type { FinderSource } from '../platform/finder-source.ts';
import { refuse } from '../platform/refuse.ts';
import type { Told } from '../platform/writing.ts';
import { fieldsOf, lockPlace, siblingsOf } from './acts.ts';
import { indexNewPlaces } from './finder.ts';
import { idsOf } from './queries.ts';
import { location, locationShare } from './tables.ts';

type Body<C extends keyof typeof contracts> = Asked<(typeof contracts)[C]> extends { body: infer T } ? T : never;

export async function addPlace(tx: Tx, body: Body<'addLocation'>, told: Told) {
  const fields = await fieldsOf(tx, body);
  const [parent] =
    body.parentId === null
      ? []
      : await tx.db.select().from(location).where(eq(location.id, body.parentId)).for('update');
  if (body.parentId !== null && !parent) refuse('not-found', 'That place does not exist; choose another.', 'parentId');
  if (parent?.retiredOn) refuse('conflict', `“${parent.name}” is retired; choose a place in use.`, 'parentId');
  if (parent && idsOf(parent.path).length >= 12)
    refuse('too-large', 'At most 12 levels are kept; add it higher up.', 'parentId');
  const siblings = await siblingsOf(tx, body.parentId, null);
  if (siblings.some((s) => s.toLowerCase() === fields.name.toLowerCase()))
    refuse('taken', `There is a “${fields.name}” at that level already.`, 'name');
  const [owner] = await tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, body.customerId));
  if (!owner) refuse('not-found', 'That customer does not exist.', 'customerId');
  const [made] = await tx.db
    .insert(location)
    .values({
      ...fields,
      parentId: parent?.id ?? null,
      path: '',
      fullName: parent ? `${parent.fullName} > ${fields.name}` : fields.name,
    })
    .$returningId();
  const id = made?.id as LocationId;
  await tx.db
    .update(location)
    .set({ path: `${parent?.path ?? '/'}${id}/` })
    .where(eq(location.id, id));
  if (!parent) await tx.db.insert(locationShare).values({ locationId: id, customerId: body.customerId });
  await indexNewPlaces(tx, [id]);
  told({ subject: 'location', id, text: `added ${fields.name}` });
  return { id };
}

export async function changePlace(
  tx: Tx,
  id: LocationId,
  body: Body<'changeLocation'>,
  found: readonly FinderSource[],
  told: Told,
) {
  const row = await lockPlace(tx, id, body.version);
  const fields = await fieldsOf(tx, body);
  const siblings = await siblingsOf(tx, row.parentId, row.id);
  if (siblings.some((s) => s.toLowerCase() === fields.name.toLowerCase()))
    refuse('taken', `There is a “${fields.name}” at that level already; merge the two instead.`, 'name');
  await tx.db
    .update(location)
    .set({ ...fields, version: row.version + 1 })
    .where(eq(location.id, id));
  if (fields.name !== row.name) {
    const renamed = row.fullName.slice(0, row.fullName.length - row.name.length) + fields.name;
    await tx.connection.query('UPDATE location SET full_name = CONCAT(?, SUBSTRING(full_name, ?)) WHERE path LIKE ?', [
      renamed,
      [...row.fullName].length + 1,
      `${row.path}%`,
    ]);
  }
  if (fields.name !== row.name || fields.address !== row.address) await keepRenamed(tx, found, { places: [row.path] });
  told({
    subject: 'location',
    id,
    text: (Object.keys(fields) as (keyof typeof fields)[])
      .filter((k) => fields[k] !== row[k])
      .map((k) => `${k} ${row[k] ?? 'inherited'} → ${fields[k] ?? 'inherited'}`)
      .join('; '),
  });
  return { version: row.version + 1 };
}

/** Refused while machines stand there or below. */
export async function retirePlace(
  tx: Tx,
  id: LocationId,
  body: Body<'retireLocation'>,
  today: LocalDate,
  found: readonly FinderSource[],
  told: Told,
) {
  const row = await lockPlace(tx, id, body.version);
  const below = and(like(location.path, `${row.path}%`));
  if (body.retire) {
    const [standing] = await tx.db
      .select({ n: count() })
      .from(asset)
      .innerJoin(location, eq(location.id, asset.locationId))
      .where(and(below, ne(asset.state, 'retired')));
    if (standing && standing.n > 0)
      refuse(
        'conflict',
        `${standing.n} ${standing.n === 1 ? 'asset stands' : 'assets stand'} there; move, remove or scrap ${standing.n === 1 ? 'it' : 'them'} first.`,
      );
  } else if (row.parentId !== null) {
    const [parent] = await tx.db.select().from(location).where(eq(location.id, row.parentId));
    if (parent?.retiredOn) refuse('conflict', `“${parent.name}” above it is retired; take that back into use first.`);
  }
  await tx.db
    .update(location)
    .set({ retiredOn: body.retire ? today : null, version: sql`${location.version} + 1` })
    .where(body.retire ? below : eq(location.id, row.id));
  await keepRenamed(tx, found, { places: [row.path] });
  told({
    subject: 'location',
    id,
    text: body.retire ? `retired ${row.fullName}` : `took ${row.fullName} back into use`,
  });
  return { done: true as const };
}

export async function sharePlace(tx: Tx, id: LocationId, body: Body<'shareLocation'>, told: Told) {
  const [row] = await tx.db.select().from(location).where(eq(location.id, id)).for('update');
  if (!row) refuse('not-found', 'That place does not exist.');
  const [owner] = await tx.db.select().from(customer).where(eq(customer.id, body.customerId));
  if (!owner) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
  if (body.share)
    await tx.db
      .insert(locationShare)
      .values({ locationId: id, customerId: body.customerId })
      .onDuplicateKeyUpdate({ set: { locationId: id } });
  else {
    const [standing] = await tx.db
      .select({ n: count() })
      .from(asset)
      .innerJoin(location, eq(location.id, asset.locationId))
      .where(and(like(location.path, `${row.path}%`), eq(asset.customerId, body.customerId)));
    if (standing && standing.n > 0)
      refuse('conflict', `${owner.name} has ${standing.n} assets there; move them first.`, 'customerId');
    await tx.db
      .delete(locationShare)
      .where(and(eq(locationShare.locationId, id), eq(locationShare.customerId, body.customerId)));
  }
  told({
    subject: 'location',
    id,
    text: `${body.share ? 'shared with' : 'no longer shared with'} ${owner.name}`,
  });
  return { done: true as const };
}
