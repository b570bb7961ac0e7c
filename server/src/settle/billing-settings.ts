// How the house bills, and how each customer wants to be billed.
import { and, asc, eq, inArray } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { changeCustomerBilling } from '#api/billing.ts';
import type { CustomerId } from '#core/ids.ts';
import type { ReminderLevel } from '#core/settle/index.ts';
import { creditGrace } from '../customers/index.ts';
import { contact, customer } from '../customers/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import { refuse, stale } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { customerBilling, settleSetting } from './document-tables.ts';
import { tax } from './tables.ts';

/** There is one. */
export const SETTINGS_ID = 1;
type Settings = Omit<typeof settleSetting.$inferSelect, 'id'>;
const UNSAID: Settings = {
  ...{
    billsFrom: null,
    secondAbove: null,
    seller: null,
    account: '',
    reminderLevels: null,
    ...{ closedTo: null, accounts: null, version: 0 },
  },
};

export async function settleSettings(db: Db): Promise<Settings> {
  const [row] = await db.select().from(settleSetting).where(eq(settleSetting.id, SETTINGS_ID));
  return row ?? UNSAID;
}

/** Levels of reminders where nobody said others: after ten days, and twice more a fortnight later each. */
const USUAL_LEVELS: readonly ReminderLevel[] = [
  { days: 10, wait: 0 },
  { days: 24, wait: 14 },
  { days: 38, wait: 14 },
];
export const levelsOf = ({ reminderLevels }: Pick<Settings, 'reminderLevels'>): readonly ReminderLevel[] =>
  reminderLevels ?? USUAL_LEVELS;

/** As they are shown and sent back: with when customers are over their terms, and the levels of reminders that hold. */
export async function shownSettings(db: Db) {
  const { billsFrom, secondAbove, seller, account, version, ...settings } = await settleSettings(db);
  return {
    billsFrom,
    secondAbove,
    seller,
    account,
    version,
    graceDays: await creditGrace(db),
    reminderLevels: [...levelsOf(settings)],
  };
}

export type Billing = Omit<typeof customerBilling.$inferSelect, 'customerId'>;
/** Order by order, without what is covered. */
export const USUAL: Billing = {
  ...{ grouping: 'order', showsCovered: false, needsReference: false, taxId: null, address: '', country: '' },
  ...{ taxNumber: '', contactId: null, version: 0 },
};

export async function billingOf(db: Db, ids: readonly CustomerId[]): Promise<(id: CustomerId) => Billing> {
  const rows =
    ids.length === 0
      ? []
      : await db
          .select()
          .from(customerBilling)
          .where(inArray(customerBilling.customerId, [...ids]))
          .orderBy(asc(customerBilling.customerId));
  const known = new Map(rows.map(({ customerId, ...row }) => [customerId, row]));
  return (id) => known.get(id) ?? USUAL;
}

async function mustKnow(tx: Tx, id: CustomerId, { taxId, contactId }: Pick<Billing, 'taxId' | 'contactId'>) {
  const [owner] = await tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, id));
  if (!owner) refuse('not-found', 'That customer does not exist.');
  if (taxId !== null) {
    const [known] = await tx.db.select({ id: tax.id }).from(tax).where(eq(tax.id, taxId));
    if (!known) refuse('not-found', 'That tax does not exist; choose another.', 'taxId');
  }
  if (contactId !== null) {
    const [known] = await tx.db
      .select({ id: contact.id })
      .from(contact)
      .where(and(eq(contact.id, contactId), eq(contact.customerId, id)));
    if (!known) refuse('not-found', 'That contact is not the customer’s; choose another.', 'contactId');
  }
}

export const changeBilling = (
  write: Write,
  id: CustomerId,
  { version, ...body }: BodyOf<typeof changeCustomerBilling>,
): Promise<void> =>
  write(async (tx, told) => {
    await mustKnow(tx, id, body);
    const [held] = await tx.db.select().from(customerBilling).where(eq(customerBilling.customerId, id)).for('update');
    if ((held?.version ?? 0) !== version) stale({ id, version: held?.version ?? 0 });
    await tx.db
      .insert(customerBilling)
      .values({ customerId: id, ...body, version: version + 1 })
      .onDuplicateKeyUpdate({ set: { ...body, version: version + 1 } });
    told({ subject: 'customer', id, text: `billed by ${body.grouping}` });
  });
