// Confirmations of an order: the customer's contact and the technician are told by their own way, each thing once.
import { and, asc, eq } from 'drizzle-orm';
import { orderNumber } from '#api/shapes.ts';
import type { Told } from '#api/orders.ts';
import type { ContactId, OrderId, PersonId } from '#core/ids.ts';
import type { OrderAct, OrderTelling } from '#core/orders/index.ts';
import { linkTo, type Language, type WayOut } from '#core/telling.ts';
import { sayDate, type Instant, type LocalDate } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { contact, customer } from '../customers/tables.ts';
import { tellOutside, tellPeople, type Telling } from '../outbox/index.ts';
import { outbox } from '../outbox/tables.ts';
import { placesOf } from '../places/index.ts';
import { location } from '../places/tables.ts';
import type { Db, Tx } from '../platform/database.ts';
import type { MessageKind } from '../platform/message-kind.ts';
import { loadOrder, type OrderRow } from './loading.ts';
import { ORDER_MESSAGES } from './messages.ts';
import { orderSettings } from './settings.ts';
import { lineLocation, orderLine, workOrder } from './tables.ts';

const WAYS: Readonly<Record<(typeof contact.$inferSelect)['preferred'], WayOut>> = {
  'e-mail': 'mail',
  phone: 'message',
  'text message': 'message',
};

/** What every message of an order may say. */
async function wordsOf(tx: Tx, { id, title, customerId }: OrderRow) {
  const [owner] = await tx.db.select().from(customer).where(eq(customer.id, customerId));
  const rows = await tx.db
    .select({ tag: asset.tag, model: asset.model, locationId: lineLocation, path: location.path })
    .from(orderLine)
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .where(eq(orderLine.orderId, id))
    .orderBy(asc(orderLine.id));
  const [first] = rows;
  const place = first
    ? (await placesOf(tx.db, [{ id: first.locationId, path: first.path }])).of(first.locationId)
    : null;
  const machine = first?.tag ? `${first.model} ${first.tag}` : 'the place';
  return {
    number: orderNumber(id),
    title,
    customer: owner?.name ?? '',
    machine: rows.length > 1 ? `${machine} and ${rows.length - 1} more` : machine,
    place: place?.label ?? '',
    address: place?.address?.value ?? owner?.serviceAddress ?? '',
    access: place?.accessNote?.value ?? '',
  };
}

type Said = {
  readonly what: OrderTelling;
  /** What lets it be said again: another day, another technician. */
  readonly of: string;
  readonly values: Readonly<Record<string, string>>;
  readonly thread?: Telling['thread'];
  readonly paper?: Telling['paper'];
};

/** Tells the contact of an order in its words and others; gives whether there is somebody who is told. */
async function tellContactOf(
  tx: Tx,
  order: OrderRow,
  id: ContactId | null,
  message: MessageKind,
  said: Omit<Said, 'what'> & { readonly key: string },
  now: Instant,
): Promise<boolean> {
  if (id === null) return false;
  const [known] = await tx.db.select().from(contact).where(eq(contact.id, id));
  if (!known) return false;
  const { name, email, phone, preferred, language } = known;
  return tellOutside(
    tx,
    message,
    { name, mail: email, phone, prefers: WAYS[preferred], language, personId: null },
    {
      key: `order ${order.id} ${said.key} ${said.of} contact ${id}`.slice(0, 120),
      values: { ...(await wordsOf(tx, order)), ...said.values, name },
      about: { subject: 'order', id: order.id },
      now,
      thread: said.thread ?? null,
      ...(said.paper && { paper: said.paper }),
    },
  );
}

const tellContact = (tx: Tx, order: OrderRow, id: ContactId | null, said: Said, now: Instant): Promise<boolean> =>
  tellContactOf(tx, order, id, ORDER_MESSAGES[said.what], { ...said, key: said.what }, now);

/** Something of another room about an order, to its contact on site; again only where `of` is another. */
export async function tellOnSite(
  tx: Tx,
  id: OrderId,
  message: MessageKind,
  said: { readonly of: string; readonly values: Readonly<Record<string, string>> },
  now: Instant,
): Promise<boolean> {
  const [order] = await tx.db.select().from(workOrder).where(eq(workOrder.id, id));
  if (!order) return false;
  return tellContactOf(tx, order, onSiteOf(order), message, { ...said, key: message.kind }, now);
}

