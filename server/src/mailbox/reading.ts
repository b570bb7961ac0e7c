// Reading what came in: its words and files kept, its sender matched, and the thread it belongs to found.
import { eq, inArray, or, sql } from 'drizzle-orm';
import * as v from 'valibot';
import { orderOfNumber } from '#api/shapes.ts';
import type { CustomerId, MailId, OrderId } from '#core/ids.ts';
import { domainOf, isAutomatic, matchSender, nearestKnown, plainAddress, type Sender } from '#core/mail/index.ts';
import { refusal } from '#core/refusal.ts';
import { instant, type Instant } from '#core/time/index.ts';
import { freeName, mediaTypeOf } from '../assets/index.ts';
import { keepContent, readContent } from '../platform/content.ts';
import { attachment } from '../assets/tables.ts';
import { contact } from '../customers/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { idOfSent } from '../outbox/index.ts';
import { outbox } from '../outbox/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import type { House } from '../platform/http.ts';
import { jobKind } from '../platform/job-kind.ts';
import { holdClaim } from '../platform/jobs.ts';
import { announce } from '../platform/live.ts';
import { Refused } from '../platform/refuse.ts';
import { onThreads } from '../platform/threads.ts';
import type { ReadMail } from './parse.ts';
import { mail, type NotKept } from './tables.ts';
import type * as tasks from './thread.ts';

export const READING = 'read mail';
/** What screens of mail show has changed. */
export const MAIL_CHANGED = { touches: ['mail'] } as const;

const onThread = onThreads<typeof tasks>(
  new URL('./thread.ts', import.meta.url),
  refusal('too-large', 'The message needs more room to be read than there is.'),
);

/** More contacts than these of one domain are those of a provider of mailboxes. */
const MOST_OF_DOMAIN = 200;

export async function senderOf(db: Db, address: string): Promise<Sender> {
  const [own, domain] = [plainAddress(address), domainOf(address)];
  const ending = `%@${domain.replace(/[\\%_]/g, '\\$&')}`;
  const known = await db
    .select({ contactId: contact.id, customerId: contact.customerId, email: sql<string>`${contact.email}` })
    .from(contact)
    .where(or(eq(contact.email, own), sql`${contact.email} like ${ending}`))
    .limit(MOST_OF_DOMAIN);
  return matchSender(address, known);
}

type Belongs = { readonly orderId: OrderId | null; readonly customerId: CustomerId | null };
const NOWHERE: Belongs = { orderId: null, customerId: null };

/** A message of a thread: what it is about, and whose address was at the other end. */
type Threaded = Belongs & { readonly address: string };

/** What the thread it answers is about: the order of a message that left the house, or what became of one that came in. */
async function ofThread(db: Db, { inReplyTo, references }: ReadMail, publicAddress: string): Promise<Threaded | null> {
  const ids = [...new Set([...inReplyTo, ...references])].slice(0, 100);
  const left = new Map(ids.flatMap((id) => [[idOfSent(id, publicAddress), id] as const]).filter(([n]) => n !== null));
  const known = new Map<string, Threaded>();
  if (left.size > 0) {
    const rows = await db
      .select({
        id: outbox.id,
        subject: outbox.aboutSubject,
        about: outbox.aboutId,
        address: outbox.address,
        mailOrder: mail.orderId,
        customerId: mail.customerId,
      })
      .from(outbox)
      .leftJoin(mail, sql`${outbox.aboutSubject} = 'mail' and ${mail.id} = ${outbox.aboutId}`)
      .where(inArray(outbox.id, [...left.keys()] as number[]));
    for (const row of rows)
      known.set(left.get(row.id) as string, {
        orderId: row.subject === 'order' ? (row.about as OrderId) : row.mailOrder,
        ...{ customerId: row.customerId, address: row.address },
      });
  }
  if (ids.length > 0)
    for (const row of await db
      .select({
        ...{ messageId: mail.messageId, orderId: mail.orderId, customerId: mail.customerId },
        address: mail.fromAddress,
      })
      .from(mail)
      .where(inArray(mail.messageId, ids)))
      known.set(row.messageId, { orderId: row.orderId, customerId: row.customerId, address: row.address });
  return nearestKnown({ inReplyTo, references }, known);
}

const customerOf = async (db: Db, id: OrderId): Promise<CustomerId | null> =>
  (await db.select({ of: workOrder.customerId }).from(workOrder).where(eq(workOrder.id, id)))[0]?.of ?? null;

