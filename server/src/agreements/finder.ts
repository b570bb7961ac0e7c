// What the finder knows agreements by: number, name and customer.
import { eq, inArray } from 'drizzle-orm';
import type { AgreementId } from '#core/ids.ts';
import { customer } from '../customers/tables.ts';
import { keepFound } from '../platform/finder-index.ts';
import { idsBehind, shown, shownIdentifier, type FinderSource } from '../platform/finder-source.ts';
import type { Db, Tx } from '../platform/database.ts';
import { agreement } from './tables.ts';

const rowsOf = (db: Db, ids: readonly number[]) =>
  db
    .select({
      id: agreement.id,
      number: agreement.number,
      name: agreement.name,
      customer: customer.name,
      stage: agreement.stage,
    })
    .from(agreement)
    .innerJoin(customer, eq(customer.id, agreement.customerId))
    .where(inArray(agreement.id, ids as AgreementId[]));

export const agreementsFound: FinderSource = {
  kind: 'agreement',
  async knownOf(db, ids) {
    const rows = await rowsOf(db, ids);
    return rows.map((r) => ({ id: r.id, by: [shownIdentifier(r.number), shown(`${r.name} ${r.customer}`)] }));
  },
  page: (db, after, limit) => idsBehind(db, agreement.id, after, limit),
  async under(db, { customers = [] }) {
    if (customers.length === 0) return [];
    const rows = await db
      .select({ id: agreement.id })
      .from(agreement)
      .where(inArray(agreement.customerId, [...customers]));
    return rows.map((r) => r.id);
  },
  async called(db, asked) {
    const rows = await db.select({ id: agreement.id }).from(agreement).where(eq(agreement.number, asked.trim()));
    return rows.map((r) => r.id);
  },
  async show(db, ids) {
    const rows = await rowsOf(db, ids);
    return rows.map((r) => ({
      id: r.id,
      mark: r.number,
      title: r.name,
      beside: `${r.customer}, ${r.stage}`,
      state: null,
      under: null,
      ribbon: null,
    }));
  },
};

export const indexAgreements = (tx: Tx, ids: readonly AgreementId[]): Promise<void> =>
  keepFound(tx, agreementsFound, ids);
