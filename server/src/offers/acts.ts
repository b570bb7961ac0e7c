// Writing, changing, sending, declining and withdrawing offers: one transaction each.
import { and, eq, inArray } from 'drizzle-orm';
import type { Asked } from '#api/contract.ts';
import { offerNumber, type addOffer, type changeOffer, type sendOffer } from '#api/offers.ts';
import type { ContactId, CustomerId, MailId, OfferId, OrderId } from '#core/ids.ts';
import { answerTo } from '#core/mail/index.ts';
import { sayMoney, type Currency } from '#core/money.ts';
import { checkOfferAct, checkOfferLines, type OfferAct } from '#core/offers/index.ts';
import type { TaxRate } from '#core/settle/index.ts';
import { sayDate } from '#core/time/index.ts';
import { asset, attachment } from '../assets/tables.ts';
import { contact, customer } from '../customers/tables.ts';
import { standardCard } from '../labour/index.ts';
import { mail } from '../mailbox/tables.ts';
import { workOrder } from '../orders/tables.ts';
import { tellOutside } from '../outbox/index.ts';
import { location } from '../places/tables.ts';
import { keepContent } from '../platform/content.ts';
import { isTaken, type Database, type Db, type Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse, Refused, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import type { Write } from '../platform/writing.ts';
import { tax } from '../settle/tables.ts';
import { part } from '../stores/tables.ts';
import { drawOffer } from './drawing.ts';
import { indexOffer } from './finder.ts';
import { OFFER_SENT } from './messages.ts';
import { readOfferOf, totalsOfKept, type When } from './queries.ts';
import { offer, type KeptOfferLine } from './tables.ts';

type Body = Omit<Asked<typeof changeOffer>['body'], 'version'>;
type Held = typeof offer.$inferSelect;
const NO_TAX: TaxRate = { category: 'E', hundredths: 0 };

/** The customer exists, and everything named is theirs. */
async function mustBeTheirs(db: Db, { customerId, contactId, assetIds, locationId }: Body): Promise<void> {
  const [owner] = await db.select({ id: customer.id }).from(customer).where(eq(customer.id, customerId));
  if (!owner) refuse('not-found', 'That customer does not exist; choose another.', 'customerId');
  if (new Set(assetIds).size < assetIds.length)
    refuse('conflict', 'A machine is named twice; take one of them away.', 'assetIds');
  const theirs =
    assetIds.length === 0
      ? []
      : await db
          .select({ id: asset.id })
          .from(asset)
          .where(and(inArray(asset.id, assetIds), eq(asset.customerId, customerId)));
  if (theirs.length < assetIds.length) refuse('not-found', 'One of the machines is not this customer’s.', 'assetIds');
  if (contactId !== null) await contactOf(db, contactId, customerId);
  if (locationId === null) return;
  const [place] = await db.select({ id: location.id }).from(location).where(eq(location.id, locationId));
  if (!place) refuse('not-found', 'That place does not exist; choose another.', 'locationId');
}

/** What it is made of is there. */
async function mustBeMadeOf(db: Db, orderId: OrderId | null, mailId: MailId | null): Promise<void> {
  const found = async (rows: Promise<unknown[]>): Promise<boolean> => (await rows).length > 0;
  if (
    orderId !== null &&
    !(await found(db.select({ id: workOrder.id }).from(workOrder).where(eq(workOrder.id, orderId))))
  )
    refuse('not-found', 'That work order does not exist.', 'orderId');
  if (mailId !== null && !(await found(db.select({ id: mail.id }).from(mail).where(eq(mail.id, mailId)))))
    refuse('not-found', 'That message does not exist.', 'mailId');
}

async function contactOf(db: Db, id: ContactId, customerId: CustomerId) {
  const [row] = await db
    .select()
    .from(contact)
    .where(and(eq(contact.id, id), eq(contact.customerId, customerId)));
  return row ?? refuse('not-found', 'That is no contact of this customer; choose another.', 'contactId');
}

/** The lines with the tax each has now. Refused: what the core refuses, and machines, parts and taxes that are not there. */
async function keptLines(db: Db, { lines, assetIds }: Body): Promise<KeptOfferLine[]> {
  const found = checkOfferLines(lines);
  if (found.length > 0) throw new Refused(found);
  const partIds = lines.flatMap((l) => l.partId ?? []);
  const [taxes, parts] = await Promise.all([
    db.select().from(tax),
    partIds.length === 0 ? [] : db.select({ id: part.id }).from(part).where(inArray(part.id, partIds)),
  ]);
  const standard = taxes.find((t) => t.isStandard === true);
  return lines.map((line, i) => {
    if (line.assetId !== null && !assetIds.includes(line.assetId))
      refuse('not-found', 'That machine is not in the offer.', `lines.${i}.assetId`);
    if (line.partId !== null && !parts.some((p) => p.id === line.partId))
      refuse('not-found', 'That part does not exist; choose another.', `lines.${i}.partId`);
    const own = line.taxId === null ? standard : taxes.find((t) => t.id === line.taxId);
    if (line.taxId !== null && !own)
      refuse('not-found', 'That tax does not exist; choose another.', `lines.${i}.taxId`);
    return { ...line, rate: own ? { category: own.category, hundredths: own.hundredths } : NO_TAX };
  });
}

async function columnsOf(db: Db, body: Body) {
  await mustBeTheirs(db, body);
  const lines = await keptLines(db, body);
  const { customerId, assetIds, locationId, contactId, kind, title, text, validUntil } = body;
  return {
    ...{ customerId, assetIds, locationId: assetIds.length > 0 ? null : locationId, contactId, kind, title, text },
    ...{ validUntil, lines, withoutTax: totalsOfKept(lines).withoutTax },
  };
}

/** Refused: what `columnsOf` refuses. A repeated request key gives the first offer again. */
export async function addOfferOf(
  write: Write,
  db: Db,
  who: Person,
  { requestKey, orderId, mailId, ...body }: Asked<typeof addOffer>['body'],
  { now }: When,
): Promise<{ id: OfferId }> {
  const requestContent = contentOf({ orderId, mailId, ...body });
  try {
    return await write(async (tx, told) => {
      const columns = await columnsOf(tx.db, body);
      await mustBeMadeOf(tx.db, orderId, mailId);
      const currency = (await standardCard(tx.db))?.currency ?? ('EUR' as Currency);
      const [made] = await tx.db
        .insert(offer)
        .values({
          ...columns,
          ...{ currency, state: 'draft', createdAt: now, personId: who.id, requestKey, requestContent },
          ...{ fromOrderId: orderId, fromMailId: mailId },
        })
        .$returningId();
      const id = made?.id as OfferId;
      await indexOffer(tx, id);
      told({ subject: 'offer', id, text: `began ${offerNumber(id)}: ${body.title}` });
      return { id };
    });
  } catch (error) {
    if (!isTaken(error)) throw error;
    const [row] = await db.select().from(offer).where(eq(offer.requestKey, requestKey));
    if (!row) throw error;
    mustBeSame(row.requestContent, requestContent);
    return { id: row.id };
  }
}

/** The offer under lock; refused when the act is not allowed as it stands. */
export async function lockFor(
  tx: Tx,
  act: OfferAct,
  id: OfferId,
  { today }: When,
  validUntil?: Held['validUntil'],
): Promise<Held> {
  const [row] = await tx.db.select().from(offer).where(eq(offer.id, id)).for('update');
  if (!row) refuse('not-found', 'That offer does not exist.');
  const refused = checkOfferAct(act, { state: row.state, validUntil: validUntil ?? row.validUntil }, today);
  if (refused) throw new Refused([refused]);
  return row;
}

export const changeOfferOf = (
  write: Write,
  id: OfferId,
  { version, ...body }: Asked<typeof changeOffer>['body'],
  when: When,
): Promise<void> =>
  write(async (tx, told) => {
    const row = await lockFor(tx, 'change', id, when);
    if (row.version !== version) stale({ version: row.version });
    const columns = await columnsOf(tx.db, body);
    await tx.db
      .update(offer)
      .set({ ...columns, version: version + 1 })
      .where(eq(offer.id, id));
    await indexOffer(tx, id);
    told({ subject: 'offer', id, text: `changed ${offerNumber(id)}` });
  });

/** The message an offer answers is done with. */
const putAnswerAway = (tx: Tx, { id, fromMailId }: Held, who: Person): Promise<unknown> =>
  fromMailId === null
    ? Promise.resolve()
    : tx.db
        .update(mail)
        .set({ state: 'put away', putAwayReason: `answered by ${offerNumber(id)}`, personId: who.id })
        .where(and(eq(mail.id, fromMailId), eq(mail.state, 'to look at')));

/** The thread of the message an offer answers. */
async function threadOf(tx: Tx, { fromMailId }: Held) {
  if (fromMailId === null) return null;
  const [row] = await tx.db.select().from(mail).where(eq(mail.id, fromMailId));
  return row ? answerTo({ messageId: row.messageId, references: row.threadIds, subject: row.subject }) : null;
}

/** Leaves the mail with the offer as it is kept; refused where the contact cannot be reached by mail. */
async function leaveMail(
  tx: Tx,
  row: Held,
  to: ContactId,
  who: Person,
  paper: { sha256: string; name: string },
  when: When,
) {
  const known = await contactOf(tx.db, to, row.customerId);
  if (!known.email)
    refuse('missing', `${known.name} has no e-mail address: write one, or hand it over on paper.`, 'contactId');
  const total = sayMoney({ minor: row.withoutTax, currency: row.currency });
  await tellOutside(
    tx,
    OFFER_SENT,
    { name: known.name, mail: known.email, phone: null, prefers: 'mail', language: known.language, personId: null },
    {
      key: `offer ${row.id} version ${row.version}`,
      values: {
        ...{ name: known.name, number: offerNumber(row.id), title: row.title, total, who: who.name },
        until: sayDate(row.validUntil),
      },
      about: { subject: 'offer', id: row.id },
      now: when.now,
      thread: await threadOf(tx, row),
      paper,
    },
  );
  return known.email;
}

/**
 * Sends an offer by mail to a contact, or notes that it was handed over where there is none. The paper is drawn as the offer stands
 * and kept with it. Refused: one without lines, one changed meanwhile, a last day that has passed.
 */
export async function sendOfferOf(
  database: Database,
  write: Write,
  who: Person,
  id: OfferId,
  { version, validUntil, contactId }: Asked<typeof sendOffer>['body'],
  when: When,
): Promise<void> {
  // Drawn before anything is locked, with the day it will have.
  const page = { ...(await readOfferOf(database.db, id, when)), validUntil };
  const refused = checkOfferAct(
    'send',
    { state: page.standing === 'lapsed' ? 'sent' : page.standing, validUntil },
    when.today,
  );
  if (refused) throw new Refused([refused]);
  if (page.lines.length === 0) refuse('missing', 'It offers nothing yet: write its lines first.');
  const paper = await drawOffer(page);
  await write(async (tx, told) => {
    const row = await lockFor(tx, 'send', id, when, validUntil);
    if (row.version !== version) stale({ version: row.version });
    const name = `${offerNumber(id)}${version > 1 ? `-${version}` : ''}.pdf`;
    const sha256 = await keepContent(tx, paper, 'application/pdf');
    await tx.db
      .insert(attachment)
      .values({ subject: 'offer', subjectId: id, name, sha256, at: when.now, personId: who.id })
      .onDuplicateKeyUpdate({ set: { sha256, at: when.now } });
    const held = { ...row, validUntil };
    await putAnswerAway(tx, row, who);
    const sentTo = contactId === null ? null : await leaveMail(tx, held, contactId, who, { sha256, name }, when);
    await tx.db
      .update(offer)
      .set({
        state: 'sent',
        sentAt: when.now,
        sentTo,
        contactId: contactId ?? row.contactId,
        validUntil,
        version: version + 1,
      })
      .where(eq(offer.id, id));
    told({
      subject: 'offer',
      id,
      text: sentTo ? `sent ${offerNumber(id)} to ${sentTo}` : `handed ${offerNumber(id)} over`,
    });
  });
}

const end =
  (act: 'decline' | 'withdraw', state: 'declined' | 'withdrawn') =>
  (write: Write, id: OfferId, reason: string, when: When): Promise<void> =>
    write(async (tx, told) => {
      const row = await lockFor(tx, act, id, when);
      await tx.db
        .update(offer)
        .set({ state, decision: reason, decidedAt: when.now, version: row.version + 1 })
        .where(eq(offer.id, id));
      told({ subject: 'offer', id, text: `${offerNumber(id)} ${state}: ${reason}` });
    });
export const declineOfferOf = end('decline', 'declined');
export const withdrawOfferOf = end('withdraw', 'withdrawn');
