// The people of the demo, who all sign in with one password.
import { hashPassword } from '#server/platform/auth.ts';
import { bulkInsert, type Tx } from '#server/platform/database.ts';
import { instantText } from '#server/tables.ts';
import type { Instant } from '#core/time/index.ts';
import { PEOPLE } from './scenario.ts';

export const emailOf = (name: string): string =>
  `${name
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .toLowerCase()
    .replace(/[^a-z]+/g, '.')}@marisma.example`;

/** Everybody in the demo has this password; the demo serves on loopback only. */
export const DEMO_PASSWORD = 'marisma demo 2026';

export async function writePeople({ connection }: Tx, now: Instant): Promise<void> {
  const passwordHash = await hashPassword(DEMO_PASSWORD);
  await bulkInsert(
    connection,
    'person',
    ['email', 'name', 'role', 'zone', 'password_hash', 'created_at'],
    PEOPLE.map((p) => [emailOf(p.name), p.name, p.role, p.zone, passwordHash, instantText(now)]),
  );
}
