// Named filters of the list of orders: one's own, and those that others share.
import { and, asc, count, eq, ne, or } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { keepView, OrderView } from '#api/order-lists.ts';
import type { OrderViewId, PersonId } from '#core/ids.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { orderView } from './desk-tables.ts';

/** Enough for anybody; nobody fills the database with names of their own. */
const VIEWS_KEPT = 50;

export async function viewsOf(db: Db, who: PersonId): Promise<OrderView[]> {
  const rows = await db
    .select({ view: orderView, who: person.name })
    .from(orderView)
    .innerJoin(person, eq(person.id, orderView.personId))
    .where(or(eq(orderView.personId, who), eq(orderView.shared, true)))
    .orderBy(asc(orderView.name), asc(orderView.id))
    .limit(500);
  return rows.map(({ view: { id, name, query, shared, personId }, who: by }) => ({
    ...{ id, name, query, shared, own: personId === who, who: by },
  }));
}

export const keepViewOf = (
  write: Write,
  who: PersonId,
  { name, query, shared }: Asked<typeof keepView>['body'],
): Promise<{ id: OrderViewId }> =>
  write(async (tx, told) => {
    const [others] = await tx.db
      .select({ n: count() })
      .from(orderView)
      .where(and(eq(orderView.personId, who), ne(orderView.name, name)));
    if ((others?.n ?? 0) >= VIEWS_KEPT)
      refuse('conflict', `You keep ${VIEWS_KEPT} views already; remove one first.`, 'name');
    await tx.db
      .insert(orderView)
      .values({ personId: who, name, query, shared })
      .onDuplicateKeyUpdate({ set: { query, shared } });
    const [kept] = await tx.db
      .select({ id: orderView.id })
      .from(orderView)
      .where(and(eq(orderView.personId, who), eq(orderView.name, name)));
    const id = kept?.id as OrderViewId;
    told({ subject: 'order view', id, text: `kept “${name}”${shared ? ' for everybody' : ''}` });
    return { id };
  });

export const removeViewOf = (write: Write, who: PersonId, id: OrderViewId): Promise<void> =>
  write(async (tx, told) => {
    const [row] = await tx.db.select().from(orderView).where(eq(orderView.id, id)).for('update');
    if (!row) refuse('not-found', 'That view was removed already.');
    if (row.personId !== who) refuse('not-allowed', 'Only whoever kept a view removes it.');
    await tx.db.delete(orderView).where(eq(orderView.id, id));
    told({ subject: 'order view', id, text: `removed “${row.name}”` });
  });
