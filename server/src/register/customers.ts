// Customers: reading and changing them, their contacts, notes and wishes for technicians.
import { and, asc, count, desc, eq, gt, inArray, like, notInArray } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/customers.ts';
import { WRITERS } from '#api/shapes.ts';
import type { CustomerId } from '#core/ids.ts';
import type { Db, Tx } from '../platform/database.ts';
import { indexCustomers } from '../platform/finder-index.ts';
import { seesMoney, serve, type House } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import {
  agreement,
  asset,
  contact,
  customer,
  customerNote,
  person,
  technicianWish,
  workOrder,
} from '../platform/tables/index.ts';
import { unlessTaken, writing } from '../platform/writing.ts';
import { escapeLike } from './lists.ts';

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

export async function readCustomer(db: Db, id: CustomerId): Promise<contracts.CustomerPage> {
  const [row] = await db.select().from(customer).where(eq(customer.id, id));
  if (!row) refuse('not-found', 'That customer does not exist.');
  const [contacts, notes, technicians, [assets], [orders], agreements] = await Promise.all([
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
      .orderBy(desc(customerNote.at))
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
      .where(and(eq(workOrder.customerId, id), notInArray(workOrder.stage, ['done', 'settled', 'called off']))),
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
      .orderBy(desc(agreement.termFrom))
      .limit(50),
  ]);
  return {
    id,
    name: row.name,
    serviceAddress: row.serviceAddress,
    creditDays: row.creditDays,
    creditLimit: row.creditLimit,
    creditCurrency: row.creditCurrency,
    overSince: row.overSince,
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
    .orderBy(desc(customerNote.at))
    .limit(20);
  return rows.map((r) => r.text);
}

async function mustExist(tx: Tx, id: CustomerId): Promise<string> {
  const [row] = await tx.db.select({ name: customer.name }).from(customer).where(eq(customer.id, id)).for('update');
  return row?.name ?? refuse('not-found', 'That customer does not exist.');
}

export const customerRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listCustomers, 'signed in', async ({ query, who }) => {
      const page = await listCustomers(db, query.after, query.limit ?? 200, query.search);
      return seesMoney(who) ? page : { ...page, items: page.items.map((c) => ({ ...c, overSince: null })) };
    });
    serve(app, house, contracts.readCustomer, 'signed in', async ({ params, who }) => {
      const page = await readCustomer(db, params.id);
      return seesMoney(who) ? page : { ...page, creditDays: null, creditLimit: null, overSince: null };
    });

    const named = <T>(work: () => Promise<T>, what: string): Promise<T> =>
      unlessTaken(`There is a ${what} with that name already.`, 'name', work);
    serve(app, house, contracts.addCustomer, WRITERS, ({ body, who }) =>
      named(
        () =>
          writing(house, who, async (tx, told) => {
            const [made] = await tx.db.insert(customer).values(body).$returningId();
            const id = made?.id as CustomerId;
            await indexCustomers(tx, [id], false);
            told({ subject: 'customer', id, text: `added ${body.name}`, tags: ['register'] });
            return { id };
          }),
        'customer',
      ),
    );
    serve(app, house, contracts.changeCustomer, WRITERS, ({ params, body, who }) =>
      named(
        () =>
          writing(house, who, async (tx, told) => {
            const [row] = await tx.db.select().from(customer).where(eq(customer.id, params.id)).for('update');
            if (!row) refuse('not-found', 'That customer does not exist.');
            if (row.version !== body.version) stale(row);
            const { version, ...fields } = body;
            const text = (Object.keys(fields) as (keyof typeof fields)[])
              .filter((k) => row[k] !== fields[k])
              .map((k) => `${k} ${row[k] ?? 'none'} → ${fields[k] ?? 'none'}`)
              .join('; ');
            if (text === '') return { version };
            await tx.db
              .update(customer)
              .set({ ...fields, version: version + 1 })
              .where(eq(customer.id, params.id));
            await indexCustomers(tx, [params.id], row.name !== fields.name);
            told({ subject: 'customer', id: params.id, text, tags: ['register'] });
            return { version: version + 1 };
          }),
        'customer',
      ),
    );
    serve(app, house, contracts.addContact, WRITERS, ({ params, body, who }) =>
      named(
        () =>
          writing(house, who, async (tx, told) => {
            await mustExist(tx, params.id);
            const [made] = await tx.db
              .insert(contact)
              .values({ ...body, customerId: params.id })
              .$returningId();
            await indexCustomers(tx, [params.id], false);
            told({ subject: 'customer', id: params.id, text: `added the contact ${body.name}`, tags: ['register'] });
            return { id: made?.id as number };
          }),
        'contact',
      ),
    );
    serve(app, house, contracts.changeContact, WRITERS, ({ params, body, who }) =>
      named(
        () =>
          writing(house, who, async (tx, told) => {
            const [row] = await tx.db.select().from(contact).where(eq(contact.id, params.id)).for('update');
            if (!row) refuse('not-found', 'That contact does not exist any more.');
            if (row.version !== body.version) stale(row);
            await tx.db
              .update(contact)
              .set({ ...body, version: row.version + 1 })
              .where(eq(contact.id, params.id));
            await indexCustomers(tx, [row.customerId], false);
            told({
              subject: 'customer',
              id: row.customerId,
              text: `changed the contact ${body.name}`,
              tags: ['register'],
            });
            return { done: true as const };
          }),
        'contact',
      ),
    );
    serve(app, house, contracts.removeContact, WRITERS, ({ params, who }) =>
      writing(house, who, async (tx, told) => {
        const [row] = await tx.db.select().from(contact).where(eq(contact.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That contact does not exist any more.');
        await tx.db.delete(contact).where(eq(contact.id, params.id));
        await indexCustomers(tx, [row.customerId], false);
        told({
          subject: 'customer',
          id: row.customerId,
          text: `removed the contact ${row.name}`,
          tags: ['register'],
        });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.addNote, WRITERS, ({ params, body, who, now }) =>
      writing(house, who, async (tx, told) => {
        await mustExist(tx, params.id);
        const [made] = await tx.db
          .insert(customerNote)
          .values({ ...body, customerId: params.id, at: now, personId: who.id })
          .$returningId();
        told({ subject: 'customer', id: params.id, text: `noted: ${body.text}`, tags: ['register'] });
        return { id: made?.id as number };
      }),
    );
    serve(app, house, contracts.removeNote, WRITERS, ({ params, who }) =>
      writing(house, who, async (tx, told) => {
        const [row] = await tx.db.select().from(customerNote).where(eq(customerNote.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That note does not exist any more.');
        await tx.db.delete(customerNote).where(eq(customerNote.id, params.id));
        told({ subject: 'customer', id: row.customerId, text: `removed the note: ${row.text}`, tags: ['register'] });
        return { done: true as const };
      }),
    );
    serve(
      app,
      house,
      contracts.setWish,
      ['coordinator', 'dispatcher', 'manager', 'administrator'],
      ({ params, body, who }) =>
        writing(house, who, async (tx, told) => {
          await mustExist(tx, params.id);
          const [technician] = await tx.db
            .select({ name: person.name, role: person.role })
            .from(person)
            .where(eq(person.id, body.personId));
          if (technician?.role !== 'technician')
            refuse('not-found', 'That is no technician; choose another.', 'personId');
          const key = { customerId: params.id, personId: body.personId };
          if (body.wish === null)
            await tx.db
              .delete(technicianWish)
              .where(and(eq(technicianWish.customerId, params.id), eq(technicianWish.personId, body.personId)));
          else
            await tx.db
              .insert(technicianWish)
              .values({ ...key, wish: body.wish })
              .onDuplicateKeyUpdate({ set: { wish: body.wish } });
          told({
            subject: 'customer',
            id: params.id,
            text: `${technician.name}: ${body.wish ?? 'no wish'}`,
            tags: ['register'],
          });
          return { done: true as const };
        }),
    );
  },
  { name: 'stavok-customer-routes', dependencies: ['stavok-authentication'] },
);
