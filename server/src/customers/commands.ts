// Changing customers, their contacts, notes and wishes for technicians: one transaction each.
import { and, eq } from 'drizzle-orm';
import type { BodyOf } from '#api/contract.ts';
import type * as contracts from '#api/customers.ts';
import type { ContactId, CustomerId, CustomerNoteId, PersonId, RateCardId } from '#core/ids.ts';
import { goesOut } from '#core/people.ts';
import type { Instant } from '#core/time/index.ts';
import type { Tx } from '../platform/database.ts';
import { keepRenamed } from '../platform/finder-index.ts';
import type { FinderSource } from '../platform/finder-source.ts';
import { refuse, stale } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import type { Told } from '../platform/writing.ts';
import { rateCard } from '../labour/tables.ts';
import { creditGrace, markCredit } from './credit.ts';
import { indexCustomers } from './finder.ts';
import { contact, customer, customerNote, technicianWish } from './tables.ts';

async function mustExist(tx: Tx, id: CustomerId): Promise<void> {
  const [row] = await tx.db.select({ id: customer.id }).from(customer).where(eq(customer.id, id)).for('update');
  if (!row) refuse('not-found', 'That customer does not exist.');
}

/** Refused at its field: a rate card that does not exist. */
async function mustBeCard(tx: Tx, id: RateCardId | null | undefined): Promise<void> {
  if (!id) return;
  const [known] = await tx.db.select({ id: rateCard.id }).from(rateCard).where(eq(rateCard.id, id));
  if (!known) refuse('not-found', 'That rate card does not exist; choose another.', 'rateCardId');
}

/** Refused at its field: saying by hand what follows from what they owe. */
async function mustFollow(tx: Tx, said: string | null, was: string | null): Promise<void> {
  if (said !== was && (await creditGrace(tx.db)) !== null)
    refuse('conflict', 'It follows from what they owe (Setup, Billing) and is not set by hand.', 'overSince');
}

export async function addCustomer(
  tx: Tx,
  told: Told,
  body: BodyOf<typeof contracts.addCustomer>,
): Promise<{ id: CustomerId }> {
  await mustBeCard(tx, body.rateCardId);
  await mustFollow(tx, body.overSince ?? null, null);
  const [made] = await tx.db.insert(customer).values(body).$returningId();
  const id = made?.id as CustomerId;
  await indexCustomers(tx, [id]);
  told({ subject: 'customer', id, text: `added ${body.name}` });
  return { id };
}

/** `found`: what other rooms' things are known by changes with the name. */
export async function changeCustomer(
  tx: Tx,
  told: Told,
  found: readonly FinderSource[],
  id: CustomerId,
  { version, ...fields }: BodyOf<typeof contracts.changeCustomer>,
): Promise<{ version: number }> {
  const [row] = await tx.db.select().from(customer).where(eq(customer.id, id)).for('update');
  if (!row) refuse('not-found', 'That customer does not exist.');
  if (row.version !== version) stale(row);
  await mustBeCard(tx, fields.rateCardId);
  if (fields.overSince !== undefined) await mustFollow(tx, fields.overSince, row.overSince);
  const text = (Object.keys(fields) as (keyof typeof fields)[])
    .filter((k) => row[k] !== fields[k])
    .map((k) => `${k} ${row[k] ?? 'none'} → ${fields[k] ?? 'none'}`)
    .join('; ');
  if (text === '') return { version };
  await tx.db
    .update(customer)
    .set({ ...fields, version: version + 1 })
    .where(eq(customer.id, id));
  await markCredit(tx, [id]);
  await indexCustomers(tx, [id]);
  if (row.name !== fields.name) await keepRenamed(tx, found, { customers: [id] });
  told({ subject: 'customer', id, text });
  return { version: version + 1 };
}

