// Customers: reading and changing them, their contacts, notes and wishes for technicians.
import { and, eq } from 'drizzle-orm';
import fp from 'fastify-plugin';
import * as contracts from '#api/customers.ts';
import type { CustomerId } from '#core/ids.ts';
import type { Tx } from '../platform/database.ts';
import { seesMoney } from '#core/people.ts';
import { serve, type House } from '../platform/http.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { contact, customer, customerNote, technicianWish } from './tables.ts';
import { unlessTaken } from '../platform/writing.ts';
import { indexCustomers } from './finder.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import { localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { listCustomers, readCustomer } from './queries.ts';

async function mustExist(tx: Tx, id: CustomerId): Promise<string> {
  const [row] = await tx.db.select({ name: customer.name }).from(customer).where(eq(customer.id, id)).for('update');
  return row?.name ?? refuse('not-found', 'That customer does not exist.');
}

export const customerRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listCustomers, async ({ query, who }) => {
      const page = await listCustomers(db, query.after, query.limit ?? 200, query.search);
      return seesMoney(who.role) ? page : { ...page, items: page.items.map((c) => ({ ...c, overSince: null })) };
    });
    serve(app, house, contracts.readCustomer, async ({ params, who }) => {
      const page = await readCustomer(db, params.id);
      return seesMoney(who.role) ? page : { ...page, creditDays: null, creditLimit: null, overSince: null };
    });

    serve(app, house, contracts.customersCsv, ({ query, reply, now, who }): Promise<never> => {
      async function* rows() {
        for await (const page of pagesOf((after) => listCustomers(db, after, 200, query.search)))
          yield page.map((c) => [c.name, c.serviceAddress, c.assets, c.overSince]);
      }
      const head = ['customer', 'service address', 'assets', 'over credit terms since'];
      return Promise.resolve(sendCsv(reply, `customers-${localDateAt(who.zone, now)}.csv`, head, rows()));
    });

    const named = <T>(work: () => Promise<T>, what: string): Promise<T> =>
      unlessTaken(`There is a ${what} with that name already.`, 'name', work);
    serve(app, house, contracts.addCustomer, ({ body, write }) =>
      named(
        () =>
          write(async (tx, told) => {
            const [made] = await tx.db.insert(customer).values(body).$returningId();
            const id = made?.id as CustomerId;
            await indexCustomers(tx, [id]);
            told({ subject: 'customer', id, text: `added ${body.name}` });
            return { id };
          }),
        'customer',
      ),
    );
    serve(app, house, contracts.changeCustomer, ({ params, body, write }) =>
      named(
        () =>
          write(async (tx, told) => {
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
            await indexCustomers(tx, [params.id]);
            if (row.name !== fields.name) await keepRenamed(tx, house.found, { customers: [params.id] });
            told({ subject: 'customer', id: params.id, text });
            return { version: version + 1 };
          }),
        'customer',
      ),
    );
    serve(app, house, contracts.addContact, ({ params, body, write }) =>
      named(
        () =>
          write(async (tx, told) => {
            await mustExist(tx, params.id);
            const [made] = await tx.db
              .insert(contact)
              .values({ ...body, customerId: params.id })
              .$returningId();
            await indexCustomers(tx, [params.id]);
            told({ subject: 'customer', id: params.id, text: `added the contact ${body.name}` });
            return { id: made?.id as number };
          }),
        'contact',
      ),
    );
    serve(app, house, contracts.changeContact, ({ params, body, write }) =>
      named(
        () =>
          write(async (tx, told) => {
            const [row] = await tx.db.select().from(contact).where(eq(contact.id, params.id)).for('update');
            if (!row) refuse('not-found', 'That contact does not exist any more.');
            if (row.version !== body.version) stale(row);
            await tx.db
              .update(contact)
              .set({ ...body, version: row.version + 1 })
              .where(eq(contact.id, params.id));
            await indexCustomers(tx, [row.customerId]);
            told({
              subject: 'customer',
              id: row.customerId,
              text: `changed the contact ${body.name}`,
            });
            return { done: true as const };
          }),
        'contact',
      ),
    );
    serve(app, house, contracts.removeContact, ({ params, write }) =>
      write(async (tx, told) => {
        const [row] = await tx.db.select().from(contact).where(eq(contact.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That contact does not exist any more.');
        await tx.db.delete(contact).where(eq(contact.id, params.id));
        await indexCustomers(tx, [row.customerId]);
        told({
          subject: 'customer',
          id: row.customerId,
          text: `removed the contact ${row.name}`,
        });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.addNote, ({ params, body, who, now, write }) =>
      write(async (tx, told) => {
        await mustExist(tx, params.id);
        const [made] = await tx.db
          .insert(customerNote)
          .values({ ...body, customerId: params.id, at: now, personId: who.id })
          .$returningId();
        told({ subject: 'customer', id: params.id, text: `noted: ${body.text}` });
        return { id: made?.id as number };
      }),
    );
    serve(app, house, contracts.removeNote, ({ params, write }) =>
      write(async (tx, told) => {
        const [row] = await tx.db.select().from(customerNote).where(eq(customerNote.id, params.id)).for('update');
        if (!row) refuse('not-found', 'That note does not exist any more.');
        await tx.db.delete(customerNote).where(eq(customerNote.id, params.id));
        told({ subject: 'customer', id: row.customerId, text: `removed the note: ${row.text}` });
        return { done: true as const };
      }),
    );
    serve(app, house, contracts.setWish, ({ params, body, write }) =>
      write(async (tx, told) => {
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
        });
        return { done: true as const };
      }),
    );
  },
  { name: 'stavok-customer-routes', dependencies: ['stavok-authentication'] },
);
