// The order page: what it is, what happened, what it took, and what may be recorded next.
import { and, asc, eq, inArray, sql } from 'drizzle-orm';
import type { OrderPage } from '#api/orders.ts';
import type { OrderId, VisitId } from '#core/ids.ts';
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
import { timePiece } from '../labour/tables.ts';
import { visit } from '../upkeep/tables.ts';
import { orderEvent, orderLine } from './tables.ts';
import { clocksOf } from './clock-rows.ts';
import { loadOrder } from './loading.ts';
import type { LineRow, LoadedOrder } from './loading.ts';
import { remindersOf } from './queries.ts';
import type { StoredVerdict, workOrder } from './tables.ts';

type Names = Readonly<Record<'task' | 'form' | 'line', (id: number) => string>>;

/** An act in words, for the event list. */
function sayAct(act: OrderAct, names: Names): string {
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
      return `${act.outcome === 'done' ? 'done' : 'left'}: ${names.task(act.taskId)}${act.text ? ` (${act.text})` : ''}`;
    case 'form':
      return `filled in: ${names.form(act.formId)}`;
    case 'line':
      return act.outcome === 'left'
        ? `${names.line(act.lineId)} left undone: ${act.text}`
        : `${names.line(act.lineId)} to be done after all${act.text ? `: ${act.text}` : ''}`;
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
    .select({ id: orderLine.id, asset, className: assetClass.name, path: location.path })
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
    machines: rows.map((r) => ({
      id: r.id,
      assetId: r.asset.id,
      tag: r.asset.tag,
      serial: r.asset.serial,
      model: r.asset.model,
      className: r.className,
      place: places.of(r.asset.locationId).label,
    })),
  };
}

type Visited = OrderPage['lines'][number]['visit'];

/** The visits its lines were raised for, each with why it is chargeable if the counted right was used up. */
async function visitsOf(db: Db, lines: readonly LineRow[]): Promise<ReadonlyMap<VisitId, NonNullable<Visited>>> {
  const ids = lines.flatMap((l) => l.visitId ?? []);
  if (ids.length === 0) return new Map();
  const rows = await db
    .select({ visit, agreement: agreement.number, currency: agreement.currency })
    .from(visit)
    .innerJoin(agreement, eq(agreement.id, visit.agreementId))
    .where(inArray(visit.id, ids));
  return new Map(
    rows.map(
      ({
        currency,
        visit: { id, agreementId, due, windowFrom, windowTo, completedOn, orderId },
        agreement: number,
      }) => {
        const line = lines.find((l) => l.visitId === id);
        const passed = line?.verdict?.verdict.considered.find((c) => c.agreementId === agreementId && !c.taken);
        return [
          id,
          {
            ...{ agreementId, agreement: number, due, windowFrom, windowTo, beyond: passed?.reason ?? null },
            price: typeof line?.visitPrice === 'number' ? { minor: line.visitPrice, currency } : null,
            // One that was left undone may be done with another order by now.
            completedOn: orderId === line?.orderId ? completedOn : null,
          },
        ];
      },
    ),
  );
}

const shownVerdict = (stored: StoredVerdict | null): OrderPage['lines'][number]['verdict'] =>
  stored && {
    sentence: stored.sentence,
    promise: stored.promise,
    considered: [...stored.verdict.considered],
  };

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
async function toldOf(
  db: Db,
  { order, facts, events }: LoadedOrder,
  machines: readonly { readonly id: number; readonly tag: string }[],
) {
  const who = await db
    .select({ id: orderEvent.id, name: person.name })
    .from(orderEvent)
    .leftJoin(person, eq(person.id, orderEvent.personId))
    .where(eq(orderEvent.orderId, order.id))
    .orderBy(asc(orderEvent.id));
  const tagOf = (lineId: number): string => machines.find((m) => m.id === lineId)?.tag ?? 'a machine';
  /** Of several machines it is said which. */
  const at = (of: { readonly lineId: number } | undefined): string =>
    of && machines.length > 1 ? `, ${tagOf(of.lineId)}` : '';
  const names: Names = {
    task(id) {
      const task = facts.tasks.find((t) => t.id === id);
      return `${task?.text ?? 'a task'}${at(task)}`;
    },
    form(id) {
      const form = facts.forms.find((f) => f.id === id);
      return `${form?.name ?? 'a form'}${at(form)}`;
    },
    line: tagOf,
  };
  const numbered = events.map((event, i) => ({ ...event, id: who[i]?.id ?? i, name: who[i]?.name ?? null }));
  return inOwnTime(numbered).map((e) => {
    const { id: eventId, name } = e as (typeof numbered)[number];
    const text = sayAct(e.act, names);
    return { id: eventId, kind: e.act.kind, text, at: e.at, recordedAt: e.recordedAt, who: name };
  });
}

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

export async function readOrder(db: Db, id: OrderId, now: Instant): Promise<OrderPage> {
  const loaded = await loadOrder(db, id, 'look');
  const { order, facts, events, lines } = loaded;
  const state = accept(stateOfOrder(facts, events));
  const book = await calendarBook(db);
  const { machines, place } = await machinesOf(db, id);
  const [[owner], [goes], told, clocks, visits, caller, reminders, worked] = await Promise.all([
    db.select().from(customer).where(eq(customer.id, order.customerId)),
    order.technicianId === null
      ? []
      : db.select({ name: person.name }).from(person).where(eq(person.id, order.technicianId)),
    toldOf(db, loaded, machines),
    clocksOf(db, book, now, { orderId: id }, 100),
    visitsOf(db, lines),
    callerOf(db, order),
    remindersOf(db, order.agreementId === null ? [] : [order.agreementId]),
    workedOn(db, id),
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
    technicianId: order.technicianId,
    technician: goes?.name ?? order.technician,
    plannedFor: order.plannedFor,
    startedAt: order.startedAt,
    pausedSince: order.pausedSince,
    minutes: order.minutes,
    worked,
    caller,
    took: tookOf(lines),
    // An order without a place goes to the customer's service address.
    address:
      place?.address ??
      (owner.serviceAddress === null ? null : { value: owner.serviceAddress, from: 'the customer’s service address' }),
    lines: machines.flatMap((machine) => {
      const line = lines.find((l) => l.id === machine.id);
      if (!line) return [];
      return {
        ...machine,
        minutes: line.minutes,
        left: state.left.get(line.id) ?? null,
        verdict: shownVerdict(line.verdict),
        visit: line.visitId === null ? null : (visits.get(line.visitId) ?? null),
      };
    }),
    tasks: facts.tasks.map((t) => ({ ...t, outcome: state.tasks.get(t.id) ?? null })),
    forms: facts.forms.map((f) => ({
      id: f.id,
      lineId: f.lineId,
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
  };
}
