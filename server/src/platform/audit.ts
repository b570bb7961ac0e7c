// Audit: who changed what, written in the transaction of the change.
import { instant } from '#core/time/index.ts';
import type { PersonId } from '#core/ids.ts';
import { instantText } from './columns.ts';
import { bulkInsert, type Tx } from './database.ts';

export async function keepAudit(
  tx: Tx,
  who: { readonly id: PersonId },
  subject: string,
  subjectId: number,
  text: string,
): Promise<void> {
  // Every act writes one: as plainly as can be.
  await bulkInsert(
    tx.connection,
    'audit',
    ['at', 'person_id', 'subject', 'subject_id', 'text'],
    [[instantText(instant(Date.now())), who.id === 0 ? null : who.id, subject, subjectId, text]],
  );
}
