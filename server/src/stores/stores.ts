// Stores: where stock lies, whose van each is, and what lies in them in all.
import { aliasedTable, and, asc, count, eq, gt, sql, sum } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { addStore, changeStore, StoreOut } from '#api/stock.ts';
import type { StoreId } from '#core/ids.ts';
import { goesOut, seesMoney, type Role } from '#core/people.ts';
import { depot } from '../depots/tables.ts';
import { takenKey, type Db, type Tx } from '../platform/database.ts';
import { leaveJob } from '../platform/jobs.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { ASKING } from './asking.ts';
import { stock, store } from './tables.ts';

const MOST_STORES = 500;
const whose = aliasedTable(person, 'whose');

/** What names a store wherever it is shown. */
export const storeColumns = {
  id: store.id,
  name: store.name,
  kind: store.kind,
  depotId: depot.id,
  depot: depot.name,
  personId: whose.id,
  person: whose.name,
};
export const withStoreNames = { depot, whose };

export async function listStoresOf(db: Db, role: Role): Promise<{ items: StoreOut[] }> {
  const lying = db
    .select({ storeId: stock.storeId, parts: count().as('parts'), value: sum(stock.value).as('value') })
    .from(stock)
    .where(gt(stock.onHand, 0))
    .groupBy(stock.storeId)
    .as('lying');
  const rows = await db
    .select({
      ...storeColumns,
      ...{ version: store.version, retired: store.retired },
      ...{ parts: lying.parts, value: sql<string | null>`${lying.value}` },
    })
    .from(store)
    .innerJoin(depot, eq(depot.id, store.depotId))
    .leftJoin(whose, eq(whose.id, store.personId))
    .leftJoin(lying, eq(lying.storeId, store.id))
    .orderBy(asc(store.retired), asc(depot.name), asc(store.kind), asc(store.name))
    .limit(MOST_STORES);
  return {
    items: rows.map((r) => ({
      ...{ id: r.id, version: r.version, name: r.name, kind: r.kind, retired: r.retired },
      ...{
        depot: { id: r.depotId, name: r.depot },
        person: r.personId && r.person ? { id: r.personId, name: r.person } : null,
      },
      ...{ parts: r.parts ?? 0, value: seesMoney(role) ? Number(r.value ?? 0) : null },
    })),
  };
}

/** Refused: a depot or technician that is not, a van that is nobody's, another store that is somebody's. */
async function checkStore(tx: Tx, { kind, depotId, personId }: BodyOf<typeof addStore>): Promise<void> {
  const [known] = await tx.db.select({ id: depot.id }).from(depot).where(eq(depot.id, depotId));
  if (!known) refuse('not-found', 'That depot does not exist; choose another.', 'depotId');
  if (kind === 'van' && personId === null) refuse('missing', 'Say whose van it is.', 'personId');
  if (kind !== 'van' && personId !== null)
    refuse('invalid', 'Only a van is somebody’s; leave the person empty, or make it a van.', 'personId');
  if (personId === null) return;
  const [who] = await tx.db.select({ role: person.role }).from(person).where(eq(person.id, personId));
  if (!who || !goesOut(who.role)) refuse('not-found', 'A van is a technician’s; choose one.', 'personId');
}

/** Of two things about a store there is one: its name, and whose van it is. */
async function unlessThere<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (error) {
    const key = takenKey(error);
    if (key === 'store_person') refuse('taken', 'This technician has a van already; choose another.', 'personId');
    if (key === 'store_name') refuse('taken', 'There is a store of that name already; choose another.', 'name');
    throw error;
  }
}

export const addStoreOf = (write: Write, body: BodyOf<typeof addStore>): Promise<{ id: StoreId }> =>
  unlessThere(() =>
    write(async (tx, told) => {
      await checkStore(tx, body);
      const [any] = await tx.db.select({ id: store.id }).from(store).limit(1);
      const [made] = await tx.db.insert(store).values(body).$returningId();
      const id = made?.id as StoreId;
      if (!any) await leaveJob(tx, ASKING, {});
      told({ subject: 'store', id, text: `added ${body.name}` });
      return { id };
    }),
  );

export const changeStoreOf = (write: Write, id: StoreId, { version, ...body }: BodyOf<typeof changeStore>) =>
  unlessThere(() =>
    write(async (tx, told) => {
      const [row] = await tx.db.select().from(store).where(eq(store.id, id)).for('update');
      if (!row) refuse('not-found', 'That store does not exist.');
      if (row.version !== version) stale(row);
      await checkStore(tx, body);
      const [lies] = await tx.db
        .select({ n: count() })
        .from(stock)
        .where(and(eq(stock.storeId, id), gt(stock.onHand, 0)));
      if (body.retired && (lies?.n ?? 0) > 0)
        refuse('conflict', `${lies?.n} parts lie there still; carry them to another store first.`, 'retired');
      await tx.db
        .update(store)
        .set({ ...body, version: version + 1 })
        .where(eq(store.id, id));
      told({ subject: 'store', id, text: `changed ${body.name}` });
    }),
  );
