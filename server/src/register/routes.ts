// The register's routes: everybody signed in may look; coordinators, managers and administrators change.
import { and, eq } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/register.ts';
import { localDateAt, parseZone } from '#core/time/index.ts';
import { isTaken } from '../platform/database.ts';
import { note } from '../platform/audit.ts';
import { indexAssets, indexPlaces } from '../platform/finder-index.ts';
import { serve, type House } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { asset, assetEvent, location } from '../platform/tables/index.ts';
import { importRegister, plainSerial, previewRegister } from './import.ts';
import { readAsset } from './asset-page.ts';
import { find } from './find.ts';
import { listAssets, listCustomers, readTree } from './lists.ts';

const WRITERS = ['coordinator', 'manager', 'administrator'] as const;
const PAGE = 60;

export const registerRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    const { db } = database;
    serve(app, house, contracts.listCustomers, 'signed in', ({ query }) =>
      listCustomers(db, query.after, query.limit ?? 200),
    );
    serve(app, house, contracts.readTree, 'signed in', ({ params }) => readTree(db, params.id));
    serve(app, house, contracts.listAssets, 'signed in', ({ query, now, who }) =>
      listAssets(db, query, query.after, query.limit ?? PAGE, localDateAt(who.zone, now), now),
    );
    serve(app, house, contracts.readAsset, 'signed in', ({ params, now, who }) =>
      readAsset(db, params.id, now, who.zone),
    );
    serve(app, house, contracts.find, 'signed in', ({ query, now, who }) =>
      find(database, query.q, localDateAt(who.zone, now), now),
    );

    serve(app, house, contracts.changeAsset, WRITERS, async ({ params, body, who, now }) => {
      try {
        return await database.transact(async (tx) => {
          const [row] = await tx.db.select().from(asset).where(eq(asset.id, params.id)).for('update');
          if (!row) refuse('not-found', 'That asset does not exist.');
          if (row.version !== body.version) stale(row);
          const { version: _, ...fields } = body;
          const changed = (Object.keys(fields) as (keyof typeof fields)[]).filter((key) => row[key] !== fields[key]);
          if (changed.length === 0) return { version: row.version };
          await tx.db
            .update(asset)
            .set({ ...fields, serialPlain: plainSerial(fields.serial), version: row.version + 1 })
            .where(eq(asset.id, params.id));
          await indexAssets(tx, [params.id]);
          const text = changed
            .map(
              (key) =>
                `${key === 'warrantyUntil' ? 'warranty until' : key} ${row[key] ?? 'none'} → ${fields[key] ?? 'none'}`,
            )
            .join('; ');
          await tx.db.insert(assetEvent).values({
            assetId: params.id,
            kind: fields.state === 'retired' && row.state !== 'retired' ? 'retired' : 'changed',
            at: now,
            recordedAt: now,
            personId: who.id,
            text,
          });
          await note(tx, who, 'asset', params.id, text);
          await announce(tx, 'register');
          return { version: row.version + 1 };
        });
      } catch (error) {
        if (!isTaken(error)) throw error;
        const [other] = await db.select({ id: asset.id, tag: asset.tag }).from(asset).where(eq(asset.tag, body.tag));
        if (other && other.id !== params.id) refuse('taken', `The tag ${body.tag} belongs to another asset.`, 'tag');
        refuse('taken', `That serial belongs to another asset of the same maker.`, 'serial');
      }
    });

    serve(app, house, contracts.changeLocation, WRITERS, ({ params, body, who }) =>
      database.transact(async (tx) => {
        const [row] = await tx.db.select().from(location).where(eq(location.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That place does not exist.');
        if (row.version !== body.version) stale(row);
        const zone = body.zone === null || body.zone === '' ? null : parseZone(body.zone);
        if (body.zone && !zone)
          refuse('invalid', `“${body.zone}” is not a known time zone; use a name such as Europe/Lisbon.`, 'zone');
        const name = body.name.replaceAll('>', '-');
        await tx.db
          .update(location)
          .set({ name, address: body.address || null, zone, version: row.version + 1 })
          .where(and(eq(location.id, params.id)));
        if (name !== row.name) {
          const renamed = row.fullName.slice(0, row.fullName.length - row.name.length) + name;
          await tx.connection.query(
            'UPDATE location SET full_name = CONCAT(?, SUBSTRING(full_name, ?)) WHERE path LIKE ?',
            [renamed, [...row.fullName].length + 1, `${row.path}%`],
          );
        }
        await indexPlaces(tx, [row.path]);
        await note(
          tx,
          who,
          'location',
          params.id,
          `name ${name}, address ${body.address ?? 'inherited'}, zone ${zone ?? 'inherited'}`,
        );
        await announce(tx, 'register');
        return { version: row.version + 1 };
      }),
    );

    serve(app, house, contracts.previewImport, WRITERS, ({ body, now, who }) =>
      previewRegister(db, body.text, localDateAt(who.zone, now)),
    );
    serve(app, house, contracts.runImport, WRITERS, ({ body, now, who }) =>
      importRegister(database, who, body.fileName, body.text, now, localDateAt(who.zone, now)),
    );
  },
  { name: 'stavok-register-routes', dependencies: ['stavok-authentication'] },
);
