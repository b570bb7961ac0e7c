// Appointments made, moved and taken out: one transaction each, looked at by the same rule as any preview.
import { asc, eq, inArray } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { BodyOf } from '#api/contract.ts';
import type { bookAppointment, moveAppointment, tellAppointment } from '#api/rota.ts';
import type { AppointmentId, OrderId, PersonId } from '#core/ids.ts';
import type { OrderAct } from '#core/orders/index.ts';
import { decideAppointment, type AgainstPerson, type Goer, type PersonDay, type Work } from '#core/rota/index.ts';
import { instant, localDateAt, MINUTE, type Instant, type InstantSpan, type Zone } from '#core/time/index.ts';
import { loadOrder, recordActIn } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import type { Tx } from '../platform/database.ts';
import { accept, refuse, stale } from '../platform/refuse.ts';
import { contentOf, mustBeSame } from '../platform/request-key.ts';
import { person } from '../platform/tables.ts';
import type { Write } from '../platform/writing.ts';
import { tellChanged } from './changed.ts';
import { daysOf, whoGoes, type Goes } from './days.ts';
import { roadsOf } from './roads.ts';
import { removeAppointments } from './removing.ts';
import { clockAt } from './say.ts';
import { giveBackSteps, takeSteps } from './steps.ts';
import { appointment, appointmentOrder, appointmentPerson } from './tables.ts';
import { around, together, workOf, type OrderWork } from './work.ts';

type Who = { readonly id: PersonId };
export type Asked = {
  readonly people: readonly PersonId[];
  readonly from: Instant;
  readonly minutes: number | null;
  readonly anyway: boolean;
  readonly overlapReason: string;
};

/**
 * Holds orders, then people, each in the order of their ids: two who book the same wait for each other, and then see what was booked.
 * Nothing is read before. Refused: none, or one twice.
 */
export async function hold(tx: Tx, orders: readonly OrderId[], people: readonly PersonId[]): Promise<void> {
  if (orders.length === 0) refuse('missing', 'Choose an order.', 'orders');
  if (new Set(orders).size < orders.length) refuse('invalid', 'Name each order once.', 'orders');
  if (people.length === 0) refuse('missing', 'Choose who goes.', 'people');
  if (new Set(people).size < people.length) refuse('invalid', 'Name each person once.', 'people');
  await tx.db
    .select({ id: workOrder.id })
    .from(workOrder)
    .where(inArray(workOrder.id, [...orders]))
    .orderBy(asc(workOrder.id))
    .for('update');
  await tx.db
    .select({ id: person.id })
    .from(person)
    .where(inArray(person.id, [...people]))
    .orderBy(asc(person.id))
    .for('update');
}

/** Everybody who is to go, in the order named, each with the day on which it begins. Refused: somebody who is no technician or has no calendar. */
async function goersFor(
  tx: Tx,
  asked: Pick<Asked, 'people' | 'from'>,
  now: Instant,
  without: readonly AppointmentId[],
): Promise<{ goers: Goer[]; people: Goes[] }> {
  const known = await whoGoes(tx.db, { ids: asked.people });
  const people = asked.people.map(
    (id) =>
      known.find((k) => k.id === id) ??
      refuse('not-found', 'There is no such technician; choose one of those offered.', 'people'),
  );
  const goers: Goer[] = [];
  for (const p of people) {
    if (p.calendarId === null)
      refuse('not-ready', `${p.name} has no working calendar; give them one in Setup, People.`, 'people');
    const date = localDateAt(p.zone, asked.from);
    const { days } = await daysOf(tx.db, [p], date, date, now, without);
    goers.push({ name: p.name, day: days[0] as PersonDay });
  }
  return { goers, people };
}

