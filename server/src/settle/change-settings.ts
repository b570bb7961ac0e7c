// Changing how the house bills: from which day, in whose name, and above what goodwill two people look.
import { eq } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type { changeSettleSettings } from '#api/billing.ts';
import { checkLevels } from '#core/settle/index.ts';
import { creditGrace, followCredit } from '../customers/index.ts';
import { accept, stale } from '../platform/refuse.ts';
import type { Tx } from '../platform/database.ts';
import type { Write } from '../platform/writing.ts';
import { SETTINGS_ID, settleSettings } from './billing-settings.ts';
import { markOverdue } from './credit.ts';
import { settleSetting } from './document-tables.ts';
import { forgetBefore, markDoneSince } from './looks.ts';

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
