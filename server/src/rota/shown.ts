// Orders as the boxes of the rota show them. A week of a whole house has a thousand: no more of each is read than is shown, all of a span
// at once, and what is made of a row is written out plainly, for it is made a thousand times at every look.
import { group } from 'd3-array';
import { and, asc, eq, type SQL } from 'drizzle-orm';
import type { RotaAppointment } from '#api/rota.ts';
import type { AppointmentId, CustomerId, OrderId, PersonId } from '#core/ids.ts';
import type { InstantSpan } from '#core/time/index.ts';
import { asset } from '../assets/tables.ts';
import { customer } from '../customers/tables.ts';
import { clock, lineLocation, orderLine, workOrder } from '../orders/tables.ts';
import { location } from '../places/tables.ts';
import type { Db } from '../platform/database.ts';
import { visit } from '../upkeep/tables.ts';
import { touching, withAnyOf } from './days.ts';
import { labelsOf } from './spots.ts';
import { appointment, appointmentOrder } from './tables.ts';
import { servedBy, windowOf } from './work.ts';

export type ShownOrder = {
  readonly customerId: CustomerId;
  /** Of the places of its lines. */
  readonly paths: readonly string[];
  readonly shown: RotaAppointment['orders'][number];
};

const ordersIn = (db: Db, which: SQL | undefined) =>
  db
    .select({
      appointmentId: appointmentOrder.appointmentId,
      id: workOrder.id,
      title: workOrder.title,
      kind: workOrder.kind,
      stage: workOrder.stage,
      priority: workOrder.priority,
      zone: workOrder.zone,
      wishedOn: workOrder.wishedOn,
      customerId: workOrder.customerId,
      customer: customer.name,
    })
    .from(appointment)
    .innerJoin(appointmentOrder, eq(appointmentOrder.appointmentId, appointment.id))
    .innerJoin(workOrder, eq(workOrder.id, appointmentOrder.orderId))
    .innerJoin(customer, eq(customer.id, workOrder.customerId))
    .where(which)
    .orderBy(asc(appointmentOrder.appointmentId), asc(workOrder.id));

const linesIn = (db: Db, which: SQL | undefined) =>
  db
    .select({
      appointmentId: appointmentOrder.appointmentId,
      orderId: orderLine.orderId,
      off: orderLine.off,
      tag: asset.tag,
      path: location.path,
      windowFrom: visit.windowFrom,
      windowTo: visit.windowTo,
    })
    .from(appointment)
    .innerJoin(appointmentOrder, eq(appointmentOrder.appointmentId, appointment.id))
    .innerJoin(orderLine, eq(orderLine.orderId, appointmentOrder.orderId))
    .leftJoin(asset, eq(asset.id, orderLine.assetId))
    .leftJoin(location, eq(location.id, lineLocation))
    .leftJoin(visit, eq(visit.id, orderLine.visitId))
    .where(which)
    .orderBy(asc(orderLine.id));

const clocksIn = (db: Db, which: SQL | undefined) =>
  db
    .select({
      appointmentId: appointmentOrder.appointmentId,
      orderId: clock.orderId,
      target: clock.target,
      dueAt: clock.dueAt,
    })
    .from(appointment)
    .innerJoin(appointmentOrder, eq(appointmentOrder.appointmentId, appointment.id))
    .innerJoin(clock, eq(clock.orderId, appointmentOrder.orderId))
    .where(and(which, eq(clock.state, 'running')))
    .orderBy(asc(clock.dueAt), asc(clock.id));

/** The orders of all appointments that touch a span, or of those of one person. */
export async function ordersShown(
  db: Db,
  span: InstantSpan,
  person?: PersonId,
): Promise<ReadonlyMap<AppointmentId, ShownOrder[]>> {
  const which = and(touching(span), person && withAnyOf(db, [person]));
  const [rows, lines, clocks] = await Promise.all([ordersIn(db, which), linesIn(db, which), clocksIn(db, which)]);
  const labelOf = await labelsOf(db, lines);
  const [linesOf, clocksOf] = [group(lines, keyOf), group(clocks, keyOf)];
  const of = new Map<AppointmentId, ShownOrder[]>();
  for (const row of rows) {
    const key = keyOf({ appointmentId: row.appointmentId, orderId: row.id });
    const all = linesOf.get(key) ?? [];
    const left = all.filter((l) => !l.off);
    const first = left[0] ?? all[0];
    const visits = left.flatMap((l) => (l.windowFrom && l.windowTo ? [{ from: l.windowFrom, to: l.windowTo }] : []));
    const shown = {
      orderId: row.id,
      title: row.title,
      kind: row.kind,
      stage: row.stage,
      priority: row.priority,
      customer: row.customer,
      place: labelOf(first?.path ?? null),
      tag: first?.tag ?? '',
      machines: left.length,
      clocks: servedBy(clocksOf.get(key) ?? []),
      window: windowOf(row.zone, visits, row.wishedOn),
    };
    const one = { customerId: row.customerId, paths: left.flatMap((l) => l.path ?? []), shown };
    const held = of.get(row.appointmentId);
    if (held) held.push(one);
    else of.set(row.appointmentId, [one]);
  }
  return of;
}

/** An order may be in several appointments of a span. */
const keyOf = (of: { readonly appointmentId: AppointmentId; readonly orderId: OrderId }): string =>
  `${of.appointmentId} ${of.orderId}`;
