// Audit: who changed what, written in the transaction of the change.
import { instant } from '#core/time/index.ts';
import type { PersonId } from '#core/ids.ts';
import type { Tx } from './database.ts';
import { audit } from './tables.ts';

export async function keepAudit(
  tx: Tx,
  who: { readonly id: PersonId },
  subject: string,
  subjectId: number,
  text: string,
): Promise<void> {
  await tx.db
    .insert(audit)
    .values({ at: instant(Date.now()), personId: who.id === 0 ? null : who.id, subject, subjectId, text });
}
