// The order page: what it is, what happened, what it took, and what may be recorded next.
import { asc, eq } from 'drizzle-orm';
import type { OrderPage } from '#api/orders.ts';
import type { OrderId } from '#core/ids.ts';
import { actsOffered, inOwnTime, mustBeFilled, stateOfOrder, type OrderAct } from '#core/orders/index.ts';
import { PAUSE_REASONS } from '#core/service-levels/index.ts';
import { sayDate, type Instant } from '#core/time/index.ts';
import { calendarBook } from '../calendars/index.ts';
import type { Db } from '../platform/database.ts';
import { placesOf } from '../places/index.ts';
import { accept, refuse } from '../platform/refuse.ts';
import { person } from '../platform/tables.ts';
import { assetClass } from '../catalogue/tables.ts';
import { contact, customer } from '../customers/tables.ts';
import { location } from '../places/tables.ts';
import { asset } from '../assets/tables.ts';
import { agreement } from '../agreements/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { orderEvent, orderLine } from './tables.ts';
import { clocksOf } from './clock-rows.ts';
import { loadOrder } from './loading.ts';
import type { LoadedOrder } from './loading.ts';
import { remindersOf } from './queries.ts';
import type { StoredVerdict, workOrder } from './tables.ts';

/** An act in words, for the event list. */
export function sayAct(act: OrderAct, taskText: (id: number) => string, formName: (id: number) => string): string {
  switch (act.kind) {
    case 'raised':
      return `raised: ${act.text}`;
    case 'planned':
      return `planned for ${sayDate(act.date)}, ${act.technician}`;
    case 'sent':
      return 'sent to the technician';
    case 'told':
      return `customer told: ${act.technician} comes`;
    case 'arrived':
      return 'on site';
    case 'paused':
      return `paused: ${act.reason}${act.text ? ` (${act.text})` : ''}`;
    case 'resumed':
      return 'resumed';
    case 'task':
      return `${act.outcome === 'done' ? 'done' : 'left'}: ${taskText(act.taskId)}${act.text ? ` (${act.text})` : ''}`;
    case 'form':
      return `filled in: ${formName(act.formId)}`;
    case 'restored':
      return 'back in use';
    case 'done':
      return `done${act.text ? `: ${act.text}` : ''}`;
    case 'called off':
      return `called off: ${act.text}`;
    case 'alert joined':
      return `alert joined: ${act.text}`;
    case 'alert ended':
      return `alert ended: ${act.text}`;
    case 'note':
      return act.text;
  }
}

type Row = typeof workOrder.$inferSelect;

/** Its machines with their classes and where they stand now. */
async function machinesOf(db: Db, id: OrderId) {
  const rows = await db
    .select({ line: orderLine, asset, className: assetClass.name, path: location.path })
    .from(orderLine)
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .innerJoin(assetClass, eq(assetClass.id, asset.classId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .where(eq(orderLine.orderId, id))
    .orderBy(asc(orderLine.id));
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.asset.locationId, path: r.path })),
  );
  const first = rows[0];
  return {
    place: first ? places.of(first.asset.locationId) : null,
    lines: rows.map((r) => ({
      id: r.line.id,
      assetId: r.asset.id,
      tag: r.asset.tag,
      serial: r.asset.serial,
      model: r.asset.model,
      className: r.className,
      place: places.of(r.asset.locationId).label,
    })),
  };
}

/** The visit it was raised for, with why it is chargeable if the counted right was used up. */
async function visitOf(db: Db, order: Row, verdict: StoredVerdict | null): Promise<OrderPage['visit']> {
  if (order.visitId === null) return null;
  const [row] = await db
    .select({ visit, agreement: agreement.number })
    .from(visit)
    .innerJoin(agreement, eq(agreement.id, visit.agreementId))
    .where(eq(visit.id, order.visitId));
  if (!row) return null;
  const { agreementId, due, windowFrom, windowTo, completedOn } = row.visit;
  const passed = verdict?.verdict.considered.find((c) => c.agreementId === agreementId && !c.taken);
  return {
    agreementId,
    agreement: row.agreement,
    due,
    windowFrom,
    windowTo,
    completedOn,
    beyond: passed?.reason ?? null,
  };
}

