// Signing in and out.
import { asc, eq } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/session.ts';
import type { FastifyReply, FastifyRequest } from 'fastify';
import { passwordFits } from '../platform/auth.ts';
import { throttled } from './throttle.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { calendar } from '../calendars/tables.ts';
import { person } from '../platform/tables.ts';

/** A hash of nothing anybody types: unknown addresses cost the same time as wrong passwords. */
const DECOY = '$argon2id$v=19$m=19456,t=2,p=1$c3Rhdm9rZGVjb3lzYWx0$6Yx0m0r3mQk0m1kT3dM0Q7rJ8m0gkq0m3x3p8S1vN0E';

export const sessionRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    async function describe(request: FastifyRequest, reply: FastifyReply): Promise<contracts.Session> {
      // A visitor gets no session: reading the page writes no row.
      const csrf = request.person ? reply.generateCsrf() : '';
      const demo = house.config.demo
        ? await db
            .select({ name: person.name, email: person.email, role: person.role })
            .from(person)
            .where(eq(person.active, true))
            .orderBy(person.id)
            .limit(20)
        : null;
      const who = request.person;
      const zones = who
        ? await db.selectDistinct({ zone: calendar.zone }).from(calendar).orderBy(asc(calendar.zone)).limit(20)
        : [];
      return {
        person: who && { id: who.id, name: who.name, email: who.email, role: who.role, zone: who.zone },
        csrf,
        now: house.readNow(),
        fixedNow: house.config.fixedNow !== null,
        zones: zones.map((z) => z.zone),
        demo,
      };
    }

    async function enter(
      request: FastifyRequest,
      reply: FastifyReply,
      row: typeof person.$inferSelect,
    ): Promise<contracts.Session> {
      await request.session.regenerate();
      request.session.personId = row.id;
      request.person = { id: row.id, name: row.name, email: row.email, role: row.role, zone: row.zone };
      request.log.info({ person: row.id }, 'signed in');
      return describe(request, reply);
    }

    serve(app, house, contracts.readSession, ({ request, reply }) => describe(request, reply));

    serve(app, house, contracts.signIn, async ({ body, request, reply }) => {
      const [row] = await db.select().from(person).where(eq(person.email, body.email));
      const fits = await throttled(
        house.database,
        body.email,
        request.ip,
        async () => (await passwordFits(row?.passwordHash ?? DECOY, body.password)) && row?.active === true,
      );
      if (!row || !fits) refuse('signed-out', 'E-mail address or password is wrong.', 'password');
      return enter(request, reply, row);
    });

    serve(app, house, contracts.signInDemo, async ({ body, request, reply }) => {
      if (!house.config.demo) refuse('not-allowed', 'One-click sign-in exists in the demo only.');
      const [row] = await db.select().from(person).where(eq(person.email, body.email));
      if (!row?.active) refuse('not-found', 'There is no such demo person, or they are shut out.', 'email');
      return enter(request, reply, row);
    });

    serve(app, house, contracts.signOut, async ({ request }) => {
      await request.session.destroy();
      return { done: true as const };
    });
  },
  { name: 'stavok-session-routes', dependencies: ['stavok-authentication'] },
);