export async function addContact(
  tx: Tx,
  told: Told,
  customerId: CustomerId,
  body: BodyOf<typeof contracts.addContact>,
): Promise<{ id: number }> {
  await mustExist(tx, customerId);
  const [made] = await tx.db
    .insert(contact)
    .values({ ...body, customerId })
    .$returningId();
  await indexCustomers(tx, [customerId]);
  told({ subject: 'customer', id: customerId, text: `added the contact ${body.name}` });
  return { id: made?.id as number };
}

async function lockContact(tx: Tx, id: ContactId) {
  const [row] = await tx.db.select().from(contact).where(eq(contact.id, id)).for('update');
  return row ?? refuse('not-found', 'That contact does not exist any more.');
}

export async function changeContact(
  tx: Tx,
  told: Told,
  id: ContactId,
  body: BodyOf<typeof contracts.changeContact>,
): Promise<void> {
  const row = await lockContact(tx, id);
  if (row.version !== body.version) stale(row);
  await tx.db
    .update(contact)
    .set({ ...body, version: row.version + 1 })
    .where(eq(contact.id, id));
  await indexCustomers(tx, [row.customerId]);
  told({ subject: 'customer', id: row.customerId, text: `changed the contact ${body.name}` });
}

/** Somebody we know writes from another address: it is theirs from now on. */
export async function giveAddress(
  tx: Tx,
  told: Told,
  {
    customerId,
    contactId,
    email,
  }: { readonly customerId: CustomerId; readonly contactId: ContactId; readonly email: string },
): Promise<void> {
  const row = await lockContact(tx, contactId);
  if (row.customerId !== customerId)
    refuse('not-found', 'That is no contact of this customer; choose another.', 'contactId');
  await tx.db
    .update(contact)
    .set({ email, version: row.version + 1 })
    .where(eq(contact.id, contactId));
  await indexCustomers(tx, [customerId]);
  const text = `${row.name} writes from ${email} (before: ${row.email ?? 'no address'})`;
  told({ subject: 'customer', id: customerId, text });
}

export async function removeContact(tx: Tx, told: Told, id: ContactId): Promise<void> {
  const row = await lockContact(tx, id);
  await tx.db.delete(contact).where(eq(contact.id, id));
  await indexCustomers(tx, [row.customerId]);
  told({ subject: 'customer', id: row.customerId, text: `removed the contact ${row.name}` });
}

export async function addNote(
  tx: Tx,
  told: Told,
  customerId: CustomerId,
  body: BodyOf<typeof contracts.addNote>,
  by: { readonly personId: PersonId; readonly at: Instant },
): Promise<{ id: number }> {
  await mustExist(tx, customerId);
  const [made] = await tx.db
    .insert(customerNote)
    .values({ ...body, customerId, ...by })
    .$returningId();
  told({ subject: 'customer', id: customerId, text: `noted: ${body.text}` });
  return { id: made?.id as number };
}

export async function removeNote(tx: Tx, told: Told, id: CustomerNoteId): Promise<void> {
  const [row] = await tx.db.select().from(customerNote).where(eq(customerNote.id, id)).for('update');
  if (!row) refuse('not-found', 'That note does not exist any more.');
  await tx.db.delete(customerNote).where(eq(customerNote.id, id));
  told({ subject: 'customer', id: row.customerId, text: `removed the note: ${row.text}` });
}

export async function setWish(
  tx: Tx,
  told: Told,
  customerId: CustomerId,
  { personId, wish }: BodyOf<typeof contracts.setWish>,
): Promise<void> {
  await mustExist(tx, customerId);
  const [technician] = await tx.db
    .select({ name: person.name, role: person.role })
    .from(person)
    .where(eq(person.id, personId));
  if (!technician || !goesOut(technician.role))
    refuse('not-found', 'That is no technician; choose another.', 'personId');
  if (wish === null)
    await tx.db
      .delete(technicianWish)
      .where(and(eq(technicianWish.customerId, customerId), eq(technicianWish.personId, personId)));
  else
    await tx.db.insert(technicianWish).values({ customerId, personId, wish }).onDuplicateKeyUpdate({ set: { wish } });
  told({ subject: 'customer', id: customerId, text: `${technician.name}: ${wish ?? 'no wish'}` });
}
