// Reading work orders: lists and the order page.
import { type SQL, and, asc, count, desc, eq, inArray, lt } from 'drizzle-orm';
import type { ClockOut, OrderPage, OrderRow } from '#api/orders.ts';
import type { AgreementId, CustomerId, OrderId } from '#core/ids.ts';
import {
  actsOffered,
  inOwnTime,
  mustBeFilled,
  stateOfOrder,
  type OrderAct,
  type OrderKind,
  FINISHED_STAGES,
  OPEN_STAGES,
} from '#core/orders/index.ts';
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
import { clock, orderEvent, orderLine, workOrder } from './tables.ts';
import { clocksOf, showClock } from './clock-rows.ts';
import { loadOrder } from './loading.ts';

export type OrderFilter = {
  readonly show?: 'open' | 'finished' | 'all';
  readonly kind?: OrderKind;
  readonly customer?: CustomerId;
};

function conditionsOf(filter: OrderFilter): SQL[] {
  const wanted: SQL[] = [];
  if (filter.show === 'finished') wanted.push(inArray(workOrder.stage, [...FINISHED_STAGES]));
  if (filter.show === undefined || filter.show === 'open') wanted.push(inArray(workOrder.stage, [...OPEN_STAGES]));
  if (filter.kind) wanted.push(eq(workOrder.kind, filter.kind));
  if (filter.customer) wanted.push(eq(workOrder.customerId, filter.customer));
  return wanted;
}

/** Rows for the given orders, in the order of `ids`, each with the open clock that is due next. */
export async function orderRows(db: Db, ids: readonly OrderId[], now: Instant): Promise<OrderRow[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({
      order: workOrder,
      customer: customer.name,
      assetId: orderLine.assetId,
      tag: asset.tag,
      locationId: asset.locationId,
      path: location.path,
      due: visit.due,
    })
    .from(workOrder)
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .innerJoin(orderLine, eq(orderLine.orderId, workOrder.id))
    .innerJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, asset.locationId))
    .leftJoin(visit, eq(visit.id, workOrder.visitId))
    .where(inArray(workOrder.id, [...ids]))
    .orderBy(asc(orderLine.id));
  const [places, book, clocks] = await Promise.all([
    placesOf(
      db,
      rows.map((r) => ({ id: r.locationId, path: r.path })),
    ),
    calendarBook(db),
    db
      .select({ clock, tag: asset.tag })
      .from(clock)
      .innerJoin(asset, eq(asset.id, clock.assetId))
      .where(and(inArray(clock.orderId, [...ids]), inArray(clock.state, ['running', 'paused'])))
      .orderBy(asc(clock.dueAt)),
  ]);
  const nextClock = new Map<number, ClockOut>();
  for (const row of clocks)
    if (!nextClock.has(row.clock.orderId)) nextClock.set(row.clock.orderId, showClock(row, book, now));
  const byId = new Map(rows.map((r) => [r.order.id, r]));
  return ids.flatMap((id) => {
    const row = byId.get(id);
    if (!row) return [];
    const { order } = row;
    return [
      {
        id,
        kind: order.kind,
        stage: order.stage,
        priority: order.priority,
        title: order.title,
        customer: row.customer,
        place: places.of(row.locationId).label,
        tag: row.tag,
        assetId: row.assetId,
        technician: order.technician,
        plannedFor: order.plannedFor,
        startedAt: order.startedAt,
        due: row.due,
        nextClock: nextClock.get(id) ?? null,
      },
    ];
  });
}

export async function listOrders(db: Db, filter: OrderFilter, after: number | null, limit: number, now: Instant) {
  const wanted = conditionsOf(filter);
  const [[counted], ids] = await Promise.all([
    db
      .select({ total: count() })
      .from(workOrder)
      .where(and(...wanted)),
    db
      .select({ id: workOrder.id })
      .from(workOrder)
      .where(and(...wanted, after === null ? undefined : lt(workOrder.id, after as OrderId)))
      .orderBy(desc(workOrder.id))
      .limit(limit + 1),
  ]);
  const page = ids.slice(0, limit).map((r) => r.id);
  return {
    items: await orderRows(db, page, now),
    next: ids.length > limit ? String(page[page.length - 1]) : null,
    total: counted?.total ?? 0,
  };
}

/** What agreements want said to whoever works with them. */
export async function remindersOf(db: Db, ids: readonly AgreementId[]): Promise<string[]> {
  if (ids.length === 0) return [];
  const rows = await db
    .select({ number: agreement.number, text: agreement.reminder })
    .from(agreement)
    .where(inArray(agreement.id, [...ids]))
    .orderBy(asc(agreement.id));
  return rows.flatMap((r) => (r.text === '' ? [] : [`${r.number}: ${r.text}`]));
}

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

