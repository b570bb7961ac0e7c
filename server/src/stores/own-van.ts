// What somebody's own van is.
import { and, eq } from 'drizzle-orm';
import type { PersonId, StoreId } from '#core/ids.ts';
import type { Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { store } from './tables.ts';

/** The van that somebody drives; null: none. */
export async function vanOfPerson(db: Db, id: PersonId): Promise<{ id: StoreId; name: string } | null> {
  const [van] = await db
    .select({ id: store.id, name: store.name })
    .from(store)
    .where(and(eq(store.personId, id), eq(store.kind, 'van'), eq(store.retired, false)));
  return van ?? null;
}

/** The van of who asks. Refused: they have none. */
export async function ownVan({ db }: Pick<Tx, 'db'>, who: Person) {
  return (await vanOfPerson(db, who.id)) ?? refuse('not-found', 'No van is yours; the storekeeper gives you one.');
}
