// Changing how the house bills (from which day, in whose name, above what goodwill two people look) and how customers are billed.
import { and, eq } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { changeCustomerBilling, changeSettleSettings } from '#api/billing.ts';
import type { CustomerId } from '#core/ids.ts';
import { checkLevels } from '#core/settle/index.ts';
import { creditGrace, followCredit } from '../customers/index.ts';
import { contact, customer } from '../customers/tables.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import type { Tx } from '../platform/database.ts';
import type { Write } from '../platform/writing.ts';
import { SETTINGS_ID, settleSettings, type Billing } from './billing-settings.ts';
import { markOverdue } from './credit.ts';
import { customerBilling, settleSetting } from './document-tables.ts';
import { forgetBefore, markDoneSince, markUnapproved } from './looks.ts';
import { tax } from './tables.ts';

/** Billed from another day, everything done since is looked at anew. */
const only = eq(settleSetting.id, SETTINGS_ID);

/** The settings, held until the end. The row is made by whoever comes first; both then wait for it. */
export async function holdSettings(tx: Tx) {
  await tx.db
    .insert(settleSetting)
    .values({ id: SETTINGS_ID, version: 0 })
    .onDuplicateKeyUpdate({ set: { id: SETTINGS_ID } });
  await tx.db.select({ id: settleSetting.id }).from(settleSetting).where(only).for('update');
  return settleSettings(tx.db);
}

export const changeSettings = (
  write: Write,
  { version, graceDays, ...body }: BodyOf<typeof changeSettleSettings>,
): Promise<void> =>
  write(async (tx, told) => {
    const before = await holdSettings(tx);
    accept(checkLevels(body.reminderLevels));
    if (before.version !== version) stale({ id: SETTINGS_ID, version: before.version });
    await tx.db
      .update(settleSetting)
      .set({ ...body, version: version + 1 })
      .where(only);
    if (graceDays !== (await creditGrace(tx.db))) {
      await followCredit(tx, graceDays);
      await markOverdue(tx, null);
    }
    if (body.billsFrom !== null && body.billsFrom !== before.billsFrom) {
      await forgetBefore(tx, body.billsFrom);
      await markDoneSince(tx, body.billsFrom);
    }
    told({ subject: 'settle settings', id: SETTINGS_ID, text: `billed from ${body.billsFrom ?? 'no day'}` });
  });

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
    // What their finished work comes to, and what is odd about it, may be another now.
    await markUnapproved(tx, id);
    told({ subject: 'customer', id, text: `billed by ${body.grouping}` });
  });
