// Who may act on an order: the office, whoever it is planned for, and whoever goes along.
import { and, eq } from 'drizzle-orm';
import type { OrderId, PersonId } from '#core/ids.ts';
import { wasToGo } from '#core/field/index.ts';
import { actsOnOrderOf } from '#core/people.ts';
import type { Tx } from '../platform/database.ts';
import type { Person } from '../platform/http.ts';
import { refuse } from '../platform/refuse.ts';
import { appointmentOrder, appointmentPerson } from '../rota/tables.ts';
import { loadOrder, type OrderRow } from './loading.ts';

export type ActsOn = Pick<OrderRow, 'id' | 'technicianId' | 'technician'>;

/** Whoever goes with the one it is planned for, or goes another time. */
async function goesAlong(tx: Tx, id: OrderId, who: PersonId): Promise<boolean> {
  const [row] = await tx.db
    .select({ id: appointmentPerson.appointmentId })
    .from(appointmentOrder)
    .innerJoin(appointmentPerson, eq(appointmentPerson.appointmentId, appointmentOrder.appointmentId))
    .where(and(eq(appointmentOrder.orderId, id), eq(appointmentPerson.personId, who)))
    .limit(1);
  return row !== undefined;
}

export const actsOn = async (tx: Tx, who: Person, of: ActsOn): Promise<boolean> =>
  actsOnOrderOf(who, of) || (await goesAlong(tx, of.id, who.id));

/** Refused: for technicians, what is planned for somebody else. */
export async function mustActOn(tx: Tx, who: Person, of: ActsOn): Promise<void> {
  if (!(await actsOn(tx, who, of)))
    refuse('not-allowed', `This order is ${of.technician}’s; you may read it. Ask a dispatcher to plan it for you.`);
}

/** Whether it ever was theirs: a phone that was out of reach knows no more. */
export const wasSentTo = async (tx: Tx, who: Person, id: OrderId): Promise<boolean> =>
  wasToGo((await loadOrder(tx.db, id, 'look')).events, who.id);
