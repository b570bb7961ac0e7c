// The order page: what it is, what happened, what it took, what is missing, and what may be recorded next.
import { and, asc, desc, eq, sql } from 'drizzle-orm';
import type { ClockOut, OrderPage } from '#api/orders.ts';
import type { ContactId, OrderId } from '#core/ids.ts';
import { actsOffered, isFinished, missingOf, mustBeFilled, stateOfOrder } from '#core/orders/index.ts';
import { seesMoney, type Role } from '#core/people.ts';
import { PAUSE_REASONS } from '#core/service-levels/index.ts';
import type { Instant } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { contact, customer, customerNote } from '../customers/tables.ts';
import { timePiece } from '../labour/tables.ts';
import { clocksOf } from './clock-rows.ts';
import { loadOrder, type LoadedOrder, type OrderRow } from './loading.ts';
import { shownLines } from './page-lines.ts';
import { remindersOf } from './queries.ts';
import { missingElsewhere } from './missing-elsewhere.ts';
import { saySignOff, toldOf } from './say.ts';
import { workOrder } from './tables.ts';

const sum = (values: readonly (number | null)[]): number | null => {
  const known = values.filter((x) => x !== null);
  return known.length === 0 ? null : known.reduce((a, b) => a + b, 0);
};

/** What the work took, where anything of it was told. */
function tookOf(lines: LoadedOrder['lines']): OrderPage['took'] {
  const took = {
    fault: lines.find((l) => l.fault !== null)?.fault ?? null,
    labourMinutes: sum(lines.map((l) => l.labourMinutes)),
    partsCost: sum(lines.map((l) => l.partsCost)),
    otherCost: sum(lines.map((l) => l.otherCost)),
  };
  return Object.values(took).some((x) => x !== null) ? took : null;
}

/** What people entered as work for it, counter-entries taken off. */
async function workedOn(db: Db, id: OrderId): Promise<number | null> {
  const [row] = await db
    .select({ minutes: sql<string | null>`sum(${timePiece.minutes})` })
    .from(timePiece)
    .where(and(eq(timePiece.orderId, id), eq(timePiece.kind, 'work')));
  return Number(row?.minutes ?? 0) || null;
}

/** A contact, where one was named. */
async function contactOf(db: Db, id: ContactId | null) {
  if (id === null) return null;
  const [known] = await db
    .select({ id: contact.id, name: contact.name, phone: contact.phone, email: contact.email })
    .from(contact)
    .where(eq(contact.id, id));
  return known ?? null;
}

/** The order it does the rest of, and those that do the rest of it. */
async function linksOf(db: Db, { id, followsId }: OrderRow): Promise<Pick<OrderPage, 'follows' | 'followedBy'>> {
  const linked = { id: workOrder.id, title: workOrder.title, stage: workOrder.stage };
  const [[follows], followedBy] = await Promise.all([
    followsId === null ? [] : db.select(linked).from(workOrder).where(eq(workOrder.id, followsId)),
    db.select(linked).from(workOrder).where(eq(workOrder.followsId, id)).orderBy(asc(workOrder.id)).limit(50),
  ]);
  return { follows: follows ?? null, followedBy };
}

/** What is to be read of a customer before anything is done for them. */
async function notesOf(db: Db, { customerId }: OrderRow): Promise<string[]> {
  const rows = await db
    .select({ text: customerNote.text })
    .from(customerNote)
    .where(and(eq(customerNote.customerId, customerId), eq(customerNote.popsUp, true)))
    .orderBy(desc(customerNote.id))
    .limit(20);
  return rows.map((r) => r.text);
}

