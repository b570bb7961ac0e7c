// Reading customers: the list, the page, and the notes that pop up.
import { and, asc, count, desc, eq, gt, inArray, like } from 'drizzle-orm';
import type { CustomerPage } from '#api/customers.ts';
import { OPEN_STAGES } from '#core/orders/index.ts';
import type { CustomerId } from '#core/ids.ts';
import { agreement } from '../agreements/tables.ts';
import { asset } from '../assets/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { escapeLike, type Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { rateCard } from '../labour/tables.ts';
import { creditGrace } from './credit.ts';
import { contact, customer, customerNote, technicianWish } from './tables.ts';

export async function listCustomers(db: Db, after: string | undefined, limit: number, search: string | undefined) {
  const rows = await db
    .select({
      id: customer.id,
      name: customer.name,
      serviceAddress: customer.serviceAddress,
      overSince: customer.overSince,
    })
    .from(customer)
    .where(
      and(
        after === undefined ? undefined : gt(customer.name, after),
        search?.trim() ? like(customer.name, `%${escapeLike(search.trim())}%`) : undefined,
      ),
    )
    .orderBy(asc(customer.name))
    .limit(limit + 1);
  const page = rows.slice(0, limit);
  const counts =
    page.length === 0
      ? []
      : await db
          .select({ id: asset.customerId, assets: count() })
          .from(asset)
          .where(
            inArray(
              asset.customerId,
              page.map((r) => r.id),
            ),
          )
          .groupBy(asset.customerId);
  const countOf = new Map(counts.map((c) => [c.id, c.assets]));
  return {
    items: page.map((r) => ({ ...r, assets: countOf.get(r.id) ?? 0 })),
    next: rows.length > limit ? (page[page.length - 1]?.name ?? null) : null,
  };
}

export async function readCustomer(db: Db, id: CustomerId): Promise<CustomerPage> {
  const [row] = await db.select().from(customer).where(eq(customer.id, id));
  if (!row) refuse('not-found', 'That customer does not exist.');
  const [contacts, notes, technicians, [assets], [orders], agreements, [card], grace] = await Promise.all([
    db.select().from(contact).where(eq(contact.customerId, id)).orderBy(asc(contact.name)).limit(200),
    db
      .select({
        id: customerNote.id,
        text: customerNote.text,
        popsUp: customerNote.popsUp,
        at: customerNote.at,
        who: person.name,
      })
      .from(customerNote)
      .leftJoin(person, eq(person.id, customerNote.personId))
      .where(eq(customerNote.customerId, id))
      .orderBy(desc(customerNote.at), desc(customerNote.id))
      .limit(200),
    db
      .select({ id: person.id, name: person.name, wish: technicianWish.wish })
      .from(technicianWish)
      .innerJoin(person, eq(person.id, technicianWish.personId))
      .where(eq(technicianWish.customerId, id))
      .orderBy(asc(person.name)),
    db.select({ n: count() }).from(asset).where(eq(asset.customerId, id)),
    db
      .select({ n: count() })
      .from(workOrder)
      .where(and(eq(workOrder.customerId, id), inArray(workOrder.stage, [...OPEN_STAGES]))),
    db
      .select({
        id: agreement.id,
        number: agreement.number,
        name: agreement.name,
        stage: agreement.stage,
        to: agreement.termTo,
      })
      .from(agreement)
      .where(eq(agreement.customerId, id))
      .orderBy(desc(agreement.termFrom), desc(agreement.id))
      .limit(50),
    row.rateCardId === null
      ? []
      : db.select({ id: rateCard.id, name: rateCard.name }).from(rateCard).where(eq(rateCard.id, row.rateCardId)),
    creditGrace(db),
  ]);
  return {
    id,
    name: row.name,
    serviceAddress: row.serviceAddress,
    creditDays: row.creditDays,
    creditLimit: row.creditLimit,
    creditCurrency: row.creditCurrency,
    overSince: row.overSince,
    creditFollows: grace !== null,
    rateCard: card ?? null,
    version: row.version,
    contacts,
    notes,
    technicians,
    assets: assets?.n ?? 0,
    openOrders: orders?.n ?? 0,
    agreements,
  };
}

/** The notes that show whenever an order is raised for the customer. */
export async function popUpsOf(db: Db, id: CustomerId): Promise<string[]> {
  const rows = await db
    .select({ text: customerNote.text })
    .from(customerNote)
    .where(and(eq(customerNote.customerId, id), eq(customerNote.popsUp, true)))
    .orderBy(desc(customerNote.at), desc(customerNote.id))
    .limit(20);
  return rows.map((r) => r.text);
}
