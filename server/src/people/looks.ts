// How each person likes their tables, kept with them wherever they sign in.
import { and, count, eq, ne } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/house.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { tableLook } from '../platform/tables.ts';

/** More tables than there are: nobody fills the database with names of their own. */
const TABLES_KEPT = 100;

export const lookRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { database } = house;
    serve(app, house, contracts.readTableLooks, async ({ who }) => {
      const rows = await database.db.select().from(tableLook).where(eq(tableLook.personId, who.id));
      return Object.fromEntries(rows.map((r) => [r.name, r.look]));
    });
    serve(app, house, contracts.keepTableLook, ({ params, body, who }) =>
      database.transact(async (tx) => {
        const [others] = await tx.db
          .select({ n: count() })
          .from(tableLook)
          .where(and(eq(tableLook.personId, who.id), ne(tableLook.name, params.name)));
        if ((others?.n ?? 0) >= TABLES_KEPT) refuse('conflict', 'So many tables are kept already that no more can be.');
        await tx.db
          .insert(tableLook)
          .values({ personId: who.id, name: params.name, look: body })
          .onDuplicateKeyUpdate({ set: { look: body } });
        return { done: true as const };
      }),
    );
  },
  { name: 'stavok-table-look-routes', dependencies: ['stavok-authentication'] },
);
