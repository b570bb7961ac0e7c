// The customers' routes.
import fp from 'fastify-plugin';
import * as contracts from '#api/customers.ts';
import { seesMoney } from '#core/people.ts';
import { localDateAt } from '#core/time/index.ts';
import { pagesOf, sendCsv } from '../platform/csv.ts';
import { serve, type House } from '../platform/http.ts';
import { unlessNamed } from '../platform/writing.ts';
import * as commands from './commands.ts';
import { listCustomers, readCustomer } from './queries.ts';

const DONE = { done: true as const };

export const customerRoutes = fp<{ house: House }>(
  async (app, { house }) => {
    const { db } = house.database;
    serve(app, house, contracts.listCustomers, async ({ query, who }) => {
      const page = await listCustomers(db, query.after, query.limit ?? 200, query.search);
      return seesMoney(who.role) ? page : { ...page, items: page.items.map((c) => ({ ...c, overSince: null })) };
    });
    serve(app, house, contracts.readCustomer, async ({ params, who }) => {
      const page = await readCustomer(db, params.id);
      return seesMoney(who.role)
        ? page
        : { ...page, creditDays: null, creditLimit: null, overSince: null, rateCard: null };
    });
    serve(app, house, contracts.customersCsv, ({ query, reply, now, who }): Promise<never> => {
      async function* rows() {
        for await (const page of pagesOf((after) => listCustomers(db, after, 200, query.search)))
          yield page.map((c) => [c.name, c.serviceAddress, c.assets, c.overSince]);
      }
      const head = ['customer', 'service address', 'assets', 'over credit terms since'];
      return Promise.resolve(sendCsv(reply, `customers-${localDateAt(who.zone, now)}.csv`, head, rows()));
    });

    serve(app, house, contracts.addCustomer, ({ body, write }) =>
      unlessNamed('customer', () => write((tx, told) => commands.addCustomer(tx, told, body))),
    );
    serve(app, house, contracts.changeCustomer, ({ params, body, write }) =>
      unlessNamed('customer', () =>
        write((tx, told) => commands.changeCustomer(tx, told, house.found, params.id, body)),
      ),
    );
    serve(app, house, contracts.addContact, ({ params, body, write }) =>
      unlessNamed('contact', () => write((tx, told) => commands.addContact(tx, told, params.id, body))),
    );
    serve(app, house, contracts.changeContact, async ({ params, body, write }) => {
      await unlessNamed('contact', () => write((tx, told) => commands.changeContact(tx, told, params.id, body)));
      return DONE;
    });
    serve(app, house, contracts.removeContact, async ({ params, write }) => {
      await write((tx, told) => commands.removeContact(tx, told, params.id));
      return DONE;
    });
    serve(app, house, contracts.addNote, ({ params, body, who, now, write }) =>
      write((tx, told) => commands.addNote(tx, told, params.id, body, { personId: who.id, at: now })),
    );
    serve(app, house, contracts.removeNote, async ({ params, write }) => {
      await write((tx, told) => commands.removeNote(tx, told, params.id));
      return DONE;
    });
    serve(app, house, contracts.setWish, async ({ params, body, write }) => {
      await write((tx, told) => commands.setWish(tx, told, params.id, body));
      return DONE;
    });
  },
  { name: 'stavok-customer-routes', dependencies: ['stavok-authentication'] },
);