/** People and orders around it. */
async function around(db: Db, { order }: LoadedOrder) {
  const [[owner], [goes], [sees], caller, onSite, links, notes] = await Promise.all([
    db.select().from(customer).where(eq(customer.id, order.customerId)),
    order.technicianId === null
      ? []
      : db.select({ name: person.name }).from(person).where(eq(person.id, order.technicianId)),
    order.inChargeId === null
      ? []
      : db.select({ id: person.id, name: person.name }).from(person).where(eq(person.id, order.inChargeId)),
    contactOf(db, order.callerId),
    contactOf(db, order.contactId),
    linksOf(db, order),
    notesOf(db, order),
  ]);
  if (!owner) refuse('not-found', 'The order’s customer is gone.');
  return { owner, goes, inCharge: sees ?? null, caller, onSite, links, notes };
}

const isOpenWorkaround = ({ target, state, stoppedAt }: ClockOut): boolean =>
  target === 'workaround' && stoppedAt === null && state !== 'void';

export async function readOrder(db: Db, id: OrderId, now: Instant): Promise<OrderPage> {
  const [loaded, book] = await Promise.all([loadOrder(db, id, 'look'), calendarBook(db)]);
  const { order, facts, events, lines } = loaded;
  const state = accept(stateOfOrder(facts, events));
  const [{ owner, goes, inCharge, caller, onSite, links, notes }, ofLines, told, clocks, reminders, worked, elsewhere] =
    await Promise.all([
      around(db, loaded),
      shownLines(db, loaded, state),
      toldOf(db, loaded),
      clocksOf(db, book, now, { orderId: id }, 200),
      remindersOf(db, order.agreementId === null ? [] : [order.agreementId]),
      workedOn(db, id),
      missingElsewhere(db, loaded),
    ]);
  const { lines: shown, place } = ofLines;
  const counted = new Set(lines.flatMap((l) => Object.values(l.promises).flatMap((p) => p?.pauses ?? [])));
  return {
    id,
    version: order.version,
    ...{ kind: order.kind, stage: order.stage, priority: order.priority, title: order.title },
    customer: { id: owner.id, name: owner.name },
    zone: order.zone,
    technicianId: order.technicianId,
    technician: goes?.name ?? order.technician,
    inCharge,
    ...{ plannedFor: order.plannedFor, startedAt: order.startedAt, pausedSince: order.pausedSince },
    minutes: order.minutes,
    worked,
    ...{ caller, callerSaid: order.callerSaid, contact: onSite, customerReference: order.customerReference },
    ...{ wishedOn: order.wishedOn, internal: order.internal, ...links, notes },
    signed: state.signed && saySignOff(state.signed),
    took: tookOf(lines),
    // An order without a place goes to the customer's service address.
    address:
      place?.address ??
      (owner.serviceAddress === null ? null : { value: owner.serviceAddress, from: 'the customer’s service address' }),
    accessNote: place?.accessNote?.value ?? null,
    lines: shown,
    tasks: facts.tasks.map((t) => ({ ...t, outcome: state.tasks.get(t.id) ?? null })),
    forms: facts.forms.map((f) => ({
      id: f.id,
      lineId: f.lineId,
      name: f.name,
      mandatory: mustBeFilled(f),
      questions: [...f.questions],
      answers: state.forms.has(f.id) ? [...(state.forms.get(f.id) ?? [])] : null,
    })),
    missing: isFinished(order.stage) ? [] : [...missingOf(facts, events), ...elsewhere],
    events: told,
    clocks,
    // A workaround is told where one was promised.
    offered: actsOffered(facts, state).filter((kind) => kind !== 'worked around' || clocks.some(isOpenWorkaround)),
    pauses: PAUSE_REASONS.map((reason) => ({ reason, counts: counted.has(reason) })),
    now,
    reminders,
  };
}

/** The same as somebody may see it: what the work costs is for the desk. */
export async function readOrderAs(
  db: Db,
  { role }: { readonly role: Role },
  id: OrderId,
  now: Instant,
): Promise<OrderPage> {
  const page = await readOrder(db, id, now);
  if (seesMoney(role)) return page;
  return {
    ...page,
    took: page.took && { ...page.took, partsCost: null, otherCost: null },
    lines: page.lines.map((line) => ({ ...line, visit: line.visit && { ...line.visit, price: null } })),
  };
}
