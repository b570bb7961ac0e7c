// Looking after an agreement: account manager, contacts, cost centre, reminder, and index values as they are published.
import { and, eq, inArray } from 'drizzle-orm';
import type { addIndexValue as announceContract, changeAdministration as careContract } from '#api/agreements/index.ts';
import type { Asked } from '#api/contract.ts';
import { addIndexValue } from '#core/agreements/index.ts';
import type { AgreementId, ContactId, CustomerId, PersonId } from '#core/ids.ts';
import { sayDay, type Instant } from '#core/time/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { contact } from '../customers/tables.ts';
import { agreement, agreementContact } from './tables.ts';
import { lockAgreement, tell } from './acts.ts';

export async function checkManager(tx: Tx, managerId: PersonId | null | undefined): Promise<void> {
  if (!managerId) return;
  const [known] = await tx.db.select({ id: person.id }).from(person).where(eq(person.id, managerId));
  if (!known) refuse('not-found', 'That person does not exist; choose another.', 'managerId');
}

export async function setContacts(
  tx: Tx,
  id: AgreementId,
  customerId: CustomerId,
  ids: readonly ContactId[],
): Promise<void> {
  const wanted = [...new Set(ids)];
  const known =
    wanted.length === 0
      ? []
      : await tx.db
          .select({ id: contact.id })
          .from(contact)
          .where(and(inArray(contact.id, wanted), eq(contact.customerId, customerId)));
  if (known.length !== wanted.length)
    refuse('invalid', 'Only contacts of the agreement’s own customer can be named.', 'contactIds');
  await tx.db.delete(agreementContact).where(eq(agreementContact.agreementId, id));
  if (wanted.length > 0)
    await tx.db.insert(agreementContact).values(wanted.map((contactId) => ({ agreementId: id, contactId })));
}

async function lockRunning(tx: Tx, id: AgreementId, version: number) {
  const row = await lockAgreement(tx, id);
  if (row.version !== version) stale(row);
  if (row.stage === 'ended') refuse('wrong-stage', 'The agreement has ended; nothing about it changes any more.');
  return row;
}

/** Changes what is no term of the agreement, at any time and without an amendment. */
export async function changeAdministration(
  database: Database,
  id: AgreementId,
  ask: Asked<typeof careContract>['body'],
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockRunning(tx, id, ask.version);
    await checkManager(tx, ask.managerId);
    await setContacts(tx, id, row.customerId, ask.contactIds);
    await tx.db
      .update(agreement)
      .set({
        managerId: ask.managerId,
        costCentre: ask.costCentre,
        reminder: ask.reminder,
        signOff: ask.signOff,
        version: row.version + 1,
      })
      .where(eq(agreement.id, id));
    const changed = [
      row.managerId !== ask.managerId && 'account manager',
      row.costCentre !== ask.costCentre && 'cost centre',
      row.reminder !== ask.reminder && 'reminder',
      row.signOff !== ask.signOff && (ask.signOff ? 'the customer signs for work' : 'no sign-off'),
    ].filter((x) => x !== false);
    await tell(tx, id, who, now, `looked after otherwise: ${changed.join(', ') || 'contacts'}`);
    return row.version + 1;
  });
}

/** Records an index value from the day on which it holds; periods from then on are billed by it. */
export async function recordIndex(
  database: Database,
  id: AgreementId,
  ask: Asked<typeof announceContract>['body'],
  who: Person,
  now: Instant,
): Promise<number> {
  return database.transact(async (tx) => {
    const row = await lockRunning(tx, id, ask.version);
    const indexation = accept(addIndexValue(row.indexation, { from: ask.from, hundredths: ask.hundredths }));
    await tx.db
      .update(agreement)
      .set({ indexation, version: row.version + 1 })
      .where(eq(agreement.id, id));
    await tell(tx, id, who, now, `index ${(ask.hundredths / 100).toFixed(2)} from ${sayDay(ask.from)}`);
    return row.version + 1;
  });
}