async function ordersFor(tx: Tx, ids: readonly OrderId[], at: Instant): Promise<OrderWork[]> {
  const known = await workOf(tx.db, ids, around(at, 2));
  const orders = ids.map((id) => known.get(id) ?? refuse('not-found', 'That work order does not exist.', 'orders'));
  const [first] = orders as [OrderWork];
  const elsewhere = orders.find((o) => o.work.spot.key !== first.work.spot.key);
  if (elsewhere)
    refuse('invalid', `“${elsewhere.title}” is at another place; one appointment is at one place.`, 'orders');
  return orders;
}

/** "10:30 to 12:00 with Ewa Zielonka", in the place's time. */
function sayWhen(span: InstantSpan, zone: Zone, people: readonly Goes[]): string {
  const others = people.slice(1).map((p) => p.name);
  return `${clockAt(span.from, zone)} to ${clockAt(span.to, zone)}${others.length > 0 ? ` with ${others.join(', ')}` : ''}`;
}

const act = (tx: Tx, id: OrderId, what: OrderAct, who: Who, now: Instant) =>
  recordActIn(tx, id, { at: now, act: what, requestKey: randomUUID(), who: who.id }, now);

/** The next appointment of an order says who goes and when; without any it is to be planned anew. One that is under way only hears of it. */
async function tellOrder(tx: Tx, id: OrderId, why: string, who: Who, now: Instant): Promise<void> {
  const { order } = await loadOrder(tx.db, id, 'lock');
  const rows = await tx.db
    .select({ appointment })
    .from(appointmentOrder)
    .innerJoin(appointment, eq(appointment.id, appointmentOrder.appointmentId))
    .where(eq(appointmentOrder.orderId, id))
    .orderBy(asc(appointment.fromAt), asc(appointment.id));
  const all = rows.map((r) => r.appointment);
  const next = all.find((a) => a.toAt > now) ?? all.at(-1);
  if (order.stage === 'on site') return void (await act(tx, id, { kind: 'note', text: why }, who, now));
  if (!next) return void (await act(tx, id, { kind: 'unplanned', text: why }, who, now));
  const goers = await tx.db
    .select({ id: person.id, name: person.name })
    .from(appointmentPerson)
    .innerJoin(person, eq(person.id, appointmentPerson.personId))
    .where(eq(appointmentPerson.appointmentId, next.id))
    .orderBy(asc(appointmentPerson.position));
  const [leads, ...others] = goers;
  if (!leads) throw new Error(`appointment ${next.id} has nobody`);
  const text = `${clockAt(next.fromAt, next.zone)} to ${clockAt(next.toAt, next.zone)}${others.length > 0 ? ` with ${others.map((o) => o.name).join(', ')}` : ''}${all.length > 1 ? `, one of ${all.length} appointments` : ''}`;
  const date = localDateAt(order.zone, next.fromAt);
  await act(
    tx,
    id,
    { kind: 'planned', technicianId: leads.id, technician: leads.name, date, text, quiet: true },
    who,
    now,
  );
}

/** What an appointment takes, in its steps: as asked, else as its orders say for so many people. */
function spanOf({ from, minutes }: Pick<Asked, 'from' | 'minutes'>, work: Work): InstantSpan {
  return { from, to: instant(from + (minutes ?? work.minutes) * MINUTE) };
}

async function decide(
  tx: Tx,
  asked: Asked,
  orders: readonly OrderWork[],
  now: Instant,
  without: readonly AppointmentId[],
): Promise<{ span: InstantSpan; people: Goes[]; broken: readonly AgainstPerson[] }> {
  const { goers, people } = await goersFor(tx, asked, now, without);
  const work = together(orders, asked.people.length);
  const span = spanOf(asked, work);
  const yes = { anyway: asked.anyway, overlapReason: asked.overlapReason };
  const broken = accept(
    decideAppointment(goers, { ...work, minutes: (span.to - span.from) / MINUTE }, span, yes, await roadsOf(tx.db)),
  );
  return { span, people, broken };
}

async function putPeople(tx: Tx, id: AppointmentId, people: readonly PersonId[]): Promise<void> {
  await tx.db
    .insert(appointmentPerson)
    .values(people.map((personId, position) => ({ appointmentId: id, personId, position })));
}

