// Who asks: signed session cookies, CSRF tokens for every change, gateway keys for readings.
import { createHash, randomBytes } from 'node:crypto';
import cookie from '@fastify/cookie';
import csrf from '@fastify/csrf-protection';
import session from '@fastify/session';
import { hash, verify } from '@node-rs/argon2';
import { and, eq, gt, or } from 'drizzle-orm';
import fp from 'fastify-plugin';
import { refusal } from '#core/refusal.ts';
import type { House } from './http.ts';
import { Refused } from './refuse.ts';
import { SESSION_HOURS, sessionStore } from './sessions.ts';
import { gateway } from './tables.ts';

/** argon2id, OWASP's first recommendation: 19 MiB, 2 passes, 1 lane. */
const ARGON = { algorithm: 2, memoryCost: 19_456, timeCost: 2, parallelism: 1 } as const;

export const hashPassword = (password: string): Promise<string> => hash(password, ARGON);

export async function passwordFits(stored: string, password: string): Promise<boolean> {
  return verify(stored, password).catch(() => false);
}

export const hashKey = (key: string): string => createHash('sha256').update(key).digest('hex');
/** A secret that is told once; the prefix tells what it opens. */
export const newKey = (prefix: 'gw' | 'cal'): string => `${prefix}_${randomBytes(24).toString('base64url')}`;

const SAFE = new Set(['GET', 'HEAD', 'OPTIONS']);

export const authentication = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    await app.register(cookie);
    await app.register(session, {
      secret: house.config.sessionSecret,
      cookieName: 'stavok',
      store: sessionStore(house.database),
      saveUninitialized: false,
      rolling: false,
      // Below /api only: a late answer to a file request made with the cookie of before signing in would clear the new one.
      cookie: { httpOnly: true, sameSite: 'lax', secure: 'auto', path: '/api', maxAge: SESSION_HOURS * 3_600_000 },
    });
    await app.register(csrf, {
      sessionPlugin: '@fastify/session',
      getToken: (request) => request.headers['x-csrf-token'] as string | undefined,
    });
    app.decorateRequest('person', null);
    app.decorateRequest('gatewayName', null);

    app.addHook('onRequest', async (request) => {
      const given = request.headers.authorization;
      if (given !== undefined) {
        const bearer = /^Bearer (gw_[A-Za-z0-9_-]{20,60})$/i.exec(given.trim())?.[1];
        const [row] = bearer
          ? await db
              .select({ name: gateway.name })
              .from(gateway)
              .where(
                and(
                  eq(gateway.active, true),
                  or(
                    eq(gateway.keyHash, hashKey(bearer)),
                    and(eq(gateway.formerHash, hashKey(bearer)), gt(gateway.formerUntil, house.readNow())),
                  ),
                ),
              )
          : [];
        if (!row)
          throw new Refused([
            refusal(
              'signed-out',
              'This gateway key is not known or is shut out. Send “Authorization: Bearer gw_…” with a key from Setup → Gateways.',
            ),
          ]);
        request.gatewayName = row.name;
        return;
      }
      request.person = request.session.person ?? null;
    });

    app.addHook('preHandler', (request, reply, next) => {
      // A gateway's key is no cookie, so another site cannot make a browser send it.
      if (SAFE.has(request.method) || request.gatewayName !== null || !request.url.startsWith('/api/')) return next();
      if (request.person === null) {
        // Signing in needs no token: there is no session yet that another site could use.
        if (request.url.startsWith('/api/session')) return next();
        return next(
          new Refused([
            refusal('not-allowed', 'You are not signed in any more; sign in and repeat the step.'),
          ]) as never,
        );
      }
      const outOfDate = refusal('not-allowed', 'This page is out of date; load it again and repeat the step.');
      app.csrfProtection(request, reply, (error?: unknown) =>
        next(error ? (new Refused([outOfDate]) as never) : undefined),
      );
    });
  },
  { name: 'stavok-authentication' },
);