/** Who called, where that was said. */
async function callerOf(db: Db, { callerId }: Row): Promise<OrderPage['caller']> {
  if (callerId === null) return null;
  const [caller] = await db
    .select({ name: contact.name, phone: contact.phone, email: contact.email })
    .from(contact)
    .where(eq(contact.id, callerId));
  return caller ?? null;
}

/** What happened, in its own time, each with who recorded it. */
async function toldOf(db: Db, id: OrderId, { facts, events }: Pick<LoadedOrder, 'facts' | 'events'>) {
  const who = await db
    .select({ id: orderEvent.id, name: person.name })
    .from(orderEvent)
    .leftJoin(person, eq(person.id, orderEvent.personId))
    .where(eq(orderEvent.orderId, id))
    .orderBy(asc(orderEvent.id));
  const taskText = (taskId: number): string => facts.tasks.find((t) => t.id === taskId)?.text ?? 'a task';
  const formName = (formId: number): string => facts.forms.find((f) => f.id === formId)?.name ?? 'a form';
  const numbered = events.map((event, i) => ({ ...event, id: who[i]?.id ?? i, name: who[i]?.name ?? null }));
  return inOwnTime(numbered).map((e) => {
    const { id: eventId, name } = e as (typeof numbered)[number];
    const text = sayAct(e.act, taskText, formName);
    return { id: eventId, kind: e.act.kind, text, at: e.at, recordedAt: e.recordedAt, who: name };
  });
}

/** What the work took, where anything of it was told. */
function tookOf(line: LoadedOrder['lines'][number] | undefined): OrderPage['took'] {
  if (!line) return null;
  const { fault, labourMinutes, partsCost, otherCost } = line;
  const took = { fault, labourMinutes, partsCost, otherCost };
  return Object.values(took).some((x) => x !== null) ? took : null;
}

export async function readOrder(db: Db, id: OrderId, now: Instant): Promise<OrderPage> {
  const loaded = await loadOrder(db, id, 'look');
  const { order, facts, events, lines } = loaded;
  const state = accept(stateOfOrder(facts, events));
  const book = await calendarBook(db);
  const stored = lines[0]?.verdict ?? null;
  const [[owner], machines, told, clocks, visitShown, caller, reminders] = await Promise.all([
    db.select().from(customer).where(eq(customer.id, order.customerId)),
    machinesOf(db, id),
    toldOf(db, id, loaded),
    clocksOf(db, book, now, { orderId: id }, 100),
    visitOf(db, order, stored),
    callerOf(db, order),
    remindersOf(db, order.agreementId === null ? [] : [order.agreementId]),
  ]);
  if (!owner) refuse('not-found', 'The order’s customer is gone.');
  const counted = new Set(lines.flatMap((l) => Object.values(l.promises).flatMap((p) => p?.pauses ?? [])));
  return {
    id,
    version: order.version,
    kind: order.kind,
    stage: order.stage,
    priority: order.priority,
    title: order.title,
    customer: { id: owner.id, name: owner.name },
    zone: order.zone,
    technician: order.technician,
    plannedFor: order.plannedFor,
    startedAt: order.startedAt,
    pausedSince: order.pausedSince,
    minutes: order.minutes,
    caller,
    took: tookOf(lines[0]),
    // An order without a place goes to the customer's service address.
    address:
      machines.place?.address ??
      (owner.serviceAddress === null ? null : { value: owner.serviceAddress, from: 'the customer’s service address' }),
    lines: machines.lines,
    tasks: facts.tasks.map((t) => ({ ...t, outcome: state.tasks.get(t.id) ?? null })),
    forms: facts.forms.map((f) => ({
      id: f.id,
      name: f.name,
      mandatory: mustBeFilled(f),
      questions: [...f.questions],
      answers: state.forms.has(f.id) ? [...(state.forms.get(f.id) ?? [])] : null,
    })),
    events: told,
    clocks,
    offered: actsOffered(facts, state),
    pauses: PAUSE_REASONS.map((reason) => ({ reason, counts: counted.has(reason) })),
    now,
    reminders,
    verdict: stored && {
      sentence: stored.sentence,
      promise: stored.promise,
      considered: [...stored.verdict.considered],
    },
    visit: visitShown,
  };
}
