// Sessions in the database: revocable, and good for several servers.
import { createHash } from 'node:crypto';
import type { SessionStore } from '@fastify/session';
import { and, eq, lt, sql } from 'drizzle-orm';
import type { PersonId } from '#core/ids.ts';
import { instant } from '#core/time/index.ts';
import { prepared, type Database } from './database.ts';
import type { Person } from './http.ts';
import { person, session } from './tables.ts';

declare module 'fastify' {
  interface Session {
    personId?: PersonId;
    /** Who that is now; null: they work here no more. Read with the session at each request, and never kept in it. */
    person?: Person | null;
  }
}

export const SESSION_HOURS = 12;

/** The cookie's id never stands in the database as it is. */
const rowIdOf = (sessionId: string): string => createHash('sha256').update(sessionId).digest('hex');

/** With who it is of: nearly every request asks for both. */
const sessionOf = prepared((db) =>
  db
    .select({
      ...{ data: session.data, expiresAt: session.expiresAt },
      person: { id: person.id, name: person.name, email: person.email, role: person.role, zone: person.zone },
    })
    .from(session)
    .leftJoin(person, and(eq(person.id, session.personId), eq(person.active, true)))
    .where(eq(session.id, sql.placeholder('id')))
    .prepare(),
);

export function sessionStore(database: Database): SessionStore {
  const { db } = database;
  return {
    set(sessionId, data, callback) {
      const { personId, person: _, ...kept } = data;
      const row = {
        id: rowIdOf(sessionId),
        personId: personId ?? null,
        data: JSON.parse(JSON.stringify({ ...kept, personId })) as Record<string, unknown>,
        expiresAt: instant(Date.now() + SESSION_HOURS * 3_600_000),
      };
      db.insert(session)
        .values(row)
        .onDuplicateKeyUpdate({ set: { personId: row.personId, data: row.data, expiresAt: row.expiresAt } })
        .then(() => callback(), callback);
    },
    get(sessionId, callback) {
      sessionOf(db)
        .execute({ id: rowIdOf(sessionId) })
        .then(
          ([row]) => {
            const isGood = row !== undefined && row.expiresAt > Date.now();
            callback(null, isGood ? ({ ...row.data, person: row.person } as never) : null);
          },
          (error: unknown) => callback(error),
        );
    },
    destroy(sessionId, callback) {
      db.delete(session)
        .where(eq(session.id, rowIdOf(sessionId)))
        .then(() => callback(), callback);
    },
  };
}

/** Sessions past their time, removed now and then. */
export async function sweepSessions(database: Database): Promise<void> {
  await database.db.delete(session).where(lt(session.expiresAt, instant(Date.now())));
}
