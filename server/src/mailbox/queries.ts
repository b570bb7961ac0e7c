// Reading mail: the list of what came, and a message with what it may be about.
import { and, asc, count, desc, eq, inArray, lt, notInArray, or, sql } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import type { listMail, MailPage, MailRow } from '#api/mailbox.ts';
import { plainSerial } from '#core/assets/index.ts';
import type { MailId } from '#core/ids.ts';
import { contactIn, marksIn, partWords, saidIn } from '#core/mail/index.ts';
import type { Instant } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { contact, customer } from '../customers/tables.ts';
import { orderLine, workOrder } from '../orders/tables.ts';
import { outbox } from '../outbox/tables.ts';
import type { Db } from '../platform/database.ts';
import { refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { mail } from './tables.ts';

const PAGE = 40;
const START = 160;

const ROW = {
  ...{ id: mail.id, fromName: mail.fromName, fromAddress: mail.fromAddress, subject: mail.subject },
  ...{ receivedAt: mail.receivedAt, state: mail.state, isRead: mail.isRead, orderId: mail.orderId },
  customer: { id: customer.id, name: customer.name },
};

/** More of a message than is shown of it in a list, for the words before what is quoted. */
const SEEN = sql<string>`left(coalesce(${mail.text}, ''), 1000)`;

export async function listMailOf(
  db: Db,
  { state, after, limit = PAGE }: Asked<typeof listMail>['query'],
  now: Instant,
): Promise<{ items: MailRow[]; next: string | null; now: Instant }> {
  const rows = await db
    .select({ ...ROW, seen: SEEN })
    .from(mail)
    .leftJoin(customer, eq(customer.id, mail.customerId))
    .where(and(state && eq(mail.state, state), after ? lt(mail.id, Number(after) as MailId) : undefined))
    .orderBy(desc(mail.id))
    .limit(limit + 1);
  const items = rows
    .slice(0, limit)
    .map(({ seen, ...row }) => ({ ...row, start: saidIn(seen).replace(/\s+/g, ' ').slice(0, START) }));
  return { items, next: rows.length > limit ? String(items.at(-1)?.id) : null, now };
}

/** What waits for somebody to look at. */
export async function countMail(db: Db): Promise<number> {
  const [row] = await db.select({ n: count() }).from(mail).where(eq(mail.state, 'to look at'));
  return row?.n ?? 0;
}

const MOST = 30;

/** Machines that the message names; of the customer it is of, where one is known. */
async function machinesIn(db: Db, customerId: MailPage['customer'], text: string): Promise<MailPage['machines']> {
  const marks = marksIn(text);
  const serials = marks.map(plainSerial).filter((x) => x !== '');
  if (marks.length === 0) return [];
  return db
    .select({ id: asset.id, tag: asset.tag, model: asset.model, customer: customer.name })
    .from(asset)
    .innerJoin(customer, eq(customer.id, asset.customerId))
    .where(
      and(
        or(inArray(asset.tag, marks), serials.length > 0 ? inArray(asset.serialPlain, serials) : undefined),
        customerId ? eq(asset.customerId, customerId.id as typeof asset.$inferSelect.customerId) : undefined,
      ),
    )
    .orderBy(asc(asset.tag))
    .limit(MOST);
}

async function openOf(db: Db, { customer: owner, orderId }: MailRow): Promise<MailPage['open']> {
  if (!owner) return [];
  const rows = await db
    .select({ id: workOrder.id, title: workOrder.title, tag: sql<string>`coalesce(min(${asset.tag}), '')` })
    .from(workOrder)
    .leftJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .where(
      and(
        eq(workOrder.customerId, owner.id as typeof workOrder.$inferSelect.customerId),
        or(
          notInArray(workOrder.stage, ['done', 'settled', 'called off']),
          orderId === null ? undefined : eq(workOrder.id, orderId as typeof workOrder.$inferSelect.id),
        ),
      ),
    )
    .groupBy(workOrder.id)
    .orderBy(desc(workOrder.id))
    .limit(MOST);
  return rows
    .map((row) => ({ ...row, likely: row.id === orderId }))
    .toSorted((a, b) => Number(b.likely) - Number(a.likely));
}

const answersTo = (db: Db, id: MailId) =>
  db
    .select({ id: outbox.id, subject: outbox.subject, body: outbox.body, state: outbox.state, at: outbox.createdAt })
    .from(outbox)
    .where(and(eq(outbox.aboutSubject, 'mail'), eq(outbox.aboutId, id)))
    .orderBy(asc(outbox.id))
    .limit(200);

export async function readMailOf(db: Db, id: MailId): Promise<MailPage> {
  const [found] = await db
    .select({
      ...ROW,
      ...{ text: mail.text, sentAt: mail.sentAt, isAutomatic: mail.isAutomatic, problem: mail.problem },
      ...{ notKept: mail.notKept, putAwayReason: mail.putAwayReason, who: person.name },
      contact: { id: contact.id, name: contact.name },
    })
    .from(mail)
    .leftJoin(customer, eq(customer.id, mail.customerId))
    .leftJoin(contact, eq(contact.id, mail.contactId))
    .leftJoin(person, eq(person.id, mail.personId))
    .where(eq(mail.id, id));
  if (!found) refuse('not-found', 'That message does not exist.');
  const { text: held, notKept, ...row } = found;
  const text = held ?? '';
  const start = saidIn(text).replace(/\s+/g, ' ').slice(0, START);
  const [machines, open, answers] = await Promise.all([
    machinesIn(db, row.customer, `${row.subject}\n${saidIn(text)}`),
    openOf(db, { ...row, start }),
    answersTo(db, id),
  ]);
  return {
    ...row,
    ...partWords(text),
    ...{ start, machines, open, answers, notKept: [...notKept] },
    proposed:
      row.contact === null && row.fromAddress.includes('@')
        ? contactIn({ name: row.fromName, address: row.fromAddress, text })
        : null,
  };
}