async function tellTechnician(tx: Tx, order: OrderRow, id: PersonId | null, said: Said, now: Instant): Promise<void> {
  if (id === null) return;
  await tellPeople(tx, ORDER_MESSAGES[said.what], [id], {
    key: `order ${order.id} ${said.what} ${said.of} person ${id}`.slice(0, 120),
    values: { ...(await wordsOf(tx, order)), ...said.values },
    about: { subject: 'order', id: order.id },
    now,
  });
}

/** That a call has become an order, to who called. */
export async function tellTaken(
  tx: Tx,
  order: OrderRow,
  { promise, thread }: { readonly promise: string; readonly thread: Said['thread'] },
  now: Instant,
): Promise<void> {
  if (!(await orderSettings(tx.db)).tells.includes('taken')) return;
  await tellContact(tx, order, order.callerId, { what: 'taken', of: '', values: { promise }, thread }, now);
}

/** What an act that was just recorded is to be told of, to whom. */
export async function tellOf(tx: Tx, order: OrderRow, act: OrderAct, now: Instant): Promise<void> {
  if (act.kind !== 'planned' && act.kind !== 'sent' && act.kind !== 'called off') return;
  if ('quiet' in act && act.quiet) return;
  if (!(await orderSettings(tx.db)).tells.includes(act.kind)) return;
  const onSite = onSiteOf(order);
  const day = order.plannedFor ? sayDate(order.plannedFor) : '';
  switch (act.kind) {
    case 'planned': {
      const { technician, date } = act;
      const said = { what: 'planned', of: `${date} ${act.technicianId ?? technician}` } as const;
      await tellContact(tx, order, onSite, { ...said, values: { technician, day: sayDate(date) } }, now);
      return;
    }
    case 'sent':
      return tellTechnician(
        tx,
        order,
        order.technicianId,
        { what: 'sent', of: order.plannedFor ?? '', values: { day, link: linkTo(`/orders/${order.id}`) } },
        now,
      );
    case 'called off': {
      const said: Said = { what: 'called off', of: '', values: { text: act.text } };
      await tellContact(tx, order, order.callerId, said, now);
      return tellTechnician(tx, order, order.technicianId, said, now);
    }
  }
}

const onSiteOf = ({ contactId, callerId }: OrderRow): ContactId | null => contactId ?? callerId;

/** The language of whom it is told to on site. */
export async function contactLanguage(db: Db, order: OrderRow): Promise<Language> {
  const id = onSiteOf(order);
  if (id === null) return 'en';
  const [known] = await db.select({ language: contact.language }).from(contact).where(eq(contact.id, id));
  return known?.language ?? 'en';
}

/** That the work is done, to the contact on site, with its report where there is one. Says whether it was told. */
export async function tellDone(tx: Tx, id: OrderId, paper: Telling['paper'] | null, now: Instant): Promise<boolean> {
  if (!(await orderSettings(tx.db)).tells.includes('done')) return false;
  const { order, events } = await loadOrder(tx.db, id, 'look');
  const done = events.find((e) => e.act.kind === 'done')?.act;
  if (done?.kind !== 'done') return false;
  const values = { technician: order.technician ?? '', text: done.text };
  return tellContact(tx, order, onSiteOf(order), { what: 'done', of: '', values, ...(paper && { paper }) }, now);
}

/** Who comes when, told to the contact on site as the rota has it; again only when it is something else. Says whether it was told. */
export async function tellComing(
  tx: Tx,
  id: OrderId,
  { technician, date, time }: { readonly technician: string; readonly date: LocalDate; readonly time: string },
  now: Instant,
): Promise<boolean> {
  if (!(await orderSettings(tx.db)).tells.includes('planned')) return false;
  const [order] = await tx.db.select().from(workOrder).where(eq(workOrder.id, id));
  if (!order) return false;
  const values = { technician, day: sayDate(date), time: `, ${time}` };
  return tellContact(tx, order, onSiteOf(order), { what: 'planned', of: `${date} ${time} ${technician}`, values }, now);
}

/** What was told of an order, the latest first. */
export async function toldOutside(db: Db, id: OrderId): Promise<Told[]> {
  const rows = await db
    .select({
      ...{ id: outbox.id, kind: outbox.kind, way: outbox.way, to: outbox.toName, subject: outbox.subject },
      ...{ state: outbox.state, at: outbox.createdAt, sentAt: outbox.sentAt },
    })
    .from(outbox)
    .where(and(eq(outbox.aboutSubject, 'order'), eq(outbox.aboutId, id)))
    .orderBy(asc(outbox.id))
    .limit(200);
  return rows.reverse();
}
