// The template of all test databases: migrated once, with one person of each role, and kept as the statements that make it again.
import type { RowDataPacket } from 'mysql2/promise';
import { ROLES } from '#core/people.ts';
import { asInstant, asZone } from '#core/time/index.ts';
import { hashPassword } from '../src/platform/auth.ts';
import { migrateDatabase, openDatabase, type Database } from '../src/platform/database.ts';
import { person } from '../src/tables.ts';

export const NOW = '2026-11-24T10:00:00Z';
export const PASSWORD = 'a long enough password';

async function statementsOf({ pool }: Database): Promise<string> {
  const rows = async (sql: string, values: unknown[] = []): Promise<RowDataPacket[]> =>
    (await pool.query<RowDataPacket[]>(sql, values))[0];
  const statements = ['SET foreign_key_checks = 0'];
  for (const found of await rows('SHOW TABLES')) {
    const name = String(Object.values(found)[0]);
    const [made] = await rows('SHOW CREATE TABLE ??', [name]);
    statements.push(String(made?.['Create Table']));
    const held = await rows('SELECT * FROM ??', [name]);
    if (held.length > 0)
      statements.push(
        pool.format('INSERT INTO ?? (??) VALUES ?', [
          name,
          Object.keys(held[0] ?? {}),
          held.map((r) => Object.values(r) as unknown[]),
        ]),
      );
  }
  return [...statements, 'SET foreign_key_checks = 1'].join(';\n');
}

export async function makeTemplate(url: string): Promise<string> {
  const database = openDatabase(url, 1);
  try {
    await migrateDatabase(database);
    const passwordHash = await hashPassword(PASSWORD);
    await database.db.insert(person).values(
      ROLES.map((role) => ({
        email: `${role}@example.org`,
        name: `The ${role}`,
        role,
        zone: asZone('Europe/Lisbon'),
        passwordHash,
        createdAt: asInstant(NOW),
      })),
    );
    return await statementsOf(database);
  } finally {
    await database.close();
  }
}
