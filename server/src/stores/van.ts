// What somebody's own van is, and handing parts of it over.
import { and, eq } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { transferStock } from '#api/stock.ts';
import type { PersonId, StoreActId, StoreId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { transfer } from './moving.ts';
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

/** Parts of somebody's own van go to another store. */
export async function handOverFromVan(
  database: Database,
  write: Write,
  who: Person,
  body: Omit<BodyOf<typeof transferStock>, 'fromId'>,
  now: Instant,
): Promise<{ id: StoreActId }> {
  const { id: fromId } = await ownVan(database, who);
  return transfer(database, write, who, { ...body, fromId }, now);
}
