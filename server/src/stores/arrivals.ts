// What others put into somebody's van: shown to whose van it is until they have seen that it is there.
import { group } from 'd3-array';
import { and, asc, eq, gt, inArray, isNull, ne } from 'drizzle-orm';
import type { FieldDays } from '#api/field.ts';
import type { StoreActId, StoreId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import type { Db, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Told } from '../platform/writing.ts';
import { ownVan } from './own-van.ts';
import { part, stockMove, store, storeAct } from './tables.ts';
import { vanArrival } from './van-tables.ts';

/** Keeps that an act put something into vans; into their own people put it themselves. */
export async function noteArrivals(
  tx: Tx,
  actId: StoreActId,
  to: readonly StoreId[],
  who: Pick<Person, 'id'>,
  at: Instant,
): Promise<void> {
  const ids = [...new Set(to)];
  if (ids.length === 0) return;
  const vans = await tx.db
    .select({ id: store.id })
    .from(store)
    .where(and(inArray(store.id, ids), eq(store.kind, 'van'), ne(store.personId, who.id)));
  if (vans.length === 0) return;
  await tx.db.insert(vanArrival).values(vans.map((v) => ({ actId, storeId: v.id, at, receivedAt: null })));
}

/** Nobody looks for more at once; what is older stays until it is seen. */
const MOST = 50;

type Came = NonNullable<FieldDays['van']>['came'];

export async function arrivedIn(db: Db, vanId: StoreId): Promise<Came> {
  const acts = await db
    .select({ id: vanArrival.actId, at: vanArrival.at, text: storeAct.text, who: person.name })
    .from(vanArrival)
    .innerJoin(storeAct, eq(storeAct.id, vanArrival.actId))
    .leftJoin(person, eq(person.id, storeAct.personId))
    .where(and(eq(vanArrival.storeId, vanId), isNull(vanArrival.receivedAt)))
    .orderBy(asc(vanArrival.actId))
    .limit(MOST);
  if (acts.length === 0) return [];
  const moves = await db
    .select({ actId: stockMove.actId, thousandths: stockMove.thousandths, part })
    .from(stockMove)
    .innerJoin(part, eq(part.id, stockMove.partId))
    .where(
      and(
        inArray(
          stockMove.actId,
          acts.map((a) => a.id),
        ),
        ...[eq(stockMove.storeId, vanId), gt(stockMove.thousandths, 0)],
      ),
    )
    .orderBy(asc(stockMove.id));
  const of = group(moves, (m) => m.actId);
  return acts.map((a) => ({
    ...{ actId: a.id, at: a.at, text: a.text, who: a.who },
    lines: (of.get(a.id) ?? []).map(({ part: p, thousandths }) => ({
      ...{ partId: p.id, number: p.number, name: p.name, unit: p.unit, thousandths },
    })),
  }));
}

/** Seen to be there. Refused: what went into another van; seen before, it stays so. */
export async function receiveIn(tx: Tx, told: Told, who: Person, actId: StoreActId, at: Instant): Promise<void> {
  const van = await ownVan(tx, who);
  const which = and(eq(vanArrival.storeId, van.id), eq(vanArrival.actId, actId));
  const [row] = await tx.db.select().from(vanArrival).where(which).for('update');
  if (!row) refuse('not-found', 'This did not come into your van.', 'actId');
  if (row.receivedAt === null) await tx.db.update(vanArrival).set({ receivedAt: at }).where(which);
  told({ subject: 'store', id: van.id, text: 'received what was put in' });
}