/**
 * The order a message is about: by its thread, else by the number in its subject. Anybody can write such a number, and name a thread
 * that is not theirs: believed is who answers from the address we wrote to, and whose customer it is of.
 */
async function belongsTo(db: Db, read: ReadMail, sender: Sender, publicAddress: string): Promise<Belongs> {
  const thread = await ofThread(db, read, publicAddress);
  const named = orderOfNumber(/\bWO-\d{4,9}\b/i.exec(read.subject)?.[0] ?? '') as OrderId | null;
  for (const found of [thread, named === null ? null : { orderId: named, customerId: null, address: '' }]) {
    if (found === null) continue;
    const customerId = found.orderId === null ? found.customerId : await customerOf(db, found.orderId);
    const isTheirs = customerId !== null && sender.customerId === customerId;
    const wroteToUs = found.address !== '' && plainAddress(found.address) === plainAddress(read.fromAddress);
    if (customerId !== null && (isTheirs || wroteToUs)) return { orderId: found.orderId, customerId };
  }
  return NOWHERE;
}

/** Keeps what is a photo or a PDF as a file of its own; the rest is named, and stays in the message as it came. */
async function keepAttached(tx: Tx, id: MailId, read: ReadMail, at: Instant): Promise<NotKept[]> {
  const notKept: NotKept[] = [];
  const names = new Set<string>();
  for (const { name: given, bytes } of read.attached) {
    const content = Buffer.from(bytes);
    try {
      const mediaType = await mediaTypeOf(given, content);
      const name = freeName(names, given.slice(-200));
      await tx.db.insert(attachment).values({
        ...{ subject: 'mail', subjectId: id, name, at, personId: null },
        sha256: await keepContent(tx, content, mediaType),
      });
    } catch (error) {
      if (!(error instanceof Refused)) throw error;
      notKept.push({ name: given.slice(0, 200), bytes: content.length, why: error.message.slice(0, 300) });
    }
  }
  return notKept;
}

/** Writes what was read of a message that came in, and who and what it belongs to. */
export async function keepRead(tx: Tx, id: MailId, read: ReadMail, publicAddress: string): Promise<void> {
  const [row] = await tx.db.select().from(mail).where(eq(mail.id, id)).for('update');
  if (!row || row.isRead) return;
  const { fromAddress, autoSubmitted, precedence } = read;
  const sender = await senderOf(tx.db, fromAddress);
  const belongs = await belongsTo(tx.db, read, sender, publicAddress);
  const automatic = isAutomatic({ autoSubmitted, precedence, returnPath: row.returnPath });
  const notKept = await keepAttached(tx, id, read, row.receivedAt);
  await tx.db
    .update(mail)
    .set({
      ...{ isRead: true, fromName: read.fromName.slice(0, 200), fromAddress: fromAddress.slice(0, 320), notKept },
      ...{ subject: read.subject.replace(/\s+/g, ' ').slice(0, 300), text: read.text, isAutomatic: automatic },
      sentAt: read.sentAt === null ? null : instant(read.sentAt),
      threadIds: [...new Set([...read.references, ...read.inReplyTo])].slice(0, 100),
      ...{ contactId: sender.contactId, customerId: sender.customerId ?? belongs.customerId, orderId: belongs.orderId },
      ...(automatic && { state: 'put away', putAwayReason: 'sent by a machine' }),
    })
    .where(eq(mail.id, id));
  await announce(tx, MAIL_CHANGED);
}

export const readingMail = jobKind({
  kind: READING,
  says: 'Read a message that came in',
  ask: v.object({ id: v.number() }),
  async run({ database, config }: House, { id: asked }, claim) {
    const id = asked as MailId;
    const [row] = await database.db.select({ sha256: mail.sha256 }).from(mail).where(eq(mail.id, id));
    if (!row) return 'gone';
    const read = await onThread('parse', { raw: await readContent(database.db, row.sha256) }, claim.signal);
    await database.transact(async (tx) => {
      if (await holdClaim(tx, claim)) await keepRead(tx, id, read, config.publicAddress);
    });
    return `mail of ${read.fromAddress}`;
  },
  async died({ database }, { id }, reason) {
    await database.transact(async (tx) => {
      await tx.db
        .update(mail)
        .set({ isRead: true, problem: reason.slice(0, 300), subject: 'A message that could not be read' })
        .where(eq(mail.id, id as MailId));
      await announce(tx, MAIL_CHANGED);
    });
  },
});