export type Booked = { readonly id: AppointmentId; readonly version: number };

/** Frees the steps of appointments that are about to be put elsewhere in the same transaction, so that two may change places. */
export const setAside = (tx: Tx, ids: readonly AppointmentId[]): Promise<void> => giveBackSteps(tx, ids);

/** Books an appointment inside an open transaction; those set aside are looked at as if they were not there. */
export async function bookIn(
  tx: Tx,
  asked: Asked & {
    readonly orders: readonly OrderId[];
    readonly told: InstantSpan | null;
    readonly fixed: boolean;
    readonly requestKey: string | null;
    readonly requestContent: string | null;
  },
  who: Who,
  now: Instant,
  aside: readonly AppointmentId[] = [],
): Promise<AppointmentId> {
  const orders = await ordersFor(tx, asked.orders, asked.from);
  const [first] = orders as [OrderWork];
  const { span, people, broken } = await decide(tx, asked, orders, now, aside);
  const overlaps = broken.some((r) => r.what === 'overlap');
  const [row] = await tx.db
    .insert(appointment)
    .values({
      ...{ locationId: first.locationId, zone: first.zone, fromAt: span.from, toAt: span.to },
      ...{ toldFrom: asked.told?.from ?? null, toldTo: asked.told?.to ?? null, fixed: asked.fixed },
      ...{ overlapReason: overlaps ? asked.overlapReason : '' },
      ...{ requestKey: asked.requestKey, requestContent: asked.requestContent },
    })
    .$returningId();
  const id = row?.id as AppointmentId;
  await putPeople(tx, id, asked.people);
  await tx.db.insert(appointmentOrder).values(asked.orders.map((orderId) => ({ appointmentId: id, orderId })));
  await takeSteps(tx, [{ id, people: asked.people, span, overlaps }]);
  const why = `also planned: ${sayWhen(span, first.zone, people)}`;
  for (const o of [...orders].sort((a, b) => a.orderId - b.orderId)) await tellOrder(tx, o.orderId, why, who, now);
  return id;
}

export function book(write: Write, who: Who, body: BodyOf<typeof bookAppointment>, now: Instant): Promise<Booked> {
  const { requestKey, ...content } = body;
  const requestContent = contentOf(content);
  return write(async (tx, told) => {
    await hold(tx, body.orders, body.people);
    const [sent] = await tx.db
      .select({ id: appointment.id, version: appointment.version, content: appointment.requestContent })
      .from(appointment)
      .where(eq(appointment.requestKey, requestKey));
    if (sent) {
      mustBeSame(sent.content, requestContent);
      return { id: sent.id, version: sent.version };
    }
    const id = await bookIn(tx, { ...body, requestKey, requestContent }, who, now);
    told({ subject: 'appointment', id, text: `planned for ${body.orders.length} order(s)` });
    return { id, version: 1 };
  });
}

export type KeptAppointment = typeof appointment.$inferSelect & {
  readonly orderIds: readonly OrderId[];
  readonly people: readonly PersonId[];
};

/** Holds an appointment, its orders before it: whoever books or moves holds them in the same order. */
export async function holdAppointment(tx: Tx, id: AppointmentId): Promise<KeptAppointment> {
  const [row] = await tx.db.select().from(appointment).where(eq(appointment.id, id)).for('update');
  if (!row) refuse('not-found', 'That appointment was taken out meanwhile.');
  const orders = await tx.db
    .select({ id: appointmentOrder.orderId })
    .from(appointmentOrder)
    .where(eq(appointmentOrder.appointmentId, id))
    .orderBy(asc(appointmentOrder.orderId))
    .for('update');
  const people = await tx.db
    .select({ id: appointmentPerson.personId })
    .from(appointmentPerson)
    .where(eq(appointmentPerson.appointmentId, id))
    .orderBy(asc(appointmentPerson.position))
    .for('update');
  return { ...row, orderIds: orders.map((o) => o.id), people: people.map((p) => p.id) };
}

