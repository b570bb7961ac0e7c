// What the demo billed so far: how some customers want it, what was done until two weeks ago approved, each month's documents, and
// what was paid of them.
import { asc, eq, lt } from 'drizzle-orm';
import type { BillingRunId, CustomerId, PersonId } from '#core/ids.ts';
import type { Grouping } from '#core/settle/index.ts';
import { addDays, addMonths, instant, startOfDay, type Instant, type LocalDate, type Zone } from '#core/time/index.ts';
import type { Database, Tx } from '#server/platform/database.ts';
import { approveIn, billLot, lookAtMarked, markDoneSince, nextPayers } from '#server/settle/index.ts';
import { billingRun, customer, customerBilling, orderLook, person, settleSetting } from '#server/tables.ts';
import { writeClaims } from './claims.ts';
import { writePaid } from './paid.ts';
import { LISBON } from './scenario.ts';

const MONTHS_BILLED = 18;
const LOOKED_AT_DAYS_AGO = 14;
const APPROVED_AT_ONCE = 50;
const HOUR_MS = 3_600_000;

/** How some of the customers want it; the others order by order. */
const WISHES: readonly { nth: number; grouping: Grouping; showsCovered: boolean; needsReference: boolean }[] = [
  { nth: 0, grouping: 'month', showsCovered: true, needsReference: false },
  { nth: 2, grouping: 'order', showsCovered: true, needsReference: false },
  { nth: 4, grouping: 'month', showsCovered: false, needsReference: false },
  { nth: 7, grouping: 'appointment', showsCovered: false, needsReference: false },
];

async function writeWishes({ db }: Tx, billsFrom: LocalDate): Promise<void> {
  await db.insert(settleSetting).values({
    ...{ id: 1, billsFrom, secondAbove: 500_00, account: 'PT50 0000 0000 0000 0000 0000 0', version: 1 },
    seller: {
      ...{ name: 'Marisma Lab Service', address: 'Cais da Ribeira 14, 4900-000 Ribeira', country: 'PT' },
      taxNumber: 'PT999999990',
    },
  });
  const customers = await db.select({ id: customer.id }).from(customer).orderBy(asc(customer.id));
  for (const { nth, ...wish } of WISHES) {
    const id = customers[nth]?.id;
    if (id === undefined) continue;
    await db.insert(customerBilling).values({
      ...{ customerId: id, ...wish, taxId: null, address: '', country: 'PT', taxNumber: '' },
      contactId: null,
    });
  }
}

type By = { readonly id: PersonId; readonly zone: Zone };

/** Everything done before a day, as it stands. */
async function approveBefore(tx: Tx, by: typeof person.$inferSelect, day: LocalDate, now: Instant): Promise<void> {
  const looks = await tx.db
    .select({ id: orderLook.orderId })
    .from(orderLook)
    .where(lt(orderLook.doneOn, day))
    .orderBy(asc(orderLook.orderId));
  for (let i = 0; i < looks.length; i += APPROVED_AT_ONCE) {
    const some = looks.slice(i, i + APPROVED_AT_ONCE).map(({ id }) => ({ id: id, digest: null }));
    await approveIn(tx, () => undefined, by, some, now);
  }
}

async function billMonth(tx: Tx, by: By, upTo: LocalDate, now: Instant): Promise<void> {
  const wanted = { upTo, takesOrders: true, takesFees: true, now };
  const [made] = await tx.db
    .insert(billingRun)
    .values({
      ...{
        state: 'ended',
        upTo,
        takesOrders: true,
        takesFees: true,
        customerId: null,
        issues: true,
        personId: by.id,
        at: now,
        endedAt: now,
      },
      ...{ lastId: 0 as CustomerId, requestKey: `demo ${upTo}`, requestContent: '' },
    })
    .$returningId();
  const run = { id: made?.id as BillingRunId, personId: by.id, issues: true };
  let [documents, withTax] = [0, 0];
  for (let after = 0 as CustomerId; ;) {
    const lot = await nextPayers(tx.db, after, wanted, 60);
    if (lot.length === 0) break;
    const did = await billLot(tx, run, by.zone, lot, wanted, now);
    documents += did.documents;
    withTax += did.withTax;
    after = lot.at(-1) as CustomerId;
  }
  await tx.db.update(billingRun).set({ documents, withTax }).where(eq(billingRun.id, run.id));
}

export async function writeSettle(database: Database, now: Instant, today: LocalDate): Promise<void> {
  const thisMonth = `${today.slice(0, 8)}01` as LocalDate;
  const billsFrom = addMonths(thisMonth, -MONTHS_BILLED);
  const [by] = await database.db.select().from(person).where(eq(person.name, 'Mateo Larrazabal'));
  if (!by) throw new Error('the demo’s coordinators are there');
  await database.transact(async (tx) => {
    await writeWishes(tx, billsFrom);
    await markDoneSince(tx, billsFrom);
  });
  while ((await lookAtMarked(database)) > 0);
  await database.transact(async (tx) => {
    await approveBefore(tx, by, addDays(today, -LOOKED_AT_DAYS_AGO), instant(now - LOOKED_AT_DAYS_AGO * 24 * HOUR_MS));
    for (let month = billsFrom; month < thisMonth; month = addMonths(month, 1)) {
      const next = addMonths(month, 1);
      await billMonth(tx, by, addDays(next, -1), instant(startOfDay(LISBON as Zone, next) + 9 * HOUR_MS));
    }
  });
  await writePaid(database, by, now, today);
  await writeClaims(database, by, today);
  await database.db.update(settleSetting).set({ closedTo: addDays(addMonths(thisMonth, -1), -1) });
}
