// Handing parts of one's own van over.
import type { BodyOf } from '#api/contract.ts';
import type { transferStock } from '#api/stock.ts';
import type { StoreActId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { Database } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import type { Write } from '../platform/writing.ts';
import { transfer } from './moving.ts';
import { ownVan } from './own-van.ts';

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
