// Sessions in the database: revocable, and good for several servers.
import { createHash } from 'node:crypto';
import type { SessionStore } from '@fastify/session';
import { eq, lt, sql } from 'drizzle-orm';
import type { PersonId } from '#core/ids.ts';
import { instant } from '#core/time/index.ts';
import { prepared, type Database } from './database.ts';
import { session } from './tables.ts';

declare module 'fastify' {
  interface Session {
    personId?: PersonId;
  }
}

export const SESSION_HOURS = 12;

/** The cookie's id never stands in the database as it is. */
const rowIdOf = (sessionId: string): string => createHash('sha256').update(sessionId).digest('hex');

const sessionOf = prepared((db) =>
  db
    .select()
    .from(session)
    .where(eq(session.id, sql.placeholder('id')))
    .prepare(),
);

export function sessionStore(database: Database): SessionStore {
  const { db } = database;
  return {
    set(sessionId, data, callback) {
      const { personId } = data;
      const row = {
        id: rowIdOf(sessionId),
        personId: personId ?? null,
        data: JSON.parse(JSON.stringify(data)) as Record<string, unknown>,
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
            callback(null, row && row.expiresAt > Date.now() ? (row.data as never) : null);
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