function mustBeThis(row: KeptAppointment, version: number): void {
  if (row.version !== version) stale(row);
}

/** Moves an appointment inside an open transaction: another time, length or crew. One that was set aside has given its steps back. */
export async function moveIn(
  tx: Tx,
  row: KeptAppointment,
  asked: Asked,
  who: Who,
  now: Instant,
  aside: readonly AppointmentId[] = [],
): Promise<void> {
  const orders = await ordersFor(tx, row.orderIds, asked.from);
  const minutes = asked.minutes ?? (row.toAt - row.fromAt) / MINUTE;
  const { span, people, broken } = await decide(tx, { ...asked, minutes }, orders, now, [row.id, ...aside]);
  const overlaps = broken.some((r) => r.what === 'overlap');
  if (!aside.includes(row.id)) await giveBackSteps(tx, [row.id]);
  await tx.db
    .update(appointment)
    .set({
      ...{ fromAt: span.from, toAt: span.to, overlapReason: overlaps ? asked.overlapReason : '' },
      ...{ sentAt: null, lateMinutes: null, lateAt: null, lateText: '', version: row.version + 1 },
    })
    .where(eq(appointment.id, row.id));
  await tx.db.delete(appointmentPerson).where(eq(appointmentPerson.appointmentId, row.id));
  await putPeople(tx, row.id, asked.people);
  await takeSteps(tx, [{ id: row.id, people: asked.people, span, overlaps }]);
  await tellChanged(tx, row, { span, people: asked.people, version: row.version + 1 }, now);
  const why = `moved to ${sayWhen(span, row.zone, people)}`;
  for (const id of row.orderIds) await tellOrder(tx, id, why, who, now);
}

export function move(
  write: Write,
  who: Who,
  id: AppointmentId,
  body: BodyOf<typeof moveAppointment>,
  now: Instant,
): Promise<Booked> {
  return write(async (tx, told) => {
    const row = await holdAppointment(tx, id);
    mustBeThis(row, body.version);
    await hold(tx, row.orderIds, body.people);
    await moveIn(tx, row, body, who, now);
    told({ subject: 'appointment', id, text: 'moved' });
    return { id, version: row.version + 1 };
  });
}

/** Takes an appointment out inside an open transaction; its orders are to be planned anew unless they have another. */
export async function takeOutIn(tx: Tx, row: KeptAppointment, why: string, who: Who, now: Instant): Promise<void> {
  await removeAppointments(tx, [row.id]);
  await tellChanged(tx, row, null, now);
  for (const orderId of row.orderIds) await tellOrder(tx, orderId, why, who, now);
}

export function takeOut(
  write: Write,
  who: Who,
  id: AppointmentId,
  body: { readonly version: number; readonly text: string },
  now: Instant,
): Promise<{ done: true }> {
  return write(async (tx, told) => {
    const row = await holdAppointment(tx, id);
    mustBeThis(row, body.version);
    await hold(tx, row.orderIds, row.people);
    await takeOutIn(tx, row, body.text || 'by a dispatcher', who, now);
    told({ subject: 'appointment', id, text: `taken out${body.text ? `: ${body.text}` : ''}` });
    return { done: true as const };
  });
}

/** What the customer was told or agreed to; nothing moves by it. */
export function sayTold(
  write: Write,
  id: AppointmentId,
  { version, told: window, fixed }: BodyOf<typeof tellAppointment>,
): Promise<Booked> {
  return write(async (tx, told) => {
    const row = await holdAppointment(tx, id);
    mustBeThis(row, version);
    await tx.db
      .update(appointment)
      .set({ toldFrom: window?.from ?? null, toldTo: window?.to ?? null, fixed, version: version + 1 })
      .where(eq(appointment.id, id));
    told({ subject: 'appointment', id, text: window ? 'the customer was told when' : 'the customer was told nothing' });
    return { id, version: version + 1 };
  });
}
