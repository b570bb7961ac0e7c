// What the finder knows customers by: name, address, and their contacts with phone and mail.
import { inArray } from 'drizzle-orm';
import type { CustomerId } from '#core/ids.ts';
import { keepFound } from '../platform/finder-index.ts';
import { idsBehind, identifier, shown, text, type FinderSource } from '../platform/finder-source.ts';
import type { Tx } from '../platform/database.ts';
import { contact, customer } from './tables.ts';

export const customersFound: FinderSource = {
  kind: 'customer',
  async knownOf(db, ids) {
    const wanted = ids as readonly CustomerId[];
    const [rows, people] = await Promise.all([
      db
        .select({ id: customer.id, name: customer.name, address: customer.serviceAddress })
        .from(customer)
        .where(inArray(customer.id, [...wanted])),
      db
        .select()
        .from(contact)
        .where(inArray(contact.customerId, [...wanted])),
    ]);
    const contactsOf = new Map<CustomerId, (typeof contact.$inferSelect)[]>();
    for (const p of people) contactsOf.set(p.customerId, [...(contactsOf.get(p.customerId) ?? []), p]);
    return rows.map((r) => ({
      id: r.id,
      by: [
        shown(r.name),
        text('address', r.address),
        ...(contactsOf.get(r.id) ?? []).flatMap((p) => [
          text('contact', p.name),
          text(`${p.name},`, p.email),
          identifier(`${p.name},`, p.phone),
        ]),
      ],
    }));
  },
  page: (db, after, limit) => idsBehind(db, customer.id, after, limit),
  async show(db, ids) {
    const rows = await db
      .select({ id: customer.id, name: customer.name })
      .from(customer)
      .where(inArray(customer.id, ids as CustomerId[]));
    return rows.map((r) => ({ id: r.id, mark: '', title: r.name, beside: '', state: null, under: null, ribbon: null }));
  },
};

export const indexCustomers = (tx: Tx, ids: readonly CustomerId[]): Promise<void> => keepFound(tx, customersFound, ids);
