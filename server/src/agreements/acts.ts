// What every act on an agreement shares: the row under lock, and telling its history, the audit and open screens.
import { eq } from 'drizzle-orm';
import { amend } from '#api/agreements/index.ts';
import type { AgreementId } from '#core/ids.ts';
import type { Instant } from '#core/time/index.ts';
import { keepAudit } from '../platform/audit.ts';
import type { Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { refuse } from '../platform/refuse.ts';
import { agreement, agreementEvent } from './tables.ts';
import type { AgreementRow } from './lines.ts';

export async function lockAgreement(tx: Tx, id: AgreementId): Promise<AgreementRow> {
  const [row] = await tx.db.select().from(agreement).where(eq(agreement.id, id)).for('update');
  if (!row) refuse('not-found', 'That agreement does not exist.');
  return row;
}

export function mustBeDraft(row: AgreementRow): void {
  if (row.stage !== 'draft')
    refuse(
      'wrong-stage',
      `The agreement is ${row.stage}; only a draft is changed like this. Amend it from a date instead.`,
    );
}

/** Without a person the agreement acted by itself, as its renewal says. */
export async function tell(tx: Tx, id: AgreementId, who: Person | null, at: Instant, text: string): Promise<void> {
  await tx.db.insert(agreementEvent).values({ agreementId: id, at, personId: who?.id ?? null, text });
  if (who) await keepAudit(tx, who, 'agreement', id, text);
  await announce(tx, amend, [{ subject: 'agreement', id }]);
}
