// People of the house by name.
import { inArray } from 'drizzle-orm';
import type { PersonId } from '#core/ids.ts';
import type { Db } from './database.ts';
import { person } from './tables.ts';

/** What people are called, by their ids; null names nobody. */
export async function namesOfPeople(
  db: Db,
  ids: Iterable<PersonId | null>,
): Promise<ReadonlyMap<PersonId | null, string>> {
  const wanted = [...new Set(ids)].filter((id) => id !== null);
  if (wanted.length === 0) return new Map();
  const rows = await db.select({ id: person.id, name: person.name }).from(person).where(inArray(person.id, wanted));
  return new Map(rows.map((r) => [r.id, r.name]));
}
