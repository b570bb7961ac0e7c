// Places: adding, changing, moving, merging, retiring and sharing the nodes of the tree.
import { and, count, eq, like, ne, sql } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/places.ts';
import type { LocationId } from '#core/ids.ts';
import { toGeoJson } from '#core/places/index.ts';
import { localDateAt } from '#core/time/index.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { customer } from '../customers/tables.ts';
import { location, locationShare } from './tables.ts';
import { asset } from '../assets/tables.ts';

import { fieldsOf, lockPlace, mergeIn, moveIn, siblingsOf } from './acts.ts';
import { idsOf, readPlace, readTree, sitesOf } from './queries.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import { indexNewPlaces } from './finder.ts';

export const placeRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.readTree, ({ params }) => readTree(db, params.id));
    serve(app, house, contracts.readPlace, ({ params }) => readPlace(db, params.id));
    serve(app, house, contracts.listSites, async ({ params }) => {
      const items = await sitesOf(db, params.id);
      const { nodes } = await readTree(db, params.id);
      const ids = new Set(items.map((i) => i.id as number));
      return { items, without: nodes.filter((n) => n.parentId === null && !ids.has(n.id)).length };
    });
    serve(app, house, contracts.sitesGeoJson, async ({ params, reply }) => {
      const sites = await sitesOf(db, params.id);
      void reply
        .type('application/geo+json')
        .header('content-disposition', `attachment; filename="sites-${params.id}.geojson"`);
      return toGeoJson(
        sites.map(({ latitude, longitude, ...properties }) => ({ latitude, longitude, properties })),
      ) as never;
    });

    serve(app, house, contracts.addLocation, ({ body, write }) =>
      write(async (tx, told) => {
        const fields = await fieldsOf(tx, body);
        const [parent] =
          body.parentId === null
            ? []
            : await tx.db.select().from(location).where(eq(location.id, body.parentId)).for('update');
        if (body.parentId !== null && !parent)
          refuse('not-found', 'That place does not exist; choose another.', 'parentId');
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
      }),
    );

    serve(app, house, contracts.changeLocation, ({ params, body, write }) =>
      write(async (tx, told) => {
        const row = await lockPlace(tx, params.id, body.version);
        const fields = await fieldsOf(tx, body);
        const siblings = await siblingsOf(tx, row.parentId, row.id);
        if (siblings.some((s) => s.toLowerCase() === fields.name.toLowerCase()))
          refuse('taken', `There is a “${fields.name}” at that level already; merge the two instead.`, 'name');
        await tx.db
          .update(location)
          .set({ ...fields, version: row.version + 1 })
          .where(eq(location.id, params.id));
        if (fields.name !== row.name) {
          const renamed = row.fullName.slice(0, row.fullName.length - row.name.length) + fields.name;
          await tx.connection.query(
            'UPDATE location SET full_name = CONCAT(?, SUBSTRING(full_name, ?)) WHERE path LIKE ?',
            [renamed, [...row.fullName].length + 1, `${row.path}%`],
          );
        }
        if (fields.name !== row.name || fields.address !== row.address)
          await keepRenamed(tx, house.found, { places: [row.path] });
        told({
          subject: 'location',
          id: params.id,
          text: (Object.keys(fields) as (keyof typeof fields)[])
            .filter((k) => fields[k] !== row[k])
            .map((k) => `${k} ${row[k] ?? 'inherited'} → ${fields[k] ?? 'inherited'}`)
            .join('; '),
        });
        return { version: row.version + 1 };
      }),
    );

    serve(app, house, contracts.moveLocation, ({ params, body, write }) =>
      write(async (tx, told) => {
        const { row, to } = await moveIn(tx, house.found, params.id, body);
        told({ subject: 'location', id: params.id, text: `moved ${row.fullName} to ${to}` });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.mergeLocation, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        const { row, to } = await mergeIn(tx, house, params.id, body, localDateAt(who.zone, now), {
          id: who.id,
          now,
        });
        told({ subject: 'location', id: params.id, text: `merged ${row.fullName} into ${to}` });
        return { done: true as const };
      }),
    );

    serve(app, house, contracts.retireLocation, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        const row = await lockPlace(tx, params.id, body.version);
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
          if (parent?.retiredOn)
            refuse('conflict', `“${parent.name}” above it is retired; take that back into use first.`);
        }
        await tx.db
          .update(location)
          .set({ retiredOn: body.retire ? localDateAt(who.zone, now) : null, version: sql`${location.version} + 1` })
          .where(body.retire ? below : eq(location.id, row.id));
        await keepRenamed(tx, house.found, { places: [row.path] });
        told({
          subject: 'location',
          id: params.id,
          text: body.retire ? `retired ${row.fullName}` : `took ${row.fullName} back into use`,
        });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.shareLocation, ({ params, body, write }) =>
      write(async (tx, told) => {
        const [row] = await tx.db.select().from(location).where(eq(location.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That place does not exist.');
        const [owner] = await tx.db.select().from(customer).where(eq(customer.id, body.customerId));
        if (!owner) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
        if (body.share)
          await tx.db
            .insert(locationShare)
            .values({ locationId: params.id, customerId: body.customerId })
            .onDuplicateKeyUpdate({ set: { locationId: params.id } });
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
            .where(and(eq(locationShare.locationId, params.id), eq(locationShare.customerId, body.customerId)));
        }
        told({
          subject: 'location',
          id: params.id,
          text: `${body.share ? 'shared with' : 'no longer shared with'} ${owner.name}`,
        });
        return { done: true as const };
      }),
    );
  },
  { name: 'stavok-place-routes', dependencies: ['stavok-authentication'] },
);
