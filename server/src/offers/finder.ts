// What the finder knows offers by: their titles and customers; numbers are looked up as they are.
import { eq, inArray } from 'drizzle-orm';
import { offerNumber, offerOfNumber } from '#api/offers.ts';
import type { OfferId } from '#core/ids.ts';
import { OFFICE } from '#core/people.ts';
import { customer } from '../customers/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { keepFound } from '../platform/finder-index.ts';
import { idsBehind, shown, type FinderSource } from '../platform/finder-source.ts';
import { offer } from './tables.ts';

const rowsOf = (db: Db, ids: readonly number[]) =>
  db
    .select({ id: offer.id, title: offer.title, state: offer.state, customer: customer.name })
    .from(offer)
    .innerJoin(customer, eq(customer.id, offer.customerId))
    .where(inArray(offer.id, ids as OfferId[]));

export const offersFound: FinderSource = {
  kind: 'offer',
  shownTo: OFFICE,
  async knownOf(db, ids) {
    const rows = await rowsOf(db, ids);
    return rows.map((r) => ({ id: r.id, by: [shown(`${r.title} ${r.customer}`)] }));
  },
  page: (db, after, limit) => idsBehind(db, offer.id, after, limit),
  async under(db, { customers = [] }) {
    if (customers.length === 0) return [];
    const rows = await db
      .select({ id: offer.id })
      .from(offer)
      .where(inArray(offer.customerId, [...customers]));
    return rows.map((r) => r.id);
  },
  async called(_db, asked) {
    const id = offerOfNumber(asked);
    return id === null ? [] : [id];
  },
  async show(db, ids) {
    const rows = await rowsOf(db, ids);
    return rows.map((r) => ({
      ...{ id: r.id, mark: '', title: `${offerNumber(r.id)} ${r.title}`, beside: `${r.customer}, ${r.state}` },
      ...{ state: null, under: null, ribbon: null },
    }));
  },
};

export const indexOffer = (tx: Tx, id: OfferId): Promise<void> => keepFound(tx, offersFound, [id]);
