// How the house bills, and how each customer wants to be billed.
import { asc, eq, inArray } from 'drizzle-orm';
import type { CustomerId } from '#core/ids.ts';
import type { ReminderLevel } from '#core/settle/index.ts';
import { creditGrace } from '../customers/index.ts';
import type { Db } from '../platform/database.ts';
import { customerBilling, settleSetting } from './document-tables.ts';

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
