// What is made of a message: an order, a part of one, an answer, a contact; or it is put away.
import { and, eq, inArray } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type * as contracts from '#api/mailbox.ts';
import type { ContactId, MailId, OrderId, PersonId } from '#core/ids.ts';
import { answerTo, plainAddress, plainSubject, saidIn } from '#core/mail/index.ts';
import type { Instant } from '#core/time/index.ts';
import { carryFiles } from '../assets/index.ts';
import { addContact, giveAddress } from '../customers/index.ts';
import { raiseFromCall, recordActIn, sayCall } from '../orders/index.ts';
import { tellOutside } from '../outbox/index.ts';
import type { Database, Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { announce } from '../platform/live.ts';
import { refuse } from '../platform/refuse.ts';
import type { Write } from '../platform/writing.ts';
import { MAIL_ANSWER } from './messages.ts';
import { mail } from './tables.ts';

type MailHeld = typeof mail.$inferSelect;

async function lockMail(tx: Tx, id: MailId): Promise<MailHeld> {
  const [row] = await tx.db.select().from(mail).where(eq(mail.id, id)).for('update');
  if (!row) refuse('not-found', 'That message does not exist.');
  if (!row.isRead) refuse('not-ready', 'This message is still being read; try again in a moment.');
  return row;
}

/** Longer words than a note holds stay in the message. */
const NOTE_LENGTH = 2000;
const senderIn = ({ fromName, fromAddress }: MailHeld): string => fromName || fromAddress || 'nobody named';
const noteOf = (row: MailHeld): string =>
  `mail of ${senderIn(row)}: ${saidIn(row.text ?? '') || row.subject}`.slice(0, NOTE_LENGTH);

/** Ties a message to an order: a note of its words, its files, and that it is done with. */
async function tie(tx: Tx, row: MailHeld, orderId: OrderId, who: PersonId, now: Instant): Promise<void> {
  await recordActIn(
    tx,
    orderId,
    {
      at: row.receivedAt < now ? row.receivedAt : now,
      requestKey: `mail-${row.id}`,
      who,
      act: { kind: 'note', text: noteOf(row) },
    },
    now,
  );
  await carryFiles(tx, { subject: 'mail', id: row.id }, orderId);
  await tx.db
    .update(mail)
    .set({ state: 'on an order', orderId, personId: who, putAwayReason: null })
    .where(eq(mail.id, row.id));
  await announce(tx, { touches: ['mail', 'orders', 'register'] });
}

const mustBeLoose = ({ state }: MailHeld): void => {
  if (state === 'on an order') refuse('wrong-stage', 'This message is on an order already.');
};

/** Refused: a message that is on an order already, and whatever a call is refused for. */
export async function raiseFrom(
  database: Database,
  who: Person,
  id: MailId,
  { requestKey, receivedAt, ...asked }: Asked<typeof contracts.raiseFromMail>['body'],
  now: Instant,
): Promise<OrderId> {
  const [row] = await database.db.select().from(mail).where(eq(mail.id, id));
  return raiseFromCall(
    database,
    {
      ...asked,
      ...{ startedAt: receivedAt, requestKey, who: who.id, role: who.role, fallbackZone: who.zone },
      raisedText: sayCall(asked.title, asked.lateReason),
      thread: row ? answerTo({ messageId: row.messageId, references: row.threadIds, subject: row.subject }) : null,
    },
    now,
    async (tx, orderId) => {
      const held = await lockMail(tx, id);
      mustBeLoose(held);
      await tie(tx, held, orderId, who.id, now);
    },
  );
}

/** Refused: a message that is on an order already, an order that is over. */
export const joinFrom = (database: Database, who: Person, id: MailId, orderId: OrderId, now: Instant): Promise<void> =>
  database.transact(async (tx) => {
    const row = await lockMail(tx, id);
    if (row.state === 'on an order' && row.orderId === orderId) return;
    mustBeLoose(row);
    await tie(tx, row, orderId, who.id, now);
  });

export const putAway = (write: Write, who: PersonId, id: MailId, reason: string | null): Promise<void> =>
  write(async (tx, told) => {
    const row = await lockMail(tx, id);
    mustBeLoose(row);
    const state = reason === null ? 'to look at' : 'put away';
    if (row.state === state && row.putAwayReason === reason) return;
    await tx.db.update(mail).set({ state, putAwayReason: reason, personId: who }).where(eq(mail.id, id));
    told({ subject: 'mail', id, text: reason === null ? 'to be looked at again' : `put away: ${reason}` });
  });

async function takeContact(
  tx: Tx,
  told: Parameters<Parameters<Write>[0]>[1],
  row: MailHeld,
  { customerId, contactId, name, phone = null, language }: Asked<typeof contracts.nameSender>['body'],
): Promise<ContactId> {
  const email = plainAddress(row.fromAddress);
  if (!contactId) {
    const made = await addContact(tx, told, customerId, {
      ...{ name, role: null, email, phone: phone || null, preferred: 'e-mail', ...(language && { language }) },
    });
    return made.id as ContactId;
  }
  await giveAddress(tx, told, { customerId, contactId, email });
  return contactId;
}

/** Makes a contact of a sender; every message of theirs that is nobody's yet becomes theirs. Refused: a message without an address. */
export const nameSenderOf = (
  write: Write,
  id: MailId,
  body: Asked<typeof contracts.nameSender>['body'],
): Promise<{ contactId: ContactId }> =>
  write(async (tx, told) => {
    const row = await lockMail(tx, id);
    if (!row.fromAddress.includes('@')) refuse('missing', 'The message names no address to make a contact of.');
    if (row.contactId !== null) refuse('conflict', 'Its sender is a contact already.');
    const contactId = await takeContact(tx, told, row, body);
    await tx.db
      .update(mail)
      .set({ contactId, customerId: body.customerId })
      .where(and(eq(mail.fromAddress, row.fromAddress), inArray(mail.state, ['to look at', 'put away'])));
    return { contactId };
  });

/** Answers in the thread of a message. Refused: one without an address, and one that a machine sent. */
export const answerOf = (
  write: Write,
  who: Person,
  id: MailId,
  { requestKey, text }: Asked<typeof contracts.answerMail>['body'],
  now: Instant,
): Promise<void> =>
  write(async (tx, told) => {
    const row = await lockMail(tx, id);
    if (!row.fromAddress.includes('@')) refuse('missing', 'The message names no address to answer to.');
    // A machine answers an answer, and so on without an end (RFC 3834, section 2).
    if (row.isAutomatic) refuse('conflict', 'A machine sent this; nobody would read the answer.');
    const left = await tellOutside(
      tx,
      MAIL_ANSWER,
      {
        ...{ name: row.fromName || row.fromAddress, mail: row.fromAddress, phone: null },
        ...{ prefers: 'mail', language: 'en', personId: null },
      },
      {
        key: `mail ${id} ${requestKey}`,
        values: { subject: plainSubject(row.subject), text, who: who.name },
        about: { subject: 'mail', id },
        now,
        thread: answerTo({ messageId: row.messageId, references: row.threadIds, subject: row.subject }),
      },
    );
    if (left) told({ subject: 'mail', id, text: 'answered' });
  });