export async function readOrder(db: Db, id: OrderId, now: Instant): Promise<OrderPage> {
  const { order, facts, events, lines } = await loadOrder(db, id, 'look');
  const state = accept(stateOfOrder(facts, events));
  const book = await calendarBook(db);
  const [[owner], rows, who, clocks, visits] = await Promise.all([
    db.select().from(customer).where(eq(customer.id, order.customerId)),
    db
      .select({ line: orderLine, asset, className: assetClass.name, path: location.path })
      .from(orderLine)
      .innerJoin(asset, eq(asset.id, orderLine.assetId))
      .innerJoin(assetClass, eq(assetClass.id, asset.classId))
      .leftJoin(location, eq(location.id, asset.locationId))
      .where(eq(orderLine.orderId, id))
      .orderBy(asc(orderLine.id)),
    db
      .select({ id: orderEvent.id, name: person.name })
      .from(orderEvent)
      .leftJoin(person, eq(person.id, orderEvent.personId))
      .where(eq(orderEvent.orderId, id))
      .orderBy(asc(orderEvent.id)),
    clocksOf(db, book, now, { orderId: id }, 100),
    order.visitId === null
      ? []
      : db
          .select({ visit, agreement: agreement.number })
          .from(visit)
          .innerJoin(agreement, eq(agreement.id, visit.agreementId))
          .where(eq(visit.id, order.visitId)),
  ]);
  if (!owner) refuse('not-found', 'The order’s customer is gone.');
  const places = await placesOf(
    db,
    rows.map((r) => ({ id: r.asset.locationId, path: r.path })),
  );
  const first = rows[0];
  const place = first ? places.of(first.asset.locationId) : null;
  const counted = new Set(lines.flatMap((l) => Object.values(l.promises).flatMap((p) => p?.pauses ?? [])));
  const stored = lines[0]?.verdict ?? null;
  const effort = lines[0];
  const told =
    effort && [effort.fault, effort.labourMinutes, effort.partsCost, effort.otherCost].some((x) => x !== null);
  const [caller] =
    order.callerId === null
      ? []
      : await db
          .select({ name: contact.name, phone: contact.phone, email: contact.email })
          .from(contact)
          .where(eq(contact.id, order.callerId));
  const taskText = (taskId: number): string => facts.tasks.find((t) => t.id === taskId)?.text ?? 'a task';
  const formName = (formId: number): string => facts.forms.find((f) => f.id === formId)?.name ?? 'a form';
  const numbered = events.map((event, i) => ({ ...event, id: who[i]?.id ?? i, name: who[i]?.name ?? null }));
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
    caller: caller ?? null,
    took: told
      ? {
          fault: effort.fault,
          labourMinutes: effort.labourMinutes,
          partsCost: effort.partsCost,
          otherCost: effort.otherCost,
        }
      : null,
    // An order without a place goes to the customer's service address.
    address:
      place?.address ??
      (owner.serviceAddress === null ? null : { value: owner.serviceAddress, from: 'the customer’s service address' }),
    lines: rows.map((r) => ({
      id: r.line.id,
      assetId: r.asset.id,
      tag: r.asset.tag,
      serial: r.asset.serial,
      model: r.asset.model,
      className: r.className,
      place: places.of(r.asset.locationId).label,
    })),
    tasks: facts.tasks.map((t) => ({ ...t, outcome: state.tasks.get(t.id) ?? null })),
    forms: facts.forms.map((f) => ({
      id: f.id,
      name: f.name,
      mandatory: mustBeFilled(f),
      questions: [...f.questions],
      answers: state.forms.has(f.id) ? [...(state.forms.get(f.id) ?? [])] : null,
    })),
    events: inOwnTime(numbered).map((e) => {
      const { id: eventId, name } = e as (typeof numbered)[number];
      return {
        id: eventId,
        kind: e.act.kind,
        text: sayAct(e.act, taskText, formName),
        at: e.at,
        recordedAt: e.recordedAt,
        who: name,
      };
    }),
    clocks,
    offered: actsOffered(facts, state),
    pauses: PAUSE_REASONS.map((reason) => ({ reason, counts: counted.has(reason) })),
    now,
    reminders: await remindersOf(db, order.agreementId === null ? [] : [order.agreementId]),
    verdict: stored && {
      sentence: stored.sentence,
      promise: stored.promise,
      considered: [...stored.verdict.considered],
    },
    visit: visits[0]
      ? {
          agreementId: visits[0].visit.agreementId,
          agreement: visits[0].agreement,
          due: visits[0].visit.due,
          windowFrom: visits[0].visit.windowFrom,
          windowTo: visits[0].visit.windowTo,
          completedOn: visits[0].visit.completedOn,
          beyond:
            stored?.verdict.considered.find((c) => c.agreementId === visits[0]?.visit.agreementId && !c.taken)
              ?.reason ?? null,
        }
      : null,
  };
}
