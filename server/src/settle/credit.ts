// Whether customers are over their credit terms, as it follows from what they owe; calls and runs look at what is written here.
import { and, asc, eq, inArray, isNotNull, isNull, lt } from 'drizzle-orm';
import type { CustomerId } from '#core/ids.ts';
import { overTermsSince } from '#core/settle/index.ts';
import { addDays, localDateAt, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import { creditGrace, markCredit } from '../customers/index.ts';
import { creditMark, customer } from '../customers/tables.ts';
import type { Database, Db, Tx } from '../platform/database.ts';
import { jobKind, NOTHING } from '../platform/job-kind.ts';
import { announce } from '../platform/live.ts';
import { document } from './document-tables.ts';
import { incomingPayment } from './paid-tables.ts';

const AT_ONCE = 100;
const today = (now: Instant): LocalDate => localDateAt('UTC' as Zone, now);

type Open = {
  readonly customerId: CustomerId;
  readonly currency: string;
  readonly dueOn: LocalDate;
  readonly minor: number;
};

/** What is open of customers: documents, and payments that are laid on nothing. */
async function openOf(db: Db, ids: readonly CustomerId[]): Promise<Open[]> {
  const [documents, payments] = await Promise.all([
    db
      .select({
        ...{ customerId: document.customerId, currency: document.currency },
        ...{ dueOn: document.openDue, minor: document.unpaid },
      })
      .from(document)
      .where(and(inArray(document.customerId, [...ids]), isNotNull(document.openDue))),
    db
      .select({
        ...{ customerId: incomingPayment.customerId, currency: incomingPayment.currency },
        ...{ dueOn: incomingPayment.bookedOn, minor: incomingPayment.left },
      })
      .from(incomingPayment)
      .where(and(inArray(incomingPayment.customerId, [...ids]), eq(incomingPayment.state, 'open'))),
  ]);
  return [
    ...documents.map((d) => ({ ...d, dueOn: d.dueOn as LocalDate })),
    ...payments.map((p) => ({ ...p, customerId: p.customerId as CustomerId, minor: -p.minor })),
  ];
}

/** Looks at some of those that are marked; gives how many there were. Others may do the same beside it. */
export const lookAtCredit = (database: Pick<Database, 'transact'>, now: Instant): Promise<number> =>
  database.transact(async (tx) => {
    const marked = await tx.db
      .select()
      .from(creditMark)
      .orderBy(asc(creditMark.customerId))
      .limit(AT_ONCE)
      .for('update', { skipLocked: true });
    const ids = marked.map((m) => m.customerId);
    if (ids.length === 0) return 0;
    const changed = await setOver(tx, ids, today(now));
    await tx.db.delete(creditMark).where(inArray(creditMark.customerId, ids));
    if (changed > 0) await announce(tx, { touches: ['register', 'upkeep', 'settle'] });
    return ids.length;
  });

async function setOver(tx: Tx, ids: readonly CustomerId[], on: LocalDate): Promise<number> {
  const graceDays = await creditGrace(tx.db);
  if (graceDays === null) return 0;
  const customers = await tx.db
    .select({ id: customer.id, was: customer.overSince, limit: customer.creditLimit, in: customer.creditCurrency })
    .from(customer)
    .where(inArray(customer.id, [...ids]))
    .orderBy(asc(customer.id))
    .for('update');
  const open = await openOf(tx.db, ids);
  let changed = 0;
  for (const { id, was, limit, in: currency } of customers) {
    const own = open.filter((o) => o.customerId === id && o.currency === currency);
    const since = overTermsSince(own, { graceDays, limit }, was, on);
    if (since === was) continue;
    changed += 1;
    await tx.db.update(customer).set({ overSince: since }).where(eq(customer.id, id));
  }
  return changed;
}

/** Marks whom a day that went by may have put over their terms; all who owe anything, where the terms themselves are others. */
export async function markOverdue(tx: Tx, before: LocalDate | null): Promise<number> {
  const rows = await tx.db
    .selectDistinct({ id: document.customerId })
    .from(document)
    .innerJoin(customer, eq(customer.id, document.customerId))
    .where(
      before === null ? isNotNull(document.openDue) : and(lt(document.openDue, before), isNull(customer.overSince)),
    );
  await markCredit(
    tx,
    rows.map((r) => r.id),
  );
  return rows.length;
}

export const followingCredit = jobKind({
  kind: 'credit terms',
  says: 'Look whom the new day puts over their credit terms',
  every: { cron: '7 * * * *', says: 'every hour' },
  atStart: true,
  ask: NOTHING,
  async run({ database, readNow }) {
    const now = readNow();
    const marked = await database.transact(async (tx) => {
      const graceDays = await creditGrace(tx.db);
      return graceDays === null ? 0 : markOverdue(tx, addDays(today(now), -graceDays));
    });
    return `${marked} looked at`;
  },
});
