// A day's work sent: its technicians hear of it in one message, its customers who comes and when, each thing once.
import { and, asc, eq, inArray, isNull } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { BodyOf } from '#api/contract.ts';
import type { sendDay } from '#api/rota.ts';
import { orderNumber } from '#api/shapes.ts';
import type { AppointmentId, OrderId, PersonId } from '#core/ids.ts';
import { linkTo } from '#core/telling.ts';
import { HOUR, instant, localDateAt, sayDate, type Instant, type InstantSpan, type Zone } from '#core/time/index.ts';
import { orderSettings, recordActIn, tellComing } from '../orders/index.ts';
import { workOrder } from '../orders/tables.ts';
import { tellPeople } from '../outbox/index.ts';
import type { Tx } from '../platform/database.ts';
import type { Write } from '../platform/writing.ts';
import { daysOf, whoGoes, type Goes, type Kept } from './days.ts';
import { DAY_SENT } from './messages.ts';
import { clockAt } from './say.ts';
import { appointment, appointmentOrder } from './tables.ts';

type Who = { readonly id: PersonId };

/** What a customer is told where nothing was agreed: an hour from the beginning on. */
const OFFERED: number = HOUR;

type Order = typeof workOrder.$inferSelect;

async function ordersOf(tx: Tx, ids: readonly AppointmentId[]): Promise<Map<AppointmentId, Order[]>> {
  const rows = await tx.db
    .select({ id: appointmentOrder.appointmentId, order: workOrder })
    .from(appointmentOrder)
    .innerJoin(workOrder, eq(workOrder.id, appointmentOrder.orderId))
    .where(inArray(appointmentOrder.appointmentId, [...ids]))
    .orderBy(asc(workOrder.id));
  const of = new Map<AppointmentId, Order[]>();
  for (const { id, order } of rows) of.set(id, [...(of.get(id) ?? []), order]);
  return of;
}

/** Orders that are planned are sent; those under way or sent before stay as they are. */
async function sendOrders(tx: Tx, orders: readonly Order[], who: Who, now: Instant): Promise<void> {
  for (const id of new Set(orders.flatMap((o): OrderId[] => (o.stage === 'planned' ? [o.id] : []))))
    await recordActIn(
      tx,
      id,
      { at: now, act: { kind: 'sent', quiet: true }, requestKey: randomUUID(), who: who.id },
      now,
    );
}

/** Says the offer window, which from now on is what the customer was told. Gives how many were told. */
async function tellCustomers(
  tx: Tx,
  { id, zone, fromAt, toldFrom, toldTo }: Kept,
  leads: Goes,
  orders: readonly Order[],
  now: Instant,
): Promise<number> {
  const window: InstantSpan =
    toldFrom !== null && toldTo !== null
      ? { from: toldFrom, to: toldTo }
      : { from: fromAt, to: instant(fromAt + OFFERED) };
  let told = 0;
  for (const order of orders) {
    const time = `${clockAt(window.from, zone)} to ${clockAt(window.to, zone)}`;
    const coming = { technician: leads.name, date: localDateAt(zone, window.from), time };
    if (await tellComing(tx, order.id, coming, now)) told += 1;
  }
  if (told > 0)
    await tx.db.update(appointment).set({ toldFrom: window.from, toldTo: window.to }).where(eq(appointment.id, id));
  return told;
}

const sayWork = (a: Kept, orders: readonly Order[], p: Goes): string =>
  `${clockAt(a.fromAt, p.zone)}–${clockAt(a.toAt, p.zone)} ${orders.map((o) => `${orderNumber(o.id)} ${o.title}`).join(', ')}`;

/** Sends what begins on a day and was not sent as it stands now. */
export function sendDayOf(
  write: Write,
  who: Who,
  { date, people: ids }: BodyOf<typeof sendDay>,
  now: Instant,
): Promise<{ sent: number; already: number; told: number }> {
  return write(async (tx, announce) => {
    const people = await whoGoes(tx.db, { ids });
    const { appointments } = await daysOf(tx.db, people, date, date, now);
    const zoneOf = new Map(people.map((p) => [p.id, p.zone]));
    const ofDay = appointments.filter((a) =>
      a.personIds.some((id) => zoneOf.has(id) && localDateAt(zoneOf.get(id) as Zone, a.fromAt) === date),
    );
    const fresh: Kept[] = [];
    for (const a of ofDay) {
      // Whoever marks it sends it; a second one at the same time finds it marked.
      const [done] = await tx.db
        .update(appointment)
        .set({ sentAt: now })
        .where(and(eq(appointment.id, a.id), eq(appointment.version, a.version), isNull(appointment.sentAt)));
      if (done.affectedRows > 0) fresh.push(a);
    }
    if (fresh.length === 0) return { sent: 0, already: ofDay.length, told: 0 };
    const orders = await ordersOf(
      tx,
      fresh.map((a) => a.id),
    );
    let told = 0;
    const everybody = await whoGoes(tx.db, { ids: [...new Set(fresh.flatMap((a) => a.personIds))] });
    for (const a of fresh) {
      const own = orders.get(a.id) ?? [];
      await sendOrders(tx, own, who, now);
      const leads = everybody.find((p) => p.id === a.personIds[0]);
      if (leads) told += await tellCustomers(tx, a, leads, own, now);
      announce({ subject: 'appointment', id: a.id, text: 'sent' });
    }
    if ((await orderSettings(tx.db)).tells.includes('sent'))
      for (const p of everybody) await tellTechnician(tx, p, fresh, orders, now);
    return { sent: fresh.length, already: ofDay.length - fresh.length, told };
  });
}

/** Of all that was sent to them just now one message, in order of time. */
async function tellTechnician(
  tx: Tx,
  p: Goes,
  fresh: readonly Kept[],
  orders: ReadonlyMap<AppointmentId, Order[]>,
  now: Instant,
): Promise<void> {
  const own = fresh.filter((a) => a.personIds.includes(p.id));
  const [first] = own;
  if (!first) return;
  const date = localDateAt(p.zone, first.fromAt);
  await tellPeople(tx, DAY_SENT, [p.id], {
    key: `rota ${date} ${p.id} ${own.map((a) => `${a.id}.${a.version}`).join(' ')}`.slice(0, 120),
    values: {
      ...{ name: p.name, day: sayDate(date), link: linkTo(`/rota?from=${date}`) },
      work: own.map((a) => sayWork(a, orders.get(a.id) ?? [], p)).join('\n'),
    },
    about: { subject: 'appointment', id: first.id },
    now,
  });
}
